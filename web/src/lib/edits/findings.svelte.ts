import type { Finding } from '$lib/words/mark';
import { SvelteMap } from 'svelte/reactivity';
import { same } from '$lib/words/same';
import type { Marks } from './marks.svelte';

const none: readonly Finding[] = [];

/** What the check found, by mark: a row is told when its own findings change. */
export class Findings {
  all = $state.raw<readonly Finding[]>(none);
  #listeners = new Set<(ids: string[]) => void>();
  #of = new SvelteMap<string, readonly Finding[]>();

  constructor(marks: Marks) {
    const add = (id: string) => void (this.#of.has(id) || this.#of.set(id, none));
    for (const id of marks.ids) add(id);
    marks.on((changes) => {
      for (const { id, after } of changes) {
        if (after !== null) add(id);
        else this.#of.delete(id);
      }
    });
  }

  take(findings: readonly Finding[]): void {
    if (same(findings, this.all)) return;
    const next = new Map<string, Finding[]>();
    for (const finding of findings) if (finding.mark !== null) next.set(finding.mark, [...(next.get(finding.mark) ?? []), finding]);
    const changed = [...new Set([...this.#of.keys(), ...next.keys()])].filter(
      (id) => !same(this.#of.get(id) ?? none, next.get(id) ?? none)
    );
    for (const id of changed) this.#of.set(id, next.get(id) ?? none);
    this.all = findings;
    for (const listener of this.#listeners) listener(changed);
  }
  /** Hears of which marks the findings have changed. @returns a call that ends it */
  on(listener: (ids: string[]) => void): () => void {
    this.#listeners.add(listener);
    return () => void this.#listeners.delete(listener);
  }
  of(id: string): readonly Finding[] {
    return this.#of.get(id) ?? none;
  }
  /** About the item as a whole. */
  get ofItem(): Finding[] {
    return this.all.filter((f) => f.mark === null);
  }
}
