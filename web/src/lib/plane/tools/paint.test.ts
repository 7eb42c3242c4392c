// @vitest-environment jsdom
import { beforeEach, describe, expect, it } from 'vitest';
import { laid, mark } from '../../../test/plane';
import { area, encode, scan } from '../raster';
import { pixels } from '../shapes/mask';
import type { Mark } from '$lib/words/mark';

beforeEach(() => sessionStorage.clear());
const full = (id: string, ring: number[], more: Partial<Mark> = {}) =>
  mark(id, { kind: 'mask', geometry: { size: [300, 400], counts: encode(scan([ring], 400, 300), 400 * 300) } }, more);
const painting = (marks: Mark[] = []) => {
  const bench = laid({ marks });
  bench.drawing.mode = 'draw';
  bench.drawing.shape = 'mask';
  bench.drawing.setPaint({ size: 20 });
  const size = (m: Mark | null | undefined) => (m?.kind === 'mask' ? area(pixels(m.geometry).edges) : 0);
  return { ...bench, size, mine: () => size(bench.hand.mark), of: (id: string) => size(bench.editor.marks.get(id)) };
};

describe('painting', () => {
  it('each stroke goes on with the mask in hand; the eraser takes away; an erased mask is gone', () => {
    const bench = painting();
    bench.drag([100, 100], [150, 100]);
    const first = bench.mine();
    expect(Math.abs(first - (Math.PI * 100 + 1000))).toBeLessThan(30);
    bench.drag([150, 100], [200, 100]);
    expect(Math.abs(bench.mine() - (Math.PI * 100 + 2000))).toBeLessThan(40);
    expect(bench.all()).toHaveLength(1);
    bench.drawing.setPaint({ mode: 'erase' });
    expect(bench.plane.tool.tag({ x: 0, y: 0 }).word).toBe('erase');
    bench.drag([150, 100], [200, 100]);
    expect(bench.mine()).toBeLessThan(first);
    bench.drawing.setPaint({ size: 400 });
    bench.drag([100, 100], [110, 100]);
    expect(bench.all()).toEqual([]);
  });
  it('asks its questions when the mask is let go, not at the first stroke', () => {
    const bench = painting();
    bench.drag([100, 100], [150, 100]);
    expect(bench.asking.question).toBeNull();
    expect(bench.plane.tool.finish!()).toBe(true);
    expect(bench.asking.question).toBe('ripe');
  });
  it('claims pixels from other masks, but not from locked ones', () => {
    const ring = [90, 90, 190, 90, 190, 130, 90, 130];
    const bench = painting([full('theirs', ring), full('locked', ring)]);
    bench.hand.select('locked');
    bench.hand.toggleLock();
    bench.hand.select(null);
    bench.drawing.setPaint({ claim: true, size: 60 });
    bench.drag([110, 110], [111, 110]);
    expect([bench.of('locked'), bench.of('theirs') < 4000, bench.of('theirs') > 0]).toEqual([4000, true, true]);
    expect(area(pixels((bench.hand.mark as Extract<Mark, { kind: 'mask' }>).geometry).edges) + bench.of('theirs')).toBeGreaterThan(4000);
    bench.editor.undo();
    expect(bench.of('theirs')).toBe(4000);
  });
  it('never takes a mark away by claiming all of it: it says so', () => {
    const bench = painting([full('small', [100, 100, 110, 100, 110, 110, 100, 110])]);
    bench.drawing.setPaint({ claim: true, size: 100 });
    bench.drag([105, 105], [106, 105]);
    expect([bench.of('small'), bench.all().length]).toEqual([100, 2]);
    expect(bench.messages.at(-1)).toContain('nothing would be left of Apple 1');
  });
  it('outlines add and cut by the pixel rule; a fill says when the rim has a gap', () => {
    const bench = painting();
    const ring = (mode: 'add outline' | 'cut outline', ...points: [number, number][]) => {
      bench.drawing.setPaint({ mode });
      for (const [x, y] of points) bench.press(x, y);
    };
    ring('add outline', [100, 100], [140, 100], [140, 140], [100, 140]);
    expect(bench.plane.isDrawing).toBe(true);
    bench.plane.tool.finish!();
    expect(bench.mine()).toBe(1600);
    ring('cut outline', [110, 110], [130, 110], [130, 130], [110, 130], [110, 110]);
    expect(bench.mine()).toBe(1200);
    bench.drawing.setPaint({ mode: 'fill' });
    bench.press(120, 120);
    expect(bench.mine()).toBe(1600);
    bench.press(10, 10);
    expect(bench.messages.at(-1)).toContain('gap');
    expect(bench.mine()).toBe(1600);
    bench.press(10, 10);
    expect(bench.mine()).toBe(400 * 300);
  });
});
