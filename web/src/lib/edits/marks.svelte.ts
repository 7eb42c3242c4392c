import { SvelteMap } from 'svelte/reactivity';
import type { Mark } from '$lib/words/mark';

export type Change = { id: string; before: Mark | null; after: Mark | null };

/**
 * The marks of one item by id. Whoever reads one is told of changes of that one alone; whoever keeps something of all of them (an index of
 * places, counts) listens to the changes instead of reading the list again.
 */
export class Marks {
  /** in the order they came; another list only when a mark comes or goes */
  ids = $state.raw<readonly string[]>([]);
  #byId = new SvelteMap<string, Mark>();
  #ofClass = new SvelteMap<string, readonly string[]>();
  #listeners = new Set<(changes: readonly Change[]) => void>();

  constructor(marks: readonly Mark[] = []) {
    this.replace(marks);
  }

  get(id: string | null | undefined): Mark | undefined {
    return id === null || id === undefined ? undefined : this.#byId.get(id);
  }
  get size(): number {
    return this.ids.length;
  }
  /** All of them, in order. Changes with each: for what is done once, not for what is shown. */
  all(): Mark[] {
    return this.ids.flatMap((id) => this.#byId.get(id) ?? []);
  }
  /** Ids of the marks of a class, in order. */
  of(key: string): readonly string[] {
    return this.#ofClass.get(key) ?? [];
  }
  /** Classes marks are of. */
  classes(): string[] {
    return [...this.#ofClass].filter(([, ids]) => ids.length > 0).map(([key]) => key);
  }

  /** Other marks in place of all there are. */
  replace(marks: readonly Mark[]): void {
    const now = new Map(marks.map((m) => [m.id, m]));
    this.put([
      ...[...this.#byId.keys()].filter((id) => !now.has(id)).map((id) => ({ id, mark: null })),
      ...marks.map((mark) => ({ id: mark.id, mark }))
    ]);
  }
  /** Each mark as it is now; null takes it away. Told as one change. */
  put(list: readonly { id: string; mark: Mark | null }[]): void {
    const changes: Change[] = [];
    const gone = new Set<string>();
    const come: string[] = [];
    const regroup = new Set<string>();
    for (const { id, mark } of list) {
      const before = this.#byId.get(id) ?? null;
      if (before === mark) continue;
      if (before === null) {
        gone.delete(id);
        come.push(id);
      }
      if (mark === null) {
        this.#byId.delete(id);
        gone.add(id);
      } else this.#byId.set(id, mark);
      if (before?.class !== mark?.class) for (const key of [before?.class, mark?.class]) if (key !== undefined) regroup.add(key);
      changes.push({ id, before, after: mark });
    }
    if (changes.length === 0) return;
    if (gone.size > 0 || come.length > 0) {
      const there = new Set(this.ids);
      this.ids = [...this.ids.filter((id) => !gone.has(id)), ...come.filter((id) => !there.has(id) && !gone.has(id))];
    }
    if (regroup.size > 0) {
      const groups = new Map([...regroup].map((key): [string, string[]] => [key, []]));
      for (const id of this.ids) groups.get(this.#byId.get(id)!.class)?.push(id);
      for (const [key, ids] of groups) this.#ofClass.set(key, ids);
    }
    for (const listener of [...this.#listeners]) listener(changes);
  }

  /** Hears every change, after it has happened. @returns a call that ends it */
  on(listener: (changes: readonly Change[]) => void): () => void {
    this.#listeners.add(listener);
    return () => void this.#listeners.delete(listener);
  }
}
