import { describe, expect, it, vi } from 'vitest';
import { nameOf, Pyramid, TileStore } from './tiles';

describe('a large picture in tiles', () => {
  const pyramid = new Pyramid({ width: 12_001, height: 8_334 }, 512, 3);
  it('has the levels of the core', () => {
    expect(pyramid.sizes).toEqual([
      { width: 12_001, height: 8_334 },
      { width: 6_001, height: 4_167 },
      { width: 3_001, height: 2_084 }
    ]);
  });
  it('takes the level that is as sharp as the screen, and none where the copy for the screen is', () => {
    const screen = 2048 / 12_001;
    const at = (scale: number, ratio = 1) => pyramid.levelFor({ scale, x: 0, y: 0 }, ratio, screen);
    expect([at(0.1), at(0.17), at(0.2), at(0.25), at(0.3), at(0.5), at(0.6), at(4)]).toEqual([null, null, 2, 2, 1, 1, 0, 0]);
    expect(at(0.1, 2)).toBe(2);
  });
  it('knows which tiles a part needs, the middle first, and none outside', () => {
    const part = { x: 1000, y: 1000, width: 1200, height: 800 };
    const found = pyramid.within(part, 0);
    expect(found).toHaveLength(4 * 3);
    for (const t of found) {
      const place = pyramid.place(t);
      expect(place.x < part.x + part.width && place.x + place.width > part.x).toBe(true);
    }
    expect([found[0]!.column, found[0]!.row]).toEqual([3, 2]);
    expect(pyramid.within({ x: -500, y: -500, width: 20_000, height: 20_000 }, 2)).toHaveLength(6 * 5);
    expect(pyramid.within({ x: 13_000, y: 0, width: 100, height: 100 }, 0)).toEqual([]);
  });
  it('tiles of a level lie side by side up to the edge', () => {
    for (const level of [0, 1, 2]) {
      const { width, height } = pyramid.sizes[level]!;
      const area = pyramid
        .within({ x: 0, y: 0, width: 1e6, height: 1e6 }, level)
        .map((t) => pyramid.place(t))
        .reduce((sum, p) => sum + p.width * p.height, 0);
      expect(area).toBe(width * height * 4 ** level);
    }
  });
});

describe('tiles that are kept', () => {
  const store = (most = 4) => {
    const open = new Map<string, (tile: string | null) => void>();
    const given: string[] = [];
    const arrived = vi.fn();
    const tiles = new TileStore<string>(
      (name, done) => {
        open.set(name, done);
        return () => given.push(name);
      },
      arrived,
      most,
      2
    );
    const give = (name: string, tile: string | null = name) => {
      const done = open.get(name)!;
      open.delete(name);
      done(tile);
    };
    return { tiles, open, given, arrived, give };
  };
  it('are loaded a few at a time, and given up when they are not wanted any more', () => {
    const { tiles, open, given, give } = store();
    tiles.want(['a', 'b', 'c']);
    expect([...open.keys()]).toEqual(['a', 'b']);
    give('a');
    expect([...open.keys()]).toEqual(['b', 'c']);
    tiles.want(['c', 'd']);
    expect(given).toEqual(['b']);
    // what comes all the same is not taken for wanted
    give('b');
    expect(tiles.get('b')).toBeUndefined();
    expect([...open.keys()]).toEqual(['c', 'd']);
  });
  it('go when there are too many, the longest unused first', () => {
    const { tiles, give } = store(2);
    for (const name of ['a', 'b']) {
      tiles.want([name]);
      give(name);
    }
    tiles.get('a');
    tiles.want(['c']);
    give('c');
    expect([tiles.get('a'), tiles.get('b'), tiles.get('c'), tiles.size]).toEqual(['a', undefined, 'c', 2]);
  });
  it('are asked for again after a while when they could not be had', () => {
    vi.useFakeTimers();
    const { tiles, open, give, arrived } = store();
    tiles.want(['a']);
    give('a', null);
    tiles.want(['a']);
    expect(open.size).toBe(0);
    vi.advanceTimersByTime(5001);
    expect(arrived).toHaveBeenCalledTimes(1);
    tiles.want(['a']);
    give('a');
    expect([tiles.get('a'), nameOf({ level: 0, column: 1, row: 2 })]).toEqual(['a', '0/1/2']);
    vi.useRealTimers();
  });
  it('load nothing after the picture was closed', () => {
    const { tiles, open, given } = store();
    tiles.want(['a', 'b', 'c']);
    tiles.close();
    expect(given).toEqual(['a', 'b']);
    open.get('a')!('a');
    expect([tiles.size, open.has('c')]).toEqual([0, false]);
  });
});
