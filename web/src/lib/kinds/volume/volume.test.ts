// @vitest-environment jsdom
import { Editor } from '$lib/edits/editor.svelte';
import { area, toMask, type Edges } from '$lib/plane/raster';
import { pixels } from '$lib/plane/shapes/mask';
import type { Hand } from '$lib/edits/hand.svelte';
import type { Mark, Mask, Stretch } from '$lib/words/mark';
import { beforeEach, describe, expect, it, vi } from 'vitest';
import { Tray, wordsOf } from '../../../test/plane';
import { facings, placeOn, spotAt, type Facing, type Spot } from './facing';
import { Growing } from './grow.svelte';
import type { Direction, Index } from './planes';
import { millimetres, section, slicesChanged } from './section';
import { VolumeTracks } from './tracks.svelte';
import { Windowing } from './window.svelte';

const SIZES: Spot = [7, 6, 5];
const index = (spacing: [number, number, number] = [1, 1, 1.4], letters: Index['letters'] = ['L', 'P', 'S']): Index => ({
  sizes: SIZES,
  spacing,
  letters,
  stored: { slope: 0.5, intercept: -100 },
  windows: [
    { name: 'usual', level: 0, width: 100 },
    { name: 'whole range', level: 100, width: 400 }
  ],
  planes: {
    xy: { width: 7, height: 6, lengths: [] },
    xz: { width: 7, height: 5, lengths: [] },
    yz: { width: 6, height: 5, lengths: [] }
  }
});
/** voxels of a body by a rule, as runs of each slice */
const body =
  (is: (x: number, y: number, z: number) => boolean) =>
  (z: number): Edges => {
    const edges: Edges = [];
    for (let x = 0; x < SIZES[0]; x++)
      for (let y = 0; y < SIZES[1]; y++)
        if (is(x, y, z)) {
          const n = x * SIZES[1] + y;
          if (edges.at(-1) === n) edges[edges.length - 1] = n + 1;
          else edges.push(n, n + 1);
        }
    return edges;
  };
const inside = (edges: Edges, n: number) => edges.findIndex((e) => e > n) % 2 === 1;
const odd = (x: number, y: number, z: number) => (x * 5 + y * 3 + z * 7) % 4 < 2;

describe('planes that stand on the slices', () => {
  for (const spacing of [
    [1, 1, 1],
    [1, 1, 1.4],
    [0.7, 0.9, 3]
  ] as [number, number, number][])
    for (const direction of ['xz', 'yz'] as Direction[])
      for (const letters of [['L', 'P', 'S'], null] as Index['letters'][])
        it(`show of a body what a look at every pixel shows (${direction}, ${spacing.join(' × ')} mm, ${letters ? 'a body' : 'nobody knows'})`, () => {
          const f = facings(index(spacing, letters))[direction];
          const at: Spot = [3, 2, 1];
          const edges = section(body(odd), [[0, 4]], f, SIZES, at);
          for (let u = 0; u < f.width; u++)
            for (let v = 0; v < f.height; v++) {
              const [x, y, z] = spotAt(f, SIZES, at, { x: u + 0.5, y: v + 0.5 });
              expect(inside(edges, u * f.height + v), `${u} ${v}`).toBe(odd(x, y, z));
            }
        });
  it('have their true proportions, and up is up where it is known', () => {
    const { xz } = facings(index([0.5, 0.5, 2]));
    expect([xz.width, xz.height, xz.mm]).toEqual([7, 20, 0.5]);
    expect(xz.letters).toEqual({ left: 'R', right: 'L', up: 'S', low: 'I' });
    expect(facings(index([0.5, 0.5, 2], null)).xz.turned.down).toBe(false);
    const spot: Spot = [4, 3, 2];
    for (const f of Object.values(facings(index([0.5, 0.8, 2])))) {
      const back = spotAt(f, SIZES, spot, placeOn(f, SIZES, spot));
      expect(back).toEqual(spot);
    }
  });
  it('say what a change on them means for each slice, and nothing else', () => {
    for (const f of [facings(index()).xz, facings(index([0.7, 0.9, 3])).yz]) {
      const at: Spot = [3, 2, 1];
      const before = section(body(odd), [[0, 4]], f, SIZES, at);
      const other = (x: number, y: number, z: number) => (x + y + z) % 3 === 0;
      const after = section(body(other), [[0, 4]], f, SIZES, at);
      const changes = slicesChanged(before, after, f, SIZES, at);
      for (let z = 0; z < SIZES[2]; z++)
        for (let x = 0; x < SIZES[0]; x++)
          for (let y = 0; y < SIZES[1]; y++) {
            const n = x * SIZES[1] + y;
            const on = f.through === 1 ? y === at[1] : x === at[0];
            const change = changes.get(z) ?? { come: [], gone: [] };
            expect(inside(change.come, n)).toBe(on && other(x, y, z) && !odd(x, y, z));
            expect(inside(change.gone, n)).toBe(on && !other(x, y, z) && odd(x, y, z));
          }
    }
  });
  it('are as far from each other as they are in mm', () => {
    expect(millimetres([0, 0, 0], [3, 4, 0], [1, 1, 5])).toBe(5);
    expect(millimetres([0, 0, 0], [0, 0, 2], [1, 1, 5])).toBe(10);
  });
});

