import type { Editor } from '$lib/edits/editor.svelte';
import type { Mark } from '$lib/words/mark';
import type { Clock } from './clock.svelte';
import type { Tracks } from './tracks.svelte';

type Placed = { place: number; geometry: Mark['geometry'] };
export type AskRecut = (
  mark: Mark,
  from: Placed,
  to: number,
  every: number
) => Promise<{ found: (Placed & { certainty: number })[]; unsure: string | null }>;

/** Frames the server goes through at a time, and outlines it makes: about a second of its work. */
const AT_ONCE = 48;
const OUTLINES = 6;

/**
 * Cuts an object out again on later frames, from its last key to the frame that is shown: each outline is a start for the next, and a key.
 * What was found when it is stopped, or is not sure any more, is kept as one step.
 */
export class Recutting {
  /** the mark that is being cut out */
  mark = $state<string | null>(null);
  count = $state(0);
  #run = 0;
  #closed = false;

  constructor(
    private readonly editor: Editor,
    private readonly tracks: Tracks,
    private readonly clock: Clock,
    private readonly ask: AskRecut,
    private readonly say: (message: string) => void
  ) {}

  close(): void {
    this.#closed = true;
    this.stop();
  }
  /** Stops; what was found until then is kept. */
  stop(): boolean {
    if (this.mark === null) return false;
    this.#run++;
    return true;
  }
  /** @param every frames from one key to the next; null: at the frame that is shown only */
  async start(mark: Mark, every: number | null): Promise<void> {
    if (this.mark !== null) return;
    const to = this.clock.frame;
    const track = this.tracks.of(mark.id);
    const key = track?.keys.findLast((k) => k.place < to && k.geometry !== null);
    if (!track || !key) return this.say('it has no key before this frame to go on from');
    if (!track.at(to)) return this.say('it is not there at this frame');
    const step = every ?? to - key.place;
    const run = ++this.#run;
    this.mark = mark.id;
    this.count = 0;
    this.clock.stop();
    const found: (Placed & { certainty: number })[] = [];
    let last: Placed = { place: key.place, geometry: key.geometry! };
    let why: string | null = null;
    try {
      while (run === this.#run && last.place < to && why === null) {
        // whole steps, so that the next request goes on with the same
        const reach = Math.max(1, Math.min(OUTLINES, Math.floor(AT_ONCE / step))) * step;
        const until = Math.min(to, last.place + Math.min(AT_ONCE, reach));
        const answer = await this.ask(mark, last, until, Math.min(step, AT_ONCE));
        if (this.#closed) return;
        found.push(...answer.found);
        this.count = found.length;
        this.tracks.lend(mark.id, new Map(found.map((f) => [f.place, f.geometry])));
        why = answer.unsure;
        const end = answer.found.at(-1);
        if (!end) break;
        last = end;
        if (why === null && last.place < to) await this.clock.go(last.place);
      }
    } catch (e) {
      why = (e as Error).message;
    } finally {
      this.tracks.lend(mark.id, null);
      this.mark = null;
    }
    // far steps leave outlines that were only stations on the way
    const kept = found.filter((f) => every !== null || f.place === to || f === found.at(-1));
    const now = this.editor.marks.get(mark.id);
    if (kept.length === 0 || !now) return this.say(`not cut out: ${why ?? 'it was stopped'}`);
    const places = new Set(kept.map((f) => f.place));
    const old = this.editor.keys
      .of(mark.id)
      .filter((k) => k.place > key.place && k.place <= kept.at(-1)!.place && !places.has(k.place) && k.source !== 'hand');
    this.editor.change([
      ...old.flatMap((k) => this.tracks.unkey(mark.id, k.place)),
      ...kept.map((f) => this.tracks.key(mark.id, f.place, { geometry: f.geometry, source: 'cutout', confidence: f.certainty }))
    ]);
    await this.clock.go(kept.at(-1)!.place);
    const keys = `${kept.length} ${kept.length === 1 ? 'key' : 'keys'}`;
    this.say(
      why === null ? `cut out to frame ${last.place + 1}: ${keys}` : `cut out to frame ${last.place + 1}, ${keys}, then not sure: ${why}`
    );
  }
}
