// @vitest-environment jsdom
import { Editor } from '$lib/edits/editor.svelte';
import type { Mark } from '$lib/words/mark';
import { beforeEach, describe, expect, it, vi } from 'vitest';
import { mark, saidNothing, Tray, wordsOf } from '../../test/plane';
import { Clock, FrameTimes } from './clock.svelte';
import { Following } from './follow.svelte';
import { Tracks } from './tracks.svelte';

const A = '01AAAAAAAAAAAAAAAAAAAAAAAA';
const box = (x: number) => ({ x, y: 0, width: 10, height: 10 });

function clip() {
  const tray = new Tray();
  const editor = new Editor({ project: 1, turn: 2, user: 3 }, wordsOf(), tray);
  editor.take(7, [], saidNothing);
  const said: string[] = [];
  const tracks = new Tracks(
    editor,
    7,
    100,
    (m) => said.push(m),
    () => Promise.resolve([])
  );
  const clock = new Clock(
    new FrameTimes(
      Array.from({ length: 100 }, (_, k) => k),
      100,
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
  /** The object moves 5 px a frame; where it is lost. */
  const lost = { at: 1000, why: 'nothing here looks like it any more' };
  const ask = vi.fn((_: Mark, from: { place: number }, last: { place: number } | null, frames: number) => {
    const begin = (last ?? from).place;
    const places = Array.from({ length: frames }, (_, i) => begin + 1 + i).filter((p) => p < lost.at);
    return Promise.resolve({
      found: places.map((place) => ({ place, geometry: box(5 * place), certainty: 0.9 })),
      unsure: places.length < frames ? lost.why : null
    });
  });
  const thin = vi.fn((_: Mark, shapes: { place: number }[]) => Promise.resolve([shapes[0]!.place, shapes.at(-1)!.place]));
  const following = new Following(editor, tracks, clock, ask, thin, (m) => said.push(m));
  editor.change([{ subject: A, item: 7, before: null, after: mark(A, [0, 0, 10, 10], { stretches: null, place: null }) }]);
  const keys = () => editor.keys.of(A).map((k) => [k.place, k.source]);
  return { editor, tracks, clock, following, ask, thin, said, lost, keys, tray };
}
let c: ReturnType<typeof clip>;
beforeEach(() => (c = clip()));

describe('following by looks', () => {
  it('asks some frames at a time, shows what it finds, and leaves few keys as one step', async () => {
    const seen: number[] = [];
    c.ask.mockImplementationOnce((_, from, last, frames) => {
      seen.push(frames);
      return Promise.resolve({
        found: Array.from({ length: frames }, (_, i) => ({
          place: (last ?? from).place + 1 + i,
          geometry: box(5 * (i + 1)),
          certainty: 0.9
        })),
        unsure: null
      });
    });
    await c.following.start(c.editor.marks.get(A)!, 40);
    expect([seen, c.ask.mock.calls.length, c.ask.mock.calls.map((call) => call[3])]).toEqual([[16], 3, [16, 16, 8]]);
    expect(c.keys()).toEqual([
      [0, 'hand'],
      [40, 'followed']
    ]);
    expect([c.clock.frame, c.following.mark, c.said.at(-1)]).toEqual([40, null, 'followed to frame 41']);
    c.editor.undo();
    expect(c.keys()).toEqual([[0, 'hand']]);
  });
  it('stops where it is not sure and says why; what was found stays', async () => {
    c.lost.at = 21;
    await c.following.start(c.editor.marks.get(A)!, null);
    expect(c.keys()).toEqual([
      [0, 'hand'],
      [20, 'followed']
    ]);
    expect(c.said.at(-1)).toBe('followed to frame 21, then not sure: nothing here looks like it any more');
  });
  it('does not go over a key a hand has set', async () => {
    c.tracks.show(30);
    const before = c.editor.marks.get(A)!;
    c.editor.change([{ subject: A, item: 7, before, after: { ...before, geometry: box(99) } as Mark }]);
    c.tracks.show(0);
    await c.following.start(c.editor.marks.get(A)!, null);
    expect(c.keys()).toEqual([
      [0, 'hand'],
      [29, 'followed'],
      [30, 'hand']
    ]);
  });
  it('takes the place of what was followed before', async () => {
    await c.following.start(c.editor.marks.get(A)!, 20);
    await c.clock.go(0);
    await c.following.start(c.editor.marks.get(A)!, 30);
    expect(c.keys()).toEqual([
      [0, 'hand'],
      [30, 'followed']
    ]);
  });
  it('can be stopped, and keeps what came until then, also when the server goes away', async () => {
    const answer = c.ask.getMockImplementation()!;
    c.ask.mockImplementation((...args) => {
      if (c.ask.mock.calls.length === 2) c.following.stop();
      return answer(...args);
    });
    await c.following.start(c.editor.marks.get(A)!, null);
    expect(c.keys().at(-1)).toEqual([32, 'followed']);
    c = clip();
    const ask = c.ask.getMockImplementation()!;
    c.ask.mockImplementation((...args) => (c.ask.mock.calls.length === 2 ? Promise.reject(new Error('no answer')) : ask(...args)));
    c.thin.mockImplementation(() => Promise.reject(new Error('no answer')));
    await c.following.start(c.editor.marks.get(A)!, null);
    expect(c.keys()).toEqual([
      [0, 'hand'],
      [10, 'followed'],
      [16, 'followed']
    ]);
    expect(c.said.at(-1)).toMatch(/followed to frame 17, then not sure: no answer/);
  });
});
