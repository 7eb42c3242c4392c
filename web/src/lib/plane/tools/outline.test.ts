// @vitest-environment jsdom
import { beforeEach, describe, expect, it } from 'vitest';
import { laid, mark } from '../../../test/plane';
import type { Stroke } from '../drawing.svelte';
import { area, scan } from '../raster';

beforeEach(() => sessionStorage.clear());
const drawing = (shape: 'polygon' | 'polyline' | 'points' = 'polygon', options: Parameters<typeof laid>[0] = {}) => {
  const bench = laid({ active: shape === 'points' ? 'eyes' : 'leaf', ...options });
  bench.drawing.mode = 'draw';
  bench.drawing.shape = shape;
  const rings = () => bench.all().map((m) => (m.geometry as { rings: number[][] }).rings);
  const presses = (...points: [number, number][]) => {
    for (const [x, y] of points) {
      bench.plane.tool.move({ x, y });
      bench.press(x, y);
    }
  };
  return { ...bench, rings, presses, outline: bench.plane.tools.outline };
};

describe('outlines point by point', () => {
  it('close on their first point', () => {
    const { presses, rings, outline, plane } = drawing();
    presses([10, 10], [60, 10], [60.126, 50]);
    expect(plane.tool.tag({ x: 12, y: 12 }).word).toBe('close');
    presses([12, 12]);
    expect(rings()).toEqual([[[10, 10, 60, 10, 60.13, 50]]]);
    expect(outline.busy()).toBe(false);
  });
  it('give a point back at a time, and all by Esc', () => {
    const { presses, outline, all } = drawing();
    presses([10, 10], [60, 10], [60, 50]);
    expect(outline.takeBack()).toBe(true);
    expect(outline.points).toEqual([10, 10, 60, 10]);
    expect(outline.cancel()).toBe(true);
    expect(outline.takeBack()).toBe(false);
    expect(all()).toEqual([]);
  });
  it('are not finished while they cross themselves, and nothing drawn is lost', () => {
    const { presses, outline, all, messages } = drawing();
    presses([10, 10], [60, 60], [60, 10], [10, 60]);
    outline.finish();
    expect(all()).toEqual([]);
    expect(messages.at(-1)).toContain('crosses itself near 35, 35');
    outline.takeBack();
    outline.finish();
    expect(all()).toHaveLength(1);
  });
  it('are laid along a pressed pointer, with only the points they need', () => {
    const { drag, rings } = drawing();
    const circle = Array.from({ length: 90 }, (_, i): [number, number] => [
      200 + 80 * Math.cos((i / 90) * 2 * Math.PI),
      150 + 80 * Math.sin((i / 90) * 2 * Math.PI)
    ]);
    drag(...circle, [280, 150]);
    const points = rings()[0]![0]!.length / 2;
    expect(points).toBeGreaterThan(10);
    expect(points).toBeLessThan(60);
    expect(Math.abs(area(scan(rings()[0]!, 400, 300)) - Math.PI * 6400)).toBeLessThan(300);
  });
  it('follow a neighbour exactly, the short way or the other: no gap and no overlap', () => {
    const ring = [100.37, 50.11, 140.93, 60.2, 150.5, 100.77, 100.01, 120.3];
    for (const other of [false, true]) {
      const neighbour = mark('n', { kind: 'polygon', geometry: { rings: [ring] } }, { class: 'leaf' });
      const { presses, outline, rings } = drawing('polygon', { marks: [neighbour] });
      presses([101, 51], [101, 119]);
      expect(outline.points).toEqual([100.37, 50.11, 100.01, 120.3]);
      if (other) {
        outline.otherWay();
        expect(outline.points).toEqual([100.37, 50.11, 140.93, 60.2, 150.5, 100.77, 100.01, 120.3]);
        outline.otherWay();
      }
      presses([40, 90]);
      outline.finish();
      const mine = rings()[1]!;
      expect(area(scan([...mine, ring], 400, 300))).toBe(area(scan(mine, 400, 300)) + area(scan([ring], 400, 300)));
    }
  });
  it('add to, cut from and redraw the one in hand', () => {
    const square = mark('m', { kind: 'polygon', geometry: { rings: [[100, 100, 200, 100, 200, 200, 100, 200]] } }, { class: 'leaf' });
    const outlined = (stroke: Stroke, ...points: [number, number][]) => {
      const { presses, outline, rings, hand, drawing: d, all } = drawing('polygon', { marks: [square] });
      hand.select('m');
      d.redraw(stroke);
      presses(...points);
      outline.finish();
      expect([d.stroke, all().length]).toEqual(['new', 1]);
      return area(scan(rings()[0]!, 400, 300));
    };
    expect(outlined('add', [180, 100], [260, 100], [260, 200], [180, 200])).toBe(16000);
    expect(outlined('cut', [120, 120], [140, 120], [140, 140], [120, 140])).toBe(9600);
    // 50 centres lie exactly on a slope and count to what is below it
    expect(outlined('redraw', [100, 100], [150, 50], [200, 100])).toBe(12550);
  });
  it('a line ends by Enter', () => {
    const { presses, outline, all, messages } = drawing('polyline');
    presses([10, 10]);
    outline.finish();
    expect(messages.at(-1)).toContain('two points');
    presses([50, 20]);
    outline.finish();
    expect(all()[0]!.geometry).toEqual({ points: [10, 10, 50, 20] });
  });
});

