import type { Point, Ring } from '$lib/words/mark';

/** Whether two edges of an outline cross; the core refuses such a polygon, so it is not even finished. */
export function crosses(rings: Ring[]): Point | null {
  const edges: [number, number, number, number][] = [];
  for (const ring of rings)
    for (let i = 0; i < ring.length; i += 2) {
      const j = (i + 2) % ring.length;
      const e: [number, number, number, number] = [ring[i]!, ring[i + 1]!, ring[j]!, ring[j + 1]!];
      edges.push(e[0] <= e[2] ? e : [e[2], e[3], e[0], e[1]]);
    }
  edges.sort((a, b) => a[0] - b[0]);
  for (let i = 0; i < edges.length; i++) {
    const [ax, ay, bx, by] = edges[i]!;
    for (let j = i + 1; j < edges.length && edges[j]![0] <= bx; j++) {
      const [cx, cy, dx, dy] = edges[j]!;
      const d1 = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax);
      const d2 = (bx - ax) * (dy - ay) - (by - ay) * (dx - ax);
      const d3 = (dx - cx) * (ay - cy) - (dy - cy) * (ax - cx);
      const d4 = (dx - cx) * (by - cy) - (dy - cy) * (bx - cx);
      const slack = 1e-9 * (Math.abs(dx - cx) + Math.abs(dy - cy) + Math.abs(bx - ax) + Math.abs(by - ay));
      if (d1 * d2 < 0 && d3 * d4 < 0 && Math.min(Math.abs(d1), Math.abs(d2), Math.abs(d3), Math.abs(d4)) > slack) {
        const t = d3 / (d3 - d4);
        return { x: ax + t * (bx - ax), y: ay + t * (by - ay) };
      }
    }
  }
  return null;
}
