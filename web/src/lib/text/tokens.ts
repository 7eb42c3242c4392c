export type Range = { start: number; end: number };

/** The tokens of a text, as the server cuts them: what spans snap to, and what is written as CoNLL. */
export class Tokens {
  readonly starts: Int32Array;
  readonly ends: Int32Array;

  /** @param words for each token how far it begins behind the one before and how long it is */
  constructor(words: readonly number[]) {
    const n = words.length >> 1;
    this.starts = new Int32Array(n);
    this.ends = new Int32Array(n);
    let at = 0;
    for (let i = 0; i < n; i++) {
      this.starts[i] = at + words[2 * i]!;
      this.ends[i] = at = this.starts[i]! + words[2 * i + 1]!;
    }
  }
  get count(): number {
    return this.starts.length;
  }
  /** The first token that ends behind a place; their number when none does. */
  after(offset: number): number {
    let [low, high] = [0, this.count];
    while (low < high) {
      const middle = (low + high) >> 1;
      if (this.ends[middle]! <= offset) low = middle + 1;
      else high = middle;
    }
    return low;
  }
  /** The token at a place, or the next one; null behind the last. */
  at(offset: number): number | null {
    const i = this.after(offset);
    return i < this.count ? i : null;
  }
  /** The tokens a range touches, first and last; null where there is none in it. */
  within({ start, end }: Range): [number, number] | null {
    const first = this.after(start);
    let last = this.after(end - 1);
    if (last >= this.count || this.starts[last]! >= end) last--;
    return last < first ? null : [first, last];
  }
  range(first: number, last: number): Range {
    return { start: this.starts[first]!, end: this.ends[last]! };
  }
  /** A range widened to whole tokens, without the white space at its ends; null where it has none. */
  snapped(range: Range): Range | null {
    const found = this.within(range);
    return found && this.range(found[0], found[1]);
  }
}
