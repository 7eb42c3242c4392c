import type { Mask, Ring } from '$lib/words/mark';

/**
 * Masks as offsets where runs change, column by column, as the core has them (Skeno\Core\Raster): pixel x, y has number x · height + y;
 * even places begin a run of pixels, odd ones end it. Both sides pass core/tests/vectors/scan.json.
 */
export type Edges = number[];

export function decode(counts: string): Edges {
  const lengths: number[] = [];
  for (let p = 0; p < counts.length;) {
    let value = 0;
    let factor = 1;
    for (;;) {
      const digit = counts.charCodeAt(p++) - 48;
      // no shifts: a run of a large picture has more than 31 bits' worth of digits
      value += (digit & 0x1f) * factor;
      factor *= 32;
      if ((digit & 0x20) === 0) {
        if (digit & 0x10) value -= factor;
        break;
      }
    }
    if (lengths.length > 2) value += lengths[lengths.length - 2]!;
    lengths.push(value);
  }
  const edges: Edges = [];
  let at = 0;
  lengths.forEach((n, i) => {
    if (i % 2 === 1 && n > 0) {
      if (edges.length > 0 && edges[edges.length - 1] === at) edges[edges.length - 1] = at + n;
      else edges.push(at, at + n);
    }
    at += n;
  });
  return edges;
}

export function counts(edges: Edges, total: number): number[] {
  const lengths: number[] = [];
  let at = 0;
  for (const edge of edges) {
    lengths.push(edge - at);
    at = edge;
  }
  if (at < total || lengths.length === 0) lengths.push(total - at);
  return lengths;
}

export function encode(edges: Edges, total: number): string {
  const lengths = counts(edges, total);
  let text = '';
  lengths.forEach((n, i) => {
    let value = i > 2 ? n - lengths[i - 2]! : n;
    for (;;) {
      const digit = ((value % 32) + 32) % 32;
      value = (value - digit) / 32;
      const more = (digit & 0x10) !== 0 ? value !== -1 : value !== 0;
      text += String.fromCharCode(48 + (more ? digit | 0x20 : digit));
      if (!more) break;
    }
  });
  return text;
}

export const toMask = (edges: Edges, width: number, height: number): Mask => ({
  size: [height, width],
  counts: encode(edges, width * height)
});

/** Pixels whose centre lies inside an odd number of rings. */
export function scan(rings: Ring[], width: number, height: number): Edges {
  const crossings = new Map<number, number[]>();
  for (const ring of rings) {
    for (let i = 0; i < ring.length; i += 2) {
      const j = i + 2 < ring.length ? i + 2 : 0;
      const [a, b] = ring[i]! < ring[j]! ? [i, j] : [j, i];
      const [ax, ay, bx, by] = [ring[a]!, ring[a + 1]!, ring[b]!, ring[b + 1]!];
      const first = Math.max(0, Math.ceil(ax - 0.5));
      const end = Math.min(width, Math.ceil(bx - 0.5));
      if (first >= end) continue;
      const slope = (by - ay) / (bx - ax);
      for (let x = first; x < end; x++) {
        const rows = crossings.get(x);
        const row = ay + (x + 0.5 - ax) * slope;
        if (rows) rows.push(row);
        else crossings.set(x, [row]);
      }
    }
  }
  const edges: Edges = [];
  for (const x of [...crossings.keys()].sort((p, q) => p - q)) {
    const rows = crossings.get(x)!.sort((p, q) => p - q);
    for (let i = 0; i + 1 < rows.length; i += 2) {
      const from = x * height + Math.max(0, Math.ceil(Math.min(rows[i]!, height) - 0.5));
      const to = x * height + Math.min(height, Math.ceil(Math.max(rows[i + 1]!, -1) - 0.5));
      if (from >= to) continue;
      if (edges.length > 0 && edges[edges.length - 1] === from) edges[edges.length - 1] = to;
      else edges.push(from, to);
    }
  }
  return edges;
}

