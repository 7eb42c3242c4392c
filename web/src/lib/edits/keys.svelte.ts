import { SvelteMap } from 'svelte/reactivity';
import type { TrackKey } from '$lib/words/mark';

/** In place of a mark's id: one key of it. */
export const keySubject = (mark: string, place: number): string => `${mark}@${place}`;
export const isKeySubject = (subject: string): boolean => subject.includes('@');
const parts = (subject: string): [string, number] => {
  const at = subject.lastIndexOf('@');
  return [subject.slice(0, at), Number(subject.slice(at + 1))];
};

/** The keys of tracks, by mark and in order. Those of a mark that was taken away stay: it may be brought back. */
export class TrackKeys {
  #of = new SvelteMap<string, readonly TrackKey[]>();
  #listeners = new Set<(marks: ReadonlySet<string>) => void>();

  of(mark: string): readonly TrackKey[] {
    return this.#of.get(mark) ?? [];
  }
  at(mark: string, place: number): TrackKey | undefined {
    const keys = this.of(mark);
    const i = firstFrom(keys, place);
    return keys[i]?.place === place ? keys[i] : undefined;
  }
  get(subject: string): TrackKey | undefined {
    return this.at(...parts(subject));
  }
  all(): TrackKey[] {
    return [...this.#of.values()].flat();
  }

  replace(keys: readonly TrackKey[]): void {
    const by = new Map<string, TrackKey[]>();
    for (const key of keys) {
      const list = by.get(key.mark);
      if (list) list.push(key);
      else by.set(key.mark, [key]);
    }
    const touched = new Set([...this.#of.keys(), ...by.keys()]);
    this.#of.clear();
    for (const [mark, list] of by)
      this.#of.set(
        mark,
        list.sort((a, b) => a.place - b.place)
      );
    this.#tell(touched);
  }
  /** Each key as it is now; null takes it away. Told as one change. */
  put(list: readonly { subject: string; key: TrackKey | null }[]): void {
    const touched = new Map<string, TrackKey[]>();
    for (const { subject, key } of list) {
      const [mark, place] = parts(subject);
      const keys = touched.get(mark) ?? [...this.of(mark)];
      const i = firstFrom(keys, place);
      const there = keys[i]?.place === place ? 1 : 0;
      keys.splice(i, there, ...(key === null ? [] : [key]));
      touched.set(mark, keys);
    }
    for (const [mark, keys] of touched) this.#of.set(mark, keys);
    if (touched.size > 0) this.#tell(new Set(touched.keys()));
  }

  /** Hears of which marks keys have changed, after they have. @returns a call that ends it */
  on(listener: (marks: ReadonlySet<string>) => void): () => void {
    this.#listeners.add(listener);
    return () => void this.#listeners.delete(listener);
  }
  #tell(marks: ReadonlySet<string>): void {
    for (const listener of [...this.#listeners]) listener(marks);
  }
}

/** Index of the first key at or after a place. */
export function firstFrom(keys: readonly TrackKey[], place: number): number {
  let [low, high] = [0, keys.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (keys[middle]!.place < place) low = middle + 1;
    else high = middle;
  }
  return low;
}
