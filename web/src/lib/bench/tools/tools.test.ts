import { beforeEach, describe, expect, it } from 'vitest';
import type { Bench } from '../bench.svelte';
import type { Mark, Shape } from '../types';
import { BoxTool } from './dragged';
import { PickTool, PinTool } from './pick';
import { markAt } from './tool';

const mark = (id: string, x: number, y: number, width: number, height: number): Mark => ({
  id,
  class: 'apple',
  kind: 'box',
  geometry: { x, y, width, height },
  answers: {},
  stack: null,
  part_of: null,
  flags: [],
  revision: 1,
  author: 1,
  source: 'hand'
});

/** What the tools use of the bench, and what they did to it. */
class Hand {
  marks: Mark[] = [];
  selected: string | null = null;
  hovered: string | null = null;
  editable = true;
  view = { scale: 1, x: 0, y: 0 };
  picture = { width: 400, height: 300 };
  active = 'apple';
  pinAt: unknown = null;
  others: string[] = [];
  locked = new Set<string>();
  point: string | null = null;
  drawn: unknown[] = [];
  reshaped: [string, unknown][] = [];
  get mark() {
    return this.marks.find((m) => m.id === this.selected);
  }
  light = () => '#ffffff';
  nameOf = (key: string) => key;
  select = (id: string | null) => (this.selected = id);
  bones = () => [];
  snapped = (p: { x: number; y: number }) => p;
  take = (marks: Mark[]) =>
    ([this.selected, ...this.others] = [marks[0]?.id ?? null, ...marks.slice(1).map((m) => m.id)] as [string | null, ...string[]]);
  also = (id: string) => this.others.push(id);
  draw = (shape: Shape) => this.drawn.push(shape.geometry);
  reshape = (m: Mark, shape: Shape) => this.reshaped.push([m.id, shape.geometry]);
}
let hand: Hand;
const bench = () => hand as unknown as Bench;
beforeEach(() => (hand = new Hand()));

describe('the box tool', () => {
  it('draws by dragging, in any direction, and stops at the edge of the picture', () => {
    const tool = new BoxTool(bench());
    tool.down({ x: 120, y: 90 });
    tool.move({ x: 80, y: 60 });
    expect(tool.preview()?.shape?.geometry).toEqual({ x: 80, y: 60, width: 40, height: 30 });
    tool.up({ x: -50, y: 20 });
    expect(hand.drawn).toEqual([{ x: 0, y: 20, width: 120, height: 70 }]);
    expect(tool.preview()).toBeNull();
  });
  it('draws by two presses, and Esc between them gives up', () => {
    const tool = new BoxTool(bench());
    const press = (x: number, y: number) => {
      tool.down({ x, y });
      tool.up({ x, y });
    };
    press(10, 10);
    expect(tool.tag({ x: 10, y: 10 }).word).toBe('far corner');
    expect(tool.cancel()).toBe(true);
    expect(hand.drawn).toEqual([]);
    press(10, 10);
    tool.move({ x: 60, y: 50 });
    press(60, 50);
    expect(hand.drawn).toEqual([{ x: 10, y: 10, width: 50, height: 40 }]);
  });
  it('leaves no mark of no size: two presses on one spot draw nothing', () => {
    const tool = new BoxTool(bench());
    for (let i = 0; i < 2; i++) {
      tool.down({ x: 10, y: 10 });
      tool.up({ x: 10, y: 10 });
    }
    expect(hand.drawn).toEqual([]);
    expect(tool.preview()).toBeNull();
  });
  it('pulls a handle of the mark in hand instead of drawing over it', () => {
    hand.marks = [mark('a', 100, 100, 50, 40)];
    hand.selected = 'a';
    const tool = new BoxTool(bench());
    expect(tool.tag({ x: 150, y: 140 }).word).toBe('resize');
    expect(tool.cursor({ x: 150, y: 140 })).toBe('nwse-resize');
    tool.down({ x: 150, y: 140 });
    tool.move({ x: 170, y: 150 });
    tool.up({ x: 170, y: 150 });
    expect(hand.reshaped).toEqual([['a', { x: 100, y: 100, width: 70, height: 50 }]]);
    expect(hand.drawn).toEqual([]);
    expect(tool.cursor({ x: 20, y: 20 })).toBe('crosshair');
  });
});

