import type { Points } from '$lib/words/mark';
import type { Form } from './form';
import { along, cutOut, extent, middles, pointKeys, pulledRing, shifted, traceLine, vertexKey, vertices } from './geometry';
import { firstCorner } from './polygon';

export const polyline: Form<Points> = {
  bounds: (g) => extent(g.points),
  line: (g, p) => along(p, g.points, false),
  handles: (g, scale) => [...vertices(g.points, 'v:0:'), ...middles(g.points, 'm:0:', false, scale)],
  pulled: (g, key, _to, p) => ({ points: pulledRing(g.points, key, p) }),
  moved: (g, dx, dy) => ({ points: shifted(g.points, dx, dy) }),
  without: (g, key) => {
    const k = vertexKey(key);
    return k && !k.middle && g.points.length > 4 ? { points: cutOut(g.points, k.i) } : null;
  },
  points: (g) => pointKeys(g.points),
  anchor: (g) => firstCorner(g.points) ?? { x: 0, y: 0 },
  describe: (g) => `polyline of ${g.points.length / 2}`,
  short: (g) => `${g.points.length / 2} points`,
  trace: (pen, v, g) => traceLine(pen, v, g.points, false)
};
