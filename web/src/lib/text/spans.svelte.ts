import type { Marks } from '$lib/edits/marks.svelte';
import type { Mark, RelationMark, SpanMark } from '$lib/words/mark';
import { SvelteMap } from 'svelte/reactivity';
import { blockAt } from './blocks';
import type { Running } from './running.svelte';
import type { Range } from './tokens';

export const isSpan = (m: Mark | null | undefined): m is SpanMark => m?.kind === 'span';
export const isRelation = (m: Mark | null | undefined): m is RelationMark => m?.kind === 'relation';

/** Which spans lie in which block, and which relations lead from or to a span; a block is told of its own spans alone. */
export class Spans {
  #in = new SvelteMap<number, readonly string[]>();
  #joins = new SvelteMap<string, RelationMark>();
  /** goes up with every change of a span or a relation */
  version = $state(0);
  #end: () => void;

  constructor(
    private readonly marks: Marks,
    private readonly running: Running
  ) {
    for (const m of marks.all()) this.#put(m.id, null, m);
    this.#end = marks.on((changes) => {
      for (const { id, before, after } of changes) this.#put(id, before, after);
      this.version++;
    });
  }
  close(): void {
    this.#end();
  }

  #blocks({ start, end }: Range): [number, number] {
    return [blockAt(this.running.blocks, start), blockAt(this.running.blocks, Math.max(start, end - 1))];
  }
  #put(id: string, before: Mark | null, after: Mark | null): void {
    if (isRelation(after)) this.#joins.set(id, after);
    else if (isRelation(before)) this.#joins.delete(id);
    const was = isSpan(before) ? this.#blocks(before.geometry) : null;
    const is = isSpan(after) ? this.#blocks(after.geometry) : null;
    if (was)
      for (let b = was[0]; b <= was[1]; b++)
        if (!is || b < is[0] || b > is[1])
          this.#in.set(
            b,
            this.in(b).filter((i) => i !== id)
          );
    if (is)
      for (let b = is[0]; b <= is[1]; b++) {
        const there = this.in(b);
        // another list also where one only moved: its lines are drawn anew
        this.#in.set(b, there.includes(id) ? [...there] : [...there, id]);
      }
  }

  /** Ids of the spans that touch a block. */
  in(block: number): readonly string[] {
    return this.#in.get(block) ?? none;
  }
  get(id: string): SpanMark | null {
    const m = this.marks.get(id);
    return isSpan(m) ? m : null;
  }
  /** Spans that touch a range, the shortest first. */
  over({ start, end }: Range): SpanMark[] {
    const [first, last] = this.#blocks({ start, end });
    const found = new Map<string, SpanMark>();
    for (let b = first; b <= last; b++)
      for (const id of this.in(b)) {
        const m = this.get(id);
        if (m && m.geometry.start < end && start < m.geometry.end) found.set(id, m);
      }
    return [...found.values()].sort((a, b) => length(a) - length(b) || a.geometry.start - b.geometry.start);
  }
  /** The span of a class over exactly these words. */
  same({ start, end }: Range, key: string): SpanMark | undefined {
    return this.over({ start, end }).find((m) => m.class === key && m.geometry.start === start && m.geometry.end === end);
  }
  /** All spans as they stand in the text. */
  inOrder(): SpanMark[] {
    void this.version;
    return this.marks
      .all()
      .filter(isSpan)
      .sort((a, b) => a.geometry.start - b.geometry.start || a.geometry.end - b.geometry.end);
  }
  get joins(): RelationMark[] {
    return [...this.#joins.values()];
  }
  joinsOf(id: string): RelationMark[] {
    return this.joins.filter((j) => j.geometry.from === id || j.geometry.to === id);
  }
}
const none: readonly string[] = [];
const length = ({ geometry: { start, end } }: SpanMark): number => end - start;
