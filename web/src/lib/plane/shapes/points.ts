import type { Points } from '$lib/words/mark';
import type { Form } from './form';
import { cutOut, dot, extent, pointKeys, pulledRing, shifted, vertexKey, vertices } from './geometry';

export const points: Form<Points> = {
  bounds: (g) => extent(g.points),
  line: (g, p) => {
    let line = Infinity;
    for (let i = 0; i < g.points.length; i += 2) line = Math.min(line, Math.hypot(p.x - g.points[i]!, p.y - g.points[i + 1]!));
    return line;
  },
  handles: (g) => vertices(g.points, 'v:0:'),
  pulled: (g, key, _to, p) => ({ points: pulledRing(g.points, key, p) }),
  moved: (g, dx, dy) => ({ points: shifted(g.points, dx, dy) }),
  without: (g, key) => {
    const k = vertexKey(key);
    return k && !k.middle && g.points.length > 2 ? { points: cutOut(g.points, k.i) } : null;
  },
  points: (g) => pointKeys(g.points),
  describe: (g) => `points of ${g.points.length / 2}`,
  short: (g) => `${g.points.length / 2} points`,
  trace: () => {},
  dots: (c, v, g, _bones, color, lit) => {
    for (let i = 0; i < g.points.length; i += 2) dot(c, v, g.points[i]!, g.points[i + 1]!, color, lit, false);
  }
};
