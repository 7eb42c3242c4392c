import type { Flag, Mark } from '$lib/words/mark';
import type { Words } from '$lib/words/words.svelte';
import type { Editor } from './editor.svelte';
import { dropSubject } from './outbox.svelte';
import type { Chosen, Hand } from './hand.svelte';

/** What can be done to marks of any kind of item: another class, flags, place in the stack, part of another, taken away. */
export class Acts {
  constructor(
    private readonly words: Words,
    private readonly editor: Editor,
    private readonly hand: Hand,
    private readonly chosen: Chosen,
    private readonly item: number,
    private readonly say: (message: string) => void
  ) {}

  /** Each of some marks becomes something else; null takes it away. */
  each(marks: readonly Mark[], become: (mark: Mark) => Mark | null): void {
    this.editor.change(marks.map((m) => ({ subject: m.id, item: this.item, before: m, after: become(m) })));
  }

  /** A class chosen by a digit, the board or its name: the one in hand, and of the marks in hand. @returns the marks that changed */
  choose(key: string): Mark[] {
    const fits = (m: Mark) => this.words.kindsOf(key).includes(m.kind);
    const wanted = this.hand.free.filter((m) => m.class !== key);
    const marks = wanted.filter(fits);
    const left = wanted.length - marks.length;
    this.chosen.active = key;
    if (marks.length === 0) {
      // with a mark in hand the class is meant for it; one that is not drawn so is only taken for what comes next
      if (left > 0) this.hand.select(null);
      return [];
    }
    this.each(marks, (m) => this.words.reclassed(m, key));
    if (left > 0)
      this.say(`${left} of the marks in hand ${left === 1 ? 'is' : 'are'} of a shape ${this.words.nameOf(key)} is not drawn as`);
    return marks;
  }
  toggleFlag(flag: Flag): void {
    const on = this.hand.all.every((m) => m.flags.includes(flag));
    this.each(this.hand.all, (m) => ({ ...m, flags: on ? m.flags.filter((f) => f !== flag) : [...new Set([...m.flags, flag])] }));
  }
  restack(up: boolean): void {
    const mine = this.hand.mark;
    if (!mine) return;
    const places = this.editor.marks
      .all()
      .filter((m) => m.id !== mine.id)
      .map(this.words.stackOf);
    const extreme = places.reduce((a, b) => (up ? Math.max(a, b) : Math.min(a, b)), places[0] ?? 0);
    const stack = places.length === 0 ? this.words.stackOf(mine) : up ? extreme + 1 : extreme - 1;
    this.each(this.hand.all, (m) => ({ ...m, stack }));
  }
  partOf(whole: string | null): void {
    this.each(this.hand.all, (m) => ({ ...m, part_of: whole === m.id ? null : whole }));
  }
  remove(): void {
    const locked = this.hand.size - this.hand.free.length;
    if (locked > 0) this.say(locked === 1 ? 'a mark in hand is locked and stays' : `${locked} marks in hand are locked and stay`);
    const marks = this.#withJoins(this.hand.free);
    // what was confirmed and is taken away has been found wrong: it is not offered again
    const wrong = marks.flatMap((m) => (m.suggestion ? [m.suggestion] : []));
    this.editor.change([
      ...marks.map((m) => ({ subject: m.id, item: this.item, before: m, after: null })),
      ...wrong.map((id) => ({ subject: dropSubject(id), item: this.item, before: null, after: { dropped: true } as const }))
    ]);
  }
  /** A relation goes with what it joins. */
  #withJoins(marks: readonly Mark[]): Mark[] {
    const ids = new Set(marks.map((m) => m.id));
    const joins = this.editor.marks
      .all()
      .filter((m) => m.kind === 'relation' && !ids.has(m.id) && (ids.has(m.geometry.from) || ids.has(m.geometry.to)));
    return [...marks, ...joins];
  }
  /** "Apple 3": the class and which of it. */
  label(mark: Mark): string {
    return `${this.words.nameOf(mark.class)} ${this.editor.marks.of(mark.class).indexOf(mark.id) + 1}`;
  }
}
