import type { Mark } from '$lib/words/mark';
import type { Words } from '$lib/words/words.svelte';
import type { Marks } from './marks.svelte';

/** How many marks still lack an answer that is required, question by question; kept up with each change instead of counted anew. */
export class OpenQuestions {
  list = $state.raw<{ key: string; count: number }[]>([]);
  #open = new Map<string, Set<string>>();
  #ofMark = new Map<string, string[]>();
  #end: () => void;

  constructor(
    private readonly words: Words,
    private readonly marks: Marks
  ) {
    this.rebuild();
    this.#end = marks.on((changes) => {
      for (const { id, after } of changes) this.#put(id, after);
      this.#tell();
    });
  }
  close(): void {
    this.#end();
  }
  /** After another codebook. */
  rebuild(): void {
    this.#open.clear();
    this.#ofMark.clear();
    for (const mark of this.marks.all()) this.#put(mark.id, mark);
    this.#tell();
  }
  /** The first mark that lacks an answer to a question. */
  first(key: string): string | null {
    return [...(this.#open.get(key) ?? [])][0] ?? null;
  }

  #put(id: string, mark: Mark | null): void {
    const now =
      mark === null ? [] : this.words.questionsOf(mark).flatMap((q) => (q.required && mark.answers[q.key] === undefined ? [q.key] : []));
    for (const key of this.#ofMark.get(id) ?? []) if (!now.includes(key)) this.#open.get(key)?.delete(id);
    for (const key of now) {
      const ids = this.#open.get(key);
      if (ids) ids.add(id);
      else this.#open.set(key, new Set([id]));
    }
    if (now.length > 0) this.#ofMark.set(id, now);
    else this.#ofMark.delete(id);
  }
  #tell(): void {
    const next = [...this.#open].flatMap(([key, ids]) => (ids.size > 0 ? [{ key, count: ids.size }] : []));
    const same = next.length === this.list.length && next.every((n, i) => n.key === this.list[i]!.key && n.count === this.list[i]!.count);
    if (!same) this.list = next;
  }
}
