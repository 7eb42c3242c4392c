// @vitest-environment jsdom
import { beforeEach, describe, expect, it, vi } from 'vitest';
import { laid } from '../../test/plane';
import { planeKeys } from './keys';
import type { AskCutout, Found, Wish } from './cutout.svelte';

beforeEach(() => sessionStorage.clear());

const square = (x: number, as: 'polygon' | 'mask' = 'polygon'): Found => ({
  shape:
    as === 'mask'
      ? { kind: 'mask', geometry: { size: [300, 400], counts: '0' } }
      : { kind: 'polygon', geometry: { rings: [[x, x, x + 50, x, x + 50, x + 50, x, x + 50]] } },
  area: 2500,
  touches: [],
  alike: 0
});
/** A server that answers when it is told to. */
function server() {
  const asked: { wish: Wish; signal: AbortSignal; answer: (found: Found) => void; fail: (why: string) => void }[] = [];
  const cutOut: AskCutout = (wish, signal) =>
    new Promise((answer, reject) => {
      asked.push({ wish, signal, answer, fail: (why) => reject(new Error(why)) });
    });
  return { asked, cutOut };
}
const settled = () => new Promise((done) => setTimeout(done));
const cutting = (more: Parameters<typeof laid>[0] = {}) => {
  const desk = server();
  const bench = laid({ cutOut: desk.cutOut, ...more });
  bench.drawing.mode = 'draw';
  bench.drawing.shape = 'polygon';
  bench.drawing.cutting = true;
  return { ...bench, ...desk, cutout: bench.plane.cutout };
};
const key = (code: string, more: Partial<KeyboardEvent> = {}) => ({ code, key: code, ...more }) as KeyboardEvent;

