import type { Box, Point, Ring } from '$lib/words/mark';
import { handles, handleAt, round, type Handle as BoxHandle, type View } from '../view';
import type { Handle, Pen } from './form';

/** What several kinds of shapes are worked out with: turns, extents, distances, handles. */

const rad = (degrees: number): number => (degrees * Math.PI) / 180;
/** Offset turned by degrees, clockwise on the screen. */
export const turn = (x: number, y: number, degrees: number): Point => ({
  x: x * Math.cos(rad(degrees)) - y * Math.sin(rad(degrees)),
  y: x * Math.sin(rad(degrees)) + y * Math.cos(rad(degrees))
});
export const angleOf = (from: Point, to: Point): number => (Math.atan2(to.y - from.y, to.x - from.x) * 180) / Math.PI;
/** An angle from 0 to 360. */
export const wholeTurn = (degrees: number): number => round(((degrees % 360) + 360) % 360);

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
export const boxRing = (b: Box): Ring => [b.x, b.y, b.x + b.width, b.y, b.x + b.width, b.y + b.height, b.x, b.y + b.height];
export const grown = (b: Box, by: number): Box => ({ x: b.x - by, y: b.y - by, width: b.width + 2 * by, height: b.height + 2 * by });
export const shiftedBox = (b: Box, dx: number, dy: number): Box => ({ ...b, x: round(b.x + dx), y: round(b.y + dy) });
export const shifted = (ring: Ring, dx: number, dy: number): Ring => ring.map((v, i) => round(v + (i % 2 === 0 ? dx : dy)));

/** Distance of a point from a line between two others. */
export function distance(p: Point, ax: number, ay: number, bx: number, by: number): number {
  const length = (bx - ax) ** 2 + (by - ay) ** 2;
  const t = length > 0 ? Math.max(0, Math.min(1, ((p.x - ax) * (bx - ax) + (p.y - ay) * (by - ay)) / length)) : 0;
  return Math.hypot(p.x - ax - t * (bx - ax), p.y - ay - t * (by - ay));
}
/** Distance of a point from a row of lines. */
export function along(p: Point, points: Ring, closed: boolean): number {
  let nearest = points.length === 2 ? Math.hypot(p.x - points[0]!, p.y - points[1]!) : Infinity;
  for (let i = 0; i + 3 < points.length; i += 2)
    nearest = Math.min(nearest, distance(p, points[i]!, points[i + 1]!, points[i + 2]!, points[i + 3]!));
  if (closed && points.length >= 6)
    nearest = Math.min(nearest, distance(p, points[points.length - 2]!, points[points.length - 1]!, points[0]!, points[1]!));
  return nearest;
}
export const nearestRing = (p: Point, rings: Ring[]): number =>
  rings.reduce((least, ring) => Math.min(least, along(p, ring, true)), Infinity);
/** Whether a point lies inside an odd number of rings. */
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
export const boxHandles = (box: Box, prefix = ''): Handle[] =>
  handles.map((h) => ({ key: prefix + h, at: handleAt(box, h), cursor: boxCursors[h] }));
/** The corners alone, of eight handles. */
export const cornersOnly = (all: Handle[]): Handle[] => all.filter((h) => h.key.length === 4);

/** The spot that turns a shape, above it by so many px of the screen. */
export const turner = (cx: number, cy: number, up: number, angle: number, scale: number): Handle => {
  const p = turn(0, -(up + 26 / scale), angle);
  return { key: 'turn', at: { x: cx + p.x, y: cy + p.y }, cursor: 'grab', dot: true };
};

export const vertices = (points: Ring, prefix: string): Handle[] =>
  Array.from({ length: points.length / 2 }, (_, i) => ({
    key: `${prefix}${i}`,
    at: { x: points[2 * i]!, y: points[2 * i + 1]! },
    cursor: 'move',
    dot: true
  }));
/** Middles of edges long enough on the screen: pulling one puts a point in. */
export function middles(points: Ring, prefix: string, closed: boolean, scale: number): Handle[] {
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

/** A vertex handle `v:ring:i` or a middle `m:ring:i`, in numbers. */
export function vertexKey(key: string): { middle: boolean; ring: number; i: number } | null {
  const [what, ring, i] = key.split(':');
  return what === 'v' || what === 'm' ? { middle: what === 'm', ring: Number(ring), i: Number(i) } : null;
}
export const pointKeys = (points: Ring, ring = 0): string[] => Array.from({ length: points.length / 2 }, (_, i) => `v:${ring}:${i}`);
const at = (p: Point): [number, number] => [round(p.x), round(p.y)];
const replaced = (ring: Ring, i: number, p: Point): Ring => [...ring.slice(0, 2 * i), ...at(p), ...ring.slice(2 * i + 2)];
const inserted = (ring: Ring, after: number, p: Point): Ring => [...ring.slice(0, 2 * after + 2), ...at(p), ...ring.slice(2 * after + 2)];
/** A ring with a vertex moved, or with a new one where a middle was pulled. */
export function pulledRing(ring: Ring, key: string, p: Point): Ring {
  const k = vertexKey(key);
  return k === null ? ring : k.middle ? inserted(ring, k.i, p) : replaced(ring, k.i, p);
}
export const cutOut = (ring: Ring, i: number): Ring => [...ring.slice(0, 2 * i), ...ring.slice(2 * i + 2)];

export function traceLine(pen: Pen, v: View, points: Ring, closed: boolean): void {
  for (let i = 0; i < points.length; i += 2) {
    const [x, y] = [points[i]! * v.scale + v.x, points[i + 1]! * v.scale + v.y];
    if (i === 0) pen.moveTo(x, y);
    else pen.lineTo(x, y);
  }
  if (closed) pen.closePath();
}
export const traceBox = (pen: Pen, v: View, b: Box): void =>
  pen.rect(b.x * v.scale + v.x, b.y * v.scale + v.y, b.width * v.scale, b.height * v.scale);
/** A point: filled, or a ring where it is hidden. */
export function dot(c: CanvasRenderingContext2D, v: View, x: number, y: number, color: string, lit: boolean, hollow: boolean): void {
  c.beginPath();
  c.arc(x * v.scale + v.x, y * v.scale + v.y, lit ? 4.5 : 3.5, 0, 7);
  c.fillStyle = hollow ? '#171b1a' : color;
  c.fill();
  c.lineWidth = hollow ? 2 : 1;
  c.strokeStyle = hollow ? color : '#171b1a';
  c.stroke();
}