const A = '01AAAAAAAAAAAAAAAAAAAAAAAA';
/** A volume with an editor, without bench or server. */
function volume() {
  const tray = new Tray();
  const editor = new Editor({ project: 1, turn: 2, user: 3 }, wordsOf(), tray);
  editor.take(7, [], { answers: {}, tags: [], stretches: [], revision: 0, author_id: null, source: 'hand' }, [], []);
  const said: string[] = [];
  const size = { width: SIZES[0], height: SIZES[1] };
  const tracks = new VolumeTracks(
    size,
    editor,
    7,
    SIZES[2],
    (m) => said.push(m),
    // between two keys there is what the first has
    (_mark, wanted, first, last) => Promise.resolve(Array.from({ length: last - first + 1 }, () => wanted.from.geometry!)),
    () => false,
    'slice'
  );
  const all = facings(index([1, 1, 1]));
  const look = (direction: Direction, cross: Spot) => tracks.lie({ facing: all[direction], sizes: SIZES, cross });
  look('xy', [3, 2, 1]);
  const mask = (edges: Edges, f: { width: number; height: number } = size): Mask => toMask(edges, f.width, f.height);
  const draw = (edges: Edges, f?: Facing) => {
    const mark = { ...blank, geometry: mask(edges, f) } as unknown as Mark;
    editor.change([{ subject: A, item: 7, before: null, after: mark }]);
  };
  const paint = (edges: Edges, f?: Facing) => {
    const before = editor.marks.get(A)!;
    editor.change([{ subject: A, item: 7, before, after: { ...before, geometry: mask(edges, f) } as Mark }]);
  };
  const on = (z: number): Edges => {
    const mark = editor.marks.get(A)!;
    return tracks.slices(mark, tracks.of(A)!)(z);
  };
  const there = (): Stretch[] => (editor.marks.get(A)?.stretches ?? []) as Stretch[];
  const shown = () => {
    const m = editor.marks.get(A)!;
    return m.away ? null : pixels(m.geometry as Mask).edges;
  };
  const keys = () => editor.keys.of(A).map((k) => k.place);
  return { tray, editor, tracks, said, all, look, draw, paint, on, there, shown, keys, size };
}
const blank = {
  id: A,
  class: 'apple',
  kind: 'mask',
  answers: {},
  stack: null,
  part_of: null,
  flags: [],
  stretches: null,
  place: null,
  revision: 0,
  author: 3,
  source: 'hand'
};
let v: ReturnType<typeof volume>;
beforeEach(() => (v = volume()));

