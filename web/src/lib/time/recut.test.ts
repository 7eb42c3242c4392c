// @vitest-environment jsdom
import { Editor } from '$lib/edits/editor.svelte';
import type { Mark } from '$lib/words/mark';
import { beforeEach, describe, expect, it, vi } from 'vitest';
import { mark, saidNothing, Tray, wordsOf } from '../../test/plane';
import { Clock, FrameTimes } from './clock.svelte';
import { Recutting } from './recut.svelte';
import { Tracks } from './tracks.svelte';

const A = '01AAAAAAAAAAAAAAAAAAAAAAAA';
const outline = (x: number) => ({ rings: [[x, 0, x + 10, 0, x + 10, 10, x, 10]] });

function clip() {
  const tray = new Tray();
  const editor = new Editor({ project: 1, turn: 2, user: 3 }, wordsOf(), tray);
  editor.take(7, [], saidNothing);
  const said: string[] = [];
  const tracks = new Tracks(
    editor,
    7,
    200,
    (m) => said.push(m),
    () => Promise.resolve([])
  );
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
  const lost = { at: 1000 };
  const ask = vi.fn((_: Mark, from: { place: number }, to: number, every: number) => {
    const places = [];
    for (let p = from.place + 1; p <= to && p < lost.at; p++) if ((p - from.place) % every === 0 || p === to) places.push(p);
    return Promise.resolve({
      found: places.map((place) => ({ place, geometry: outline(place), certainty: 0.8 })),
      unsure: to >= lost.at ? 'its outline can not be told from the ground any more' : null
    });
  });
  const recutting = new Recutting(editor, tracks, clock, ask, (m) => said.push(m));
  const first = mark(A, { kind: 'polygon', geometry: outline(0) }, { stretches: null, place: null });
  editor.change([{ subject: A, item: 7, before: null, after: first }]);
  const keys = () => editor.keys.of(A).map((k) => [k.place, k.source]);
  return { editor, tracks, clock, recutting, ask, said, lost, keys };
}
let c: ReturnType<typeof clip>;
beforeEach(() => (c = clip()));

describe('cutting out again', () => {
  it('makes a key every n frames from the last key to here, as one step', async () => {
    await c.clock.go(100);
    await c.recutting.start(c.editor.marks.get(A)!, 10);
    expect(c.keys()).toEqual([[0, 'hand'], ...Array.from({ length: 10 }, (_, i) => [10 * (i + 1), 'cutout'])]);
    // some at a time, each going on from the last outline
    expect(c.ask.mock.calls.map(([, from, to, every]) => [from.place, to, every])).toEqual([
      [0, 40, 10],
      [40, 80, 10],
      [80, 100, 10]
    ]);
    expect(c.said.at(-1)).toBe('cut out to frame 101: 10 keys');
    c.editor.undo();
    expect(c.keys()).toEqual([[0, 'hand']]);
  });
  it('at this frame only leaves one key, however far it is', async () => {
    await c.clock.go(100);
    await c.recutting.start(c.editor.marks.get(A)!, null);
    expect(c.keys()).toEqual([
      [0, 'hand'],
      [100, 'cutout']
    ]);
    expect(c.ask.mock.calls.map(([, from, to]) => [from.place, to])).toEqual([
      [0, 48],
      [48, 96],
      [96, 100]
    ]);
  });
  it('keeps what it has found when it is not sure any more, and says so', async () => {
    c.lost.at = 55;
    await c.clock.go(100);
    await c.recutting.start(c.editor.marks.get(A)!, 10);
    expect(c.keys().map(([place]) => place)).toEqual([0, 10, 20, 30, 40, 50]);
    expect(c.said.at(-1)).toContain('then not sure: its outline');
    expect(c.clock.frame).toBe(50);
  });
  it('keeps what it has found when it is stopped or the server goes away', async () => {
    await c.clock.go(100);
    c.ask.mockImplementationOnce(async (m, from, to, every) => {
      const answer = await c.ask.getMockImplementation()!(m, from, to, every);
      c.recutting.stop();
      return answer;
    });
    await c.recutting.start(c.editor.marks.get(A)!, 10);
    expect(c.keys()).toHaveLength(5);
    await c.clock.go(100);
    c.ask.mockRejectedValueOnce(new Error('the server does not answer'));
    await c.recutting.start(c.editor.marks.get(A)!, 10);
    expect([c.keys().length, c.said.at(-1), c.recutting.mark]).toEqual([5, 'not cut out: the server does not answer', null]);
  });
  it('leaves the keys of a hand as they are, and those of an item that was left', async () => {
    await c.clock.go(25);
    c.editor.change([c.tracks.key(A, 25, { geometry: outline(25) })]);
    await c.clock.go(24);
    await c.recutting.start(c.editor.marks.get(A)!, 12);
    expect(c.keys()).toEqual([
      [0, 'hand'],
      [12, 'cutout'],
      [24, 'cutout'],
      [25, 'hand']
    ]);
    await c.clock.go(60);
    c.ask.mockImplementationOnce((_, from) => {
      c.recutting.close();
      return Promise.resolve({ found: [{ place: from.place + 10, geometry: outline(1), certainty: 1 }], unsure: null });
    });
    await c.recutting.start(c.editor.marks.get(A)!, 10);
    expect(c.keys()).toHaveLength(4);
  });
  it('needs a key to go on from', async () => {
    await c.recutting.start(c.editor.marks.get(A)!, 5);
    expect([c.ask.mock.calls.length, c.said.at(-1)]).toEqual([0, 'it has no key before this frame to go on from']);
  });
});
