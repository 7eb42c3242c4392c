import { scan, union, without, type Edges } from '$lib/plane/raster';
import { outline } from '$lib/plane/shapes';
import { pixels } from '$lib/plane/shapes/mask';
import type { Shape } from '$lib/words/mark';
import type { Axis, Facing, Spot } from './facing';

type Geometry = Shape['geometry'];
/** What an object covers of each slice: runs of voxels, column by column. */
export type Slices = (slice: number) => Edges;

const known = new WeakMap<object, Edges>();
/** The voxels of a slice a shape covers; none for points and lines. */
export function covered(kind: Shape['kind'], geometry: Geometry, width: number, height: number): Edges {
  const shape = { kind, geometry } as Shape;
  if (shape.kind === 'mask') return pixels(shape.geometry).edges;
  let edges = known.get(geometry as object);
  if (!edges) {
    const rings = outline(shape);
    edges = rings ? scan(rings, width, height) : [];
    known.set(geometry as object, edges);
  }
  return edges;
}

/** Index of the first edge past a pixel; odd: it lies in a run. */
function past(edges: Edges, pixel: number): number {
  let [low, high] = [0, edges.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (edges[middle]! <= pixel) low = middle + 1;
    else high = middle;
  }
  return low;
}

/** From which pixel on a voxel is shown: that whose middle lies in it first. */
const firstPixel = (voxel: number, scale: number): number => Math.ceil(voxel * scale - 0.5);

/**
 * What an object covers of a plane that stands on the slices: runs of its pixels, column by column.
 *
 * @param stretches of slices the object is there on
 */
export function section(of: Slices, stretches: readonly (readonly [number, number])[], f: Facing, sizes: Spot, at: Spot): Edges {
  const [wide, deep, height] = [sizes[f.across], sizes[2], sizes[1]];
  // by voxel across: which slices hold it
  const held: number[][] = [];
  for (const [first, last] of stretches)
    for (let z = Math.max(0, first); z <= Math.min(deep - 1, last); z++) {
      const edges = of(z);
      if (edges.length === 0) continue;
      if (f.through === 1) {
        // a row of the slice
        const from = Math.floor(edges[0]! / height);
        const to = Math.min(wide, Math.ceil(edges[edges.length - 1]! / height));
        for (let x = from; x < to; x++) if (past(edges, x * height + at[1]) % 2 === 1) (held[x] ??= []).push(z);
      } else {
        // a column of it
        const base = at[0] * height;
        let i = past(edges, base);
        if (i % 2 === 1) i--;
        for (; i < edges.length && edges[i]! < base + height; i += 2) {
          const [from, to] = [Math.max(0, edges[i]! - base), Math.min(height, edges[i + 1]! - base)];
          for (let y = from; y < to; y++) (held[y] ??= []).push(z);
        }
      }
    }
  const out: Edges = [];
  const column = (voxel: number): Edges => {
    const slices = held[voxel];
    if (!slices) return [];
    const rows = (f.turned.down ? slices.map((z) => deep - 1 - z).reverse() : slices).map(
      (v) => [Math.max(0, firstPixel(v, f.scale.down)), Math.min(f.height, firstPixel(v + 1, f.scale.down))] as const
    );
    const runs: Edges = [];
    for (const [from, to] of rows) {
      if (runs.length > 0 && runs[runs.length - 1]! >= from) runs[runs.length - 1] = Math.max(to, runs[runs.length - 1]!);
      else runs.push(from, to);
    }
    return runs;
  };
  const count = held.length;
  for (let v = 0; v < count; v++) {
    const voxel = f.turned.across ? wide - 1 - v : v;
    const runs = column(voxel);
    if (runs.length === 0) continue;
    for (let u = Math.max(0, firstPixel(v, f.scale.across)); u < Math.min(f.width, firstPixel(v + 1, f.scale.across)); u++)
      for (let i = 0; i < runs.length; i += 2) {
        const [from, to] = [u * f.height + runs[i]!, u * f.height + runs[i + 1]!];
        if (to <= from) continue;
        if (out.length > 0 && out[out.length - 1] === from) out[out.length - 1] = to;
        else out.push(from, to);
      }
  }
  return out;
}

/** Which voxel a pixel stands for by its middle; null when it is not the one in the middle of a voxel. */
function middleOf(pixel: number, scale: number, size: number, turned: boolean): number | null {
  const voxel = Math.floor((pixel + 0.5) / scale);
  if (voxel >= size || Math.floor((voxel + 0.5) * scale) !== pixel) return null;
  return turned ? size - 1 - voxel : voxel;
}

/**
 * What a change on a plane that stands on the slices means for them.
 *
 * @returns by slice what comes to it and what goes from it, as runs of its voxels
 */
export function slicesChanged(before: Edges, after: Edges, f: Facing, sizes: Spot, at: Spot): Map<number, { come: Edges; gone: Edges }> {
  const changes = new Map<number, { come: Edges; gone: Edges }>();
  const height = sizes[1];
  const lay = (edges: Edges, what: 'come' | 'gone') => {
    for (let i = 0; i < edges.length; i += 2)
      for (let pixel = edges[i]!; pixel < edges[i + 1]!; pixel++) {
        const a = middleOf(Math.floor(pixel / f.height), f.scale.across, sizes[f.across], f.turned.across);
        const z = middleOf(pixel % f.height, f.scale.down, sizes[2], f.turned.down);
        if (a === null || z === null) continue;
        const [x, y] = f.through === 1 ? [a, at[1]] : [at[0], a];
        let of = changes.get(z);
        if (!of) changes.set(z, (of = { come: [], gone: [] }));
        of[what].push(x * height + y);
      }
  };
  lay(without(after, before), 'come');
  lay(without(before, after), 'gone');
  for (const of of changes.values()) {
    of.come = runsOf(of.come);
    of.gone = runsOf(of.gone);
  }
  return changes;
}
/** Pixels as runs. */
function runsOf(numbers: number[]): Edges {
  const runs: Edges = [];
  for (const pixel of numbers.sort((a, b) => a - b)) {
    if (runs.length > 0 && runs[runs.length - 1] === pixel) runs[runs.length - 1] = pixel + 1;
    else runs.push(pixel, pixel + 1);
  }
  return runs;
}
export const changed = (edges: Edges, { come, gone }: { come: Edges; gone: Edges }): Edges => union(without(edges, gone), come);

/** mm from one place of the sheet to another. */
export const millimetres = (a: readonly number[], b: readonly number[], spacing: readonly number[]): number =>
  Math.hypot(...([0, 1, 2] as Axis[]).map((axis) => (a[axis]! - b[axis]!) * spacing[axis]!));
