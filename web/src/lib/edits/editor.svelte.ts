import type { Schemas } from '$lib/api/client';
import {
  body,
  fromServer,
  keyBody,
  keyFromServer,
  saidFromServer,
  type Dropped,
  type Mark,
  type Said,
  type TrackKey
} from '$lib/words/mark';
import { same } from '$lib/words/same';
import type { Words } from '$lib/words/words.svelte';
import { SvelteMap, SvelteSet } from 'svelte/reactivity';
import { isDrop, isKey, isSaid, plain, type History, type Step, type Value } from './history';
import { isKeySubject, keySubject, TrackKeys } from './keys.svelte';
import { Marks } from './marks.svelte';
import { dropSubject, isDropSubject, subjectOf, type Entry, type Outbox, type Outcome } from './outbox.svelte';
import { ulid } from './ulid';

/** One change to make. `revision` is the one the subject was listed with, where it has not been taken in with an item. */
export type Draft = Pick<Step, 'subject' | 'item' | 'before' | 'after' | 'suggestion'> & {
  revision?: number;
  /** of a key: the class of its mark, where that has not been taken in */
  class?: string;
  /** it says itself where on the axis it is meant */
  placed?: boolean;
};
/** A change that was not taken: somebody else was first, or the server `refused` it. What is there now, and what this hand had made of it. */
export type Conflict = { subject: string; item: number; mine: Value | null; theirs: Value | null; refused: string | null };

type Place = { project: number; turn: number; user: number };

/** Seconds between two edits that still count as work. */
const MAX_IDLE = 30;

/** In place of a mark's id: what is said of an item. */
export const saidSubject = (item: number): string => subjectOf({ mark: null }, item);

/**
 * Everything that is changed, of one item or of many: shown at once, sent, taken back. What another hand did meanwhile is never written
 * over unseen: it becomes a conflict, and what was done before it can no longer be taken back by itself.
 */
export class Editor {
  readonly marks = new Marks();
  readonly keys = new TrackKeys();
  /** on an item with an axis: what a change made at the place that is shown means; none of it where it can't be */
  through: ((draft: Draft) => Draft[]) | null = null;
  conflicts = $state.raw<Conflict[]>([]);
  #said = new SvelteMap<number, Said>();
  #gone = new SvelteSet<string>();
  /** suggestions that were found wrong here */
  #dropped = new SvelteSet<string>();
  /** revision each subject will have once all is acknowledged, also of deleted ones */
  #revisions = new Map<string, number>();
  #undo = $state.raw<Step[][]>([]);
  #redo = $state.raw<Step[][]>([]);
  #lastActive = Date.now();
  #end: () => void;
  #closed = false;
  /** says why nothing may be changed for a moment: the item is on its way to somebody else. null: it may */
  locked: (() => void) | null = null;

  /**
   * @param history keeps what can be taken back over a reload
   * @param told what the server said to a batch, after what was not taken has been dealt with; `unsure`: what is there has to be asked for
   */
  constructor(
    private readonly place: Place,
    private readonly words: Words,
    private readonly outbox: Pick<Outbox, 'listen' | 'pending' | 'add' | 'withdraw' | 'undelivered'>,
    private readonly told: (answer: Schemas['EditResults'], outcomes: Outcome[], unsure: boolean) => void = () => {},
    private readonly history: History | null = null
  ) {
    this.#end = outbox.listen(place.project, place.turn, (outcomes, answer) => this.#heard(outcomes, answer));
  }
  /** Hears no more; what is on its way goes on. */
  close(): void {
    this.#closed = true;
    this.#end();
    this.history?.close();
  }

