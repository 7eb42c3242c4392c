import type { Mark } from '$lib/words/mark';
import type { Words } from '$lib/words/words.svelte';
import { SvelteMap } from 'svelte/reactivity';
import type { Kept } from './kept';
import type { Marks } from './marks.svelte';

/** The class that is drawn next; it stays from item to item. */
export class Chosen {
  active = $state('');
  constructor(private readonly words: Words) {}

  /** After another codebook: a class that is gone is let go. */
  fit(): void {
    if (!this.words.drawable.some((c) => c.key === this.active)) this.active = this.words.drawable[0]?.key ?? '';
  }
}

/** What is in hand on one item: marks, a point of one, what the pointer is over, what is locked. */
export class Hand {
  /** the mark that keys and questions mean */
  selected = $state<string | null>(null);
  /** further marks in hand beside it */
  others = $state.raw<readonly string[]>([]);
  /** key of the point of the mark in hand that a press took */
  point = $state<string | null>(null);
  hovered = $state<string | null>(null);
  locked = $state.raw<ReadonlySet<string>>(new Set());
  // one entry for each mark, so that a row is told of itself alone
  #in = new SvelteMap<string, boolean>();
  #over = new SvelteMap<string, boolean>();
  #lit: string | null = null;
  #listeners = new Set<() => void>();

  constructor(
    private readonly marks: Marks,
    private readonly kept: Kept | null = null
  ) {
    const add = (id: string) => {
      if (this.#in.has(id)) return;
      this.#in.set(id, false);
      this.#over.set(id, false);
    };
    for (const id of marks.ids) add(id);
    marks.on((changes) => {
      const gone = new Set(changes.filter((c) => c.after === null).map((c) => c.id));
      for (const { id, after } of changes) if (after !== null) add(id);
      if (gone.size === 0) return;
      for (const id of gone) {
        this.#in.delete(id);
        this.#over.delete(id);
      }
      const left = this.#ids().filter((id) => !gone.has(id));
      if (left.length < this.#ids().length) this.#hold(left[0] ?? null, left.slice(1));
      if (this.hovered !== null && gone.has(this.hovered)) this.hovered = this.#lit = null;
    });
    this.locked = new Set(kept?.get<string[]>('locked') ?? []);
  }

  get mark(): Mark | undefined {
    return this.marks.get(this.selected);
  }
  /** All marks in hand. */
  get all(): Mark[] {
    return this.#ids().flatMap((id) => this.marks.get(id) ?? []);
  }
  /** Those of them that may be changed. */
  get free(): Mark[] {
    return this.all.filter((m) => !this.locked.has(m.id));
  }
  get size(): number {
    return this.#ids().length;
  }
  /** The mark in hand when it is the only one. */
  get one(): Mark | null {
    return this.others.length === 0 ? (this.mark ?? null) : null;
  }
  has(id: string): boolean {
    return this.#in.get(id) ?? false;
  }
  isOver(id: string): boolean {
    return this.#over.get(id) ?? false;
  }
  #ids(): string[] {
    return this.selected === null ? [] : [this.selected, ...this.others];
  }

  /** Hears when other marks come into hand. */
  on(listener: () => void): void {
    this.#listeners.add(listener);
  }
  #hold(selected: string | null, others: readonly string[]): void {
    const before = this.#ids();
    const other = selected !== this.selected;
    this.selected = selected;
    this.others = others;
    const now = new Set(this.#ids());
    for (const id of before) if (!now.has(id) && this.#in.has(id)) this.#in.set(id, false);
    for (const id of now) if (this.#in.get(id) === false) this.#in.set(id, true);
    if (other || before.length !== now.size) this.point = null;
    if (other) for (const listener of this.#listeners) listener();
  }
  select(id: string | null): void {
    this.#hold(id !== null && this.marks.get(id) ? id : null, []);
  }
  /** One more mark in hand, or one less. */
  also(id: string): void {
    if (this.selected === null) return this.select(id);
    const ids = this.#ids();
    const next = ids.includes(id) ? ids.filter((i) => i !== id) : [...ids, id];
    this.#hold(next[0] ?? null, next.slice(1));
  }
  take(marks: readonly Mark[]): void {
    this.#hold(
      marks[0]?.id ?? null,
      marks.slice(1).map((m) => m.id)
    );
  }
  /** The next mark of the list, or the one before. */
  walk(by: 1 | -1): void {
    const ids = this.marks.ids;
    if (ids.length === 0) return;
    const at = this.selected === null ? (by > 0 ? -1 : 0) : ids.indexOf(this.selected);
    this.select(ids[(at + by + ids.length) % ids.length]!);
  }
  hover(id: string | null): void {
    if (id === this.hovered) return;
    if (this.#lit !== null && this.#over.has(this.#lit)) this.#over.set(this.#lit, false);
    this.hovered = this.#lit = id;
    if (id !== null && this.#over.has(id)) this.#over.set(id, true);
  }
  /** Locks what is in hand, or unlocks it when all of it is locked. */
  toggleLock(): void {
    const ids = this.#ids();
    const off = ids.every((id) => this.locked.has(id));
    this.locked = new Set(off ? [...this.locked].filter((id) => !ids.includes(id)) : [...this.locked, ...ids]);
    this.kept?.set('locked', this.locked.size > 0 ? [...this.locked] : null);
  }
}
