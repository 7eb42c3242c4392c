// @vitest-environment jsdom
import { Editor } from '$lib/edits/editor.svelte';
import type { Mark } from '$lib/words/mark';
import { beforeEach, describe, expect, it, vi } from 'vitest';
import { mark, saidNothing, Tray, wordsOf } from '../../test/plane';
import { Clock, FrameTimes } from './clock.svelte';
import { Fitting, windows, type AskFit, type Misfit } from './fit.svelte';
import { Track } from './track';
import { Tracks } from './tracks.svelte';

const A = '01AAAAAAAAAAAAAAAAAAAAAAAA';
const box = (x: number) => ({ x, y: 0, width: 10, height: 10 });

function clip() {
  const editor = new Editor({ project: 1, turn: 2, user: 3 }, wordsOf(), new Tray());
  editor.take(7, [], saidNothing);
  const said: string[] = [];
  const say = (m: string) => said.push(m);
  const tracks = new Tracks(editor, 7, 200, say, () => Promise.resolve([]));
  const clock = new Clock(
    new FrameTimes(
      Array.from({ length: 200 }, (_, k) => k),
      200,
      10
    ),
    {
      show: (frame) => {
        tracks.show(frame);
        return Promise.resolve(true);
      },
      newest: () => null,
      ahead: () => {},
      failed: () => {}
    },
    { start: () => {}, stop: () => {}, now: () => 0 }
  );
  /** how far off it is, by frame */
  const off = new Map<number, number>();
  const ask = vi.fn<AskFit>((_, keys, first, last) => {
    const free = Array.from({ length: last - first + 1 }, (_, i) => first + i).filter((p) => !keys.some((k) => k.place === p));
    const place = free.sort((a, b) => (off.get(b) ?? 0) - (off.get(a) ?? 0))[0];
    const misfit = place === undefined ? 0 : (off.get(place) ?? 0);
    const worst: Misfit = { place: place!, likeness: 1 - misfit, misfit, geometry: box(500), certainty: 0.8, unsure: null };
    return Promise.resolve({ judged: free.length, worst: place === undefined ? null : worst });
  });
  const fitting = new Fitting(editor, tracks, clock, ask, say);
  editor.change([{ subject: A, item: 7, before: null, after: mark(A, [0, 0, 10, 10], { stretches: null, place: null }) }]);
  editor.change([tracks.key(A, 100, { geometry: box(300) })]);
  return { editor, tracks, clock, fitting, ask, said, off, now: () => editor.marks.get(A)! };
}
let c: ReturnType<typeof clip>;
beforeEach(() => (c = clip()));

describe('the frame that fits worst', () => {
  it('is looked for in all frames, some at a time with the keys round them, and led to', async () => {
    c.off.set(70, 0.3).set(150, 0.5);
    await c.fitting.worst(c.now());
    expect(c.ask.mock.calls.map(([, keys, first, last]) => [keys.map((k) => k.place), first, last])).toEqual([
      [[0, 100], 0, 63],
      [[0, 100], 64, 127],
      [[100], 128, 191],
      [[100], 192, 199]
    ]);
    expect([c.clock.frame, c.said.at(-1), c.fitting.mark]).toEqual([
      150,
      'of 198 frames it fits worst at 151: fit it here with a key',
      null
    ]);
  });
  it('gets a key where it would fit, without asking again, and the next one is led to then', async () => {
    c.off.set(70, 0.3).set(150, 0.5);
    await c.fitting.worst(c.now());
    const asked = c.ask.mock.calls.length;
    await c.fitting.here(c.now());
    expect(c.ask.mock.calls.length).toBe(asked);
    expect(c.editor.keys.at(A, 150)).toMatchObject({ geometry: box(500), source: 'followed', confidence: 0.8 });
    await c.fitting.worst(c.now());
    expect(c.clock.frame).toBe(70);
    // and it is one step to take back
    c.editor.undo();
    expect(c.editor.keys.at(A, 150)).toBeUndefined();
  });
  it('can be left by Esc, with what was found until then', async () => {
    c.off.set(10, 0.3).set(150, 0.5);
    let go = () => {};
    const first = c.ask.getMockImplementation()!;
    c.ask.mockImplementationOnce(async (...of) => {
      await new Promise<void>((done) => (go = done));
      return first(...of);
    });
    const run = c.fitting.worst(c.now());
    expect([c.fitting.mark, c.fitting.stop(), c.fitting.stop()]).toEqual([A, true, false]);
    go();
    await run;
    expect([c.ask.mock.calls.length, c.clock.frame, c.said.at(-1)]).toEqual([1, 0, 'left']);
  });
  it('leads nowhere once the item was left', async () => {
    c.off.set(10, 0.3);
    const run = c.fitting.worst(c.now());
    const before = c.said.length;
    c.fitting.close();
    await run;
    expect([c.clock.frame, c.said.length]).toEqual([0, before]);
  });
  it('says when the server goes away, and still leads to what it found', async () => {
    c.off.set(10, 0.3).set(150, 0.5);
    const first = c.ask.getMockImplementation()!;
    c.ask.mockImplementationOnce(first).mockImplementationOnce(() => Promise.reject(new Error('no answer')));
    await c.fitting.worst(c.now());
    expect([c.clock.frame, c.said.at(-1)]).toEqual([10, 'no answer; up to there of 63 frames it fits worst at 11: fit it here with a key']);
  });
});

describe('a key that fits', () => {
  it('is made at any frame between keys, and nowhere else', async () => {
    await c.clock.go(40);
    await c.fitting.here(c.now());
    expect(c.ask.mock.calls.map(([, keys, first, last]) => [keys.map((k) => k.place), first, last])).toEqual([[[0, 100], 40, 40]]);
    expect(c.editor.keys.at(A, 40)?.geometry).toEqual(box(500));
    await c.fitting.here(c.now());
    expect(c.said.at(-1)).toBe('this frame has a key: move it, or take it away first');
  });
  it('is not made where it can not be told where it is, nor on a frame that was left meanwhile', async () => {
    await c.clock.go(40);
    c.ask.mockResolvedValueOnce({ judged: 1, worst: { place: 40, likeness: 0.2, misfit: 0.2, geometry: null, certainty: 0.3, unsure: 'nothing here looks like it any more' } }); // prettier-ignore
    await c.fitting.here(c.now());
    expect(c.said.at(-1)).toBe('not fitted: nothing here looks like it any more');
    const run = c.fitting.here(c.now());
    await c.clock.go(50);
    await run;
    expect(c.editor.keys.of(A).map((k) => k.place)).toEqual([0, 100]);
  });
});

it('of a very long track only what lies round the frame that is shown is judged', () => {
  const key = { mark: A, place: 0, geometry: box(0), answers: {}, hidden: false, source: 'hand' as const, confidence: null };
  const long = new Track('box' as Mark['kind'], [key], [[0, 9999], [12000, 13000]]); // prettier-ignore
  const all = windows(long, 9500);
  expect([all[0]![0], all.at(-1)![1], Math.max(...all.map(([a, b]) => b - a + 1))]).toEqual([8500, 9999, 64]);
});