/** `keep` says, for inside the first, the second or both, whether a pixel belongs to the result. */
function combine(a: Edges, b: Edges, keep: (first: boolean, second: boolean) => boolean): Edges {
  const out: Edges = [];
  let [i, j, inA, inB, on] = [0, 0, false, false, false];
  while (i < a.length || j < b.length) {
    const at = Math.min(a[i] ?? Infinity, b[j] ?? Infinity);
    if (a[i] === at) {
      inA = !inA;
      i++;
    }
    if (b[j] === at) {
      inB = !inB;
      j++;
    }
    if (keep(inA, inB) !== on) {
      on = !on;
      out.push(at);
    }
  }
  return out;
}
export const union = (a: Edges, b: Edges): Edges => combine(a, b, (p, q) => p || q);
export const common = (a: Edges, b: Edges): Edges => combine(a, b, (p, q) => p && q);
export const without = (a: Edges, b: Edges): Edges => combine(a, b, (p, q) => p && !q);

export function area(edges: Edges): number {
  let sum = 0;
  for (let i = 0; i < edges.length; i += 2) sum += edges[i + 1]! - edges[i]!;
  return sum;
}

/** Calls with column, first row and end row of every run; none goes over the end of a column. */
export function columns(edges: Edges, height: number, run: (x: number, from: number, to: number) => void): void {
  for (let i = 0; i < edges.length; i += 2) {
    let from = edges[i]!;
    const to = edges[i + 1]!;
    while (from < to) {
      const x = Math.floor(from / height);
      const end = Math.min(to, (x + 1) * height);
      run(x, from - x * height, end - x * height);
      from = end;
    }
  }
}

export function has(edges: Edges, x: number, y: number, height: number): boolean {
  const pixel = Math.floor(x) * height + Math.floor(y);
  let [low, high] = [0, edges.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (edges[middle]! <= pixel) low = middle + 1;
    else high = middle;
  }
  return low % 2 === 1;
}

/** A disc swept from one place to another: the brush. Its outline as a ring, so that the pixel rule is the same everywhere. */
export function stroke(ax: number, ay: number, bx: number, by: number, radius: number): Ring {
  const n = Math.max(8, Math.min(64, Math.ceil(radius * 2)));
  const along = Math.atan2(by - ay, bx - ax);
  const ring: Ring = [];
  for (let i = 0; i <= n; i++)
    ring.push(
      ax + radius * Math.cos(along + Math.PI / 2 + (Math.PI * i) / n),
      ay + radius * Math.sin(along + Math.PI / 2 + (Math.PI * i) / n)
    );
  for (let i = 0; i <= n; i++)
    ring.push(
      bx + radius * Math.cos(along - Math.PI / 2 + (Math.PI * i) / n),
      by + radius * Math.sin(along - Math.PI / 2 + (Math.PI * i) / n)
    );
  return ring;
}

/** What the neighbourhood of a pixel holds of the same state (in or out of the mask), bounded by the other: a fill, by columns of runs. */
export function fill(edges: Edges, x: number, y: number, width: number, height: number): Edges {
  if (has(edges, x, y, height)) return edges;
  const free: number[][] = Array.from({ length: width }, () => []);
  columns(without([0, width * height], edges), height, (column, from, to) => free[column]!.push(from, to));
  const taken = free.map((runs) => new Uint8Array(runs.length / 2));
  const start = free[Math.floor(x)]!.findIndex((v, i, runs) => i % 2 === 0 && v <= y && y < runs[i + 1]!);
  const stack: [number, number][] = [[Math.floor(x), start / 2]];
  taken[Math.floor(x)]![start / 2] = 1;
  while (stack.length > 0) {
    const [column, run] = stack.pop()!;
    const [from, to] = [free[column]![run * 2]!, free[column]![run * 2 + 1]!];
    for (const next of [column - 1, column + 1]) {
      const runs = free[next];
      if (!runs) continue;
      for (let i = 0; i < runs.length; i += 2) {
        if (runs[i]! >= to) break;
        if (runs[i + 1]! > from && taken[next]![i / 2] === 0) {
          taken[next]![i / 2] = 1;
          stack.push([next, i / 2]);
        }
      }
    }
  }
  const filled: Edges = [];
  free.forEach((runs, column) => {
    for (let i = 0; i < runs.length; i += 2)
      if (taken[column]![i / 2]) filled.push(column * height + runs[i]!, column * height + runs[i + 1]!);
  });
  return union(edges, joined(filled));
}

/** Runs that end where the next begins are one. */
function joined(edges: Edges): Edges {
  const out: Edges = [];
  for (const edge of edges) {
    if (out.length > 0 && out[out.length - 1] === edge) out.pop();
    else out.push(edge);
  }
  return out;
}
