import type { Ring, TurnedBox } from '$lib/words/mark';
import { handleAt, handles, resized, round, type Handle as BoxHandle } from '../view';
import type { Form } from './form';
import { angleOf, extent, nearestRing, traceLine, turn, turner, wholeTurn } from './geometry';

export function corners(t: TurnedBox): Ring {
  return [
    [-1, -1],
    [1, -1],
    [1, 1],
    [-1, 1]
  ].flatMap(([h, v]) => {
    const p = turn((h! * t.width) / 2, (v! * t.height) / 2, t.angle);
    return [t.cx + p.x, t.cy + p.y];
  });
}

export const turnedBox: Form<TurnedBox> = {
  bounds: (g) => extent(corners(g)),
  line: (g, p) => nearestRing(p, [corners(g)]),
  outline: (g) => [corners(g)],
  handles: ({ cx, cy, width, height, angle }, scale) => [
    ...handles.map((h) => {
      const p = handleAt({ x: -width / 2, y: -height / 2, width, height }, h);
      const q = turn(p.x, p.y, angle);
      return { key: h, at: { x: cx + q.x, y: cy + q.y }, cursor: 'move' };
    }),
    turner(cx, cy, height / 2, angle, scale)
  ],
  pulled: (g, key, to) => {
    if (key === 'turn') return { ...g, angle: wholeTurn(angleOf({ x: g.cx, y: g.cy }, to) + 90) };
    // worked out in the box's own axes, about the corner that stays
    const local = turn(to.x - g.cx, to.y - g.cy, -g.angle);
    const box = resized({ x: -g.width / 2, y: -g.height / 2, width: g.width, height: g.height }, key as BoxHandle, local);
    const centre = turn(box.x + box.width / 2, box.y + box.height / 2, g.angle);
    return { ...g, cx: round(g.cx + centre.x), cy: round(g.cy + centre.y), width: box.width, height: box.height };
  },
  moved: (g, dx, dy) => ({ ...g, cx: round(g.cx + dx), cy: round(g.cy + dy) }),
  describe: (g) => `turned box by ${round(g.angle)}°`,
  trace: (pen, v, g) => {
    const ring = corners(g);
    traceLine(pen, v, ring, true);
    // a tick on the first side says which way it is turned
    const [mx, my] = [(ring[0]! + ring[2]!) / 2, (ring[1]! + ring[3]!) / 2];
    const share = Math.min(0.35, 14 / Math.max(1, Math.hypot(mx - g.cx, my - g.cy) * v.scale));
    traceLine(pen, v, [mx, my, mx + (g.cx - mx) * share, my + (g.cy - my) * share], false);
  }
};
