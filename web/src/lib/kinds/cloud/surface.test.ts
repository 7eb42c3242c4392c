// @vitest-environment jsdom
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { opened } from '../../../test/cloud';
import type { Camera } from './camera';
import type { Cuboid, Mark } from '$lib/words/mark';

beforeEach(() => {
  sessionStorage.clear();
  localStorage.clear();
});
afterEach(() => {
  vi.unstubAllGlobals();
  vi.useRealTimers();
});
/** One is drawn by a drag, and in hand. */
async function withOne(...of: Parameters<typeof opened>) {
  const it = await opened(...of);
  await it.surface.draw([101, -1, 0.25], [103, 1, 0.25]);
  return it;
}

describe('a cloud on the bench', () => {
  it('opens at its first frame and says what there is', async () => {
    const { surface, cloud } = await opened();
    expect([cloud.ready, surface.place, cloud.frame!.points, cloud.frame!.floor()]).toEqual([true, 0, 11, 0.25]);
    expect(surface.facts()).toEqual(['11 points', '3 frames', '9 × 2 × 0.8 m', 'sequence']);
    surface.close();
  });
  it('makes a cuboid of a drag, as it was fitted, from here to the last frame', async () => {
    const { surface, asked, hand, found, editor, sizes } = await withOne();
    expect(asked).toEqual([{ frame: 0, from: [101, -1], to: [103, 1] }]);
    expect(hand.one).toMatchObject({ kind: 'cuboid', class: 'bin', geometry: found, stretches: [[0, 2]], source: 'fitted' });
    expect(surface.words(hand.one!)).toBe('2.00 × 1.00 × 1.50 m, frames 1 to 3');
    expect(sizes.get('bin')).toEqual([[2, 1, 1.5]]);
    // the next of its class is told how large the first was, and a press is enough
    await surface.draw([105, 0, 0.25], [105, 0, 0.25]);
    expect(asked[1]).toMatchObject({ typical: [2, 1, 1.5], from: [103.8, -0.6], to: [106.2, 0.6] });
    expect(editor.marks.ids).toHaveLength(2);
    surface.close();
  });
  it('keeps what was drawn where it could not be fitted, and says so', async () => {
    const { surface, cuboid, said } = await withOne({ fitCuboid: () => Promise.reject(new Error('offline')) });
    expect(cuboid()).toEqual({ center: [102, 0, 0.75], size: [2, 2, 1], heading: 0 });
    expect(said.at(-1)).toContain('offline');
    expect([surface.fitting, surface.dragged]).toEqual([false, null]);
    surface.close();
  });
  it('puts nothing on another frame than it was drawn on', async () => {
    let answer: (found: unknown) => void = () => {};
    const it = await opened({ fitCuboid: () => new Promise((go) => (answer = go as typeof answer)) });
    const drawing = it.surface.draw([101, -1, 0], [103, 1, 0]);
    expect(it.surface.isDrawing).toBe(true);
    await it.surface.go(1);
    answer({ geometry: it.found, points: 4, found: true });
    await drawing;
    expect([it.editor.marks.ids, it.surface.isDrawing]).toEqual([[], false]);
    it.surface.close();
  });
  it('leaves a fit by Esc', async () => {
    const it = await opened({
      fitCuboid: (_w, signal) => new Promise((_, no) => signal.addEventListener('abort', () => no(new Error('aborted'))))
    });
    const drawing = it.surface.draw([101, -1, 0], [103, 1, 0]);
    expect(it.surface.keys.escape!()).toBe(true);
    await drawing;
    expect([it.editor.marks.ids, it.surface.fitting, it.said]).toEqual([[], false, []]);
    it.surface.close();
  });
  it('moves what is in hand along its own axes, and what keys do within a moment is one step', async () => {
    const { surface, key, cuboid, editor, hand } = await withOne();
    vi.useFakeTimers();
    for (let i = 0; i < 4; i++) key('ArrowUp');
    key('ArrowLeft', { shiftKey: true });
    key('Comma');
    key('Equal', { key: '+' });
    // shown, not kept
    expect(surface.cuboid!.heading).toBe(91);
    expect(cuboid().center).toEqual([102, 0, 1]);
    vi.advanceTimersByTime(800);
    // its heading is 90: ahead is y, to its left is -x
    expect(cuboid()).toEqual({ center: [101.75, 0.2, 1.05], size: [2, 1, 1.5], heading: 91 });
    editor.undo();
    expect(cuboid().center).toEqual([102, 0, 1]);
    key('ArrowUp');
    expect(surface.keys.escape!()).toBe(true);
    vi.advanceTimersByTime(800);
    expect((hand.one!.geometry as Cuboid).center).toEqual([102, 0, 1]);
    surface.close();
  });
  it('keeps what keys have moved when the item is left at once', async () => {
    const { surface, key, editor, hand } = await withOne();
    const { id } = hand.one!;
    key('ArrowUp');
    surface.close();
    expect((editor.marks.get(id)!.geometry as Cuboid).center).not.toEqual([102, 0, 1]);
  });
  it('is as large on one frame as on the next, and goes evenly between its keys', async () => {
    const { surface, cuboid, editor, hand } = await withOne();
    await surface.go(2);
    surface.change((c) => ({ ...c, center: [104, 2, 1] }));
    await surface.go(1);
    expect(cuboid()).toEqual({ center: [103, 1, 1], size: [2, 1, 1.5], heading: 90 });
    surface.change((c) => ({ ...c, size: [3, 1, 2] }));
    const sizes = editor.keys.of(hand.one!.id).map((k) => [k.place, (k.geometry as Cuboid).size, (k.geometry as Cuboid).center[2]]);
    // it stands where it stood
    expect(sizes).toEqual([
      [0, [3, 1, 2], 1.25],
      [1, [3, 1, 2], 1],
      [2, [3, 1, 2], 1.25]
    ]);
    editor.undo();
    expect(editor.keys.of(hand.one!.id).map((k) => (k.geometry as Cuboid).size)).toEqual([
      [2, 1, 1.5],
      [2, 1, 1.5]
    ]);
    surface.close();
  });
  it('counts the points in it and leads to what is empty', async () => {
    const { surface, hand, cuboid } = await withOne();
    expect(surface.count(cuboid())).toBe(1);
    expect(surface.todo()).toEqual([]);
    surface.change((c) => ({ ...c, center: [102, 0, 9] }));
    expect(surface.todo().map((t) => [t.word, t.count])).toEqual([['empty cuboid', 1]]);
    hand.select(null);
    const shown: unknown[] = [];
    surface.seen = { show: (c) => shown.push(c) };
    surface.todo()[0]!.lead();
    expect([hand.one?.kind, (shown[0] as Cuboid).center]).toEqual(['cuboid', [102, 0, 9]]);
    surface.close();
  });
  it('is fitted tighter, turned by sides, and made as large as its class is', async () => {
    const { surface, caps, page, cuboid, settled, asked, found } = await withOne();
    caps()['KeyD']!.press();
    expect([cuboid().heading, cuboid().size]).toEqual([180, [1, 2, 1.5]]);
    page('cuboid')['KeyT']!.press();
    expect(cuboid().heading).toBe(0);
    caps()['KeyA']!.press();
    await settled();
    expect(asked.at(-1)).toMatchObject({ frame: 0, cuboid: { size: [1, 2, 1.5] } });
    expect(cuboid()).toEqual(found);
    surface.close();
  });
  it('takes what a ray meets first, sets pins, and says of what it is a part', async () => {
    const { surface, hand, pinned, editor } = await withOne();
    const first = hand.one as Mark;
    await surface.draw([105, -1, 0.25], [107, 1, 0.25]);
    surface.change((c) => ({ ...c, center: [106, 0, 1] }));
    const second = hand.one as Mark;
    expect(surface.hit([90, 0, 1], [1, 0, 0])?.id).toBe(first.id);
    expect(surface.hit([120, 0, 1], [-1, 0, 0])?.id).toBe(second.id);
    expect(surface.hit([120, 0, 9], [-1, 0, 0])).toBeNull();
    surface.press(surface.hit([90, 0, 1], [1, 0, 0]), null, false);
    expect(hand.one?.id).toBe(first.id);
    surface.press(surface.hit([120, 0, 1], [-1, 0, 0]), null, true);
    expect(hand.size).toBe(2);
    surface.press(null, [1, 2, 0], false);
    expect(hand.size).toBe(0);
    surface.pinning = true;
    surface.press(null, [1, 2, 0], false);
    surface.pinning = true;
    surface.press(surface.hit([90, 0, 1], [1, 0, 0]), null, false);
    expect(pinned).toEqual([
      { x: 1, y: 2, place: 0, mark: null },
      { x: 102, y: 0, place: 0, mark: first.id }
    ]);
    expect(surface.pinning).toBe(false);
    expect(editor.marks.ids).toHaveLength(2);
    surface.close();
  });
  it('shows points as one has set, from item to item', async () => {
    const { surface, page } = await opened();
    page('points')['KeyR']!.press();
    page('points')['KeyE']!.press();
    page('points')['KeyQ']!.press();
    page('points')['KeyA']!.press();
    expect([surface.looks.ground, surface.looks.size, surface.looks.by, surface.looks.high]).toEqual([false, 3, 'distance', 3.75]);
    surface.close();
    const again = await opened();
    expect([again.surface.looks.ground, again.surface.looks.size, again.surface.looks.by, again.surface.looks.high]).toEqual([
      false,
      3,
      'distance',
      null
    ]);
    again.surface.close();
  });
  it('of a single frame has nowhere to go', async () => {
    const { surface, caps } = await withOne({}, 1);
    expect(caps()['KeyX']!.off).toBe('it is one frame');
    expect(surface.facts()[1]).toBe('9 × 2 × 0.8 m');
    surface.close();
  });
  it("is followed by its points to its end, and leaves few keys, each told from a hand's", async () => {
    const { surface, page, settled, editor, hand, said } = await withOne();
    const caps = page('cuboid');
    expect([caps['KeyF']!.word, caps['KeyF']!.off]).toEqual(['follow on', undefined]);
    caps['KeyF']!.press();
    expect(surface.isDrawing).toBe(true);
    await settled();
    expect([surface.place, surface.isDrawing, said.at(-1)]).toEqual([2, false, 'followed to frame 3']);
    const keys = editor.keys.of(hand.one!.id);
    expect(keys.map((k) => [k.place, k.source])).toEqual([
      [0, 'hand'],
      [2, 'followed']
    ]);
    expect((keys[1]!.geometry as Cuboid).center).toEqual([101, 0, 1]);
    surface.close();
  });
  it('is followed no further than where it can not be told any more', async () => {
    const lost = { found: [], unsure: 'its points lie on nothing here' };
    const { surface, page, settled, editor, hand, said } = await withOne({ follow: () => Promise.resolve(lost) });
    page('cuboid')['KeyG']!.press();
    await settled();
    expect(said.at(-1)).toBe('not followed: its points lie on nothing here');
    expect([surface.place, editor.keys.of(hand.one!.id).length]).toEqual([0, 1]);
    surface.close();
  });
  it('shows what a camera saw where there is one, and draws where one can', async () => {
    const bare = await opened();
    bare.surface.turnTo(bare.surface.next);
    expect([bare.surface.view, bare.surface.next]).toEqual(['above', 'space']);
    bare.surface.close();
    const front: Camera = {
      name: 'front',
      width: 480,
      height: 320,
      to_camera: [0, -1, 0, 0, 0, 0, -1, 1.5, 1, 0, 0, -90],
      projection: [400, 0, 240, 0, 0, 400, 160, 0, 0, 0, 1, 0],
      pictures: ['jpg', '', 'png']
    };
    const { surface, caps } = await opened({}, 3, [front]);
    surface.drawing();
    for (const view of ['above', 'picture']) {
      expect(caps()['KeyW']!.word).toBe(view === 'above' ? 'from above' : 'picture');
      caps()['KeyW']!.press();
      expect(surface.view).toBe(view);
    }
    // on a picture nobody knows how far away a drag is
    expect(surface.mode).toBe('pick');
    surface.drawing();
    expect([surface.view, surface.mode]).toEqual(['above', 'draw']);
    surface.close();
  });
  it('says why a cloud can not be loaded', async () => {
    const it = await opened();
    it.surface.close();
    vi.stubGlobal('fetch', () =>
      Promise.resolve(new Response(JSON.stringify({ status: 409, code: 'cloud_not_made', detail: 'being made again' }), { status: 409 }))
    );
    const { Cloud } = await import('./cloud.svelte');
    const cloud = new Cloud({ cloud: { path: '/cloud', query: '' } } as never);
    await vi.waitFor(() => expect(cloud.failed).toBe('being made again'));
  });
});
