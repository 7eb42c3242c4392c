/** Where a set lies on the field map. All in CSS px. */
export type Plot = { set: number; count: number; x: number; y: number };

const MARGIN = 8;
const TOP = 6;
/** name of the set, above its squares */
const HEAD = 22;
const GAP = 10;
/** rows a set may fill and still share its line with others */
const SHORT = 2;
const MOST_BESIDE = 4;

/** The squares of the field map: every item one, set by set; sets that are short lie side by side. */
export class Field {
  /** side of a square with the line round it */
  readonly cell: number;
  readonly columns: number;
  readonly plots: Plot[];
  readonly height: number;

  /**
   * @param counts items of each set
   * @param width of the map
   */
  constructor(counts: readonly number[], width: number) {
    const all = counts.reduce((a, b) => a + b, 0);
    this.cell = all <= 300 ? 24 : all <= 1200 ? 17 : all <= 5000 ? 13 : all <= 30_000 ? 10 : 7;
    const columnsOf = (beside: number) => Math.max(1, Math.floor((width / beside - 2 * MARGIN) / this.cell));
    const longest = Math.max(0, ...counts);
    let beside = Math.max(1, Math.min(MOST_BESIDE, counts.length));
    while (beside > 1 && Math.ceil(longest / columnsOf(beside)) > SHORT) beside--;
    this.columns = columnsOf(beside);
    this.plots = [];
    let y = TOP;
    for (let from = 0; from < counts.length; from += beside) {
      const line = counts.slice(from, from + beside);
      line.forEach((count, i) => this.plots.push({ set: from + i, count, x: (i * width) / beside + MARGIN, y }));
      y += HEAD + Math.ceil(Math.max(...line) / this.columns) * this.cell + GAP;
    }
    this.height = y;
  }
  /** The middle of a set's name, and its first square. */
  name(plot: Plot): { x: number; y: number } {
    return { x: plot.x, y: plot.y + HEAD / 2 };
  }
  bottom(plot: Plot): number {
    return plot.y + HEAD + Math.ceil(plot.count / this.columns) * this.cell;
  }
  /** The top left corner of an item's square. */
  square(plot: Plot, i: number): { x: number; y: number } {
    return { x: plot.x + (i % this.columns) * this.cell, y: plot.y + HEAD + Math.floor(i / this.columns) * this.cell };
  }
  /** Items of a set that lie between two heights: from the first to before the last. */
  between(plot: Plot, top: number, bottom: number): { from: number; to: number } {
    const row = (y: number) => (y - plot.y - HEAD) / this.cell;
    return {
      from: Math.min(plot.count, Math.max(0, Math.floor(row(top))) * this.columns),
      to: Math.max(0, Math.min(plot.count, Math.ceil(row(bottom)) * this.columns))
    };
  }
  /** Which item lies at a place, as its set and its number in it; null between them. */
  at(x: number, y: number): { set: number; i: number } | null {
    for (const plot of this.plots) {
      const column = Math.floor((x - plot.x) / this.cell);
      const row = Math.floor((y - plot.y - HEAD) / this.cell);
      if (column < 0 || column >= this.columns || row < 0) continue;
      const i = row * this.columns + column;
      if (i < plot.count) return { set: plot.set, i };
    }
    return null;
  }
}
