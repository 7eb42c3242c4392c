const GAP = 8;
const FOOT = 20;

/** Where the objects of a contact sheet lie: squares in rows, of which only those in sight are there. All in CSS px. */
export class Grid {
  readonly columns: number;
  /** what is left over lies between the columns */
  readonly across: number;
  readonly rowHeight: number;
  readonly rows: number;

  /**
   * @param total how many objects
   * @param side of one
   * @param width of the place they lie in
   */
  constructor(
    readonly total: number,
    readonly side: number,
    width: number,
    readonly height: number
  ) {
    this.columns = Math.max(1, Math.floor((width - GAP) / (side + GAP)));
    this.across = (width - this.columns * side) / (this.columns + 1);
    this.rowHeight = side + FOOT + GAP;
    this.rows = Math.ceil(total / this.columns);
  }
  get extent(): number {
    return this.rows * this.rowHeight + GAP;
  }
  /** height of an object, with what stands under it */
  get cell(): number {
    return this.side + FOOT;
  }
  get perPage(): number {
    return this.columns * Math.max(1, Math.floor(this.height / this.rowHeight));
  }
  /** Places that are in sight, a row more at either end: from the first to before the last. */
  sight(top: number): { from: number; to: number } {
    const first = Math.max(0, Math.floor(top / this.rowHeight) - 1);
    const last = Math.min(this.rows - 1, Math.ceil((top + this.height) / this.rowHeight) + 1);
    return { from: first * this.columns, to: Math.max(first * this.columns, Math.min(this.total, (last + 1) * this.columns)) };
  }
  at(place: number): { x: number; y: number } {
    return {
      x: this.across + (place % this.columns) * (this.side + this.across),
      y: GAP + Math.floor(place / this.columns) * this.rowHeight
    };
  }
  /** How far to scroll so that a place is in sight, or in the middle of it. */
  reveal(place: number, top: number, middle: boolean): number {
    const y = Math.floor(place / this.columns) * this.rowHeight;
    if (middle) return Math.max(0, y - (this.height - this.rowHeight) / 2);
    if (y < top) return y;
    return y + this.rowHeight > top + this.height ? y + this.rowHeight - this.height + GAP : top;
  }
}
