import type { Draft, Editor } from '$lib/edits/editor.svelte';
import { ulid } from '$lib/edits/ulid';
import type { Mark, Stretch, TrackKey } from '$lib/words/mark';
import { merged, stretchAt, without } from '$lib/words/stretches';
import type { Tracks } from './tracks.svelte';

/** What is done to tracks beside drawing them: where they begin and end, hidden for a while, carried on, cut in two, joined, exchanged. */
export class TrackActs {
  constructor(
    private readonly editor: Editor,
    private readonly tracks: Tracks,
    private readonly item: number,
    private readonly say: (message: string) => void,
    /** whether objects of a class are not there where they can't be seen, instead of hidden */
    private readonly isAbsentUnseen: (key: string) => boolean = () => false,
    /** what a place is called */
    private readonly word: 'frame' | 'slice' = 'frame'
  ) {}
  /** where the stretch was to end that an object was lost from sight in */
  #ends = new Map<string, number>();

  #mark(before: Mark, change: Partial<Mark>): Draft {
    return { subject: before.id, item: this.item, before, after: { ...before, ...change } as Mark, placed: true };
  }
  /**
   * A key that says of a place what holds there anyway, where the keys that made it so will not be there any more; none where there is one.
   */
  #pinned(id: string, place: number): Draft[] {
    const seen = this.tracks.of(id)?.at(place);
    return seen && seen.key === null
      ? [this.tracks.key(id, place, { geometry: seen.geometry, hidden: seen.hidden, source: 'copied' })]
      : [];
  }
  #there(mark: Mark, place: number): boolean {
    if (stretchAt(mark.stretches ?? [], place)) return true;
    this.say(`it is not there at this ${this.word}`);
    return false;
  }

  /** This frame is the last one of the stretch it lies in; of one that has ended before, from its end to here it is there too. */
  endHere(mark: Mark): void {
    const { place } = this.tracks;
    const stretch = stretchAt(mark.stretches!, place);
    if (!stretch) {
      const before = mark.stretches!.filter(([, last]) => last < place).at(-1);
      if (!before) return this.say(`it begins after this ${this.word}`);
      return void this.editor.change([this.#mark(mark, { stretches: merged([...mark.stretches!, [before[1], place]]) })]);
    }
    if (stretch[1] === place) return this.say('it ends here already');
    const moves = this.tracks.of(mark.id)!.around(place) !== null;
    this.editor.change([
      ...(moves ? this.#pinned(mark.id, place) : []),
      this.#mark(mark, { stretches: without(mark.stretches!, [place + 1, stretch[1]]) })
    ]);
  }
  startHere(mark: Mark): void {
    const { place } = this.tracks;
    const stretch = stretchAt(mark.stretches!, place);
    if (!stretch) {
      const after = mark.stretches!.find(([first]) => first > place);
      if (!after) return this.say(`it has ended before this ${this.word}`);
      return void this.editor.change([this.#mark(mark, { stretches: merged([...mark.stretches!, [place, after[0]]]) })]);
    }
    if (stretch[0] === place) return this.say('it begins here already');
    // what holds here may have been said before it
    this.editor.change([
      ...this.#pinned(mark.id, place),
      this.#mark(mark, { stretches: without(mark.stretches!, [stretch[0], place - 1]) })
    ]);
  }
  /** There to the very end of the clip. */
  toTheEnd(mark: Mark): void {
    const last = this.tracks.places - 1;
    const end = mark.stretches!.at(-1)!;
    if (end[1] === last) return this.say('it is there to the end already');
    this.editor.change([this.#mark(mark, { stretches: merged([...mark.stretches!, [end[1], last]]) })]);
  }
  /** From here on hidden, or seen again; or not there, as its class has it. */
  veil(mark: Mark): void {
    const { place } = this.tracks;
    if (this.isAbsentUnseen(mark.class)) return this.#away(mark);
    const seen = this.tracks.of(mark.id)?.at(place);
    if (!seen) return void this.#there(mark, place);
    this.editor.change([
      this.tracks.key(mark.id, place, {
        geometry: seen.geometry,
        hidden: !seen.hidden,
        source: seen.key?.source ?? 'copied'
      })
    ]);
  }
  /** From here on not there, or there again to where it would have ended. */
  #away(mark: Mark): void {
    const { place } = this.tracks;
    const stretches = mark.stretches!;
    const stretch = stretchAt(stretches, place);
    if (!stretch) {
      const next = stretches.find(([first]) => first > place);
      if (!stretches.some(([, last]) => last < place)) return this.say(`it begins after this ${this.word}`);
      const end = next ? next[0] - 1 : Math.max(place, this.#ends.get(mark.id) ?? this.tracks.places - 1);
      const seen = this.tracks.of(mark.id)!.before(place);
      this.editor.change([
        ...(seen && !this.editor.keys.at(mark.id, place)
          ? [this.tracks.key(mark.id, place, { geometry: seen.geometry, hidden: false, source: 'copied' })]
          : []),
        this.#mark(mark, { stretches: merged([...stretches, [place, end]]) })
      ]);
      return;
    }
    if (place === stretches[0]![0]) return this.say(`it begins at this ${this.word}: let it begin later`);
    this.#ends.set(mark.id, stretch[1]);
    this.editor.change([
      ...(place > stretch[0] ? this.#pinnedMoving(mark.id, place - 1) : []),
      this.#mark(mark, { stretches: without(stretches, [place, stretch[1]]) })
    ]);
  }
  /** A key where there is none, with what is there; where there is one it is taken away. */
  toggleKey(mark: Mark): void {
    const { place } = this.tracks;
    const track = this.tracks.of(mark.id);
    const seen = track?.at(place);
    if (!track || !seen) return void this.#there(mark, place);
    if (seen.key === null)
      return void this.editor.change([this.tracks.key(mark.id, place, { geometry: seen.geometry, hidden: seen.hidden })]);
    if (track.keys.length === 1) return this.say('a track keeps one key at least');
    this.editor.change(this.tracks.unkey(mark.id, place));
  }
  /** A key goes to another place, with all it says. */
  moveKey(mark: Mark, from: number, to: number): boolean {
    const key = this.editor.keys.at(mark.id, from);
    if (!key || from === to || !stretchAt(mark.stretches ?? [], to)) return false;
    return this.editor.change([...this.tracks.unkey(mark.id, from), this.tracks.key(mark.id, to, { ...key, place: to })]) > 0;
  }
  /** As it is here it stays for so many frames, or to the end of its stretch: keys on the way go. */
  carry(mark: Mark, frames: number | null): void {
    const { place } = this.tracks;
    const track = this.tracks.of(mark.id);
    const seen = track?.at(place);
    const stretch = stretchAt(mark.stretches!, place);
    if (!track || !seen || !stretch) return void this.#there(mark, place);
    const to = frames === null ? stretch[1] : Math.min(stretch[1], place + frames);
    if (to === place) return this.say('its stretch ends here');
    const gone = track.keys.filter((k) => k.place > place && k.place <= to);
    // where it moves again afterwards, it moves from here on
    const more = track.keys.some((k) => k.place > to && k.place <= stretch[1]);
    this.editor.change([
      ...(seen.key ? [] : [this.tracks.key(mark.id, place, { geometry: seen.geometry, hidden: seen.hidden })]),
      ...gone.filter((k) => !more || k.place !== to).flatMap((k) => this.tracks.unkey(mark.id, k.place)),
      ...(more ? [this.tracks.key(mark.id, to, { geometry: seen.geometry, hidden: seen.hidden, source: 'copied' })] : [])
    ]);
  }

  /** Two tracks of one: up to the frame before, and from this one on. @returns the id of the second */
  split(mark: Mark): string | null {
    const { place } = this.tracks;
    const track = this.tracks.of(mark.id);
    const seen = track?.at(place);
    const first = mark.stretches![0]![0];
    if (!track || place <= first || place > mark.stretches!.at(-1)![1]) {
      this.say(`split it between its first and its last ${this.word}`);
      return null;
    }
    const id = ulid();
    const there = without(mark.stretches!, [0, place - 1]);
    const begin = there[0]![0];
    const from = this.tracks.of(mark.id)!.at(begin)!;
    const second: Mark = { ...mark, id, stretches: there, place: begin, geometry: from.geometry, revision: 0, away: seen === null } as Mark;
    const rest = track.keys.filter((k) => k.place > begin);
    const before = stretchAt(mark.stretches!, place - 1) ? this.#pinnedMoving(mark.id, place - 1) : [];
    this.editor.change([
      ...before,
      this.#mark(mark, { stretches: without(mark.stretches!, [place, this.tracks.places - 1]) }),
      { subject: id, item: this.item, before: null, after: second, placed: true },
      ...(from.hidden ? [this.#copy({ ...blank(id, begin), geometry: from.geometry, hidden: true }, this.#first(second))] : []),
      ...rest.map((k) => this.#copy({ ...k, mark: id }, null))
    ]);
    return id;
  }
  /** The key a new track begins with. */
  #first(mark: Mark): TrackKey {
    return { ...blank(mark.id, mark.place!), geometry: mark.geometry };
  }
  #copy(after: TrackKey, before: TrackKey | null): Draft {
    return { subject: `${after.mark}@${after.place}`, item: this.item, before, after };
  }
  #pinnedMoving(id: string, place: number): Draft[] {
    return this.tracks.of(id)?.around(place) ? this.#pinned(id, place) : [];
  }

  /** One track of two that are never there at once: the first in hand takes in the other. */
  join(mark: Mark, other: Mark): boolean {
    const common = overlap(mark.stretches!, other.stretches!);
    if (common !== null) {
      this.say(`both are there at ${this.word} ${common + 1}; end one of them before`);
      return false;
    }
    if (mark.kind !== other.kind || mark.class !== other.class) {
      this.say('tracks of one class and shape can be joined');
      return false;
    }
    const [a, b] = [this.tracks.of(mark.id)!, this.tracks.of(other.id)!];
    const drafts: Draft[] = [];
    // where one follows the other at once, the first does not begin to move towards it
    for (const [one, two, id] of [
      [a, b, mark.id],
      [b, a, mark.id]
    ] as const)
      for (const [first, last] of one.stretches) {
        const ends = [
          ...(one.keys.some((k) => k.place >= first && k.place <= last) ? [] : [first]),
          ...(stretchAt(two.stretches, last + 1) ? [last] : [])
        ];
        for (const place of new Set(ends)) {
          const seen = one.at(place);
          if (seen && seen.key === null)
            drafts.push(this.tracks.key(id, place, { geometry: seen.geometry, hidden: seen.hidden, source: 'copied' }));
        }
      }
    drafts.push(...b.keys.map((k) => this.tracks.key(mark.id, k.place, { ...k, mark: mark.id })));
    this.editor.change([
      this.#mark(mark, { stretches: merged([...mark.stretches!, ...other.stretches!]) }),
      ...drafts,
      { subject: other.id, item: this.item, before: other, after: null }
    ]);
    return true;
  }

  /** From this frame on each is the other: two that were taken for each other when they met. */
  swap(mark: Mark, other: Mark): boolean {
    const { place } = this.tracks;
    if (mark.kind !== other.kind) {
      this.say('tracks of one shape can be exchanged');
      return false;
    }
    const [a, b] = [this.tracks.of(mark.id)!, this.tracks.of(other.id)!];
    const late = (m: Mark) => without(m.stretches!, [0, place - 1]);
    const early = (m: Mark) => without(m.stretches!, [place, this.tracks.places - 1]);
    if (late(mark).length + late(other).length === 0 || early(mark).length === 0 || early(other).length === 0) {
      this.say(`go to the ${this.word} where they meet: both are there before it, and one after it at least`);
      return false;
    }
    const drafts: Draft[] = [];
    for (const [one, other_, id, from] of [
      [a, b, mark.id, other.id],
      [b, a, other.id, mark.id]
    ] as const) {
      // before it each ends where it is, and from here on has the keys of the other
      if (stretchAt(one.stretches, place - 1)) drafts.push(...this.#pinnedMoving(id, place - 1));
      const mine = one.keys.filter((k) => k.place >= place);
      const theirs = other_.keys.filter((k) => k.place >= place);
      const begin = without(other_.stretches, [0, place - 1])[0]?.[0];
      const first = begin === undefined ? null : other_.at(begin);
      const come = new Map(theirs.map((k) => [k.place, k]));
      if (begin !== undefined && first && !come.has(begin))
        come.set(begin, { ...blank(from, begin), geometry: first.geometry, hidden: first.hidden, source: 'copied' });
      drafts.push(...mine.filter((k) => !come.has(k.place)).flatMap((k) => this.tracks.unkey(id, k.place)));
      drafts.push(...[...come.values()].map((k) => this.tracks.key(id, k.place, { ...k, mark: id })));
    }
    this.editor.change([
      ...drafts,
      this.#mark(mark, { stretches: merged([...early(mark), ...late(other)]) }),
      this.#mark(other, { stretches: merged([...early(other), ...late(mark)]) })
    ]);
    return true;
  }
}

const blank = (mark: string, place: number): TrackKey => ({
  mark,
  place,
  geometry: null,
  answers: {},
  hidden: false,
  source: 'hand',
  confidence: null
});

/** The first place that lies in both. */
function overlap(a: readonly Stretch[], b: readonly Stretch[]): number | null {
  for (const [first, last] of a) for (const [from, to] of b) if (first <= to && from <= last) return Math.max(first, from);
  return null;
}
