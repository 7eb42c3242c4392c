import type { Editor } from '$lib/edits/editor.svelte';
import type { Mark } from '$lib/words/mark';
import type { Clock } from './clock.svelte';
import { stretchAt } from '$lib/words/stretches';
import type { Tracks } from './tracks.svelte';

type Placed = { place: number; geometry: Mark['geometry'] };
type Found = Placed & { certainty: number };
export type AskFollow = (
  mark: Mark,
  from: Placed,
  last: Placed | null,
  frames: number
) => Promise<{ found: Found[]; unsure: string | null }>;

/** Frames asked for at a time: about a second of work for the server, so what is found is seen as it comes. */
const AT_ONCE = 16;

/**
 * Takes an object along by its looks, some frames at a time: what is found is shown at once, and becomes a few keys when it ends, is stopped, or
 * is not sure any more.
 */
export class Following {
  /** the mark that is being followed */
  mark = $state<string | null>(null);
  /** frames found so far */
  count = $state(0);
  #run = 0;

  constructor(
    private readonly editor: Editor,
    private readonly tracks: Tracks,
    private readonly clock: Clock,
    private readonly ask: AskFollow,
    private readonly thin: (mark: Mark, shapes: Placed[]) => Promise<number[]>,
    private readonly say: (message: string) => void
  ) {}

  /** Stops; what was found until then is kept. */
  stop(): boolean {
    if (this.mark === null) return false;
    this.#run++;
    return true;
  }
  /** @param frames how many; null: to the end of its stretch, or to the next key a hand has set */
  async start(mark: Mark, frames: number | null): Promise<void> {
    if (this.mark !== null) return;
    const begin = this.clock.frame;
    const seen = this.tracks.of(mark.id)?.at(begin);
    const stretch = stretchAt(mark.stretches ?? [], begin);
    if (!seen || !stretch) return this.say('it is not there at this frame');
    const next = this.tracks.of(mark.id)!.keys.find((k) => k.place > begin && k.source === 'hand');
    const end = Math.min(stretch[1], next ? next.place - 1 : stretch[1], frames === null ? Infinity : begin + frames);
    if (end <= begin) return this.say('there is no frame to follow it to: the next one has a key, or it ends here');
    const run = ++this.#run;
    const from: Placed = { place: begin, geometry: seen.geometry };
    const found: Found[] = [];
    this.mark = mark.id;
    this.count = 0;
    this.clock.stop();
    let why: string | null = null;
    try {
      while (run === this.#run && (found.at(-1)?.place ?? begin) < end) {
        const last = found.at(-1) ?? null;
        const answer = await this.ask(
          mark,
          from,
          last && { place: last.place, geometry: last.geometry },
          Math.min(AT_ONCE, end - (last?.place ?? begin))
        );
        // stopped meanwhile, or the item was left
        if (run !== this.#run && answer.found.length === 0) break;
        found.push(...answer.found.filter((f) => f.place <= end));
        this.count = found.length;
        this.tracks.lend(mark.id, new Map(found.map((f) => [f.place, f.geometry])));
        if (answer.unsure !== null) {
          why = answer.unsure;
          break;
        }
        if (answer.found.length === 0) break;
        await this.clock.go(found.at(-1)!.place);
      }
      await this.#keep(mark, from, found);
    } catch (e) {
      // what was found before the server went away is kept
      await this.#keep(mark, from, found).catch(() => {});
      why = (e as Error).message;
    } finally {
      this.tracks.lend(mark.id, null);
      this.mark = null;
    }
    if (found.length > 0) void this.clock.go(found.at(-1)!.place);
    const to = (found.at(-1)?.place ?? begin) + 1;
    if (why !== null) this.say(found.length === 0 ? `not followed: ${why}` : `followed to frame ${to}, then not sure: ${why}`);
    else this.say(`followed to frame ${to}`);
  }
  async #keep(mark: Mark, from: Placed, found: Found[]): Promise<void> {
    const now = this.editor.marks.get(mark.id);
    if (found.length === 0 || !now) return;
    const all: Placed[] = [from, ...found];
    // where the server can't be asked any more, every tenth is a good key too
    const places = new Set(
      await this.thin(
        mark,
        all.map(({ place, geometry }) => ({ place, geometry }))
      ).catch(() => all.filter((_, i) => i % 10 === 0 || i === all.length - 1).map((f) => f.place))
    );
    const last = found.at(-1)!.place;
    const old = this.editor.keys.of(mark.id).filter((k) => k.place > from.place && k.place <= last && !places.has(k.place));
    this.editor.change([
      ...(this.editor.keys.at(mark.id, from.place) ? [] : [this.tracks.key(mark.id, from.place, { geometry: from.geometry })]),
      ...old.flatMap((k) => this.tracks.unkey(mark.id, k.place)),
      ...found
        .filter((f) => places.has(f.place))
        .map((f) => this.tracks.key(mark.id, f.place, { geometry: f.geometry, source: 'followed', confidence: f.certainty }))
    ]);
  }
}
