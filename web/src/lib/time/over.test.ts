import type { Mark, TrackKey } from '$lib/words/mark';
import { describe, expect, it, vi } from 'vitest';
import { mark } from '../../test/plane';
import { TracksOver } from './over.svelte';

const box = (x: number) => ({ x, y: 0, width: 10, height: 10 });
const key = (mark: string, place: number, geometry: unknown, hidden = false) =>
  ({ mark, place, geometry, answers: {}, hidden, source: 'hand', confidence: null }) as TrackKey;
const track = (id: string, stretches: [number, number][], place = 0): Mark => mark(id, [0, 0, 10, 10], { stretches, place });
const x = (m: Mark | undefined) => (m?.geometry as { x: number } | undefined)?.x;

describe('what lies over the marks of a clip', () => {
  it('is where it was at the frame that is shown, and only where it was there', () => {
    const over = new TracksOver(() => Promise.resolve([]));
    const list = { name: 'before', marks: [track('A', [[0, 20]]), mark('P', [7, 7, 5, 5])], keys: [key('A', 0, box(0)), key('A', 10, box(100), true)] }; // prettier-ignore
    const at = (place: number) => over.at([list], place)[0]!;
    expect([at(0), at(5), at(15)].map((l) => [l.name, l.marks.map((m) => m.id), x(l.marks[0])])).toEqual([
      ['before', ['A', 'P'], 0],
      ['before', ['A', 'P'], 50],
      ['before', ['A', 'P'], 100]
    ]);
    expect([at(5), at(15)].map((l) => l.marks[0]!.veiled)).toEqual([false, true]);
    expect(at(21).marks.map((m) => m.id)).toEqual(['P']);
  });
  it('is shown only where it is known to be, when it came without its keys', () => {
    const over = new TracksOver(() => Promise.resolve([]));
    const at = (place: number) => over.at([{ marks: [track('A', [[0, 20]], 4)] }], place)[0]!.marks.length;
    expect([at(3), at(4), at(5)]).toEqual([0, 1, 0]);
  });
  it('asks the core for what only that can work out, once', async () => {
    const ring = (x: number) => ({ rings: [[x, 0, x + 10, 0, x + 10, 10]] });
    const ask = vi.fn((_: Mark, __: unknown, first: number, last: number) =>
      Promise.resolve(Array.from({ length: last - first + 1 }, (_, i) => ring(first + i)) as never[])
    );
    const over = new TracksOver(ask);
    const list = { marks: [{ ...track('A', [[0, 20]]), kind: 'polygon' } as Mark], keys: [key('A', 0, ring(0)), key('A', 10, ring(10))] };
    const left = () => (over.at([list], 5)[0]!.marks[0]!.geometry as { rings: number[][] }).rings[0]![0];
    // until it is known the first key stands for it
    expect(left()).toBe(0);
    await Promise.resolve();
    expect([left(), left(), ask.mock.calls.length]).toEqual([5, 5, 1]);
  });
});
