import type { Point } from '$lib/words/mark';
import type { Size, View } from './view';

const SMALLEST = 64;
const MOST = 32;

/**
 * Which parts of a picture have been on the screen at working zoom: a grid of square cells, as in the core (SeenGrid); both pass
 * core/tests/vectors/seen.json. Never changed in place.
 */
export class Seen {
  readonly cell: number;
  readonly columns: number;
  readonly rows: number;
  readonly cells: string;

  constructor(
    readonly picture: Size,
    cells?: string
  ) {
    this.cell = Math.max(SMALLEST, Math.ceil(Math.max(picture.width, picture.height) / MOST));
    this.columns = Math.ceil(picture.width / this.cell);
    this.rows = Math.ceil(picture.height / this.cell);
    const size = this.columns * this.rows;
    this.cells = cells?.length === size ? cells : '0'.repeat(size);
  }

  has = (column: number, row: number): boolean => this.cells[row * this.columns + column] === '1';
  get all(): boolean {
    return !this.cells.includes('0');
  }
  get share(): number {
    return [...this.cells].filter((c) => c === '1').length / this.cells.length;
  }

  /** With what is in sight now: cells that lie on the stage whole, where a px of the picture has at least `zoom` px of the screen. */
  with(view: View, stage: Size, zoom: number): Seen {
    if (view.scale < zoom * 0.999) return this;
    const next = [...this.cells];
    let changed = false;
    for (let row = 0; row < this.rows; row++)
      for (let column = 0; column < this.columns; column++) {
        const left = view.x + column * this.cell * view.scale;
        const top = view.y + row * this.cell * view.scale;
        const right = view.x + Math.min(this.picture.width, (column + 1) * this.cell) * view.scale;
        const bottom = view.y + Math.min(this.picture.height, (row + 1) * this.cell) * view.scale;
        // a pixel more or less is no matter
        if (left < -1 || top < -1 || right > stage.width + 1 || bottom > stage.height + 1) continue;
        if (next[row * this.columns + column] === '0') {
          next[row * this.columns + column] = '1';
          changed = true;
        }
      }
    return changed ? new Seen(this.picture, next.join('')) : this;
  }

  /** The middle of the unseen cell nearest to a place, in px of the picture; null when all has been seen. */
  next(from: Point): Point | null {
    let best: Point | null = null;
    let least = Infinity;
    for (let row = 0; row < this.rows; row++)
      for (let column = 0; column < this.columns; column++) {
        if (this.has(column, row)) continue;
        const p = { x: (column + 0.5) * this.cell, y: (row + 0.5) * this.cell };
        const d = Math.hypot(p.x - from.x, p.y - from.y);
        if (d < least) [best, least] = [p, d];
      }
    return best;
  }
}
