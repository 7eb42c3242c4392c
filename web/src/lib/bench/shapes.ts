import { columns, decode, has, toMask, type Edges } from './raster';
import type { Box, Faces, Mark, Mask, Point, Ring, Shape } from './types';
import { clampPoint, handleAt, handles, resized, round, type Handle as BoxHandle, type Size } from './view';

/** What a hand needs of every kind of shape at once: its extent, whether a press hits it, its handles and what pulling one does. */

const rad = (degrees: number): number => (degrees * Math.PI) / 180;
/** Offset turned by degrees, clockwise on the screen. */
export const turn = (x: number, y: number, degrees: number): Point => ({
  x: x * Math.cos(rad(degrees)) - y * Math.sin(rad(degrees)),
  y: x * Math.sin(rad(degrees)) + y * Math.cos(rad(degrees))
});
export const angleOf = (from: Point, to: Point): number => (Math.atan2(to.y - from.y, to.x - from.x) * 180) / Math.PI;
const whole = (degrees: number): number => round(((degrees % 360) + 360) % 360);

export function corners(t: { cx: number; cy: number; width: number; height: number; angle: number }): Ring {
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

export function extent(points: Ring): Box {
  let [left, top, right, bottom] = [Infinity, Infinity, -Infinity, -Infinity];
  for (let i = 0; i < points.length; i += 2) {
    left = Math.min(left, points[i]!);
    right = Math.max(right, points[i]!);
    top = Math.min(top, points[i + 1]!);
    bottom = Math.max(bottom, points[i + 1]!);
  }
  return { x: left, y: top, width: right - left, height: bottom - top };
}

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

const silhouette = (f: Faces): Box => extent([...boxRing(f.front), ...boxRing(f.back)]);
const boxRing = (b: Box): Ring => [b.x, b.y, b.x + b.width, b.y, b.x + b.width, b.y + b.height, b.x, b.y + b.height];

export function bounds(s: Shape): Box {
  switch (s.kind) {
    case 'box':
      return s.geometry;
    case 'turned_box':
      return extent(corners(s.geometry));
    case 'ellipse': {
      const { cx, cy, rx, ry, angle } = s.geometry;
      const dx = Math.hypot(rx * Math.cos(rad(angle)), ry * Math.sin(rad(angle)));
      const dy = Math.hypot(rx * Math.sin(rad(angle)), ry * Math.cos(rad(angle)));
      return { x: cx - dx, y: cy - dy, width: 2 * dx, height: 2 * dy };
    }
    case 'polygon':
      return extent(s.geometry.rings.flat());
    case 'polyline':
    case 'points':
      return extent(s.geometry.points);
    case 'skeleton':
      return extent(Object.values(s.geometry.nodes).flatMap((n) => [n.x, n.y]));
    case 'mask':
      return pixels(s.geometry).box;
    case 'cuboid_2d':
      return silhouette(s.geometry);
  }
}

/** Distance of a point from a line between two others. */
export function distance(p: Point, ax: number, ay: number, bx: number, by: number): number {
  const length = (bx - ax) ** 2 + (by - ay) ** 2;
  const t = length > 0 ? Math.max(0, Math.min(1, ((p.x - ax) * (bx - ax) + (p.y - ay) * (by - ay)) / length)) : 0;
  return Math.hypot(p.x - ax - t * (bx - ax), p.y - ay - t * (by - ay));
}
function along(p: Point, points: Ring, closed: boolean): number {
  let nearest = points.length === 2 ? Math.hypot(p.x - points[0]!, p.y - points[1]!) : Infinity;
  for (let i = 0; i + 3 < points.length; i += 2)
    nearest = Math.min(nearest, distance(p, points[i]!, points[i + 1]!, points[i + 2]!, points[i + 3]!));
  if (closed && points.length >= 6)
    nearest = Math.min(nearest, distance(p, points[points.length - 2]!, points[points.length - 1]!, points[0]!, points[1]!));
  return nearest;
}
export function inside(p: Point, rings: Ring[]): boolean {
  let odd = false;
  for (const ring of rings)
    for (let i = 0, j = ring.length - 2; i < ring.length; j = i, i += 2)
      if (
        ring[i + 1]! > p.y !== ring[j + 1]! > p.y &&
        p.x < ((ring[j]! - ring[i]!) * (p.y - ring[i + 1]!)) / (ring[j + 1]! - ring[i + 1]!) + ring[i]!
      )
        odd = !odd;
  return odd;
}

/** The outline of a shape that covers an area; null for the others. */
export function outline(s: Shape): Ring[] | null {
  switch (s.kind) {
    case 'box':
      return [boxRing(s.geometry)];
    case 'turned_box':
      return [corners(s.geometry)];
    case 'polygon':
      return s.geometry.rings;
    case 'ellipse': {
      const { cx, cy, rx, ry, angle } = s.geometry;
      const n = Math.min(720, Math.max(12, Math.ceil(Math.PI / Math.acos(Math.max(0, 1 - 0.25 / Math.max(rx, ry, 0.5))))));
      return [
        Array.from({ length: n }, (_, i) => {
          const p = turn(rx * Math.cos((2 * Math.PI * i) / n), ry * Math.sin((2 * Math.PI * i) / n), angle);
          return [cx + p.x, cy + p.y];
        }).flat()
      ];
    }
    case 'cuboid_2d':
      return [boxRing(s.geometry.front)];
    default:
      return null;
  }
}

/** How good a hit a press is: distance to the shape's line in screen px when near it, else its size when inside; null when neither. */
export function hit(s: Shape, p: Point, scale: number, bones: [string, string][] = []): number | null {
  const near = 6 / scale;
  const box = bounds(s);
  if (p.x < box.x - near || p.y < box.y - near || p.x > box.x + box.width + near || p.y > box.y + box.height + near) return null;
  const size = 10 + Math.sqrt(Math.max(0, box.width * box.height));
  if (s.kind === 'mask') return has(pixels(s.geometry).edges, p.x, p.y, s.geometry.size[0]!) ? size : null;
  let line: number;
  if (s.kind === 'polyline') line = along(p, s.geometry.points, false);
  else if (s.kind === 'points') {
    line = Infinity;
    for (let i = 0; i < s.geometry.points.length; i += 2)
      line = Math.min(line, Math.hypot(p.x - s.geometry.points[i]!, p.y - s.geometry.points[i + 1]!));
  } else if (s.kind === 'skeleton') {
    const nodes = s.geometry.nodes;
    line = Math.min(...Object.values(nodes).map((n) => Math.hypot(p.x - n.x, p.y - n.y)));
    for (const [a, b] of bones)
      if (nodes[a] && nodes[b]) line = Math.min(line, distance(p, nodes[a].x, nodes[a].y, nodes[b].x, nodes[b].y));
  } else {
    const rings = outline(s)!;
    line = Math.min(...rings.map((ring) => along(p, ring, true)));
    if (s.kind === 'cuboid_2d') line = Math.min(line, along(p, boxRing(s.geometry.back), true));
    if (line > near && !inside(p, rings)) return null;
    return line <= near ? line * scale : size;
  }
  return line <= near ? line * scale : null;
}

/** A place that can be pulled. `key` says what it moves; `round` ones are points of the shape, the others pull its extent. */
export type Handle = { key: string; at: Point; cursor: string; dot?: boolean; faint?: boolean; hidden?: boolean };

const boxCursors: Record<BoxHandle, string> = {
  nw: 'nwse-resize',
  se: 'nwse-resize',
  ne: 'nesw-resize',
  sw: 'nesw-resize',
  n: 'ns-resize',
  s: 'ns-resize',
  e: 'ew-resize',
  w: 'ew-resize'
};
const boxHandles = (box: Box, prefix = ''): Handle[] =>
  handles.map((h) => ({ key: prefix + h, at: handleAt(box, h), cursor: boxCursors[h] }));

/** The spot that turns a shape, above it by so many px of the screen. */
const turner = (cx: number, cy: number, up: number, angle: number, scale: number): Handle => {
  const p = turn(0, -(up + 26 / scale), angle);
  return { key: 'turn', at: { x: cx + p.x, y: cy + p.y }, cursor: 'grab', dot: true };
};

export function handlesOf(s: Shape, scale: number): Handle[] {
  switch (s.kind) {
    case 'box':
      return boxHandles(s.geometry);
    case 'turned_box': {
      const { cx, cy, width, height, angle } = s.geometry;
      return [
        ...handles.map((h) => {
          const p = handleAt({ x: -width / 2, y: -height / 2, width, height }, h);
          const q = turn(p.x, p.y, angle);
          return { key: h, at: { x: cx + q.x, y: cy + q.y }, cursor: 'move' };
        }),
        turner(cx, cy, height / 2, angle, scale)
      ];
    }
    case 'ellipse': {
      const { cx, cy, rx, ry, angle } = s.geometry;
      return [
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
      ];
    }
    case 'polygon':
      return s.geometry.rings.flatMap((ring, r) => [...vertices(ring, `v:${r}:`), ...middles(ring, `m:${r}:`, true, scale)]);
    case 'polyline':
      return [...vertices(s.geometry.points, 'v:0:'), ...middles(s.geometry.points, 'm:0:', false, scale)];
    case 'points':
      return vertices(s.geometry.points, 'v:0:');
    case 'skeleton': {
      const box = grown(bounds(s), 14 / scale);
      const nodes = Object.entries(s.geometry.nodes).map(([key, n]) => ({
        key: `n:${key}`,
        at: { x: n.x, y: n.y },
        cursor: 'move',
        dot: true,
        hidden: n.state === 'hidden'
      }));
      return [
        ...nodes,
        ...boxHandles(box, 'b:').filter((h) => h.key.length === 4),
        turner(box.x + box.width / 2, box.y + box.height / 2, box.height / 2, 0, scale)
      ];
    }
    case 'cuboid_2d':
      return [...boxHandles(s.geometry.front, 'f:'), ...boxHandles(s.geometry.back, 'k:').filter((h) => h.key.length === 4)];
    case 'mask':
      return [];
  }
}
export const grown = (b: Box, by: number): Box => ({ x: b.x - by, y: b.y - by, width: b.width + 2 * by, height: b.height + 2 * by });
const vertices = (points: Ring, prefix: string): Handle[] =>
  Array.from({ length: points.length / 2 }, (_, i) => ({
    key: `${prefix}${i}`,
    at: { x: points[2 * i]!, y: points[2 * i + 1]! },
    cursor: 'move',
    dot: true
  }));
/** Middles of edges long enough on the screen: pulling one puts a point in. */
function middles(points: Ring, prefix: string, closed: boolean, scale: number): Handle[] {
  const n = points.length / 2;
  const found: Handle[] = [];
  for (let i = 0; i < (closed ? n : n - 1); i++) {
    const j = (i + 1) % n;
    const [ax, ay, bx, by] = [points[2 * i]!, points[2 * i + 1]!, points[2 * j]!, points[2 * j + 1]!];
    if (Math.hypot(bx - ax, by - ay) * scale > 28)
      found.push({ key: `${prefix}${i}`, at: { x: (ax + bx) / 2, y: (ay + by) / 2 }, cursor: 'copy', dot: true, faint: true });
  }
  return found;
}

const at = (p: Point): [number, number] => [round(p.x), round(p.y)];
const replaced = (ring: Ring, i: number, p: Point): Ring => [...ring.slice(0, 2 * i), ...at(p), ...ring.slice(2 * i + 2)];
const inserted = (ring: Ring, after: number, p: Point): Ring => [...ring.slice(0, 2 * after + 2), ...at(p), ...ring.slice(2 * after + 2)];

/** The shape with one handle pulled to a place of the picture. */
export function pulled(s: Shape, key: string, to: Point, picture: Size): Shape {
  const p = clampPoint(to, picture);
  switch (s.kind) {
    case 'box':
      return { kind: 'box', geometry: resized(s.geometry, key as BoxHandle, p) };
    case 'turned_box': {
      const t = s.geometry;
      if (key === 'turn') return { kind: s.kind, geometry: { ...t, angle: whole(angleOf({ x: t.cx, y: t.cy }, to) + 90) } };
      // worked out in the box's own axes, about the corner that stays
      const local = turn(to.x - t.cx, to.y - t.cy, -t.angle);
      const box = resized({ x: -t.width / 2, y: -t.height / 2, width: t.width, height: t.height }, key as BoxHandle, local);
      const centre = turn(box.x + box.width / 2, box.y + box.height / 2, t.angle);
      return {
        kind: s.kind,
        geometry: { ...t, cx: round(t.cx + centre.x), cy: round(t.cy + centre.y), width: box.width, height: box.height }
      };
    }
    case 'ellipse': {
      const e = s.geometry;
      if (key === 'turn') return { kind: s.kind, geometry: { ...e, angle: whole(angleOf({ x: e.cx, y: e.cy }, to) + 90) } };
      const local = turn(to.x - e.cx, to.y - e.cy, -e.angle);
      // the far end of the axis stays
      const wide = key === 'e' || key === 'w';
      const sign = key === 'e' || key === 's' ? 1 : -1;
      const reach = wide ? local.x : local.y;
      const far = -sign * (wide ? e.rx : e.ry);
      const half = Math.abs(reach - far) / 2;
      const shift = turn(wide ? (reach + far) / 2 : 0, wide ? 0 : (reach + far) / 2, e.angle);
      return {
        kind: s.kind,
        geometry: { ...e, cx: round(e.cx + shift.x), cy: round(e.cy + shift.y), ...(wide ? { rx: round(half) } : { ry: round(half) }) }
      };
    }
    case 'polygon': {
      const [what, r, i] = key.split(':');
      return {
        kind: s.kind,
        geometry: {
          rings: s.geometry.rings.map((ring, n) =>
            n !== Number(r) ? ring : what === 'v' ? replaced(ring, Number(i), p) : inserted(ring, Number(i), p)
          )
        }
      };
    }
    case 'polyline':
    case 'points': {
      const [what, , i] = key.split(':');
      const points = what === 'v' ? replaced(s.geometry.points, Number(i), p) : inserted(s.geometry.points, Number(i), p);
      return { kind: s.kind, geometry: { points } };
    }
    case 'skeleton': {
      if (key.startsWith('n:')) {
        const name = key.slice(2);
        return {
          kind: s.kind,
          geometry: { nodes: { ...s.geometry.nodes, [name]: { ...s.geometry.nodes[name]!, x: round(p.x), y: round(p.y) } } }
        };
      }
      const box = bounds(s);
      const centre = { x: box.x + box.width / 2, y: box.y + box.height / 2 };
      if (key === 'turn') return turned(s, angleOf(centre, to) + 90, picture);
      const wanted = resized(box, key.slice(2) as BoxHandle, p);
      return scaled(s, box, wanted);
    }
    case 'cuboid_2d': {
      const face = key.startsWith('f:') ? 'front' : 'back';
      return { kind: s.kind, geometry: { ...s.geometry, [face]: resized(s.geometry[face], key.slice(2) as BoxHandle, p) } };
    }
    case 'mask':
      return s;
  }
}

const eachNode = (s: Extract<Shape, { kind: 'skeleton' }>, move: (p: Point) => Point): Shape => ({
  kind: 'skeleton',
  geometry: { nodes: Object.fromEntries(Object.entries(s.geometry.nodes).map(([key, n]) => [key, { ...n, ...rounded(move(n)) }])) }
});
const rounded = (p: Point): Point => ({ x: round(p.x), y: round(p.y) });
/** A pose turned about its middle; nodes stop at the picture's edge. */
export function turned(s: Extract<Shape, { kind: 'skeleton' }>, degrees: number, picture: Size): Shape {
  const box = bounds(s);
  const [cx, cy] = [box.x + box.width / 2, box.y + box.height / 2];
  return eachNode(s, (n) => {
    const q = turn(n.x - cx, n.y - cy, degrees);
    return clampPoint({ x: cx + q.x, y: cy + q.y }, picture);
  });
}
function scaled(s: Extract<Shape, { kind: 'skeleton' }>, from: Box, to: Box): Shape {
  const [fx, fy] = [from.width > 0 ? to.width / from.width : 1, from.height > 0 ? to.height / from.height : 1];
  return eachNode(s, (n) => ({ x: to.x + (n.x - from.x) * fx, y: to.y + (n.y - from.y) * fy }));
}
/** Mirrored left to right: each node takes the place of its twin, so that left stays left. */
export function mirrored(s: Extract<Shape, { kind: 'skeleton' }>, twins: Map<string, string>): Shape {
  const box = bounds(s);
  const flipped = Object.entries(s.geometry.nodes).map(([key, n]): [string, typeof n] => [
    twins.get(key) ?? key,
    { ...n, x: round(2 * box.x + box.width - n.x) }
  ]);
  return { kind: 'skeleton', geometry: { nodes: Object.fromEntries(flipped) } };
}

/** The shape moved as a whole, stopping at the edges. Masks are repainted, not moved. */
export function moved(s: Shape, by: Point, picture: Size): Shape {
  const box = bounds(s);
  const dx = round(Math.min(Math.max(0, picture.width - box.x - box.width), Math.max(Math.min(0, -box.x), by.x)));
  const dy = round(Math.min(Math.max(0, picture.height - box.y - box.height), Math.max(Math.min(0, -box.y), by.y)));
  const shift = (ring: Ring): Ring => ring.map((v, i) => round(v + (i % 2 === 0 ? dx : dy)));
  const shiftBox = (b: Box): Box => ({ ...b, x: round(b.x + dx), y: round(b.y + dy) });
  switch (s.kind) {
    case 'box':
      return { kind: s.kind, geometry: shiftBox(s.geometry) };
    case 'turned_box':
      return { kind: s.kind, geometry: { ...s.geometry, cx: round(s.geometry.cx + dx), cy: round(s.geometry.cy + dy) } };
    case 'ellipse':
      return { kind: s.kind, geometry: { ...s.geometry, cx: round(s.geometry.cx + dx), cy: round(s.geometry.cy + dy) } };
    case 'polygon':
      return { kind: s.kind, geometry: { rings: s.geometry.rings.map(shift) } };
    case 'polyline':
    case 'points':
      return { kind: s.kind, geometry: { points: shift(s.geometry.points) } };
    case 'skeleton':
      return eachNode(s, (n) => ({ x: n.x + dx, y: n.y + dy }));
    case 'cuboid_2d':
      return { kind: s.kind, geometry: { front: shiftBox(s.geometry.front), back: shiftBox(s.geometry.back) } };
    case 'mask': {
      const [height, width] = [s.geometry.size[0]!, s.geometry.size[1]!];
      const by = Math.round(dx) * height + Math.round(dy);
      // the extent stays inside, so no run leaves its column
      const edges = pixels(s.geometry).edges.map((e) => e + by);
      return { kind: s.kind, geometry: toMask(edges, width, height) };
    }
  }
}

/** The shape without one of its points; null when it needs them all. */
export function withoutPoint(s: Shape, key: string): Shape | null {
  const [what, r, i] = key.split(':');
  const cut = (ring: Ring): Ring => [...ring.slice(0, 2 * Number(i)), ...ring.slice(2 * Number(i) + 2)];
  if (s.kind === 'skeleton' && what === 'n') {
    const nodes = { ...s.geometry.nodes };
    delete nodes[r!];
    return Object.keys(nodes).length > 0 ? { kind: s.kind, geometry: { nodes } } : null;
  }
  if (what !== 'v') return null;
  if (s.kind === 'polygon') {
    const rings = s.geometry.rings.map((ring, n) => (n === Number(r) ? cut(ring) : ring)).filter((ring) => ring.length >= 6);
    return rings.length > 0 ? { kind: s.kind, geometry: { rings } } : null;
  }
  if (s.kind === 'polyline') return s.geometry.points.length > 4 ? { kind: s.kind, geometry: { points: cut(s.geometry.points) } } : null;
  if (s.kind === 'points') return s.geometry.points.length > 2 ? { kind: s.kind, geometry: { points: cut(s.geometry.points) } } : null;
  return null;
}

/** Where the sign of a mark's class stands: on the shape itself, up and to the left. */
export function anchor(s: Shape): Point {
  const b = bounds(s);
  switch (s.kind) {
    case 'polygon':
    case 'polyline': {
      const points = s.kind === 'polygon' ? (s.geometry.rings[0] ?? []) : s.geometry.points;
      let best = 0;
      for (let i = 2; i < points.length; i += 2) if (points[i]! + points[i + 1]! < points[best]! + points[best + 1]!) best = i;
      return { x: points[best] ?? b.x, y: points[best + 1] ?? b.y };
    }
    case 'mask': {
      const first = pixels(s.geometry).edges[0] ?? 0;
      return { x: Math.floor(first / s.geometry.size[0]!), y: first % s.geometry.size[0]! };
    }
    case 'ellipse':
      return { x: b.x + b.width / 2, y: b.y };
    default:
      return { x: b.x, y: b.y };
  }
}

/** In words for the ledger and the description of the stage. */
export function describe(s: Shape): string {
  const b = bounds(s);
  const n = (v: number) => String(round(v));
  const place = `at ${n(b.x)}, ${n(b.y)}, ${n(b.width)} × ${n(b.height)} px`;
  switch (s.kind) {
    case 'box':
      return place;
    case 'polygon':
      return `polygon of ${s.geometry.rings.reduce((sum, ring) => sum + ring.length / 2, 0)} points${s.geometry.rings.length > 1 ? ` in ${s.geometry.rings.length} rings` : ''} ${place}`;
    case 'polyline':
    case 'points':
      return `${s.kind} of ${s.geometry.points.length / 2} ${place}`;
    case 'skeleton': {
      const hidden = Object.values(s.geometry.nodes).filter((node) => node.state === 'hidden').length;
      return `skeleton of ${Object.keys(s.geometry.nodes).length} nodes${hidden > 0 ? `, ${hidden} hidden` : ''} ${place}`;
    }
    case 'turned_box':
      return `turned box by ${n(s.geometry.angle)}° ${place}`;
    case 'mask':
      return `mask ${place}`;
    case 'ellipse':
      return `ellipse ${place}`;
    case 'cuboid_2d':
      return `cuboid ${place}`;
  }
}

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

export const shapeOf = (m: Mark): Shape => ({ kind: m.kind, geometry: m.geometry }) as Shape;
