import type { Point, Polygon, Ring } from '$lib/words/mark';
import type { Form } from './form';
import { cutOut, extent, middles, nearestRing, pointKeys, pulledRing, shifted, traceLine, vertexKey, vertices } from './geometry';

/** The point of a row that lies furthest up and to the left. */
export function firstCorner(points: Ring): Point | null {
  let best = 0;
  for (let i = 2; i < points.length; i += 2) if (points[i]! + points[i + 1]! < points[best]! + points[best + 1]!) best = i;
  return points.length < 2 ? null : { x: points[best]!, y: points[best + 1]! };
}

export const polygon: Form<Polygon> = {
  bounds: (g) => extent(g.rings.flat()),
  line: (g, p) => nearestRing(p, g.rings),
  outline: (g) => g.rings,
  handles: (g, scale) => g.rings.flatMap((ring, r) => [...vertices(ring, `v:${r}:`), ...middles(ring, `m:${r}:`, true, scale)]),
  pulled: (g, key, _to, p) => ({ rings: g.rings.map((ring, n) => (n === vertexKey(key)?.ring ? pulledRing(ring, key, p) : ring)) }),
  moved: (g, dx, dy) => ({ rings: g.rings.map((ring) => shifted(ring, dx, dy)) }),
  without: (g, key) => {
    const k = vertexKey(key);
    if (k === null || k.middle) return null;
    const rings = g.rings.map((ring, n) => (n === k.ring ? cutOut(ring, k.i) : ring)).filter((ring) => ring.length >= 6);
    return rings.length > 0 ? { rings } : null;
  },
  points: (g) => g.rings.flatMap(pointKeys),
  anchor: (g) => firstCorner(g.rings[0] ?? []) ?? { x: 0, y: 0 },
  describe: (g) =>
    `polygon of ${g.rings.reduce((sum, ring) => sum + ring.length / 2, 0)} points${g.rings.length > 1 ? ` in ${g.rings.length} rings` : ''}`,
  trace: (pen, v, g) => {
    for (const ring of g.rings) traceLine(pen, v, ring, true);
  }
};
