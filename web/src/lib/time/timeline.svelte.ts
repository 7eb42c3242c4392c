import type { Editor } from '$lib/edits/editor.svelte';
import type { Hand } from '$lib/edits/hand.svelte';
import type { Stretch } from '$lib/words/mark';
import type { Words } from '$lib/words/words.svelte';
import type { Clock } from './clock.svelte';
import type { SayingLane, Sayings } from './sayings.svelte';
import type { Tracks } from './tracks.svelte';

/** A lane: of what is said, or of a track by its id. */
export type Row = SayingLane | string;

/** Frames that are shown at least: closer than that a frame is wider than a hand needs. */
const CLOSEST = 8;

/** The axis under the stage: which part of the clip is in sight, and a lane for each track in the order of the ledger. */
export class Timeline {
  /** the part in sight, in frames; also between two */
  view = $state.raw({ from: 0, span: 1 });
  readonly lanes: readonly string[] = $derived.by(() => {
    void this.editor.marks.ids;
    const known = this.words.document.classes.flatMap((c) => this.editor.marks.of(c.key));
    const listed = new Set(known);
    // a class the codebook no longer has comes last
    return [...known, ...this.editor.marks.ids.filter((id) => !listed.has(id))];
  });

  readonly rows: readonly Row[] = $derived.by(() => [...(this.sayings?.lanes ?? []), ...this.lanes]);

  constructor(
    readonly clock: Clock,
    readonly tracks: Tracks,
    readonly editor: Editor,
    readonly hand: Hand,
    readonly words: Words,
    readonly places: number,
    readonly sayings: Sayings | null = null
  ) {
    this.fit();
  }

  fit(stretch: Stretch = [0, this.places - 1]): void {
    const span = Math.min(this.places, Math.max(CLOSEST, stretch[1] - stretch[0] + 1));
    const air = span < this.places ? Math.min(this.places - span, span * 0.08) : 0;
    this.#look(stretch[0] - air / 2, span + air);
  }
  zoom(at: number, factor: number): void {
    const { from, span } = this.view;
    const next = Math.max(Math.min(CLOSEST, this.places), Math.min(this.places, span / factor));
    this.#look(at - ((at - from) / span) * next, next);
  }
  pan(frames: number): void {
    this.#look(this.view.from + frames, this.view.span);
  }
  /** Moves on when the playhead would leave what is in sight. */
  follow(frame: number): void {
    const { from, span } = this.view;
    if (frame < from || frame + 1 > from + span) this.#look(frame < from ? frame - span * 0.1 : frame - span * 0.1, span);
  }
  #look(from: number, span: number): void {
    this.view = { from: Math.max(0, Math.min(this.places - span, from)), span };
  }
  frameAt(x: number, width: number): number {
    return Math.max(0, Math.min(this.places - 1, Math.floor(this.view.from + (x / width) * this.view.span)));
  }
}
