import { beforeEach, describe, expect, it } from 'vitest';
import type { Bench } from '../bench.svelte';
import { area, decode, encode, scan } from '../raster';
import type { Mark, Point, Shape } from '../types';
import { CuboidTool, EllipseTool, SkeletonTool, TurnedBoxTool } from './dragged';
import { OutlineTool } from './outline';
import { PaintTool } from './paint';
import type { StageTool } from './tool';

const mark = (id: string, shape: Shape): Mark =>
  ({ ...shape, id, class: 'scab', answers: {}, stack: null, part_of: null, flags: [], revision: 1, author: 1, source: 'hand' }) as Mark;

/** What the drawing tools use of the bench, and what they made. */
class Hand {
  marks: Mark[] = [];
  selected: string | null = null;
  others: string[] = [];
  locked = new Set<string>();
  point: string | null = null;
  editable = true;
  view = { scale: 1, x: 0, y: 0 };
  picture = { width: 400, height: 300 };
  active = 'scab';
  shape = 'polygon';
  stroke = 'new';
  otherStretch = false;
  corners: number | null = null;
  message = '';
  upright = false;
  neighbour: { mark: string; ring: number[] } | null = null;
  paint = { mode: 'paint', size: 20, claim: false, wide: false };
  drawn: Shape[] = [];
  reshaped: Shape[] = [];
  claims: [string, number][] = [];
  get mark() {
    return this.marks.find((m) => m.id === this.selected);
  }
  get painted() {
    return this.mark?.kind === 'mask' ? this.mark : null;
  }
  bones = () => [];
  light = () => '#ffffff';
  nameOf = (key: string) => key;
  rule: number | null = null;
  pointsOf = () => this.rule;
  isUpright = () => this.upright;
  skeletonOf = () => ({
    key: 'moth',
    name: 'Moth',
    nodes: [
      { key: 'head', name: 'Head', x: 0.5, y: 0 },
      { key: 'tail', name: 'Tail', x: 0.5, y: 1 },
      { key: 'l', name: 'Left', x: 0, y: 0.5, twin: 'r' },
      { key: 'r', name: 'Right', x: 1, y: 0.5, twin: 'l' }
    ],
    edges: []
  });
  snapped = (p: Point) => p;
  neighbourAt = (p: Point) => {
    const ring = this.neighbour?.ring ?? [];
    for (let i = 0; i < ring.length / 2; i++)
      if (Math.hypot(ring[2 * i]! - p.x, ring[2 * i + 1]! - p.y) < 9) return { ...this.neighbour!, i };
    return null;
  };
  select = (id: string | null) => (this.selected = id);
  draw = (shape: Shape) => this.drawn.push(shape);
  reshape = (_: Mark, shape: Shape) => this.reshaped.push(shape);
  painting = (shape: Extract<Shape, { kind: 'mask' }>, claimed: { mark: Mark; edges: number[] }[]) => {
    this.claims = claimed.map((c) => [c.mark.id, area(c.edges)]);
    this.marks = [...this.marks.filter((m) => m.id !== 'mine'), mark('mine', shape)];
    this.selected = 'mine';
  };
  remove = () => (this.marks = this.marks.filter((m) => m.id !== this.selected));
  letGo = () => {
    const was = this.painted !== null;
    this.selected = null;
    return was;
  };
}
let hand: Hand;
const bench = () => hand as unknown as Bench;
beforeEach(() => (hand = new Hand()));
const press = (tool: StageTool, x: number, y: number) => {
  tool.move({ x, y });
  tool.down({ x, y });
  tool.up({ x, y });
};
const drag = (tool: StageTool, ...points: [number, number][]) => {
  tool.down({ x: points[0]![0], y: points[0]![1] });
  for (const [x, y] of points) tool.move({ x, y });
  tool.up({ x: points.at(-1)![0], y: points.at(-1)![1] });
};