describe('the pick tool', () => {
  const drag = (tool: PickTool, x1: number, y1: number, x2: number, y2: number) => {
    tool.down({ x: x1, y: y1 });
    tool.move({ x: x2, y: y2 });
    tool.up({ x: x2, y: y2 });
  };
  it('takes the smaller of two marks, and on a second press the one beneath, round and round', () => {
    hand.marks = [mark('large', 0, 0, 200, 200), mark('small', 80, 80, 40, 40)];
    const tool = new PickTool(bench());
    for (const expected of ['small', 'large', 'small']) {
      tool.down({ x: 100, y: 100 });
      tool.up({ x: 100, y: 100 });
      expect(hand.selected).toBe(expected);
    }
    tool.down({ x: 350, y: 250 });
    tool.up({ x: 350, y: 250 });
    expect(hand.selected).toBeNull();
  });
  it('moves what it takes, but a press that hardly moves changes nothing', () => {
    hand.marks = [mark('a', 100, 100, 50, 40)];
    const tool = new PickTool(bench());
    drag(tool, 120, 120, 121, 121);
    expect(hand.reshaped).toEqual([]);
    drag(tool, 120, 120, 150, 110);
    expect(hand.reshaped).toEqual([['a', { x: 130, y: 90, width: 50, height: 40 }]]);
  });
  it('at another zoom a hardly moved press is measured on the screen, not on the picture', () => {
    hand.view = { scale: 10, x: 0, y: 0 };
    hand.marks = [mark('a', 10, 10, 20, 20)];
    drag(new PickTool(bench()), 20, 20, 20.5, 20);
    expect(hand.reshaped).toEqual([['a', { x: 10.5, y: 10, width: 20, height: 20 }]]);
  });
  it('takes all marks a drag from an empty place encloses, and one more with Shift', () => {
    hand.marks = [mark('a', 100, 100, 50, 40), mark('b', 200, 100, 50, 40), mark('c', 300, 200, 50, 40)];
    const tool = new PickTool(bench());
    drag(tool, 90, 90, 260, 160);
    expect([hand.selected, hand.others]).toEqual(['a', ['b']]);
    expect(hand.reshaped).toEqual([]);
    tool.down({ x: 320, y: 220 }, { shift: true });
    tool.up({ x: 320, y: 220 });
    expect(hand.others).toEqual(['b', 'c']);
  });
  it('leaves a locked mark where it is', () => {
    hand.marks = [mark('a', 100, 100, 50, 40)];
    hand.locked.add('a');
    const tool = new PickTool(bench());
    drag(tool, 120, 120, 200, 200);
    expect(hand.reshaped).toEqual([]);
    expect(tool.tag({ x: 120, y: 120 }).word).toBe('locked');
  });
  it('changes nothing where one only looks', () => {
    hand.editable = false;
    hand.marks = [mark('a', 100, 100, 50, 40)];
    const tool = new PickTool(bench());
    drag(tool, 120, 120, 200, 200);
    expect(hand.selected).toBe('a');
    expect(hand.reshaped).toEqual([]);
    expect(tool.tag({ x: 120, y: 120 }).word).toBe('pick');
  });
  it('Esc in the middle of a move leaves the mark where it was', () => {
    hand.marks = [mark('a', 100, 100, 50, 40)];
    const tool = new PickTool(bench());
    tool.down({ x: 120, y: 120 });
    tool.move({ x: 200, y: 200 });
    expect(tool.preview()?.shape?.geometry).toMatchObject({ x: 180 });
    expect(tool.cancel()).toBe(true);
    tool.up({ x: 200, y: 200 });
    expect(hand.reshaped).toEqual([]);
  });
});

describe('pins', () => {
  it('lie on the picture and know the mark beneath', () => {
    hand.marks = [mark('a', 100, 100, 50, 40)];
    const tool = new PinTool(bench());
    tool.up({ x: 110, y: 110 });
    expect(hand.pinAt).toEqual({ x: 110, y: 110, mark: 'a' });
    tool.up({ x: 999, y: -5 });
    expect(hand.pinAt).toEqual({ x: 400, y: 0, mark: null });
    expect(tool.cancel()).toBe(true);
    expect(tool.cancel()).toBe(false);
  });
});

describe('what lies under the pointer', () => {
  it('is the mark whose edge is nearest before those one is inside of', () => {
    hand.marks = [mark('around', 0, 0, 300, 300), mark('edge', 100, 0, 100, 300)];
    expect(markAt(bench(), { x: 102, y: 150 })?.id).toBe('edge');
    expect(markAt(bench(), { x: 2, y: 150 })?.id).toBe('around');
    expect(markAt(bench(), { x: 390, y: 150 })).toBeNull();
  });
});
