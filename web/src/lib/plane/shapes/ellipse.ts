import type { Ellipse, Ring } from '$lib/words/mark';
import { round } from '../view';
import type { Form } from './form';
import { angleOf, nearestRing, turn, turner, wholeTurn } from './geometry';

const rad = (degrees: number): number => (degrees * Math.PI) / 180;

/** As a ring that leaves it by no more than a quarter of a px. */
function ring({ cx, cy, rx, ry, angle }: Ellipse): Ring {
  const n = Math.min(720, Math.max(12, Math.ceil(Math.PI / Math.acos(Math.max(0, 1 - 0.25 / Math.max(rx, ry, 0.5))))));
  return Array.from({ length: n }, (_, i) => {
    const p = turn(rx * Math.cos((2 * Math.PI * i) / n), ry * Math.sin((2 * Math.PI * i) / n), angle);
    return [cx + p.x, cy + p.y];
  }).flat();
}

export const ellipse: Form<Ellipse> = {
  bounds: ({ cx, cy, rx, ry, angle }) => {
    const dx = Math.hypot(rx * Math.cos(rad(angle)), ry * Math.sin(rad(angle)));
    const dy = Math.hypot(rx * Math.sin(rad(angle)), ry * Math.cos(rad(angle)));
    return { x: cx - dx, y: cy - dy, width: 2 * dx, height: 2 * dy };
  },
  line: (g, p) => nearestRing(p, [ring(g)]),
  outline: (g) => [ring(g)],
  handles: ({ cx, cy, rx, ry, angle }, scale) => [
    ...(
      [
        ['e', rx, 0],
        ['w', -rx, 0],
        ['s', 0, ry],
        ['n', 0, -ry]
      ] as const
    ).map(([key, x, y]) => {
      const q = turn(x, y, angle);
      return { key, at: { x: cx + q.x, y: cy + q.y }, cursor: 'move' };
    }),
    turner(cx, cy, ry, angle, scale)
  ],
  pulled: (e, key, to) => {
    if (key === 'turn') return { ...e, angle: wholeTurn(angleOf({ x: e.cx, y: e.cy }, to) + 90) };
    const local = turn(to.x - e.cx, to.y - e.cy, -e.angle);
    // the far end of the axis stays
    const wide = key === 'e' || key === 'w';
    const sign = key === 'e' || key === 's' ? 1 : -1;
    const reach = wide ? local.x : local.y;
    const far = -sign * (wide ? e.rx : e.ry);
    const half = Math.abs(reach - far) / 2;
    const shift = turn(wide ? (reach + far) / 2 : 0, wide ? 0 : (reach + far) / 2, e.angle);
    return { ...e, cx: round(e.cx + shift.x), cy: round(e.cy + shift.y), ...(wide ? { rx: round(half) } : { ry: round(half) }) };
  },
  moved: (g, dx, dy) => ({ ...g, cx: round(g.cx + dx), cy: round(g.cy + dy) }),
  anchor: (g) => {
    const b = ellipse.bounds(g);
    return { x: b.x + b.width / 2, y: b.y };
  },
  describe: () => 'ellipse',
  trace: (pen, v, { cx, cy, rx, ry, angle }) => {
    const [x, y, a] = [cx * v.scale + v.x, cy * v.scale + v.y, rad(angle)];
    pen.moveTo(x + rx * v.scale * Math.cos(a), y + rx * v.scale * Math.sin(a));
    pen.ellipse(x, y, rx * v.scale, ry * v.scale, a, 0, 2 * Math.PI);
  }
};