describe('outlines point by point', () => {
  it('close on their first point', () => {
    const tool = new OutlineTool(bench());
    press(tool, 10, 10);
    press(tool, 60, 10);
    press(tool, 60.126, 50);
    expect(tool.tag({ x: 12, y: 12 }).word).toBe('close');
    press(tool, 12, 12);
    expect(hand.drawn).toEqual([{ kind: 'polygon', geometry: { rings: [[10, 10, 60, 10, 60.13, 50]] } }]);
    expect(tool.busy()).toBe(false);
  });
  it('give a point back at a time, and all by Esc', () => {
    const tool = new OutlineTool(bench());
    for (const [x, y] of [
      [10, 10],
      [60, 10],
      [60, 50]
    ])
      press(tool, x!, y!);
    expect(tool.takeBack()).toBe(true);
    expect(tool.points).toEqual([10, 10, 60, 10]);
    expect(tool.cancel()).toBe(true);
    expect(tool.takeBack()).toBe(false);
    expect(hand.drawn).toEqual([]);
  });
  it('are not finished while they cross themselves, and nothing drawn is lost', () => {
    const tool = new OutlineTool(bench());
    press(tool, 10, 10);
    press(tool, 60, 60);
    press(tool, 60, 10);
    press(tool, 10, 60);
    tool.finish();
    expect(hand.drawn).toEqual([]);
    expect(hand.message).toContain('crosses itself near 35, 35');
    tool.takeBack();
    tool.finish();
    expect(hand.drawn).toHaveLength(1);
  });
  it('finish by themselves after a fixed number', () => {
    hand.corners = 4;
    const tool = new OutlineTool(bench());
    for (const [x, y] of [
      [10, 10],
      [60, 10],
      [60, 50],
      [10, 50]
    ])
      press(tool, x!, y!);
    expect(hand.drawn).toHaveLength(1);
  });
  it('are laid along a pressed pointer, with only the points they need', () => {
    const tool = new OutlineTool(bench());
    const circle = Array.from({ length: 90 }, (_, i): [number, number] => [
      200 + 80 * Math.cos((i / 90) * 2 * Math.PI),
      150 + 80 * Math.sin((i / 90) * 2 * Math.PI)
    ]);
    drag(tool, ...circle, [280, 150]);
    const shape = hand.drawn[0] as Extract<Shape, { kind: 'polygon' }>;
    const points = shape.geometry.rings[0]!.length / 2;
    expect(points).toBeGreaterThan(10);
    expect(points).toBeLessThan(60);
    expect(Math.abs(area(scan(shape.geometry.rings, 400, 300)) - Math.PI * 6400)).toBeLessThan(300);
  });
  it('follow a neighbour exactly, the short way or the other: no gap and no overlap', () => {
    const ring = [100.37, 50.11, 140.93, 60.2, 150.5, 100.77, 100.01, 120.3];
    hand.neighbour = { mark: 'n', ring };
    for (const other of [false, true]) {
      hand.drawn = [];
      const tool = new OutlineTool(bench());
      press(tool, 101, 51);
      press(tool, 101, 119);
      expect(tool.points).toEqual([100.37, 50.11, 100.01, 120.3]);
      if (other) {
        tool.otherWay();
        expect(tool.points).toEqual([100.37, 50.11, 140.93, 60.2, 150.5, 100.77, 100.01, 120.3]);
        tool.otherWay();
      }
      press(tool, 40, 90);
      tool.finish();
      const mine = (hand.drawn[0] as Extract<Shape, { kind: 'polygon' }>).geometry.rings;
      const [a, b] = [scan(mine, 400, 300), scan([ring], 400, 300)];
      expect(area(scan([...mine, ring], 400, 300))).toBe(area(a) + area(b));
    }
  });
  it('add to, cut from and redraw the one in hand', () => {
    hand.marks = [mark('m', { kind: 'polygon', geometry: { rings: [[100, 100, 200, 100, 200, 200, 100, 200]] } })];
    hand.selected = 'm';
    const outline = (stroke: string, ...points: [number, number][]) => {
      hand.stroke = stroke;
      const tool = new OutlineTool(bench());
      for (const [x, y] of points) press(tool, x, y);
      tool.finish();
      expect(hand.stroke).toBe('new');
      const shape = hand.reshaped.pop() as Extract<Shape, { kind: 'polygon' }>;
      return area(scan(shape.geometry.rings, 400, 300));
    };
    expect(outline('add', [180, 100], [260, 100], [260, 200], [180, 200])).toBe(16000);
    expect(outline('cut', [120, 120], [140, 120], [140, 140], [120, 140])).toBe(9600);
    // 50 centres lie exactly on a slope and count to what is below it
    expect(outline('redraw', [100, 100], [150, 50], [200, 100])).toBe(12550);
    expect(hand.drawn).toEqual([]);
  });
  it('a line ends by Enter, points by their number', () => {
    hand.shape = 'polyline';
    const tool = new OutlineTool(bench());
    press(tool, 10, 10);
    tool.finish();
    expect(hand.message).toContain('two points');
    press(tool, 50, 20);
    tool.finish();
    hand.shape = 'points';
    hand.rule = 2;
    press(tool, 5, 5);
    press(tool, 500, 8);
    expect(hand.drawn).toEqual([
      { kind: 'polyline', geometry: { points: [10, 10, 50, 20] } },
      { kind: 'points', geometry: { points: [5, 5, 400, 8] } }
    ]);
  });
});