describe('a hand on a volume', () => {
  it('paints on one slice and it is on that alone; on another one, and it is on those between too', () => {
    v.draw([8, 10]);
    expect(v.there()).toEqual([[1, 1]]);
    v.look('xy', [3, 2, 4]);
    expect(v.shown()).toBeNull();
    // what is not here is empty under the brush
    expect(pixels(v.editor.marks.get(A)!.geometry as Mask).edges).toEqual([]);
    v.paint([14, 16]);
    expect([v.there(), v.keys(), v.on(4)]).toEqual([[[1, 4]], [1, 4], [14, 16]]);
    expect(v.said.at(-1)).toContain('the 2 slices between are worked out');
    v.editor.undo();
    expect(v.there()).toEqual([[1, 1]]);
  });
  it('wipes its last pixel off a slice and it is not on that one any more; off the only one, and it is gone', () => {
    v.draw([8, 10]);
    v.look('xy', [3, 2, 2]);
    v.paint([8, 10]);
    v.look('xy', [3, 2, 3]);
    v.paint([8, 11]);
    v.look('xy', [3, 2, 2]);
    v.paint([]);
    expect([v.there(), v.keys()]).toEqual([
      [
        [1, 1],
        [3, 3]
      ],
      [1, 3]
    ]);
    v.look('xy', [3, 2, 1]);
    v.paint([]);
    v.look('xy', [3, 2, 3]);
    v.paint([]);
    expect(v.editor.marks.get(A)).toBeUndefined();
  });
  it('paints on a plane that stands on the slices and they change where it crosses them, the others stay', () => {
    v.draw([8, 10, 14, 16]);
    v.look('xy', [3, 2, 4]);
    v.paint([8, 10, 14, 16]);
    const f = v.all.xz;
    v.look('xz', [3, 2, 1]);
    // row y 2 of the slices: x 1 and x 2 hold it, on slices 1 to 4; up is up
    expect(v.shown()).toEqual([1 * 5 + 0, 1 * 5 + 4, 2 * 5 + 0, 2 * 5 + 4]);
    // a stroke over x 3 from slice 2 to 3
    v.paint([1 * 5, 1 * 5 + 4, 2 * 5, 2 * 5 + 4, 3 * 5 + 1, 3 * 5 + 3], f);
    expect(v.on(2)).toEqual([8, 10, 14, 16, 20, 21]);
    expect(v.on(3)).toEqual([8, 10, 14, 16, 20, 21]);
    expect([v.on(1), v.on(4)]).toEqual([
      [8, 10, 14, 16],
      [8, 10, 14, 16]
    ]);
    expect(v.keys()).toEqual([1, 2, 3, 4]);
    // and takes away all there is on the row from slice 4
    v.paint([1 * 5 + 1, 1 * 5 + 4, 2 * 5 + 1, 2 * 5 + 4, 3 * 5 + 1, 3 * 5 + 3], f);
    expect(v.on(4)).toEqual([9, 10, 15, 16]);
    expect(v.there()).toEqual([[1, 4]]);
    v.editor.undo();
    v.editor.undo();
    expect(v.on(2)).toEqual([8, 10, 14, 16]);
  });
  it('begins an object there: it is on the slices the stroke crosses', () => {
    const f = v.all.yz;
    v.look('yz', [3, 2, 1]);
    // y 4, from slice 1 to 3 (down is from above)
    v.draw([4 * 5 + 1, 4 * 5 + 4], f);
    expect([v.there(), v.keys()]).toEqual([[[1, 3]], [1, 2, 3]]);
    for (const z of [1, 2, 3]) expect(v.on(z)).toEqual([3 * 6 + 4, 3 * 6 + 5]);
  });
  it('leaves outlines to the slices they are drawn on', () => {
    v.look('xz', [3, 2, 1]);
    const mark = { ...blank, kind: 'box', geometry: { x: 1, y: 1, width: 2, height: 2 } } as unknown as Mark;
    v.editor.change([{ subject: A, item: 7, before: null, after: mark }]);
    expect(v.editor.marks.get(A)).toBeUndefined();
    expect(v.said.at(-1)).toContain('only masks');
    v.look('xy', [3, 2, 1]);
    v.editor.change([{ subject: A, item: 7, before: null, after: mark }]);
    v.look('xz', [3, 2, 1]);
    expect(v.editor.marks.get(A)!.away).toBe(true);
    // the plane beside shows what it covers
    expect(area(v.tracks.cut(v.editor.marks.get(A)!, v.all.xz, SIZES, [3, 2, 1]))).toBe(2);
  });
  it('takes an object to a slice as it is on its nearest, and away from one', () => {
    v.draw([8, 10]);
    v.look('xy', [3, 2, 3]);
    v.editor.change(v.tracks.hereToo(v.editor.marks.get(A)!));
    expect([v.there(), v.on(3)]).toEqual([[[1, 3]], [8, 10]]);
    v.look('xy', [3, 2, 2]);
    v.editor.change(v.tracks.notHere(v.editor.marks.get(A)!));
    expect(v.there()).toEqual([
      [1, 1],
      [3, 3]
    ]);
  });
});