describe('outlines and points of a fixed number', () => {
  it('finish by themselves, by the number set or by the class', () => {
    const set = drawing();
    set.drawing.corners = 4;
    set.presses([10, 10], [60, 10], [60, 50], [10, 50]);
    expect(set.all()).toHaveLength(1);
    const ruled = drawing('polygon', { active: 'corner' });
    ruled.presses([10, 10], [60, 10], [60, 50], [10, 50]);
    expect(ruled.all()).toHaveLength(1);
  });
  it('stop at their number also when a press or a pulled stretch brings more', () => {
    const ring = [100, 50, 120, 50, 140, 60, 150, 100, 130, 118, 100, 120];
    const neighbour = mark('n', { kind: 'polygon', geometry: { rings: [ring] } }, { class: 'leaf' });
    const followed = drawing('polygon', { marks: [neighbour], active: 'corner' });
    followed.drawing.follow = true;
    followed.presses([170, 30], [160, 20], [100, 50], [130, 118]);
    expect(followed.rings()[1]![0]).toHaveLength(8);
    const laidOut = drawing('polygon', { active: 'corner' });
    const arc = Array.from({ length: 60 }, (_, i): [number, number] => [
      200 + 80 * Math.cos((i / 60) * Math.PI),
      150 + 80 * Math.sin((i / 60) * Math.PI)
    ]);
    laidOut.drag(...arc);
    expect(laidOut.rings()[0]![0]).toHaveLength(8);
  });
  it('have no middle that would put a point too many in', () => {
    const full = mark('c', { kind: 'polygon', geometry: { rings: [[10, 10, 110, 10, 110, 110, 10, 110]] } }, { class: 'corner' });
    const bench = drawing('polygon', { marks: [full], active: 'corner' });
    bench.hand.select('c');
    expect(bench.plane.tool.cursor({ x: 60, y: 10 })).toBe('crosshair');
    expect(bench.plane.tool.cursor({ x: 10, y: 10 })).toBe('move');
  });
  it('are completed where they lie after a point was taken away', () => {
    const bench = drawing('points');
    bench.presses([5, 5], [50, 8], [90, 9]);
    expect(bench.all()[0]!.geometry).toEqual({ points: [5, 5, 50, 8, 90, 9] });
    bench.hand.point = 'v:0:1';
    bench.plane.forms.remove();
    expect(bench.all()[0]!.geometry).toEqual({ points: [5, 5, 90, 9] });
    expect(bench.plane.forms.lacking(bench.all()[0]!)).toBe(1);
    expect(bench.plane.tool.tag({ x: 200, y: 200 }).word).toBe('one of 1 points more');
    bench.presses([60, 60]);
    expect(bench.all()).toHaveLength(1);
    expect(bench.all()[0]!.geometry).toEqual({ points: [5, 5, 90, 9, 60, 60] });
    // complete: the next press begins another
    bench.presses([200, 200]);
    expect(bench.outline.points).toEqual([200, 200]);
    sessionStorage.clear();
    const square = mark('c', { kind: 'polygon', geometry: { rings: [[10, 10, 110, 10, 10, 110]] } }, { class: 'corner' });
    const corner = drawing('polygon', { marks: [square], active: 'corner' });
    corner.hand.select('c');
    corner.presses([120, 120]);
    expect(corner.rings()).toEqual([[[10, 10, 110, 10, 120, 120, 10, 110]]]);
  });
  it('call their points what the codebook calls them', () => {
    const bench = drawing('points');
    expect(bench.plane.tool.tag({ x: 1, y: 1 }).word).toBe('Eyes: left eye');
    bench.presses([5, 5]);
    expect(bench.plane.tool.tag({ x: 1, y: 1 }).word).toBe('point 2 of 3: right eye');
    bench.presses([9, 9]);
    expect(bench.plane.tool.tag({ x: 1, y: 1 }).word).toBe('point 3 of 3: 3');
    bench.presses([500, 8]);
    expect(bench.all()[0]!.geometry).toEqual({ points: [5, 5, 9, 9, 400, 8] });
  });
});

describe('an outline half drawn', () => {
  it('is in hand again after a reload, with its class and shape, and goes on', () => {
    const before = drawing();
    before.presses([10, 10], [60, 10]);
    const after = laid({ kept: before.kept });
    expect([after.chosen.active, after.drawing.mode, after.drawing.shape]).toEqual(['leaf', 'draw', 'polygon']);
    expect(after.plane.isDrawing).toBe(true);
    after.press(60, 50);
    after.plane.tool.finish!();
    expect(after.all()[0]!.geometry).toEqual({ rings: [[10, 10, 60, 10, 60, 50]] });
    // finished: nothing comes back
    expect(laid({ kept: before.kept }).plane.isDrawing).toBe(false);
  });
  it('that changes a mark comes back with the mark, or not at all when that is gone', () => {
    const square = mark('m', { kind: 'polygon', geometry: { rings: [[100, 100, 200, 100, 200, 200, 100, 200]] } }, { class: 'leaf' });
    const before = drawing('polygon', { marks: [square] });
    before.hand.select('m');
    before.drawing.redraw('cut');
    before.presses([120, 120], [140, 120]);
    const after = laid({ marks: [square], kept: before.kept });
    expect([after.hand.selected, after.drawing.stroke, after.plane.isDrawing]).toEqual(['m', 'cut', true]);
    const gone = laid({ kept: before.kept });
    expect([gone.plane.isDrawing, gone.drawing.stroke]).toEqual([false, 'new']);
  });
  it('is not taken up where one only looks', () => {
    const before = drawing();
    before.presses([10, 10], [60, 10]);
    expect(laid({ kept: before.kept, mode: 'look' }).plane.isDrawing).toBe(false);
  });
});
