import { columns, type Edges } from '$lib/plane/raster';
import type { Spot } from './facing';

/** A surface of triangles: corners x, y, z in mm, and three numbers of corners a triangle, seen from outside against the clock. */
export type Surface = { corners: Float32Array; triangles: Uint32Array };

/** Cells of the box round an object; of a larger one only every second, third … voxel is looked at. */
const MOST_CELLS = 3_000_000;
/** Rounds in which every corner moves towards the middle of its neighbours, within its cell. */
const ROUNDS = 3;

/**
 * The surface of an object, from what it covers of each slice.
 *
 * Method: surface nets (S. F. F. Gibson, "Constrained elastic surface nets", 1998): a corner in every cell of eight voxels that are not all alike,
 * a square across every edge between a voxel inside and one outside; then the net is drawn tight, each corner staying in its cell.
 *
 * @param slices runs of voxels by slice, column by column
 * @param height voxels of a column
 * @param spacing mm along x, y and the slices
 */
export function surface(slices: ReadonlyMap<number, Edges>, height: number, spacing: readonly number[]): Surface {
  let [x0, y0, z0, x1, y1, z1] = [Infinity, Infinity, Infinity, -Infinity, -Infinity, -Infinity];
  for (const [z, edges] of slices) {
    if (edges.length === 0) continue;
    [z0, z1] = [Math.min(z0, z), Math.max(z1, z)];
    columns(edges, height, (x, from, to) => {
      [x0, x1, y0, y1] = [Math.min(x0, x), Math.max(x1, x), Math.min(y0, from), Math.max(y1, to - 1)];
    });
  }
  if (x0 > x1) return { corners: new Float32Array(0), triangles: new Uint32Array(0) };
  const step = Math.max(1, Math.ceil(Math.cbrt(((x1 - x0 + 3) * (y1 - y0 + 3) * (z1 - z0 + 3)) / MOST_CELLS)));
  // a voxel of nothing all round, so that the surface is closed
  const [w, h, d] = [x1 - x0, y1 - y0, z1 - z0].map((n) => Math.floor(n / step) + 3) as Spot;
  const inside = new Uint8Array(w * h * d);
  for (const [z, edges] of slices) {
    if ((z - z0) % step !== 0) continue;
    const slice = (((z - z0) / step + 1) * h + 1) * w + 1;
    columns(edges, height, (x, from, to) => {
      if ((x - x0) % step !== 0) return;
      for (let y = from + ((step - ((from - y0) % step)) % step); y < to; y += step)
        inside[slice + ((y - y0) / step) * w + (x - x0) / step] = 1;
    });
  }
  return tightened(net(inside, w, h, d), [x0, y0, z0], step, spacing);
}

type Net = { cells: Int32Array; at: number[]; squares: number[]; w: number; h: number };