describe('shapes of three presses and skeletons', () => {
  it('a turned box: one side, then its depth on either hand', () => {
    const tool = new TurnedBoxTool(bench());
    drag(tool, [100, 100], [140, 130]);
    expect(tool.tag({ x: 0, y: 0 }).word).toBe('depth');
    press(tool, 128, 146);
    expect(hand.drawn[0]?.geometry).toMatchObject({ width: 50, angle: 36.87, height: 20 });
    expect(hand.drawn[0]?.geometry).toMatchObject({ cx: 114, cy: 123 });
  });
  it('a cuboid: the near face, then where the far one lies', () => {
    const tool = new CuboidTool(bench());
    drag(tool, [100, 100], [200, 180]);
    press(tool, 180, 120);
    expect(hand.drawn[0]?.geometry).toEqual({
      front: { x: 100, y: 100, width: 100, height: 80 },
      back: { x: 140, y: 88, width: 80, height: 64 }
    });
  });
  it('an ellipse by its extent', () => {
    drag(new EllipseTool(bench()), [100, 100], [140, 120]);
    expect(hand.drawn[0]?.geometry).toEqual({ cx: 120, cy: 110, rx: 20, ry: 10, angle: 0 });
  });
  it('a skeleton from head to tail, as the animal lies', () => {
    drag(new SkeletonTool(bench()), [100, 100], [200, 100]);
    const { nodes } = hand.drawn[0]!.geometry as { nodes: Record<string, Point> };
    // it lies to the right, so its left side is up on the screen turned by a quarter
    expect([nodes.head, nodes.tail]).toEqual([
      { x: 100, y: 100, state: 'visible' },
      { x: 200, y: 100, state: 'visible' }
    ]);
    expect([nodes.l!.x, nodes.l!.y, nodes.r!.x, nodes.r!.y]).toEqual([150, 150, 150, 50]);
  });
  it('an upright skeleton as a box', () => {
    hand.upright = true;
    drag(new SkeletonTool(bench()), [100, 100], [200, 140]);
    const { nodes } = hand.drawn[0]!.geometry as { nodes: Record<string, Point> };
    expect([nodes.l!.x, nodes.l!.y, nodes.tail!.x, nodes.tail!.y]).toEqual([100, 120, 150, 140]);
  });
});

describe('painting', () => {
  const pixelsOf = (id: string) => {
    const m = hand.marks.find((one) => one.id === id);
    return m?.kind === 'mask' ? area(decode(m.geometry.counts)) : 0;
  };
  const full = (id: string, ring: number[]) => mark(id, { kind: 'mask', geometry: { size: [300, 400], counts: encodeOf(ring) } });
  const encodeOf = (ring: number[]) => encode(scan([ring], 400, 300), 400 * 300);
  it('each stroke goes on with the mask in hand; the eraser takes away; an erased mask is gone', () => {
    const tool = new PaintTool(bench());
    drag(tool, [100, 100], [150, 100]);
    const first = pixelsOf('mine');
    expect(Math.abs(first - (Math.PI * 100 + 1000))).toBeLessThan(30);
    drag(tool, [150, 100], [200, 100]);
    expect(Math.abs(pixelsOf('mine') - (Math.PI * 100 + 2000))).toBeLessThan(40);
    hand.paint = { ...hand.paint, mode: 'erase' };
    expect(tool.tag().word).toBe('erase');
    drag(tool, [150, 100], [200, 100]);
    expect(pixelsOf('mine')).toBeLessThan(first);
    hand.paint = { ...hand.paint, size: 400 };
    drag(tool, [100, 100], [110, 100]);
    expect(hand.marks).toEqual([]);
  });
  it('claims pixels from other masks, but not from locked ones', () => {
    hand.marks = [full('theirs', [90, 90, 130, 90, 130, 130, 90, 130]), full('locked', [90, 90, 130, 90, 130, 130, 90, 130])];
    hand.locked.add('locked');
    hand.paint = { ...hand.paint, claim: true, size: 400 };
    drag(new PaintTool(bench()), [110, 110], [111, 110]);
    expect(hand.claims).toEqual([['theirs', 0]]);
  });
  it('outlines add and cut by the pixel rule', () => {
    hand.paint = { ...hand.paint, mode: 'add outline' };
    const tool = new PaintTool(bench());
    for (const [x, y] of [
      [100, 100],
      [140, 100],
      [140, 140],
      [100, 140]
    ])
      press(tool, x!, y!);
    tool.finish();
    expect(pixelsOf('mine')).toBe(1600);
    hand.paint = { ...hand.paint, mode: 'cut outline' };
    for (const [x, y] of [
      [110, 110],
      [130, 110],
      [130, 130],
      [110, 130]
    ])
      press(tool, x!, y!);
    press(tool, 110, 110);
    expect(pixelsOf('mine')).toBe(1200);
    hand.paint = { ...hand.paint, mode: 'fill' };
    press(tool, 120, 120);
    expect(pixelsOf('mine')).toBe(1600);
    press(tool, 10, 10);
    expect(hand.message).toContain('gap');
    expect(pixelsOf('mine')).toBe(1600);
    press(tool, 10, 10);
    expect(pixelsOf('mine')).toBe(400 * 300);
  });
});
