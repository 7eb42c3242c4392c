import type { Mark, TrackKey } from '$lib/words/mark';
import { Betweens, type AskBetween } from './betweens';
import { Track } from './track';

type List = { marks: readonly Mark[]; /** of its tracks */ keys?: readonly TrackKey[] };

/** Marks of another time or another hand, as they are at one place of the axis: only to look at. */
export class TracksOver {
  #tracks = new Map<string, { mark: Mark; keys: readonly TrackKey[]; track: Track }>();
  #of = new WeakMap<readonly TrackKey[], Map<string, TrackKey[]>>();
  #betweens: Betweens;
  /** counts up when more is known of what lies between keys */
  #known = $state(0);

  constructor(ask: AskBetween) {
    this.#betweens = new Betweens(ask, () => this.#known++);
  }
  close(): void {
    this.#betweens.close();
  }

  /** The lists with only what is there at a place, where it is there. */
  at<L extends List>(lists: readonly L[], place: number): L[] {
    void this.#known;
    return lists.map((list) => ({ ...list, marks: list.marks.flatMap((mark) => this.#there(mark, list.keys, place)) }));
  }
  #there(mark: Mark, keys: readonly TrackKey[] | undefined, place: number): Mark[] {
    if (!mark.stretches) return [mark];
    // of what came without its keys no more is known than where it is seen best
    if (!keys) return mark.place === place ? [mark] : [];
    const seen = this.#track(mark, keys).at(place);
    return seen ? [{ ...mark, geometry: seen.geometry, veiled: seen.hidden } as Mark] : [];
  }
  #track(mark: Mark, all: readonly TrackKey[]): Track {
    let of = this.#of.get(all);
    if (!of) {
      of = new Map();
      for (const key of all) {
        const list = of.get(key.mark);
        if (list) list.push(key);
        else of.set(key.mark, [key]);
      }
      this.#of.set(all, of);
    }
    const keys = of.get(mark.id) ?? [];
    const known = this.#tracks.get(mark.id);
    if (known && known.mark === mark && known.keys === keys) return known.track;
    const track = new Track(mark.kind, keys, mark.stretches!, (wanted, at) => this.#betweens.at(mark, wanted, at));
    this.#tracks.set(mark.id, { mark, keys, track });
    return track;
  }
}
