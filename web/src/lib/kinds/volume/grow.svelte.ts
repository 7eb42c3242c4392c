import type { Draft, Editor } from '$lib/edits/editor.svelte';
import type { Hand } from '$lib/edits/hand.svelte';
import { ulid } from '$lib/edits/ulid';
import { toMask, type Edges } from '$lib/plane/raster';
import { pixels } from '$lib/plane/shapes/mask';
import { begun, type Mark, type Stretch } from '$lib/words/mark';
import { merged } from '$lib/words/stretches';
import type { BenchPorts } from '../kind';
import type { Spot } from './facing';
import type { VolumeTracks } from './tracks.svelte';

type Ports = Pick<BenchPorts, 'grow' | 'chosen' | 'user' | 'say'> & { editor: Editor; hand: Hand };
/** What a region was grown to. */
export type Grown = { slices: ReadonlyMap<number, Edges>; voxels: number; ml: number; cut: boolean };

/** The limits are changed by this factor at a press of a key or a click of the wheel. */
const STEP = 1.2;

/**
 * A region that is grown from a press: all that hangs together with the voxel under it, is measured within a range round what is measured
 * there, and is not farther than a distance. It is seen before it is taken.
 */
export class Growing {
  /** the next press on the stage says where from */
  active = $state(false);
  seed = $state.raw<Spot | null>(null);
  /** what is measured at the seed */
  value = $state(0);
  /** how far what is measured may lie from it, either way */
  spread = $state(0);
  /** mm */
  distance = $state(0);
  found = $state.raw<Grown | null>(null);
  waiting = $state(false);
  #stop: AbortController | null = null;

  constructor(
    private readonly ports: Ports,
    private readonly item: number,
    private readonly tracks: VolumeTracks,
    private readonly size: { width: number; height: number }
  ) {}

  /** @param window how wide the range is that is shown @param reach mm of the longest side of the scan */
  begin(window: number, reach: number): void {
    this.active = true;
    if (this.spread === 0) this.spread = window / 8;
    if (this.distance === 0) this.distance = Math.max(1, Math.round(reach / 4));
  }
  /** From here. @param value what is measured there */
  from(seed: Spot, value: number): void {
    this.seed = seed;
    this.value = value;
    void this.#ask();
  }
  wider(by: 1 | -1): void {
    this.spread *= by > 0 ? STEP : 1 / STEP;
    void this.#ask();
  }
  farther(by: 1 | -1): void {
    this.distance = Math.max(
      1,
      Math.round(by > 0 ? Math.max(this.distance + 1, this.distance * STEP) : Math.min(this.distance - 1, this.distance / STEP))
    );
    void this.#ask();
  }
  async #ask(): Promise<void> {
    const { seed } = this;
    if (!seed) return;
    this.#stop?.abort();
    const stop = (this.#stop = new AbortController());
    this.waiting = true;
    try {
      const found = await this.ports.grow(
        { seed, low: this.value - this.spread, high: this.value + this.spread, distance: this.distance },
        stop.signal
      );
      if (this.#stop !== stop) return;
      this.found = { ...found, slices: new Map(found.slices.map((s) => [s.place, pixels(s.geometry).edges])) };
      if (found.cut) this.ports.say('it was ended before it had found all: make the range narrower, or the distance shorter');
    } catch (e) {
      if (this.#stop === stop && !stop.signal.aborted) this.ports.say(`nothing was grown: ${(e as Error).message}`);
    } finally {
      if (this.#stop === stop) this.waiting = false;
    }
  }
  /** Gives it up; false when nothing was. */
  leave(): boolean {
    const was = this.active;
    this.#stop?.abort();
    this.#stop = null;
    this.active = this.waiting = false;
    this.found = this.seed = null;
    return was;
  }
  /** What was found belongs to the mask in hand, or is a new one. @returns whether there was any */
  take(): boolean {
    const { found } = this;
    if (!found || found.slices.size === 0) return false;
    const { editor, hand, chosen } = this.ports;
    const one = hand.one;
    const mine = one?.kind === 'mask' && one.class === chosen.active && !hand.locked.has(one.id) ? one : null;
    if (mine) editor.change(this.tracks.write(mine, new Map([...found.slices].map(([z, come]) => [z, { come, gone: [] }]))));
    else this.#new(found);
    this.leave();
    return true;
  }
  #new(found: Grown): void {
    const { editor, hand, chosen, user } = this.ports;
    const { width, height } = this.size;
    const [first, ...rest] = [...found.slices]
      .sort(([a], [b]) => a - b)
      .map(([z, edges]) => ({ z, geometry: toMask(edges, width, height) }));
    const id = ulid();
    const stretches = merged([...found.slices.keys()].map((z) => [z, z] as Stretch));
    const mark = {
      ...begun(id, { kind: 'mask', geometry: first!.geometry }, chosen.active, user, 'hand'),
      place: first!.z,
      stretches,
      away: false
    } as Mark;
    const drafts: Draft[] = [{ subject: id, item: this.item, before: null, after: mark, placed: true }];
    for (const { z, geometry } of rest) drafts.push(this.tracks.key(id, z, { geometry }));
    editor.change(drafts);
    hand.select(id);
  }
  /** What was found, on a slice. */
  on(slice: number): Edges {
    return this.found?.slices.get(slice) ?? [];
  }
  get stretches(): Stretch[] {
    return this.found ? merged([...this.found.slices.keys()].map((z) => [z, z] as Stretch)) : [];
  }
}
