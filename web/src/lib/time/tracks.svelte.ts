import type { Draft, Editor } from '$lib/edits/editor.svelte';
import { keySubject } from '$lib/edits/keys.svelte';
import { body, constant, type Mark, type Shape, type Stretch, type TrackKey } from '$lib/words/mark';
import { same } from '$lib/words/same';
import { stretchAt } from '$lib/words/stretches';
import { Betweens, type AskBetween } from './betweens';
import { Track } from './track';

type Geometry = Shape['geometry'];

/**
 * The tracks of an item as they are at one place of its axis. Marks lie on the stage with the shape they have there, and what a hand does to one
 * there becomes a key of it.
 */
export class Tracks {
  /** the place that is shown */
  #place = 0;
  #cache = new Map<
    string,
    {
      keys: readonly TrackKey[];
      stretches: Mark['stretches'];
      track: Track;
      /** keys that answer something */ telling: readonly TrackKey[];
    }
  >();
  #betweens: Betweens;
  #putting = false;
  #closed = false;
  #ends: (() => void)[];

  constructor(
    protected readonly editor: Editor,
    protected readonly item: number,
    /** places of the axis */
    readonly places: number,
    protected readonly say: (message: string) => void,
    ask: AskBetween,
    /** whether the answer of an object to a question may change along the axis */
    private readonly varies: (question: string) => boolean = () => false,
    /** what a place is called */
    protected readonly word: 'frame' | 'slice' = 'frame'
  ) {
    this.#betweens = new Betweens(ask, (id) => this.refresh([id]));
    this.#ends = [
      editor.keys.on((marks) => this.refresh(marks)),
      editor.marks.on((changes) => {
        if (!this.#putting) this.refresh(changes.flatMap((c) => (c.after?.stretches ? c.id : [])));
      })
    ];
    editor.through = (draft) => this.through(draft);
  }
  close(): void {
    this.#closed = true;
    this.#betweens.close();
    this.editor.through = null;
    for (const end of this.#ends) end();
  }

  get place(): number {
    return this.#place;
  }
  /** Shapes that stand in for what the keys say, while they are being found; null: no more. */
  lend(mark: string, shapes: ReadonlyMap<number, Geometry> | null): void {
    if (shapes) this.#lent.set(mark, shapes);
    else this.#lent.delete(mark);
    if (!this.#closed) this.refresh([mark]);
  }
  protected lentAt(mark: string, place: number): Geometry | null {
    return this.#lent.get(mark)?.get(place) ?? null;
  }
  #lent = new Map<string, ReadonlyMap<number, Geometry>>();
  /** A mark as a track; undefined for one that is none, or is gone. */
  of(id: string): Track | undefined {
    const mark = this.editor.marks.get(id);
    if (!mark?.stretches) return undefined;
    const keys = this.editor.keys.of(id);
    const known = this.#cache.get(id);
    if (known && known.keys === keys && known.stretches === mark.stretches) return known.track;
    const track = new Track(mark.kind, keys, mark.stretches, (wanted, place) => this.#betweens.at(mark, wanted, place));
    const telling = keys.filter((k) => Object.keys(k.answers).length > 0 && stretchAt(mark.stretches!, k.place));
    this.#cache.set(id, { keys, stretches: mark.stretches, track, telling });
    return track;
  }

  /** Shows the tracks as they are at a place. */
  show(place: number): void {
    this.#place = place;
    this.refresh(this.editor.marks.ids);
  }
  protected refresh(ids: Iterable<string>): void {
    const list: { id: string; mark: Mark }[] = [];
    for (const id of ids) {
      const mark = this.editor.marks.get(id);
      const track = mark && this.of(id);
      const lent = this.#lent.get(id)?.get(this.#place);
      const there = track ? this.seen(mark, track) : null;
      const seen = lent && there ? { ...there, geometry: lent } : there;
      if (!mark?.stretches) continue;
      const answers = this.#answered(mark);
      const now: Mark = seen
        ? ({ ...mark, answers, geometry: seen.geometry, away: false, veiled: seen.hidden } as Mark)
        : ({ ...mark, answers, ...this.unseen(mark), away: true, veiled: false } as Mark);
      const still = mark.away === now.away && mark.veiled === now.veiled && (now.away || same(mark.geometry, now.geometry));
      if (still && same(mark.answers, answers)) continue;
      list.push({ id, mark: now });
    }
    if (list.length === 0) return;
    this.#putting = true;
    try {
      this.editor.marks.put(list);
    } finally {
      this.#putting = false;
    }
  }

  /** How a track lies on the stage; null: it does not. */
  protected seen(mark: Mark, track: Track): { geometry: Geometry; hidden: boolean } | null {
    void mark;
    return track.at(this.#place);
  }
  /** What is to be known of one that does not. */
  protected unseen(mark: Mark): { geometry?: Geometry } {
    void mark;
    return {};
  }
  /** Where one that is drawn here is there. */
  protected begins(): Stretch[] {
    return [[this.#place, this.places - 1]];
  }
  /** A mark that was drawn, as it is kept. */
  protected begun(draft: Draft, after: Mark): Draft[] {
    return [{ ...draft, after: { ...after, place: this.#place, stretches: this.begins(), away: false } as Mark }];
  }
  /** What a new shape on the stage means; null: nothing can be made of it, which has been said. */
  protected reshaped(before: Mark, after: Mark): { key?: Partial<TrackKey>; drafts?: Draft[] } | null {
    if (before.away) {
      this.say(`it is not there at this ${this.word}`);
      return null;
    }
    return { key: { geometry: after.geometry } };
  }

  /** What is answered of a mark at the place that is shown: what is said of all of it, and what the last key before says of what varies. */
  #answered(mark: Mark): Mark['answers'] {
    const answers = constant(mark, this.varies).answers;
    let varying: Mark['answers'] | null = null;
    // most keys only say where it is: of a long track few are gone through for each frame
    this.of(mark.id);
    for (const key of this.#cache.get(mark.id)?.telling ?? []) {
      if (key.place > this.#place) break;
      varying = { ...(varying ?? {}), ...key.answers };
    }
    return varying ? { ...answers, ...varying } : answers;
  }

  /** What a change of a mark made at the place that is shown means: a key of it, a change of the whole track, or a new track. */
  through(draft: Draft): Draft[] {
    const value = draft.after ?? draft.before;
    if (value === null || !('class' in value) || draft.placed) return [draft];
    const [before, after] = [draft.before as Mark | null, draft.after as Mark | null];
    if (after === null) return [draft];
    if (before === null) {
      if (this.editor.isGone(draft.subject)) return [draft];
      return this.begun(draft, after);
    }
    const drafts: Draft[] = [];
    let key: Partial<TrackKey> | null = null;
    if (after.kind !== before.kind) {
      this.say('a track keeps its shape all along; draw another one for another shape');
      return [];
    }
    let stretches: Stretch[] | null = null;
    if (!same(before.geometry, after.geometry)) {
      const means = this.reshaped(before, after);
      if (means === null) return [];
      key = means.key ?? null;
      drafts.push(...(means.drafts ?? []));
      stretches = (means.drafts?.find((d) => d.subject === after.id)?.after as Mark | undefined)?.stretches ?? null;
    }
    const changed = [...new Set([...Object.keys(before.answers), ...Object.keys(after.answers)])].filter(
      (q) => this.varies(q) && !same(before.answers[q], after.answers[q])
    );
    if (changed.length > 0) {
      const answers = { ...this.editor.keys.at(after.id, this.#place)?.answers };
      for (const q of changed) {
        if (after.answers[q]) answers[q] = after.answers[q];
        else delete answers[q];
      }
      key = { ...key, answers };
    }
    if (key) drafts.push(...this.#keyed(after.id, key));
    const grown = stretches === null ? {} : { stretches };
    const [was, is] = [constant({ ...before, ...grown } as Mark, this.varies), constant({ ...after, ...grown } as Mark, this.varies)];
    if (!same(body(was), body(is))) drafts.push({ ...draft, before: was, after: is });
    return drafts;
  }
  #keyed(mark: string, change: Partial<TrackKey>): Draft[] {
    const draft = this.key(mark, this.#place, change);
    const after = draft.after as TrackKey;
    // a key that says nothing any more is none
    return after.geometry === null && Object.keys(after.answers).length === 0 ? this.unkey(mark, this.#place) : [draft];
  }
  /** A key of a track as it becomes, at a place. */
  key(mark: string, place: number, change: Partial<TrackKey>): Draft {
    const before = this.editor.keys.at(mark, place) ?? null;
    const hidden = this.of(mark)?.at(place)?.hidden ?? false;
    const blank: TrackKey = { mark, place, geometry: null, answers: {}, hidden, source: 'hand', confidence: null };
    const after: TrackKey = { ...(before ?? blank), source: 'hand', confidence: null, ...change, mark, place };
    return { subject: keySubject(mark, place), item: this.item, before, after };
  }
  /** Takes a key away. */
  unkey(mark: string, place: number): Draft[] {
    const before = this.editor.keys.at(mark, place);
    return before ? [{ subject: keySubject(mark, place), item: this.item, before, after: null }] : [];
  }
}
