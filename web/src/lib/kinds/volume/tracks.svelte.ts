import type { Draft } from '$lib/edits/editor.svelte';
import { toMask, type Edges } from '$lib/plane/raster';
import { pixels } from '$lib/plane/shapes/mask';
import { Tracks } from '$lib/time/tracks.svelte';
import type { Track } from '$lib/time/track';
import type { Mark, Shape, Stretch, TrackKey } from '$lib/words/mark';
import { merged, stretchAt, without } from '$lib/words/stretches';
import type { Facing, Spot } from './facing';
import { changed, covered, section, slicesChanged, type Slices } from './section';

type Geometry = Shape['geometry'];
/** How a volume lies on the stage: a slice, or a plane that stands on the slices. */
export type Lies = { facing: Facing; sizes: Spot; cross: Spot };

/**
 * The objects of a volume as they are on the plane that is the large one. Across the slices they are as their keys have them, and what is drawn
 * on a slice an object was not on is one more key: what lies between is worked out. On a plane that stands on the slices a mask is cut through,
 * and what a hand does to it there changes the slices it crosses.
 */
export class VolumeTracks extends Tracks {
  #lies: Lies | null = null;
  /** voxels of a slice */
  readonly #size: { width: number; height: number };

  constructor(size: { width: number; height: number }, ...of: ConstructorParameters<typeof Tracks>) {
    super(...of);
    this.#size = size;
  }
  /** Shows the objects as they are where the planes meet. */
  lie(lies: Lies): void {
    this.#lies = lies;
    this.show(lies.cross[2]);
  }
  get #across(): boolean {
    return this.#lies === null || this.#lies.facing.direction === 'xy';
  }
  /** What an object covers of each slice. */
  slices(mark: Mark, track: Track): Slices {
    const { width, height } = this.#size;
    return (z) => {
      const lent = this.lentAt(mark.id, z);
      const geometry = lent ?? track.at(z)?.geometry;
      return geometry ? covered(mark.kind, geometry, width, height) : [];
    };
  }
  /** What an object covers of a plane, as runs of the plane's pixels. */
  cut(mark: Mark, facing: Facing, sizes: Spot, cross: Spot): Edges {
    const track = this.of(mark.id);
    if (!track || !mark.stretches) return [];
    const of = this.slices(mark, track);
    return facing.direction === 'xy' ? of(cross[2]) : section(of, mark.stretches, facing, sizes, cross);
  }

  protected override seen(mark: Mark, track: Track): { geometry: Geometry; hidden: boolean } | null {
    if (this.#across) return super.seen(mark, track);
    if (mark.kind !== 'mask') return null;
    const { facing, sizes, cross } = this.#lies!;
    const edges = section(this.slices(mark, track), mark.stretches!, facing, sizes, cross);
    return edges.length > 0 ? { geometry: toMask(edges, facing.width, facing.height), hidden: false } : null;
  }
  /** A mask that is not here is an empty one: it can be painted on at once. */
  protected override unseen(mark: Mark): { geometry?: Geometry } {
    if (mark.kind !== 'mask') return {};
    const { width, height } = this.#across ? this.#size : this.#lies!.facing;
    return { geometry: toMask([], width, height) };
  }
  protected override begins(): Stretch[] {
    return [[this.place, this.place]];
  }
  protected override begun(draft: Draft, after: Mark): Draft[] {
    if (this.#across) return super.begun(draft, after);
    if (after.kind !== 'mask') {
      this.say('only masks are drawn on planes that stand on the slices');
      return [];
    }
    const { facing, sizes, cross } = this.#lies!;
    const slices = [...slicesChanged([], pixels(after.geometry).edges, facing, sizes, cross)].sort(([a], [b]) => a - b);
    const [first, ...rest] = slices.map(([z, { come }]) => ({ z, geometry: this.#mask(come) }));
    if (!first) return [];
    const mark = {
      ...after,
      geometry: first.geometry,
      place: first.z,
      stretches: merged(slices.map(([z]) => [z, z] as Stretch)),
      away: false
    } as Mark;
    return [{ ...draft, after: mark, placed: true }, ...rest.map(({ z, geometry }) => this.key(after.id, z, { geometry }))];
  }
  protected override reshaped(before: Mark, after: Mark): { key?: Partial<TrackKey>; drafts?: Draft[] } | null {
    if (this.#across) return this.#onSlice(before, after);
    if (before.kind !== 'mask' || after.kind !== 'mask') {
      this.say('only masks are changed on planes that stand on the slices');
      return null;
    }
    const { facing, sizes, cross } = this.#lies!;
    const changes = slicesChanged(before.away ? [] : pixels(before.geometry).edges, pixels(after.geometry).edges, facing, sizes, cross);
    return { drafts: this.write(before, changes) };
  }
  #onSlice(before: Mark, after: Mark): { key?: Partial<TrackKey>; drafts?: Draft[] } | null {
    const { place } = this;
    if (after.kind === 'mask' && pixels(after.geometry).edges.length === 0) {
      if (before.away) return null;
      return { drafts: this.write(before, new Map([[place, { come: [], gone: pixels((before as typeof after).geometry).edges }]])) };
    }
    if (!before.away) return { key: { geometry: after.geometry } };
    // drawn on where it was not: it is there from its nearest slice to this one
    const all = before.stretches!;
    const near = all.reduce<Stretch | null>((best, s) => (best === null || gap(s, place) < gap(best, place) ? s : best), null)!;
    const from = near[1] < place ? near[1] : near[0];
    const many = Math.abs(from - place) - 1;
    if (many > 0)
      this.say(
        `${many === 1 ? 'the slice' : `the ${many} slices`} between ${many === 1 ? 'is' : 'are'} worked out; end it on one of them where it is not`
      );
    const stretches = merged([...all, [Math.min(from, place), Math.max(from, place)] as Stretch]);
    // where it ended its shape held without a key: it has to have one to go on from
    const pinned = this.#pinned(before.id, from);
    return { key: { geometry: after.geometry }, drafts: [...pinned, this.#there(before, stretches)] };
  }

  /** Changes an object on several slices at once; those beside them stay as they are. */
  write(before: Mark, changes: ReadonlyMap<number, { come: Edges; gone: Edges }>): Draft[] {
    const track = this.of(before.id);
    if (!track || !before.stretches) return [];
    const of = this.slices(before, track);
    const becomes = new Map([...changes].sort(([a], [b]) => a - b).map(([z, change]) => [z, changed(of(z), change)]));
    const left = [...becomes].filter(([, edges]) => edges.length > 0).map(([z]) => [z, z] as Stretch);
    const gone = [...becomes].filter(([, edges]) => edges.length === 0);
    let stretches = merged([...before.stretches, ...left]);
    for (const [z] of gone) stretches = without(stretches, [z, z]);
    if (stretches.length === 0) return [{ subject: before.id, item: this.item, before, after: null }];
    const drafts: Draft[] = [];
    for (const z of becomes.keys())
      for (const beside of [z - 1, z + 1]) if (!becomes.has(beside)) drafts.push(...this.#pinned(before.id, beside));
    for (const [z, edges] of becomes) if (edges.length > 0) drafts.push(this.key(before.id, z, { geometry: this.#mask(edges) }));
    for (const [z] of gone) drafts.push(...this.unkey(before.id, z));
    if (JSON.stringify(stretches) !== JSON.stringify(before.stretches)) drafts.push(this.#there(before, stretches));
    return once(drafts);
  }
  /** Not on this slice; one that is on no other is gone. */
  notHere(mark: Mark): Draft[] {
    const { place } = this;
    const stretches = without(mark.stretches ?? [], [place, place]);
    if (!mark.stretches || !stretchAt(mark.stretches, place)) return [];
    if (stretches.length === 0) return [{ subject: mark.id, item: this.item, before: mark, after: null }];
    return [
      ...this.#pinned(mark.id, place - 1),
      ...this.#pinned(mark.id, place + 1),
      ...this.unkey(mark.id, place),
      this.#there(mark, stretches)
    ];
  }
  /** As it is on its nearest slice it is on this one too. */
  hereToo(mark: Mark): Draft[] {
    const { place } = this;
    const track = this.of(mark.id);
    if (!track || !mark.stretches || stretchAt(mark.stretches, place)) return [];
    const near = mark.stretches.reduce((best, s) => (gap(s, place) < gap(best, place) ? s : best));
    const from = near[1] < place ? near[1] : near[0];
    const seen = track.at(from);
    if (!seen) return [];
    return [
      ...this.#pinned(mark.id, from),
      this.key(mark.id, place, { geometry: seen.geometry, hidden: seen.hidden, source: 'copied' }),
      this.#there(mark, merged([...mark.stretches, [Math.min(from, place), Math.max(from, place)] as Stretch]))
    ];
  }

  #mask(edges: Edges): Geometry {
    return toMask(edges, this.#size.width, this.#size.height);
  }
  #there(mark: Mark, stretches: Stretch[]): Draft {
    return { subject: mark.id, item: this.item, before: mark, after: { ...mark, stretches } as Mark, placed: true };
  }
  /** A key with what holds on a slice anyway, where it has none. */
  #pinned(id: string, place: number): Draft[] {
    const seen = this.of(id)?.at(place);
    return seen && seen.key === null ? [this.key(id, place, { geometry: seen.geometry, hidden: seen.hidden, source: 'copied' })] : [];
  }
}

/** How far a slice lies from a stretch. */
const gap = ([first, last]: Stretch, place: number): number => (place < first ? first - place : place > last ? place - last : 0);
/** Of drafts of one key the first. */
function once(drafts: Draft[]): Draft[] {
  const seen = new Set<string>();
  return drafts.filter((d) => !seen.has(d.subject) && seen.add(d.subject));
}
