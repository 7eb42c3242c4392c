import type { Size } from '$lib/plane/view';
import type { Box } from '$lib/words/mark';

/** Px of a page between one and the next. */
export const GAP = 36;

/**
 * The pages of a document, one under the other and centred, like sheets on a table. A place on this table is in px of the pages; what is on a page
 * is in px of that page from its top left corner.
 */
export class Sheets {
  readonly count: number;
  readonly width: number;
  readonly height: number;
  #sizes: Size[] = [];
  #tops: number[] = [];

  /** @param runs width, height, and how many pages in a row have them */
  constructor(runs: readonly (readonly number[])[]) {
    let top = 0;
    for (const [width = 1, height = 1, pages = 0] of runs)
      for (let i = 0; i < pages; i++) {
        this.#sizes.push({ width, height });
        this.#tops.push(top);
        top += height + GAP;
      }
    this.count = this.#sizes.length;
    this.width = Math.max(...runs.map((r) => r[0] ?? 1));
    this.height = top - GAP;
  }
  size(page: number): Size {
    return this.#sizes[page] ?? { width: 1, height: 1 };
  }
  /** Where a page lies on the table. */
  place(page: number): Box {
    const size = this.size(page);
    return { x: (this.width - size.width) / 2, y: this.#tops[page] ?? 0, ...size };
  }
  /** The page at a height of the table; between two the nearer one. */
  at(y: number): number {
    let [low, high] = [0, this.count - 1];
    while (low < high) {
      const middle = (low + high + 1) >> 1;
      if (this.#tops[middle]! - GAP / 2 <= y) low = middle;
      else high = middle - 1;
    }
    return low;
  }
  /** Pages of which something lies between two heights of the table. */
  within(from: number, to: number): number[] {
    const pages: number[] = [];
    for (let page = this.at(from); page < this.count && this.#tops[page]! <= to; page++) pages.push(page);
    return pages;
  }
}
