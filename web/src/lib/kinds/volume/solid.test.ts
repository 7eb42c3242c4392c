import { describe, expect, it } from 'vitest';
import type { Edges } from '$lib/plane/raster';
import { surface, volumeOf } from './solid';

/** A body by a rule, as runs by slice. */
function body(size: number, is: (x: number, y: number, z: number) => boolean): Map<number, Edges> {
  const slices = new Map<number, Edges>();
  for (let z = 0; z < size; z++) {
    const edges: Edges = [];
    for (let x = 0; x < size; x++)
      for (let y = 0; y < size; y++)
        if (is(x, y, z)) {
          const n = x * size + y;
          if (edges.at(-1) === n) edges[edges.length - 1] = n + 1;
          else edges.push(n, n + 1);
        }
    slices.set(z, edges);
  }
  return slices;
}
const ball = (r: number, c: number) => (x: number, y: number, z: number) => (x - c) ** 2 + (y - c) ** 2 + (z - c) ** 2 <= r * r;

describe('the surface of an object', () => {
  it('is closed: every edge is of two triangles, once each way', () => {
    const { triangles } = surface(body(20, ball(7, 9.5)), 20, [1, 1, 1]);
    const edges = new Map<string, number>();
    for (let t = 0; t < triangles.length; t += 3)
      for (let k = 0; k < 3; k++) {
        const [a, b] = [triangles[t + k]!, triangles[t + ((k + 1) % 3)]!];
        edges.set(`${a} ${b}`, (edges.get(`${a} ${b}`) ?? 0) + 1);
      }
    for (const [edge, count] of edges) {
      const [a, b] = edge.split(' ');
      expect(count).toBe(1);
      expect(edges.get(`${b} ${a}`)).toBe(1);
    }
  });
  it('of a ball has no holes through it, of a ring one (Euler)', () => {
    const euler = (slices: Map<number, Edges>, size: number) => {
      const { corners, triangles } = surface(slices, size, [1, 1, 1]);
      return corners.length / 3 - triangles.length / 2 + triangles.length / 3;
    };
    expect(euler(body(20, ball(7, 9.5)), 20)).toBe(2);
    const ring = (x: number, y: number, z: number) => (Math.hypot(x - 14.5, y - 14.5) - 9) ** 2 + (z - 14.5) ** 2 <= 9.5;
    expect(euler(body(30, ring), 30)).toBe(0);
  });
  it('holds about as much as the voxels, in mm, and looks outward', () => {
    const r = 12;
    const slices = body(30, ball(r, 14.5));
    const volume = volumeOf(surface(slices, 30, [0.5, 0.5, 2]));
    expect(volume).toBeGreaterThan(0);
    expect(Math.abs(volume / ((4 / 3) * Math.PI * r ** 3 * 0.5) - 1)).toBeLessThan(0.06);
  });
  it('lies where the voxels are', () => {
    const { corners } = surface(new Map([[4, [3 * 10 + 2, 3 * 10 + 6]]]), 10, [1, 2, 3]);
    const range = (k: number) => {
      const of = [...corners].filter((_, i) => i % 3 === k);
      return [Math.min(...of), Math.max(...of)];
    };
    // one voxel at x 3 and slice 4, four from y 2 to 5
    const [x, y, z] = [range(0), range(1), range(2)];
    expect((x[0]! + x[1]!) / 2).toBeCloseTo(3.5, 5);
    expect((y[0]! + y[1]!) / 2).toBeCloseTo(4 * 2, 5);
    expect((z[0]! + z[1]!) / 2).toBeCloseTo(4.5 * 3, 5);
    expect(y[0]!).toBeGreaterThanOrEqual(3);
    expect(y[1]!).toBeLessThanOrEqual(13);
  });
  it('of nothing is nothing', () => {
    expect(surface(new Map([[1, []]]), 10, [1, 1, 1]).triangles.length).toBe(0);
  });
});
