import { describe, expect, it } from 'vitest';
import vectors from '../../../../core/tests/vectors/scan.json';
import { area, columns, counts, decode, encode, fill, has, scan, stroke, union, without, type Edges } from './raster';

type Vector = { name: string; width: number; height: number; rings: number[][]; counts: number[]; compressed: string };

const rows = (edges: Edges, width: number, height: number): string[] =>
  Array.from({ length: height }, (_, y) => Array.from({ length: width }, (_, x) => (has(edges, x, y, height) ? '#' : '.')).join(''));
const of = (lines: string[]): Edges => {
  const edges: Edges = [];
  const height = lines.length;
  for (let x = 0; x < lines[0]!.length; x++)
    for (let y = 0; y < height; y++)
      if (lines[y]![x] === '#') {
        const at = x * height + y;
        if (edges.length > 0 && edges[edges.length - 1] === at) edges[edges.length - 1] = at + 1;
        else edges.push(at, at + 1);
      }
  return edges;
};

describe('masks in the browser', () => {
  it.each(vectors as Vector[])('paint the same pixels as the core: $name', (v) => {
    const edges = scan(v.rings, v.width, v.height);
    expect(counts(edges, v.width * v.height)).toEqual(v.counts);
    expect(encode(edges, v.width * v.height)).toBe(v.compressed);
    expect(decode(v.compressed)).toEqual(edges);
  });
  it('know runs of pictures with more than 2^31 pixels', () => {
    const edges = [3_000_000_000, 3_000_000_007];
    expect(decode(encode(edges, 4_000_000_000))).toEqual(edges);
  });
  it('combine as sets', () => {
    const a = of(['##..', '##..', '....']);
    const b = of(['.##.', '.##.', '.##.']);
    expect(rows(union(a, b), 4, 3)).toEqual(['###.', '###.', '.##.']);
    expect(rows(without(a, b), 4, 3)).toEqual(['#...', '#...', '....']);
    expect(area(b)).toBe(6);
  });
  it('give their runs column by column', () => {
    const seen: number[][] = [];
    columns([2, 7], 3, (x, from, to) => seen.push([x, from, to]));
    expect(seen).toEqual([
      [0, 2, 3],
      [1, 0, 3],
      [2, 0, 1]
    ]);
  });
  it('are filled up to their rim, and no further', () => {
    const rim = of(['.....', '.###.', '.#.#.', '.###.', '.....']);
    expect(rows(fill(rim, 2.5, 2.5, 5, 5), 5, 5)).toEqual(['.....', '.###.', '.###.', '.###.', '.....']);
    expect(area(fill(rim, 0, 0, 5, 5))).toBe(24);
    expect(fill(rim, 1, 1, 5, 5)).toEqual(rim);
    // a diagonal gap is no gap
    expect(rows(fill(of(['.#.', '#..', '...']), 0, 0, 3, 3), 3, 3)).toEqual(['##.', '#..', '...']);
  });
  it('are painted by a round brush: a dot is a disc, a stroke reaches both its ends', () => {
    const dot = scan([stroke(20, 20, 20, 20, 8)], 40, 40);
    expect(Math.abs(area(dot) - Math.PI * 64)).toBeLessThan(10);
    const line = scan([stroke(10, 20, 30, 20, 4)], 40, 40);
    expect(has(line, 7, 20, 40) && has(line, 33, 20, 40) && has(line, 20, 17, 40)).toBe(true);
    expect(has(line, 5, 20, 40) || has(line, 20, 25, 40)).toBe(false);
  });
});
