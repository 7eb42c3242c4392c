import type { Faces } from '$lib/words/mark';
import { resized, type Handle as BoxHandle } from '../view';
import type { Form } from './form';
import { boxHandles, boxRing, cornersOnly, extent, nearestRing, shiftedBox, traceBox, traceLine } from './geometry';

export const cuboid: Form<Faces> = {
  bounds: (g) => extent([...boxRing(g.front), ...boxRing(g.back)]),
  line: (g, p) => nearestRing(p, [boxRing(g.front), boxRing(g.back)]),
  outline: (g) => [boxRing(g.front)],
  handles: (g) => [...boxHandles(g.front, 'f:'), ...cornersOnly(boxHandles(g.back, 'k:'))],
  pulled: (g, key, _to, p) => {
    const face = key.startsWith('f:') ? 'front' : 'back';
    return { ...g, [face]: resized(g[face], key.slice(2) as BoxHandle, p) };
  },
  moved: (g, dx, dy) => ({ front: shiftedBox(g.front, dx, dy), back: shiftedBox(g.back, dx, dy) }),
  describe: () => 'cuboid',
  trace: (pen, v, { front: f, back: b }) => {
    traceBox(pen, v, f);
    traceBox(pen, v, b);
    traceLine(pen, v, [f.x, f.y, b.x, b.y], false);
    traceLine(pen, v, [f.x + f.width, f.y, b.x + b.width, b.y], false);
    traceLine(pen, v, [f.x, f.y + f.height, b.x, b.y + b.height], false);
    traceLine(pen, v, [f.x + f.width, f.y + f.height, b.x + b.width, b.y + b.height], false);
  }
};