describe('cutting out', () => {
  it('a rough box and Enter make a mark that says what it was done with', async () => {
    const { asked, plane, drag, all, cutout, tray, hand } = cutting();
    drag([40, 40], [100, 100]);
    expect(asked.map((a) => a.wish)).toEqual([{ box: { x: 40, y: 40, width: 60, height: 60 }, strokes: [], loose: 0, as: 'polygon' }]);
    expect([plane.isDrawing, cutout.working, all().length]).toEqual([true, true, 0]);
    asked[0]!.answer(square(45));
    await settled();
    expect(plane.tool.preview()?.shape).toEqual(square(45).shape);
    planeKeys(plane).press!(key('Enter'));
    expect(all().map((m) => [m.kind, m.class, m.source])).toEqual([['polygon', 'apple', 'cutout']]);
    expect([plane.isDrawing, hand.selected]).toEqual([false, all()[0]!.id]);
    expect(tray.entries.map((e) => [e.edit.action, e.edit.source])).toEqual([['create', 'cutout']]);
  });
  it('is not taken before the answer to all that was said is here', async () => {
    const { asked, plane, drag, press, all, messages } = cutting();
    drag([40, 40], [100, 100]);
    plane.tool.finish!();
    expect([all().length, messages.at(-1)]).toEqual([0, 'it is still being worked out']);
    asked[0]!.answer(square(45));
    await settled();
    press(50, 50);
    plane.tool.finish!();
    expect(all()).toEqual([]);
    asked[1]!.answer(square(46));
    await settled();
    plane.tool.finish!();
    expect(all()).toHaveLength(1);
  });
  it('presses and strokes add or take away; one request is on its way, the last word counts', async () => {
    const { asked, plane, drag, press, cutout } = cutting();
    drag([40, 40], [100, 100]);
    press(60, 60);
    cutout.adds = false;
    expect(plane.tool.tag({ x: 0, y: 0 }).word).toBe('take away');
    drag([90, 90], [96, 90], [99, 90]);
    expect(asked).toHaveLength(1);
    asked[0]!.answer(square(45));
    await settled();
    expect(asked).toHaveLength(2);
    expect(asked[1]!.wish.strokes).toEqual([
      { adds: true, points: [60, 60] },
      { adds: false, points: [90, 90, 96, 90] }
    ]);
    expect(cutout.inputs).toBe(3);
    asked[1]!.answer(square(46));
    await settled();
    expect([asked.length, cutout.working, plane.tool.preview()?.shape]).toEqual([2, false, square(46).shape]);
  });
  it('steps back through strokes and dial, then lets the box be; and on again', async () => {
    const { asked, plane, drag, press, cutout, editor } = cutting();
    const keys = planeKeys(plane);
    drag([40, 40], [100, 100]);
    asked[0]!.answer(square(45));
    await settled();
    press(60, 60);
    asked[1]!.answer(square(46));
    await settled();
    expect(plane.tool.dial!(1, false)).toBe(true);
    expect(asked.at(-1)!.wish.loose).toBe(0.5);
    asked[2]!.answer(square(47));
    await settled();
    const undo = key('KeyZ', { ctrlKey: true });
    expect(keys.press!(undo)).toBe(true);
    expect(cutout.state?.loose).toBe(0);
    asked[3]!.answer(square(46));
    await settled();
    keys.press!(undo);
    expect(cutout.state?.strokes).toEqual([]);
    asked[4]!.answer(square(45));
    await settled();
    keys.press!(key('KeyZ', { ctrlKey: true, shiftKey: true }));
    expect(cutout.state?.strokes).toHaveLength(1);
    keys.press!(undo);
    keys.press!(undo);
    expect(cutout.isOpen).toBe(false);
    // with nothing open the key is the editor's
    expect(keys.press!(undo)).toBe(false);
    expect(editor.canUndo).toBe(false);
  });
  it('the dial stops at its ends, and means nothing while nothing is open', async () => {
    const { asked, plane, drag, cutout } = cutting();
    expect(plane.tool.dial!(1, false)).toBe(false);
    drag([40, 40], [100, 100]);
    for (let i = 0; i < 30; i++) plane.tool.dial!(-1, false);
    expect(cutout.state?.loose).toBe(-4);
    asked[0]!.answer(square(45));
    await settled();
    expect(asked.map((a) => a.wish.loose)).toEqual([0, -4]);
  });
  it('Esc lets it be, and what comes late changes nothing', async () => {
    const { asked, plane, drag, cutout, all } = cutting();
    drag([40, 40], [100, 100]);
    expect(planeKeys(plane).escape!()).toBe(true);
    expect([cutout.isOpen, asked[0]!.signal.aborted]).toEqual([false, true]);
    asked[0]!.answer(square(45));
    await settled();
    expect([cutout.found, all().length]).toEqual([null, 0]);
    drag([140, 140], [200, 200]);
    asked[1]!.answer(square(145));
    await settled();
    expect(cutout.found).toEqual(square(145));
  });
  it('a dead server is said; what was said is kept and sent again', async () => {
    const { asked, plane, drag, press, cutout, all } = cutting();
    drag([40, 40], [100, 100]);
    asked[0]!.answer(square(45));
    await settled();
    press(60, 60);
    asked[1]!.fail('the server does not answer');
    await settled();
    expect([cutout.failed, cutout.working, cutout.state?.strokes.length]).toEqual(['the server does not answer', false, 1]);
    plane.tool.finish!();
    expect([all().length, asked.length, asked[2]!.wish.strokes.length]).toEqual([0, 3, 1]);
    asked[2]!.answer(square(46));
    await settled();
    expect(cutout.failed).toBe('');
    plane.tool.finish!();
    expect(all()).toHaveLength(1);
  });
  it('a slow server is said', async () => {
    vi.useFakeTimers();
    const { asked, drag, cutout } = cutting();
    drag([40, 40], [100, 100]);
    vi.advanceTimersByTime(3000);
    expect(cutout.slow).toBe(true);
    asked[0]!.answer(square(45));
    await vi.runAllTimersAsync();
    expect(cutout.slow).toBe(false);
    vi.useRealTimers();
  });
  it('says what the hand should know before it takes it', async () => {
    const { asked, drag, press, cutout, plane, all, messages } = cutting();
    drag([40, 40], [100, 100]);
    asked[0]!.answer({ ...square(45), touches: ['left', 'top'], alike: 0.6 });
    await settled();
    expect(cutout.doubts[0]).toContain('at its left and top');
    expect(cutout.doubts[1]).toContain('same colours');
    press(50, 50);
    asked[1]!.answer({ shape: null, area: 0, touches: [], alike: 0 });
    await settled();
    expect(cutout.doubts).toHaveLength(1);
    plane.tool.finish!();
    expect([all().length, messages.at(-1)]).toEqual([0, 'there is nothing to take: press on the object, or leave it with Esc']);
  });
  it('is asked for as a mask where that is wanted', async () => {
    const { asked, drag, cutout, drawing, plane } = cutting();
    drag([40, 40], [100, 100]);
    asked[0]!.answer(square(45));
    await settled();
    expect(drawing.otherArea()).toBe(true);
    cutout.again();
    // the outline that is shown is not what is wanted any more
    expect(cutout.take()).toBeNull();
    expect(asked[1]!.wish.as).toBe('mask');
    asked[1]!.answer(square(45, 'mask'));
    await settled();
    plane.tool.finish!();
    expect(plane.ports.editor.marks.all().map((m) => m.kind)).toEqual(['mask']);
  });
  it('is not left behind when another tool is taken, and goes with its item', () => {
    const { asked, drag, plane, drawing, cutout } = cutting();
    drag([40, 40], [100, 100]);
    drawing.mode = 'pick';
    expect(plane.isDrawing).toBe(true);
    planeKeys(plane).escape!();
    expect(cutout.isOpen).toBe(false);
    drawing.mode = 'draw';
    drag([40, 40], [100, 100]);
    plane.close();
    expect(asked.at(-1)!.signal.aborted).toBe(true);
  });
  it('a press and another do for a drag; a box of nothing is refused', () => {
    const { asked, press, messages } = cutting();
    press(40, 40);
    press(100, 90);
    expect(asked[0]!.wish.box).toEqual({ x: 40, y: 40, width: 60, height: 50 });
    const other = cutting();
    other.drag([40, 40], [100, 41]);
    expect([other.asked.length, other.messages.at(-1)]).toEqual([0, 'this box is too small to cut anything out of it']);
    expect(messages).toEqual([]);
  });
});

describe('the key of the shape', () => {
  it('goes through the shapes and the cut-out, and comes back to what each class had', () => {
    const { drawing, chosen } = laid();
    drawing.mode = 'draw';
    drawing.fit();
    const seen = [];
    for (let i = 0; i < 4; i++) {
      seen.push(drawing.cutting ? 'cut-out' : drawing.shape);
      drawing.takeShape();
    }
    expect([seen, drawing.cutting ? 'cut-out' : drawing.shape]).toEqual([['box', 'polygon', 'mask', 'cut-out'], 'box']);
    drawing.takeShape();
    drawing.takeShape();
    drawing.takeShape();
    expect([drawing.cutting, drawing.shape]).toEqual([true, 'mask']);
    // what has no area is drawn
    chosen.active = 'eyes';
    drawing.chose();
    expect([drawing.cutting, drawing.shape, drawing.ways.length]).toEqual([false, 'points', 1]);
    chosen.active = 'apple';
    drawing.chose();
    expect([drawing.cutting, drawing.shape]).toEqual([true, 'mask']);
  });
});
