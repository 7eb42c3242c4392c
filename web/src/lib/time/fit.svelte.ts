import type { Editor } from '$lib/edits/editor.svelte';
import type { Mark, TrackKey } from '$lib/words/mark';
import type { Clock } from './clock.svelte';
import { firstFrom } from '$lib/edits/keys.svelte';
import type { Track } from './track';
import type { Tracks } from './tracks.svelte';

type Geometry = Mark['geometry'];
/** Where what lies between keys fits worst; `geometry`: where it would fit, null where that can't be told, for the reason in `unsure`. */
export type Misfit = {
  place: number;
  likeness: number;
  misfit: number;
  geometry: Geometry | null;
  certainty: number | null;
  unsure: string | null;
};
export type AskFit = (
  mark: Mark,
  keys: { place: number; geometry: Geometry; hidden: boolean }[],
  first: number,
  last: number
) => Promise<{ judged: number; worst: Misfit | null }>;

/** Frames asked for at a time: about a second of work for the server. */
const AT_ONCE = 64;
/** Frames that are judged at most: of a longer track those round the one that is shown. */
const MOST = 2000;

/** Holds what lies between the keys of a track against the frames: leads to where it fits worst, and makes a key that fits. */
export class Fitting {
  /** the mark that is being judged */
  mark = $state<string | null>(null);
  #run = 0;
  #closed = false;
  #found: { mark: string; keys: readonly TrackKey[]; misfit: Misfit } | null = null;

  constructor(
    private readonly editor: Editor,
    private readonly tracks: Tracks,
    private readonly clock: Clock,
    private readonly ask: AskFit,
    private readonly say: (message: string) => void
  ) {}

  /** The item is left: nothing is led to or said any more. */
  close(): void {
    this.#closed = true;
    this.stop();
  }
  /** Leaves off; where it has got to is told. */
  stop(): boolean {
    if (this.mark === null) return false;
    this.#run++;
    this.mark = null;
    return true;
  }

  /** Goes to the frame where what lies between the keys fits the picture worst. */
  async worst(mark: Mark): Promise<void> {
    const track = this.tracks.of(mark.id);
    if (!track || this.mark !== null) return;
    const run = ++this.#run;
    this.mark = mark.id;
    this.clock.stop();
    let [judged, worst, why] = [0, null as Misfit | null, ''];
    try {
      for (const [first, last] of windows(track, this.clock.frame)) {
        this.say(`held against ${judged} frames …`);
        const answer = await this.ask(mark, around(track, first, last), first, last);
        if (run !== this.#run) break;
        judged += answer.judged;
        if (answer.worst && (!worst || answer.worst.misfit > worst.misfit)) worst = answer.worst;
      }
    } catch (e) {
      why = (e as Error).message;
    }
    const left = run !== this.#run;
    if (!left) this.mark = null;
    // the item was left, or the track is another one now
    if (this.#closed || this.tracks.of(mark.id) !== track) return;
    if (!worst) return this.say(why || (left ? 'left' : 'there is nothing between its keys to be held against the frames'));
    this.#found = { mark: mark.id, keys: this.editor.keys.of(mark.id), misfit: worst };
    await this.clock.go(worst.place);
    const so = worst.geometry ? 'fit it here with a key' : `where it is can not be told: ${worst.unsure}`;
    this.say(`${why && `${why}; up to there `}of ${judged} frames it fits worst at ${worst.place + 1}: ${so}`);
  }

  /** A key at the frame that is shown, where the object is by its looks. */
  async here(mark: Mark): Promise<void> {
    const { frame } = this.clock;
    const track = this.tracks.of(mark.id);
    const seen = track?.at(frame);
    if (!track || !seen) return this.say('it is not there at this frame');
    if (seen.key) return this.say('this frame has a key: move it, or take it away first');
    const known = this.#found;
    const is = known?.mark === mark.id && known.misfit.place === frame && known.keys === this.editor.keys.of(mark.id);
    let misfit = is ? known.misfit : null;
    if (!misfit) {
      try {
        misfit = (await this.ask(mark, around(track, frame, frame), frame, frame)).worst;
      } catch (e) {
        return this.say((e as Error).message);
      }
      // it was changed, or left, while the server looked
      if (this.#closed || this.tracks.of(mark.id) !== track || this.clock.heading !== frame) return;
    }
    if (!misfit?.geometry) return this.say(`not fitted: ${misfit?.unsure ?? 'too little can be made out of it at the keys round it'}`);
    const { geometry, certainty } = misfit;
    this.editor.change([this.tracks.key(mark.id, frame, { geometry, source: 'followed', confidence: certainty })]);
    this.say('fitted by its looks');
  }
}

/** What is asked for one after the other: all frames between the keys of a track and up to its ends, some at a time. */
export function windows(track: Track, at: number): [first: number, last: number][] {
  const all = track.stretches.reduce((n, [first, last]) => n + last - first + 1, 0);
  const [from, to] = all <= MOST ? [0, Infinity] : [at - MOST / 2, at + MOST / 2];
  return track.stretches.flatMap(([first, last]) => {
    const parts: [number, number][] = [];
    const end = Math.min(last, to);
    for (let k = Math.max(first, from); k <= end; k += AT_ONCE) parts.push([k, Math.min(end, k + AT_ONCE - 1)]);
    return parts;
  });
}
/** The keys in some frames, and those before and after them. */
function around(track: Track, first: number, last: number): { place: number; geometry: Geometry; hidden: boolean }[] {
  const { keys } = track;
  const [from, to] = [firstFrom(keys, first + 1) - 1, firstFrom(keys, last)];
  return keys.slice(Math.max(0, from), to + 1).map(({ place, geometry, hidden }) => ({ place, geometry: geometry!, hidden }));
}
