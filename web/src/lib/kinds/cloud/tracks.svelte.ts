import type { Draft } from '$lib/edits/editor.svelte';
import { Tracks } from '$lib/time/tracks.svelte';
import type { Cuboid, Mark, TrackKey } from '$lib/words/mark';
import { same } from '$lib/words/same';
import { sized } from './cuboid';

/** Tracks of cuboids: a thing is as large on one frame as on the next, so a new size is its size all along. */
export class CuboidTracks extends Tracks {
  protected override reshaped(before: Mark, after: Mark): { key?: Partial<TrackKey>; drafts?: Draft[] } | null {
    const means = super.reshaped(before, after);
    if (means === null || after.kind !== 'cuboid' || before.kind !== 'cuboid') return means;
    const { size } = after.geometry;
    if (same(before.geometry.size, size)) return means;
    const others = (this.of(after.id)?.keys ?? []).filter((k) => k.place !== this.place && k.geometry !== null);
    const drafts = others.map((k) => this.key(after.id, k.place, { geometry: sized(k.geometry as Cuboid, size), source: k.source }));
    return { ...means, drafts: [...(means.drafts ?? []), ...drafts] };
  }
}