  /** What is said of an item; undefined where that was not taken in. */
  saidOf(item: number): Said | undefined {
    return this.#said.get(item);
  }
  /** Whether a mark was taken away here. */
  isGone(id: string): boolean {
    return this.#gone.has(id);
  }
  /** Whether a suggestion was found wrong here. */
  isDropped(suggestion: string): boolean {
    return this.#dropped.has(dropSubject(suggestion));
  }
  /** Suggestions are found wrong, as one step that can be taken back. */
  drop(item: number, suggestions: readonly string[]): number {
    return this.change(suggestions.map((id) => ({ subject: dropSubject(id), item, before: null, after: { dropped: true } })));
  }
  /** How many keys of a mark were taken away here. */
  goneKeys(mark: string): number {
    return [...this.#gone].filter((subject) => isKeySubject(subject) && subject.startsWith(`${mark}@`)).length;
  }
  get canUndo(): boolean {
    return this.#undo.length > 0;
  }
  get canRedo(): boolean {
    return this.#redo.length > 0;
  }
  /** Whether anything is on its way, held, or waits for a decision of this hand. */
  get unsettled(): number {
    return this.conflicts.length + this.outbox.undelivered(this.place.project, this.place.turn);
  }

  /**
   * Takes in an item as the server has it, with what is on its way laid over.
   *
   * @param since edits that were on their way when the server was asked: an answer that has come meanwhile may not be in what it sent
   */
  take(
    item: number,
    marks: readonly Schemas['Mark'][],
    said: Schemas['Said'],
    since: readonly Schemas['Edit'][] = [],
    tracked: readonly Schemas['Key'][] = []
  ): void {
    // what was removed here is not in what the server sends, but can be brought back on top of that
    const gone = this.#marksGone();
    this.#revisions = new Map([...gone, ...marks.map((m) => [m.id, m.revision] as const)]);
    this.#revisions.set(saidSubject(item), said.revision);
    for (const k of tracked) this.#revisions.set(keySubject(k.mark, k.place), k.revision);
    const now = new Map(marks.map((m) => [m.id, fromServer(m)]));
    const keys = new Map(tracked.map((k) => [keySubject(k.mark, k.place), keyFromServer(k)]));
    let saidNow = saidFromServer(said);
    const pending = this.outbox.pending(this.place.project, this.place.turn);
    const known = new Set(pending.map((e) => e.id));
    for (const edit of [...since.filter((e) => !known.has(e.id)), ...pending]) {
      const subject = subjectOf(edit, item);
      // what the server sent has it already
      if (!known.has(edit.id) && edit.base < (this.#revisions.get(subject) ?? 0)) continue;
      this.#revisions.set(subject, edit.base + 1);
      if (edit.mark === null || edit.data?.kind === 'item') {
        const { answers, tags, stretches } = edit.data as Partial<Said>;
        saidNow = { answers: answers ?? saidNow.answers, tags: tags ?? saidNow.tags, stretches: stretches ?? saidNow.stretches };
      } else if (edit.action === 'key') {
        const key = keyOf(edit);
        if (key) keys.set(subject, key);
        else keys.delete(subject);
      } else if (edit.action === 'drop') {
        if (edit.data?.dropped === false) this.#dropped.delete(subject);
        else this.#dropped.add(subject);
      } else if (edit.action === 'delete') now.delete(edit.mark);
      else {
        const there = now.get(edit.mark) ?? (edit.action === 'create' ? blank(edit.mark) : null);
        const mark =
          there &&
          ({ ...there, ...(edit.data as Partial<Mark>), author: this.place.user, source: edit.source ?? byHand(there.source) } as Mark);
        if (mark) now.set(edit.mark, mark);
        const first = mark && edit.action === 'create' && edit.base === 0 ? firstKey(mark) : null;
        if (first) {
          keys.set(keySubject(first.mark, first.place), first);
          this.#revisions.set(keySubject(first.mark, first.place), 1);
        }
      }
    }
    this.keys.replace([...keys.values()]);
    this.marks.replace([...now.values()]);
    this.#gone.clear();
    this.#said.set(item, saidNow);
    if (this.history && this.#undo.length === 0) {
      const dropped = [...this.#dropped].map((subject): [string, Dropped] => [subject, { dropped: true }]);
      const kept = this.history.restore(new Map<string, Mark | TrackKey | Dropped>([...now, ...keys, ...dropped]), saidNow);
      this.#undo = kept.steps;
      for (const [id, revision] of kept.gone) if (!gone.has(id)) gone.set(id, revision);
    }
    for (const [id, revision] of gone)
      if (!now.has(id) && !keys.has(id)) {
        this.#gone.add(id);
        if (!this.#revisions.has(id)) this.#revisions.set(id, revision);
      }
  }

  /** Makes changes, as one step that can be taken back. @returns how many */
  change(made: readonly Draft[]): number {
    const { through } = this;
    const drafts = through ? made.flatMap((d) => (isKey(d.after ?? d.before) || isDropSubject(d.subject) ? d : through(d))) : made;
    if (drafts.length === 0 || this.#isLocked()) return 0;
    const steps = drafts.map((d): Step => ({ ...d, words: this.words.version }));
    this.#apply(steps);
    this.#undo = [...this.#undo, steps];
    this.#redo = [];
    this.#keep();
    return steps.length;
  }
  /** Takes the last step back. @returns its changes */
  undo(): Step[] {
    const steps = this.#undo.at(-1) ?? [];
    if (steps.length === 0 || this.#isLocked()) return [];
    this.#undo = this.#undo.slice(0, -1);
    this.#redo = [...this.#redo, steps];
    this.#apply(turned(steps));
    this.#keep();
    return steps;
  }
  redo(): Step[] {
    const steps = this.#redo.at(-1) ?? [];
    if (steps.length === 0 || this.#isLocked()) return [];
    this.#redo = this.#redo.slice(0, -1);
    this.#undo = [...this.#undo, steps];
    this.#apply(steps);
    this.#keep();
    return steps;
  }
  /** Takes the last change of one subject back, whatever was done to others since. @returns whether there was one */
  takeBack(subject: string): boolean {
    const at = this.#undo.findLastIndex((steps) => steps.some((s) => s.subject === subject));
    if (at < 0 || this.#isLocked()) return false;
    const mine = this.#undo[at]!.filter((s) => s.subject === subject);
    const rest = this.#undo[at]!.filter((s) => s.subject !== subject);
    this.#undo = rest.length > 0 ? this.#undo.with(at, rest) : this.#undo.toSpliced(at, 1);
    this.#apply(turned(mine));
    this.#keep();
    return true;
  }

  /** Settles a conflict: what this hand had made of it again, on top of the other, or the other as it is. */
  settle(conflict: Conflict, mine: boolean): void {
    if (this.#isLocked()) return;
    this.conflicts = this.conflicts.filter((c) => c !== conflict);
    if (!mine) return;
    const { subject, item } = conflict;
    this.change([{ subject, item, before: this.#now(subject, item), after: conflict.mine, revision: this.#revisions.get(subject) ?? 0 }]);
  }

  /** What can be taken back, and on top of what, over a reload. */
  #keep(): void {
    this.history?.keep(this.#undo, () => this.#marksGone());
  }
  #marksGone(): Map<string, number> {
    return new Map([...this.#gone].map((id) => [id, this.#revisions.get(id) ?? 0]));
  }
  #now(subject: string, item: number): Value | null {
    if (isKeySubject(subject)) return this.keys.get(subject) ?? null;
    if (isDropSubject(subject)) return this.#dropped.has(subject) ? { dropped: true } : null;
    return subject === saidSubject(item) ? (this.#said.get(item) ?? null) : (this.marks.get(subject) ?? null);
  }
  #isLocked(): boolean {
    this.locked?.();
    return this.locked !== null;
  }
  #seconds(): number {
    const now = Date.now();
    const seconds = Math.min(MAX_IDLE, Math.round((now - this.#lastActive) / 1000));
    this.#lastActive = now;
    return seconds;
  }

  /** Shows changes and sends them. */
  #apply(steps: readonly (Step & Pick<Draft, 'revision' | 'class'>)[]): void {
    const entries: Entry[] = [];
    const shown: { id: string; mark: Mark | null }[] = [];
    const keyed: { subject: string; key: TrackKey | null }[] = [];
    let seconds = this.#seconds();
    for (const { subject, item, before, after, words, revision, suggestion, ...step } of steps) {
      const base = this.#revisions.get(subject) ?? revision ?? 0;
      this.#revisions.set(subject, base + 1);
      const edit = { id: ulid(), base, seconds, codebook: words };
      seconds = 0;
      if (isSaid(after)) {
        this.#said.set(item, after);
        entries.push({ item, edit: { ...edit, mark: null, action: base === 0 ? 'create' : 'change', data: { kind: 'item', ...after } } });
        continue;
      }
      if (isDropSubject(subject)) {
        const dropped = isDrop(after);
        if (dropped) this.#dropped.add(subject);
        else this.#dropped.delete(subject);
        entries.push({ item, edit: { ...edit, base: 0, mark: subject.slice('drop:'.length), action: 'drop', data: { dropped } } });
        continue;
      }
      const ofKey = isKey(after) ? after : isKey(before) ? before : null;
      if (ofKey) {
        const key = isKey(after) ? after : null;
        keyed.push({ subject, key });
        if (key === null) this.#gone.add(subject);
        else this.#gone.delete(subject);
        const of = this.marks.get(ofKey.mark)?.class ?? shown.find((s) => s.id === ofKey.mark)?.mark?.class ?? step.class;
        entries.push({
          item,
          edit: {
            ...edit,
            mark: ofKey.mark,
            action: 'key',
            // its class, so that a later codebook can tell what is answered
            data: { place: ofKey.place, ...(of && { class: of }), key: key && keyBody(key) }
          }
        });
        continue;
      }
      const there = this.marks.get(subject) ?? (this.#gone.has(subject) ? null : (before as Mark | null));
      const is = after as Mark | null;
      const mark = is === null ? null : ({ ...is, author: this.place.user, source: byHand(is.source) } as Mark);
      shown.push({ id: subject, mark });
      if (mark === null) this.#gone.add(subject);
      else this.#gone.delete(subject);
      const first = mark && base === 0 && there === null ? firstKey(mark) : null;
      if (first) {
        keyed.push({ subject: keySubject(first.mark, first.place), key: first });
        this.#revisions.set(keySubject(first.mark, first.place), 1);
      }
      entries.push({
        item,
        edit: {
          ...edit,
          mark: subject,
          ...(mark === null
            ? { action: 'delete' as const }
            : there === null
              ? {
                  action: 'create' as const,
                  data: { ...body(mark), ...(mark.stretches && { geometry: mark.geometry, place: mark.place }) },
                  ...(suggestion && { suggestion }),
                  ...helped(mark, null)
                }
              : { action: 'change' as const, data: difference(there, mark), ...helped(mark, there) })
        }
      });
    }
    this.keys.put(keyed);
    this.marks.put(shown);
    this.outbox.add(this.place.project, this.place.turn, entries);
  }

  #heard(outcomes: Outcome[], answer: Schemas['EditResults']): void {
    let unsure = false;
    for (const { edit, item = this.#only(), result } of outcomes) {
      const subject = subjectOf(edit, item);
      // of a key whose mark is gone nothing is there to be shown
      const there = isKeySubject(subject) ? result.key : (result.said ?? result.mark);
      if (result.outcome !== 'conflict' && result.outcome !== 'refused') {
        const waits = this.outbox.pending(this.place.project, this.place.turn).some((e) => subjectOf(e, item) === subject);
        if (there && !waits) this.#revisions.set(subject, there.revision);
        continue;
      }
      if (this.conflicts.some((c) => c.subject === subject)) continue;
      const mine = this.#now(subject, item);
      this.outbox.withdraw(this.place.project, this.place.turn, subject);
      this.#forget(subject);
      if (there) this.#take(subject, item, result);
      else unsure = true;
      const theirs = there ? this.#now(subject, item) : null;
      const refused = result.outcome === 'refused' ? (result.reason ?? 'the server refused it') : null;
      // two hands that did the same need not be asked
      if (refused === null && same(plain(mine), plain(theirs))) continue;
      this.conflicts = [...this.conflicts, { subject, item, mine, theirs, refused }];
    }
    if (!this.#closed) this.told(answer, outcomes, unsure);
  }
  /** The item of a bench, which has only one. */
  #only(): number {
    return [...this.#said.keys()][0] ?? 0;
  }
  #take(subject: string, item: number, result: Schemas['EditResult']): void {
    if (isKeySubject(subject)) {
      if (!result.key) return;
      this.#revisions.set(subject, result.key.revision);
      this.keys.put([{ subject, key: result.key.deleted ? null : keyFromServer(result.key) }]);
      if (result.key.deleted) this.#gone.add(subject);
      else this.#gone.delete(subject);
    } else if (result.said) {
      this.#revisions.set(subject, result.said.revision);
      this.#said.set(item, saidFromServer(result.said));
    } else if (result.mark) {
      this.#revisions.set(subject, result.mark.revision);
      this.marks.put([{ id: subject, mark: result.mark.deleted ? null : fromServer(result.mark) }]);
      if (result.mark.deleted) this.#gone.add(subject);
      else this.#gone.delete(subject);
    }
  }
  /** What was done to it before can no longer be taken back by itself. */
  #forget(subject: string): void {
    const without = (stack: Step[][]) =>
      stack.map((steps) => steps.filter((s) => s.subject !== subject)).filter((steps) => steps.length > 0);
    this.#undo = without(this.#undo);
    this.#redo = without(this.#redo);
    this.#keep();
  }
}

const turned = (steps: readonly Step[]): Step[] => [...steps].reverse().map((s) => ({ ...s, before: s.after, after: s.before }));
/** The key a track begins with: what was drawn. */
const firstKey = (mark: Mark): TrackKey | null =>
  mark.stretches && mark.place !== null
    ? {
        mark: mark.id,
        place: mark.place,
        geometry: mark.geometry,
        answers: {},
        hidden: false,
        source: mark.source === 'cutout' ? 'cutout' : 'hand',
        confidence: null
      }
    : null;
const keyOf = (edit: Schemas['Edit']): TrackKey | null => {
  const { place, key } = edit.data as { place: number; key: Partial<TrackKey> | null };
  return key === null
    ? null
    : { mark: edit.mark!, place, geometry: null, answers: {}, hidden: false, source: 'hand', confidence: null, ...key };
};
const blank = (id: string): Mark =>
  ({
    id,
    kind: 'box',
    stretches: null,
    place: null,
    stack: null,
    part_of: null,
    flags: [],
    answers: {},
    source: 'hand',
    author: null,
    revision: 0
  }) as unknown as Mark;

/**
 * The fields in which a mark has changed. Kind and geometry go together, and answers go with the class that is asked for them: under a later
 * codebook the server could not tell else what they answer.
 */
function difference(before: Mark, after: Mark): Record<string, unknown> {
  const [was, is] = [body(before), body(after)] as [Record<string, unknown>, Record<string, unknown>];
  const fields = Object.entries(is).filter(([key, value]) => !same(was[key], value));
  const found = Object.fromEntries(fields);
  return {
    ...found,
    ...(('geometry' in found || 'kind' in found) && { kind: after.kind, geometry: after.geometry }),
    ...('answers' in found && { class: after.class })
  };
}

/** What a mark came from once a hand has been at it. */
const byHand = (source: string): string => (source === 'import' || source === 'model' ? 'hand' : source);
/** What a hand did it with, where that is said anew. */
function helped(mark: Mark, before: Mark | null): Pick<Schemas['Edit'], 'source'> {
  const { source } = mark;
  return source !== before?.source && (source === 'cutout' || source === 'patches' || source === 'fitted') ? { source } : {};
}
