// @vitest-environment jsdom
import { beforeEach, describe, expect, it } from 'vitest';
import { laid } from '../../test/plane';
import { partInSight, PatchMap, SIDES, type AskPatches, type PatchedPart } from './patches.svelte';
import { area, columns, union } from './raster';
import { pixels } from './shapes/mask';
import { PaintTool } from './tools';

beforeEach(() => sessionStorage.clear());

/** What the server sends for labels, row by row. */
function sent(width: number, labels: number[]): ArrayBuffer {
  const runs: number[] = [];
  for (let y = 0; y < labels.length / width; y++)
    for (let x = 0; x < width;) {
      const from = x;
      const label = labels[y * width + x]!;
      while (x < width && labels[y * width + x] === label) x++;
      runs.push(label, x - from);
    }
  const view = new DataView(new ArrayBuffer(16 + 2 * runs.length));
  view.setUint32(0, 0x534b5031, false);
  view.setUint32(4, width, true);
  view.setUint32(8, labels.length / width, true);
  view.setUint32(12, Math.max(...labels) + 1, true);
  runs.forEach((n, i) => view.setUint16(16 + 2 * i, n, true));
  return view.buffer;
}
const part = (width: number, height: number, more: Partial<PatchedPart> = {}): PatchedPart => ({
  x: 0,
  y: 0,
  width,
  height,
  step: 1,
  ...more
});
/** Squares of a side over a part. */
const squares = ({ width, height, step }: PatchedPart, side: number): ArrayBuffer => {
  const [w, h] = [Math.ceil(width / step), Math.ceil(height / step)];
  const across = Math.ceil(w / side);
  return sent(
    w,
    Array.from({ length: w * h }, (_, i) => Math.floor(Math.floor(i / w) / side) * across + Math.floor((i % w) / side))
  );
};
const settled = () => new Promise((done) => setTimeout(done));

describe('a map of patches', () => {
  it('says of every pixel which patch it is of, and which pixels a patch has', () => {
    const labels = [0, 0, 1, 1, 0, 2, 2, 1, 0, 0, 2, 1];
    const map = new PatchMap(part(4, 3), 17, sent(4, labels));
    expect([...map.labels]).toEqual(labels);
    expect([map.at({ x: 1.5, y: 1.5 }), map.at({ x: 4, y: 0 }), map.at({ x: -0.1, y: 0 })]).toEqual([2, null, null]);
    for (const label of [0, 1, 2]) {
      const found: number[] = [];
      columns(map.pixels(label, { width: 4, height: 3 }), 3, (x, from, to) => {
        for (let y = from; y < to; y++) found.push(y * 4 + x);
      });
      expect(found.sort((a, b) => a - b)).toEqual(labels.flatMap((l, i) => (l === label ? [i] : [])));
    }
    // together they are the picture, and none lies over another
    const all = [0, 1, 2].map((label) => map.pixels(label, { width: 4, height: 3 }));
    expect(area(all.reduce(union))).toBe(12);
    expect(all.reduce((n, e) => n + area(e), 0)).toBe(12);
  });
  it('stands for several pixels of the picture each where that is large, up to its edge', () => {
    const where = part(7, 5, { x: 10, y: 20, step: 2 });
    const map = new PatchMap(where, 17, sent(4, [0, 0, 1, 1, 0, 0, 1, 1, 2, 2, 2, 2]));
    expect([map.at({ x: 13.9, y: 23 }), map.at({ x: 14, y: 20 }), map.at({ x: 16, y: 24.5 })]).toEqual([0, 1, 2]);
    const picture = { width: 17, height: 25 };
    expect(map.pixels(1, picture)).toEqual([14 * 25 + 20, 14 * 25 + 24, 15 * 25 + 20, 15 * 25 + 24, 16 * 25 + 20, 16 * 25 + 24]);
    expect(area(map.pixels(2, picture))).toBe(7);
  });
  it('is refused when it has not arrived whole', () => {
    const whole = sent(4, [0, 0, 1, 1, 0, 2, 2, 1]);
    expect(() => new PatchMap(part(4, 2), 17, whole.slice(0, whole.byteLength - 4))).toThrow('not arrived whole');
    expect(() => new PatchMap(part(4, 2), 17, new ArrayBuffer(3))).toThrow('not arrived whole');
  });
  it('splits a patch along finer ones, and leaves the others and all pixels as they are', () => {
    const where = part(40, 40);
    const map = new PatchMap(where, 20, squares(where, 20));
    const finer = new PatchMap(where, 10, squares(where, 10));
    const before = map.pixels(0, where);
    expect(map.split(0, finer)).toBe(4);
    const pieces = [0, 4, 5, 6].map((label) => map.pixels(label, where));
    expect(pieces.map(area)).toEqual([100, 100, 100, 100]);
    expect(pieces.reduce(union)).toEqual(before);
    expect(area(map.pixels(1, where))).toBe(400);
    // slivers are no pieces
    expect(map.split(4, new PatchMap(where, 3, squares(where, 3)))).toBe(1);
  });
});

