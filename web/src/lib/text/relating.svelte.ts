import type { Words } from '$lib/words/words.svelte';
import type { SpanMark } from '$lib/words/mark';
import type { Spans } from './spans.svelte';

/** A relation that is being drawn: from the span in hand to one that is gone to by keys, the nearest first, or pressed. */
export class Relating {
  /** key of the relation; null: none is being drawn */
  key = $state<string | null>(null);
  from = $state<string | null>(null);
  target = $state<string | null>(null);

  constructor(
    private readonly words: Words,
    private readonly spans: Spans
  ) {}

  /** Relations that may lead from a span of a class. */
  possible(key: string): { key: string; name: string }[] {
    return this.words.relations.filter((r) => r.from.includes(key));
  }
  /** Spans it may lead to, the nearest first. */
  get candidates(): SpanMark[] {
    const relation = this.words.relations.find((r) => r.key === this.key);
    const from = this.from === null ? null : this.spans.get(this.from);
    if (!relation || !from) return [];
    const distance = (m: SpanMark): number =>
      m.geometry.start >= from.geometry.end ? m.geometry.start - from.geometry.end : Math.max(0, from.geometry.start - m.geometry.end);
    return this.spans
      .inOrder()
      .filter((m) => m.id !== from.id && relation.to.includes(m.class))
      .sort((a, b) => distance(a) - distance(b));
  }
  begin(key: string, from: string): boolean {
    this.key = key;
    this.from = from;
    this.target = this.candidates[0]?.id ?? null;
    if (this.target === null) this.leave();
    return this.key !== null;
  }
  /** To the next span as they stand in the text, or the one before. */
  step(by: 1 | -1): void {
    const list = this.candidates.toSorted((a, b) => a.geometry.start - b.geometry.start || a.geometry.end - b.geometry.end);
    const at = list.findIndex((m) => m.id === this.target);
    this.target = list[(at + by + list.length) % list.length]?.id ?? null;
  }
  leave(): boolean {
    const was = this.key !== null;
    this.key = this.from = this.target = null;
    return was;
  }
}