/** A corner for each cell that is not all alike, and the squares between them. */
function net(inside: Uint8Array, w: number, h: number, d: number): Net {
  const number = new Int32Array(w * h * d).fill(-1);
  const at: number[] = [];
  const cells: number[] = [];
  const plane = w * h;
  const offsets = [0, 1, w, w + 1, plane, plane + 1, plane + w, plane + w + 1];
  for (let z = 0; z < d - 1; z++)
    for (let y = 0; y < h - 1; y++)
      for (let x = 0, i = z * plane + y * w; x < w - 1; x++, i++) {
        let sum = 0;
        for (let k = 0; k < 8; k++) sum += inside[i + offsets[k]!]!;
        if (sum === 0 || sum === 8) continue;
        number[i] = cells.length;
        cells.push(i);
        at.push(...begin(inside, i, offsets, x, y, z));
      }
  const squares: number[] = [];
  for (let z = 0; z < d - 1; z++)
    for (let y = 0; y < h - 1; y++)
      for (let x = 0, i = z * plane + y * w; x < w - 1; x++, i++) {
        const here = inside[i]!;
        // round the edge to the next voxel along each axis lie four cells; in the rim of nothing there is none to cross
        if (y > 0 && z > 0 && here !== inside[i + 1]!) square(squares, number, here === 1, i - w - plane, i - plane, i, i - w);
        if (x > 0 && z > 0 && here !== inside[i + w]!) square(squares, number, here === 1, i - plane - 1, i - 1, i, i - plane);
        if (x > 0 && y > 0 && here !== inside[i + plane]!) square(squares, number, here === 1, i - 1 - w, i - w, i, i - 1);
      }
  return { cells: Int32Array.from(cells), at, squares, w, h };
}
/** Where a corner lies at first: the middle of where the surface crosses the edges of its cell. */
function begin(inside: Uint8Array, i: number, offsets: number[], x: number, y: number, z: number): [number, number, number] {
  let [sx, sy, sz, n] = [0, 0, 0, 0];
  for (let a = 0; a < 8; a++)
    for (const bit of [1, 2, 4]) {
      const b = a | bit;
      if (a & bit || inside[i + offsets[a]!] === inside[i + offsets[b]!]) continue;
      sx += ((a & 1) + (b & 1)) / 2;
      sy += (((a >> 1) & 1) + ((b >> 1) & 1)) / 2;
      sz += ((a >> 2) + (b >> 2)) / 2;
      n++;
    }
  return [x + sx / n, y + sy / n, z + sz / n];
}
function square(squares: number[], number: Int32Array, outward: boolean, a: number, b: number, c: number, d: number): void {
  const [p, q, r, s] = [number[a]!, number[b]!, number[c]!, number[d]!];
  if (outward) squares.push(p, q, r, s);
  else squares.push(s, r, q, p);
}

/** The net drawn tight, in mm. */
function tightened({ cells, at, squares, w, h }: Net, from: Spot, step: number, spacing: readonly number[]): Surface {
  const count = cells.length;
  const plane = w * h;
  for (let round = 0; round < ROUNDS; round++) {
    const sum = new Float32Array(3 * count);
    const many = new Uint8Array(count);
    for (let i = 0; i < squares.length; i += 4)
      for (let k = 0; k < 4; k++) {
        const [a, b] = [squares[i + k]!, squares[i + ((k + 1) % 4)]!];
        for (const [of, by] of [
          [a, b],
          [b, a]
        ] as const) {
          sum[3 * of]! += at[3 * by]!;
          sum[3 * of + 1]! += at[3 * by + 1]!;
          sum[3 * of + 2]! += at[3 * by + 2]!;
          many[of]!++;
        }
      }
    for (let n = 0; n < count; n++) {
      if (many[n] === 0) continue;
      const cell = cells[n]!;
      const corner = [cell % w, Math.floor(cell / w) % h, Math.floor(cell / plane)];
      for (let k = 0; k < 3; k++) at[3 * n + k] = Math.max(corner[k]!, Math.min(corner[k]! + 1, sum[3 * n + k]! / many[n]!));
    }
  }
  const corners = new Float32Array(3 * count);
  for (let n = 0; n < count; n++)
    for (let k = 0; k < 3; k++) corners[3 * n + k] = (from[k]! + (at[3 * n + k]! - 1) * step + 0.5) * spacing[k]!;
  const triangles = new Uint32Array((squares.length / 4) * 6);
  for (let i = 0, t = 0; i < squares.length; i += 4) {
    const [a, b, c, d] = [squares[i]!, squares[i + 1]!, squares[i + 2]!, squares[i + 3]!];
    triangles.set([a, b, c, a, c, d], t);
    t += 6;
  }
  return { corners, triangles };
}

/** mm³ a closed surface holds (by the divergence theorem). */
export function volumeOf({ corners, triangles }: Surface): number {
  let six = 0;
  for (let t = 0; t < triangles.length; t += 3) {
    const [a, b, c] = [3 * triangles[t]!, 3 * triangles[t + 1]!, 3 * triangles[t + 2]!];
    const p = (i: number, k: number) => corners[i + k]!;
    six +=
      p(a, 0) * (p(b, 1) * p(c, 2) - p(b, 2) * p(c, 1)) +
      p(a, 1) * (p(b, 2) * p(c, 0) - p(b, 0) * p(c, 2)) +
      p(a, 2) * (p(b, 0) * p(c, 1) - p(b, 1) * p(c, 0));
  }
  return six / 6;
}
