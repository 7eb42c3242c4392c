import { describe, expect, it } from 'vitest';
import vectors from '../../../../core/tests/vectors/tracks.json';
import type { Kind, Stretch, TrackKey } from '$lib/words/mark';
import { merged, without } from '$lib/words/stretches';
import { Track } from './track';

type Case = { kind: Kind; stretches: Stretch[]; keys: Partial<TrackKey>[]; shapes: ({ geometry: unknown; hidden: boolean } | null)[] };
const key = (k: Partial<TrackKey>): TrackKey => ({
  mark: 'm',
  place: 0,
  geometry: null,
  answers: {},
  hidden: false,
  source: 'hand',
  confidence: null,
  ...k
});

/** Numbers close to each other, everything else alike. */
function near(a: unknown, b: unknown, where: string): void {
  if (typeof a === 'number' && typeof b === 'number') expect(Math.abs(a - b), where).toBeLessThan(1e-4);
  else if (typeof a === 'object' && a !== null && typeof b === 'object' && b !== null) {
    expect(Object.keys(a).sort(), where).toEqual(Object.keys(b).sort());
    for (const [name, value] of Object.entries(a)) near(value, (b as Record<string, unknown>)[name], `${where}.${name}`);
  } else expect(a, where).toEqual(b);
}

describe('a track', () => {
  it('is where the core says, for every kind that is shown without asking', () => {
    for (const [n, c] of (vectors as unknown as Case[]).entries()) {
      const track = new Track(c.kind, c.keys.map(key), c.stretches);
      c.shapes.forEach((wanted, place) => {
        const seen = track.at(place);
        near(seen && { geometry: seen.geometry, hidden: seen.hidden }, wanted, `case ${n} (${c.kind}) at ${place}`);
      });
    }
  });
  it('asks for what lies between outlines, and stands still until it is here', () => {
    const at = (x: number) => ({ rings: [[x, 0, x + 5, 0, x, 5]] });
    const asked: number[] = [];
    const track = new Track('polygon', [key({ place: 2, geometry: at(0) }), key({ place: 8, geometry: at(60) })], [[0, 20]], (_, place) => {
      asked.push(place);
      return place === 4 ? at(20) : null;
    });
    expect([1, 2, 3, 4, 8, 20].map((p) => (track.at(p)!.geometry as { rings: number[][] }).rings[0]![0])).toEqual([0, 0, 0, 20, 60, 60]);
    expect(asked).toEqual([3, 4]);
    expect(track.around(5)?.to.place).toBe(8);
    expect([track.around(2), track.around(1), track.around(9)]).toEqual([null, null, null]);
  });
  it('says which key is at a place, and none beyond its ends', () => {
    const box = { x: 0, y: 0, width: 1, height: 1 };
    const track = new Track('box', [key({ place: 3, geometry: box }), key({ place: 9, geometry: box })], [[3, 7]]);
    expect([track.at(3)?.key?.place, track.at(5)?.key, track.at(2), track.at(8), track.keys.length]).toEqual([3, null, null, null, 1]);
  });
});
describe('stretches', () => {
  it('are joined where they touch and cut where something is taken away', () => {
    expect(
      merged([
        [5, 9],
        [0, 2],
        [3, 3],
        [20, 21]
      ])
    ).toEqual([
      [0, 3],
      [5, 9],
      [20, 21]
    ]);
    expect(
      without(
        [
          [0, 9],
          [12, 15]
        ],
        [4, 12]
      )
    ).toEqual([
      [0, 3],
      [13, 15]
    ]);
    expect(without([[0, 9]], [0, 9])).toEqual([]);
    expect(without([[2, 3]], [5, 6])).toEqual([[2, 3]]);
  });
});
