import type { Running } from './running.svelte';
import type { Range } from './tokens';

export type Edge = 'start' | 'end';

/** The words that are looked at: a word to begin with, moved on, widened and narrowed by keys. Where it lies is told in code points. */
export class Cursor {
  range = $state.raw<Range | null>(null);
  readonly #letters = new Intl.Segmenter(undefined, { granularity: 'grapheme' });

  constructor(private readonly running: Running) {}

  /** Goes to the word at a place, or the next one. */
  to(offset: number): void {
    const { tokens } = this.running;
    const at = tokens.at(offset) ?? (tokens.count > 0 ? tokens.count - 1 : null);
    this.range = at === null ? null : tokens.range(at, at);
  }
  set(range: Range | null): void {
    this.range = range;
  }
  /** To the next word, or the one before; from several words to the one beside them. */
  by(step: 1 | -1): void {
    const { tokens } = this.running;
    if (tokens.count === 0) return;
    const now = this.range && tokens.within(this.range);
    const next = !now ? (step > 0 ? tokens.after(this.range?.end ?? 0) : tokens.count - 1) : step > 0 ? now[1] + 1 : now[0] - 1;
    const at = Math.max(0, Math.min(tokens.count - 1, next));
    this.range = tokens.range(at, at);
  }
  /** Moves one edge. */
  edge(edge: Edge, step: 1 | -1, letters = false): void {
    if (this.range) this.range = this.moved(this.range, edge, step, letters);
    else this.by(1);
  }
  /** A range with one edge moved by a word or a letter; never empty. */
  moved(range: Range, edge: Edge, step: 1 | -1, letters = false): Range {
    const place = letters ? this.#letter(range[edge], step) : this.#word(range[edge], edge, step);
    const next = { ...range, [edge]: Math.max(0, Math.min(this.running.length, place)) };
    return next.start < next.end ? next : range;
  }
  /** Where a word begins or ends, next to a place. */
  #word(offset: number, edge: Edge, step: 1 | -1): number {
    const { tokens } = this.running;
    const places = edge === 'start' ? tokens.starts : tokens.ends;
    let [low, high] = [0, places.length];
    // the first that lies behind the place, or at it when going back
    while (low < high) {
      const middle = (low + high) >> 1;
      if (step > 0 ? places[middle]! <= offset : places[middle]! < offset) low = middle + 1;
      else high = middle;
    }
    return places[step > 0 ? low : low - 1] ?? offset;
  }
  /** What a reader takes for one letter, however many code points it is. */
  #letter(offset: number, step: 1 | -1): number {
    const { running } = this;
    if (step > 0) {
      const some = running.words(offset, Math.min(running.length, offset + 40));
      const [first] = this.#letters.segment(some);
      return offset + [...(first?.segment ?? '')].length;
    }
    const from = Math.max(0, offset - 40);
    const last = [...this.#letters.segment(running.words(from, offset))].at(-1);
    return offset - [...(last?.segment ?? '')].length;
  }
}