describe('growing', () => {
  const hand = { one: null as Mark | null, locked: new Set<string>(), select: vi.fn() };
  const grown = () => ({
    slices: [2, 3].map((place) => ({ place, geometry: toMask([8, 12], 7, 6) })),
    voxels: 8,
    ml: 0.01,
    cut: false
  });
  function begin(ask = vi.fn(() => Promise.resolve(grown()))) {
    const growing = new Growing(
      {
        grow: ask,
        chosen: { active: 'apple' },
        user: 3,
        say: (m: string) => v.said.push(m),
        editor: v.editor,
        hand: hand as unknown as Hand
      } as never,
      7,
      v.tracks,
      v.size
    );
    growing.begin(80, 100);
    return { growing, ask };
  }
  beforeEach(() => {
    hand.one = null;
    hand.select.mockClear();
  });
  it('asks within a range round what is measured under the press, and is a new object when it is taken', async () => {
    const { growing, ask } = begin();
    growing.from([3, 2, 2], 50);
    await vi.waitFor(() => expect(growing.found).not.toBeNull());
    expect(ask.mock.calls[0]![0 as never]).toEqual({ seed: [3, 2, 2], low: 40, high: 60, distance: 25 });
    expect(v.editor.marks.ids).toEqual([]);
    expect(growing.take()).toBe(true);
    const [id] = v.editor.marks.ids;
    expect(v.editor.marks.get(id!)!.stretches).toEqual([[2, 3]]);
    expect(v.editor.keys.of(id!).map((k) => k.place)).toEqual([2, 3]);
    expect(hand.select).toHaveBeenCalledWith(id);
    expect(growing.active).toBe(false);
  });
  it('belongs to the mask of the class in hand', async () => {
    v.draw([8, 10]);
    hand.one = v.editor.marks.get(A)!;
    const { growing } = begin();
    growing.from([3, 2, 2], 50);
    await vi.waitFor(() => expect(growing.found).not.toBeNull());
    growing.take();
    expect([v.there(), v.on(1), v.on(2)]).toEqual([[[1, 3]], [8, 10], [8, 12]]);
  });
  it('forgets what was asked for before, also when it comes late, and says when nothing can be grown', async () => {
    let late: (found: ReturnType<typeof grown>) => void = () => {};
    const ask = vi
      .fn()
      .mockImplementationOnce(() => new Promise((resolve) => (late = resolve)))
      .mockImplementationOnce(() => Promise.reject(new Error('seed is outside')));
    const { growing } = begin(ask as never);
    growing.from([3, 2, 2], 50);
    growing.from([4, 2, 2], 50);
    late(grown());
    await vi.waitFor(() => expect(v.said.at(-1)).toContain('seed is outside'));
    expect(growing.found).toBeNull();
    expect(growing.leave()).toBe(true);
    expect(growing.leave()).toBe(false);
  });
});

describe('the window', () => {
  it('opens a scan as it is seen best until a hand has set it', () => {
    const window = new Windowing();
    window.open(index());
    expect([window.level, window.width]).toEqual([0, 100]);
    // kept 200 is measured as 0: half grey; 400 as 100: white
    expect(window.table[200]! & 0xff).toBe(128);
    expect(window.table[400]! & 0xff).toBe(255);
    expect(window.table[0]! & 0xff).toBe(0);
    window.invert();
    expect(window.table[0]! & 0xff).toBe(255);
    window.set(50, 10);
    window.open(index());
    expect([window.level, window.width]).toEqual([50, 10]);
    expect(window.next()?.name).toBe('usual');
    expect(window.next()?.name).toBe('whole range');
    window.set(1, 0);
    expect(window.width).toBe(0.5);
  });
});
