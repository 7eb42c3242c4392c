import { say } from '$lib/items/conditions';
import type { Document } from '$lib/words/codebook';

/** Which items a sentence is about: a set or all of them, and further conditions as on Items. */
export class Which {
  set = $state<string | null>(null);
  narrowed = $state.raw<string[]>([]);

  /** Takes conditions from Items: a set among them is the set of the sentence. */
  narrow(conditions: readonly string[]): void {
    const sets = conditions.filter((f) => f.startsWith('set:'));
    this.set = sets.length === 1 ? sets[0]!.slice('set:'.length) : null;
    this.narrowed = conditions.filter((f) => sets.length !== 1 || f !== sets[0]);
  }
  get conditions(): string[] {
    return [...this.narrowed, ...(this.set === null ? [] : [`set:${this.set}`])];
  }
  /** Where they are, in words. */
  said(document: Document): string {
    return `${this.set === null ? 'all sets' : this.set || '(top)'}${this.narrowed.map((f) => `, ${say(f, document)}`).join('')}`;
  }
}