describe('the part that is patched', () => {
  it('is all of a small picture, else what is in sight, no finer than it can be', () => {
    expect(partInSight({ width: 1280, height: 960 }, { x: 500, y: 500, width: 10, height: 10 })).toEqual(part(1280, 960));
    const large = { width: 12_000, height: 9000 };
    const near = partInSight(large, { x: 3000, y: 2000, width: 800, height: 600 });
    expect(near.step).toBe(1);
    expect([near.x <= 3000, near.y <= 2000, near.x + near.width >= 3800, near.y + near.height >= 2600]).toEqual([true, true, true, true]);
    const far = partInSight(large, { x: -500, y: -500, width: 14_000, height: 11_000 });
    expect([far.x, far.y, far.width, far.height]).toEqual([0, 0, 12_000, 9000]);
    expect(Math.ceil(far.width / far.step) * Math.ceil(far.height / far.step)).toBeLessThanOrEqual(1_500_000);
    // a little pan asks for nothing new
    expect(partInSight(large, { x: 3010, y: 2010, width: 800, height: 600 })).toEqual(near);
  });
});

const painting = (ask?: AskPatches) => {
  const asked: { side: number; part: PatchedPart }[] = [];
  const bench = laid({
    patches: async (where, side, signal) => {
      asked.push({ part: where, side });
      return ask ? ask(where, side, signal) : squares(where, side === SIDES[1] ? 20 : Math.round(side * 0.6));
    }
  });
  bench.drawing.mode = 'draw';
  bench.drawing.shape = 'mask';
  bench.drawing.setPaint({ patches: true });
  const size = () => {
    const one = bench.hand.mark;
    return one?.kind === 'mask' ? area(pixels(one.geometry).edges) : 0;
  };
  return { ...bench, asked, size, patches: bench.plane.patches, tool: bench.plane.tools.shapes.mask as PaintTool };
};

describe('painting with patches', () => {
  it('all three sizes come ahead, the one that is set first, each once', async () => {
    const { patches, asked } = painting();
    patches.ahead();
    patches.ahead();
    await settled();
    expect(asked.map((a) => a.side)).toEqual([34, 17, 64]);
    patches.larger(1);
    await settled();
    expect([asked.length, patches.now?.side]).toEqual([3, 64]);
    for (let i = 0; i < 5; i++) patches.larger(1);
    expect(patches.size).toBe(2);
  });
  it('a press lays a patch, a drag those it goes over, the eraser takes them away; the mark says what it was painted with', async () => {
    const { patches, press, drag, size, drawing, all, plane, tray } = painting();
    press(30, 30);
    expect(all()).toEqual([]);
    patches.ahead();
    await settled();
    press(30, 30);
    expect(size()).toBe(400);
    drag([30, 30], [50, 30], [70, 30], [70, 50]);
    expect(size()).toBe(4 * 400);
    expect(all().map((m) => m.source)).toEqual(['patches']);
    expect(tray.entries.map((e) => e.edit.source)).toEqual(['patches', undefined]);
    drawing.setPaint({ mode: 'erase' });
    expect(plane.tool.tag({ x: 0, y: 0 }).word).toBe('erase patches');
    press(30, 30);
    expect(size()).toBe(3 * 400);
  });
  it('shows what a press would lay', async () => {
    const { patches, plane, tool } = painting();
    patches.ahead();
    await settled();
    plane.tool.move({ x: 30, y: 30 });
    expect(area(tool.patched()!.edges)).toBe(400);
    plane.tool.down({ x: 30, y: 30 });
    plane.tool.move({ x: 50, y: 30 });
    expect(area(tool.patched()!.edges)).toBe(800);
    expect(plane.tool.cancel()).toBe(true);
    expect(area(tool.patched()!.edges)).toBe(400);
  });
  it('a patch that holds two things is split under the pointer, and says when it can not be', async () => {
    const { patches, plane, press, size, tool, messages } = painting((where, side) =>
      Promise.resolve(squares(where, side === 34 ? 20 : side === 10 ? 10 : 5))
    );
    patches.ahead();
    await settled();
    plane.tool.move({ x: 25, y: 25 });
    await tool.split();
    press(25, 25);
    expect(size()).toBe(100);
    // and finer again, until it is as fine as it gets
    await tool.split();
    await tool.split();
    expect(messages.at(-1)).toContain('use the brush');
    press(55, 25);
    expect(size()).toBe(500);
  });
  it('the wheel sets size and strength, of the brush its size', async () => {
    const { patches, plane, drawing } = painting();
    const strength = patches.strength;
    expect([plane.tool.dial!(1, false), plane.tool.dial!(1, true)]).toEqual([true, true]);
    expect([patches.size, patches.strength > strength]).toEqual([2, true]);
    drawing.setPaint({ patches: false, size: 20 });
    expect([plane.tool.dial!(-1, false), plane.tool.dial!(-1, true)]).toEqual([true, false]);
    expect(drawing.paint.size).toBeLessThan(20);
  });
  it('a server that does not answer is said at the pointer, and the brush goes on', async () => {
    const { patches, plane, press, drawing, all, messages } = painting(() => Promise.reject(new Error('the server does not answer')));
    patches.ahead();
    await settled();
    expect(plane.tool.tag({ x: 0, y: 0 }).word).toBe('patches: not here');
    press(30, 30);
    expect(messages.at(-1)).toBe('no patches: the server does not answer');
    drawing.setPaint({ patches: false });
    press(30, 30);
    expect(all()).toHaveLength(1);
  });
  it("what comes when the item has been left is nobody's", async () => {
    let answer: (bytes: ArrayBuffer) => void = () => {};
    const { patches, plane } = painting(() => new Promise((done) => (answer = done)));
    patches.ahead();
    plane.close();
    answer(squares(part(400, 300), 20));
    await settled();
    expect(patches.failed).toBe('');
  });
});
