import polygonClipping, { type MultiPolygon } from 'polygon-clipping';
import type { Point, Ring } from '$lib/words/mark';
import { round } from './view';

/** What is done to rings of an outline: join, cut, redraw a stretch, follow another. */

const rounded = (ring: Ring): Ring => ring.map(round);
const toPairs = (ring: Ring): [number, number][] => Array.from({ length: ring.length / 2 }, (_, i) => [ring[2 * i]!, ring[2 * i + 1]!]);

/** Rings (even-odd) as the library wants them: parts with their holes. Each ring is laid over the others by exclusive or. */
const toMulti = (rings: Ring[]): MultiPolygon => {
  const [first, ...rest] = rings.map((ring): MultiPolygon => [[toPairs(ring)]]);
  return first ? polygonClipping.xor(first, ...rest) : [];
};
const fromMulti = (multi: MultiPolygon): Ring[] =>
  multi
    .flat()
    .map((pairs) => rounded(pairs.slice(0, -1).flat()))
    .filter((ring) => ring.length >= 6);

export const added = (rings: Ring[], more: Ring): Ring[] => fromMulti(polygonClipping.union(toMulti(rings), toMulti([more])));
export const cut = (rings: Ring[], away: Ring): Ring[] => fromMulti(polygonClipping.difference(toMulti(rings), toMulti([away])));

/** Points of a ring from one place to another, both included, in its own direction or the other way round. */
export function path(ring: Ring, from: number, to: number, backwards: boolean): Ring {
  const n = ring.length / 2;
  const out: Ring = [];
  for (let i = from; ; i = (i + (backwards ? n - 1 : 1)) % n) {
    out.push(ring[2 * i]!, ring[2 * i + 1]!);
    if (i === to) return out;
  }
}
export function length(points: Ring): number {
  let sum = 0;
  for (let i = 2; i < points.length; i += 2) sum += Math.hypot(points[i]! - points[i - 2]!, points[i + 1]! - points[i - 1]!);
  return sum;
}
/** The way along a ring between two of its points: the shorter, or the other. */
export function between(ring: Ring, from: number, to: number, longer: boolean): Ring {
  const [a, b] = [path(ring, from, to, false), path(ring, from, to, true)];
  return length(a) <= length(b) === longer ? b : a;
}

/** The nearest point of a ring: its place in the list and how far it is. */
export function nearest(ring: Ring, p: Point): { i: number; d: number } {
  let best = { i: 0, d: Infinity };
  for (let i = 0; i < ring.length / 2; i++) {
    const d = Math.hypot(p.x - ring[2 * i]!, p.y - ring[2 * i + 1]!);
    if (d < best.d) best = { i, d };
  }
  return best;
}

/** A ring whose stretch between the ends of a new line is replaced by it: the shorter stretch goes, or the longer. */
export function redrawn(ring: Ring, line: Ring, longer: boolean): Ring {
  const from = nearest(ring, { x: line[0]!, y: line[1]! }).i;
  const to = nearest(ring, { x: line[line.length - 2]!, y: line[line.length - 1]! }).i;
  if (from === to) return ring;
  // what stays goes from the line's end back to its beginning
  const [a, b] = [path(ring, to, from, false), path(ring, to, from, true)];
  const stays = length(a) >= length(b) === longer ? b : a;
  return [...stays, ...line.slice(2, -2)];
}

/** A free line with only the points it needs (Douglas and Peucker), so that a hand's jitter is not kept. */
export function simplified(points: Ring, tolerance: number): Ring {
  const n = points.length / 2;
  if (n < 3) return points;
  const keep = new Set([0, n - 1]);
  const stack: [number, number][] = [[0, n - 1]];
  while (stack.length > 0) {
    const [a, b] = stack.pop()!;
    const [ax, ay] = [points[2 * a]!, points[2 * a + 1]!];
    const [dx, dy] = [points[2 * b]! - ax, points[2 * b + 1]! - ay];
    const size = Math.hypot(dx, dy);
    let [worst, at] = [tolerance, -1];
    for (let i = a + 1; i < b; i++) {
      const [px, py] = [points[2 * i]! - ax, points[2 * i + 1]! - ay];
      const d = size > 0 ? Math.abs(dx * py - dy * px) / size : Math.hypot(px, py);
      if (d > worst) [worst, at] = [d, i];
    }
    if (at >= 0) {
      keep.add(at);
      stack.push([a, at], [at, b]);
    }
  }
  return [...keep].sort((p, q) => p - q).flatMap((i) => [points[2 * i]!, points[2 * i + 1]!]);
}
