import { firstFrom } from '$lib/edits/keys.svelte';
import type { Kind, Shape, Stretch, TrackKey } from '$lib/words/mark';
import { stretchAt } from '$lib/words/stretches';
import { between, type Between } from './between';

type Geometry = Shape['geometry'];

/** Where an object is at a place, as far as it can be told here. */
export type Seen = { geometry: Geometry; hidden: boolean; /** the key at this very place */ key: TrackKey | null };
/** The two keys a place lies between where what is there has to be asked for. */
export type Wanted = { from: TrackKey; to: TrackKey };

/** Keys with a shape that lie where the object is there: what was kept beyond its ends says nothing. */
export function live(keys: readonly TrackKey[], stretches: readonly Stretch[]): TrackKey[] {
  return keys.filter((k) => stretchAt(stretches, k.place) !== null);
}

/**
 * An object along the axis of its item, looked up by place: the counterpart of the core's Track. Between two keys of one stretch the shape
 * goes from one to the other; up to the end of a stretch its last key holds, and from its beginning the first.
 */
export class Track {
  readonly #shaped: TrackKey[];
  #last: { from: TrackKey; at: Between | null } | null = null;

  /** @param asked what the server has worked out between two keys, where it has */
  constructor(
    readonly kind: Kind,
    keys: readonly TrackKey[],
    readonly stretches: readonly Stretch[],
    private readonly asked: (wanted: Wanted, place: number) => Geometry | null = () => null
  ) {
    this.#shaped = live(keys, stretches).filter((k) => k.geometry !== null);
  }

  get keys(): readonly TrackKey[] {
    return this.#shaped;
  }
  /** The key that holds at a place: the last at or before it. */
  before(place: number): TrackKey | null {
    const i = firstFrom(this.#shaped, place);
    return this.#shaped[i]?.place === place ? this.#shaped[i]! : (this.#shaped[i - 1] ?? null);
  }
  after(place: number): TrackKey | null {
    return this.#shaped[firstFrom(this.#shaped, place + 1)] ?? null;
  }
  /** The keys a place lies between, when it does and they are of one stretch. */
  around(place: number): Wanted | null {
    const stretch = stretchAt(this.stretches, place);
    const [from, to] = [this.before(place), this.after(place)];
    return stretch && from && to && from.place !== place && from.place >= stretch[0] && to.place <= stretch[1] ? { from, to } : null;
  }

  at(place: number): Seen | null {
    const stretch = stretchAt(this.stretches, place);
    if (!stretch || this.#shaped.length === 0) return null;
    const [one, two] = [this.before(place), this.after(place)];
    const hidden = one?.hidden ?? false;
    if (one?.place === place) return { geometry: one.geometry!, hidden, key: one };
    if (one && two && one.place >= stretch[0] && two.place <= stretch[1])
      return { geometry: this.#between(one, two, place), hidden, key: null };
    // the only key of the stretch on this side, else the last before it, else the first there is
    const held = (one && one.place >= stretch[0]) || ((!two || two.place > stretch[1]) && one) ? one! : two!;
    return { geometry: held.geometry!, hidden, key: null };
  }
  #between(from: TrackKey, to: TrackKey, place: number): Geometry {
    if (this.#last?.from !== from) this.#last = { from, at: between(this.kind, from.geometry!, to.geometry!) };
    const { at } = this.#last;
    // what the server has not sent yet stands still until it has
    return at ? at((place - from.place) / (to.place - from.place)) : (this.asked({ from, to }, place) ?? from.geometry!);
  }
}
