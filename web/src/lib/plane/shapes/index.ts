import type { Box, FlatKind, Mark, Point, Ring, Shape } from '$lib/words/mark';
import { clampPoint, round, type Size, type View } from '../view';
import { box } from './box';
import { cuboid } from './cuboid';
import { ellipse } from './ellipse';
import type { Form, GeometryOf, Handle, Pen } from './form';
import { inside } from './geometry';
import { mask } from './mask';
import { points } from './points';
import { polygon } from './polygon';
import { polyline } from './polyline';
import { skeleton } from './skeleton';
import { turnedBox } from './turned-box';

export type { Handle, Pen } from './form';

/** The kinds of shapes there are; a new one is a file and a line here. */
const forms: { [K in FlatKind]: Form<GeometryOf<K>> } = {
  box,
  turned_box: turnedBox,
  polygon,
  polyline,
  ellipse,
  points,
  skeleton,
  mask,
  cuboid_2d: cuboid
};
// (what lies in a text never comes onto a plane: an item has marks of its own kinds)
const formOf = (s: Shape): Form<unknown> => forms[s.kind as FlatKind] as Form<unknown>;

export const shapeOf = (m: Mark): Shape => ({ kind: m.kind, geometry: m.geometry }) as Shape;
export const bounds = (s: Shape): Box => formOf(s).bounds(s.geometry);
/** The outline of a shape that covers an area; null for the others. */
export const outline = (s: Shape): Ring[] | null => formOf(s).outline?.(s.geometry) ?? null;
export const handlesOf = (s: Shape, scale: number): Handle[] => formOf(s).handles(s.geometry, scale);
export const trace = (pen: Pen, v: View, s: Shape, bones: [string, string][]): void => formOf(s).trace(pen, v, s.geometry, bones);
export const dots = (c: CanvasRenderingContext2D, v: View, s: Shape, bones: [string, string][], color: string, lit: boolean): void =>
  formOf(s).dots?.(c, v, s.geometry, bones, color, lit);
/** Whether it is told from others by its dots, where a sign of its class would be one more. */
export const isDotted = (s: Shape): boolean => formOf(s).dots !== undefined;
export const pointKeysOf = (s: Shape): string[] => formOf(s).points?.(s.geometry) ?? [];

/** How good a hit a press is: distance to the shape's line in screen px when near it, else its size when inside; null when neither. */
export function hit(s: Shape, p: Point, scale: number, bones: [string, string][] = []): number | null {
  const near = 6 / scale;
  const form = formOf(s);
  const b = form.bounds(s.geometry);
  if (p.x < b.x - near || p.y < b.y - near || p.x > b.x + b.width + near || p.y > b.y + b.height + near) return null;
  const size = 10 + Math.sqrt(Math.max(0, b.width * b.height));
  const line = form.line(s.geometry, p, bones);
  if (line <= near) return line * scale;
  const rings = form.outline?.(s.geometry);
  return form.covers?.(s.geometry, p) || (rings && inside(p, rings)) ? size : null;
}

/** The shape with one handle pulled to a place of the picture. */
export const pulled = (s: Shape, key: string, to: Point, picture: Size): Shape =>
  ({ kind: s.kind, geometry: formOf(s).pulled(s.geometry, key, to, clampPoint(to, picture), picture) }) as Shape;

/** The shape moved as a whole, stopping at the edges. */
export function moved(s: Shape, by: Point, picture: Size): Shape {
  const b = bounds(s);
  const dx = round(Math.min(Math.max(0, picture.width - b.x - b.width), Math.max(Math.min(0, -b.x), by.x)));
  const dy = round(Math.min(Math.max(0, picture.height - b.y - b.height), Math.max(Math.min(0, -b.y), by.y)));
  return { kind: s.kind, geometry: formOf(s).moved(s.geometry, dx, dy) } as Shape;
}

/** The shape without one of its points; null when it needs them all. */
export function withoutPoint(s: Shape, key: string): Shape | null {
  const geometry = formOf(s).without?.(s.geometry, key) ?? null;
  return geometry === null ? null : ({ kind: s.kind, geometry } as Shape);
}

/** Where the sign of a mark's class stands: on the shape itself, up and to the left. */
export function anchor(s: Shape): Point {
  const own = formOf(s).anchor?.(s.geometry);
  if (own) return own;
  const b = bounds(s);
  return { x: b.x, y: b.y };
}

/** In words for the ledger and the description of the stage. */
export function describe(s: Shape): string {
  const b = bounds(s);
  const n = (v: number) => String(round(v));
  return `${formOf(s).describe(s.geometry)} at ${n(b.x)}, ${n(b.y)}, ${n(b.width)} × ${n(b.height)} px`.trim();
}
/** In a word or two, where no answer says more. */
export function short(s: Shape): string {
  const b = bounds(s);
  return formOf(s).short?.(s.geometry) ?? `${Math.round(b.width)} × ${Math.round(b.height)}`;
}
