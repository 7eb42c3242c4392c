import type { Box, Mask } from '$lib/words/mark';
import { columns, decode, has, toMask, type Edges } from '../raster';
import type { Form } from './form';

/** Runs of a mask, worked out once for each. */
const decoded = new WeakMap<Mask, { edges: Edges; box: Box }>();
export function pixels(mask: Mask): { edges: Edges; box: Box } {
  let found = decoded.get(mask);
  if (!found) {
    const edges = decode(mask.counts);
    const height = mask.size[0]!;
    let [left, top, right, bottom] = [Infinity, Infinity, 0, 0];
    columns(edges, height, (x, from, to) => {
      left = Math.min(left, x);
      right = Math.max(right, x + 1);
      top = Math.min(top, from);
      bottom = Math.max(bottom, to);
    });
    found = {
      edges,
      box: edges.length > 0 ? { x: left, y: top, width: right - left, height: bottom - top } : { x: 0, y: 0, width: 0, height: 0 }
    };
    decoded.set(mask, found);
  }
  return found;
}

/** Masks have no lines: they are painted (window.ts), and repainted rather than pulled. */
export const mask: Form<Mask> = {
  bounds: (g) => pixels(g).box,
  line: () => Infinity,
  covers: (g, p) => has(pixels(g).edges, p.x, p.y, g.size[0]!),
  handles: () => [],
  pulled: (g) => g,
  moved: (g, dx, dy) => {
    const [height, width] = [g.size[0]!, g.size[1]!];
    const by = Math.round(dx) * height + Math.round(dy);
    // the extent stays inside, so no run leaves its column
    return toMask(
      pixels(g).edges.map((e) => e + by),
      width,
      height
    );
  },
  anchor: (g) => {
    const first = pixels(g).edges[0] ?? 0;
    return { x: Math.floor(first / g.size[0]!), y: first % g.size[0]! };
  },
  describe: () => 'mask',
  trace: () => {}
};
