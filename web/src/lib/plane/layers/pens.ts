import type { Mark, Shape } from '$lib/words/mark';
import { bounds, dots, trace } from '../shapes';
import type { View } from '../view';

/** Lines are drawn twice: a dark rim keeps them visible on bright pictures. */
export const RIM = 'rgba(12,16,15,.55)';

/** A shape ready to be drawn: its extent on the screen, and its path unless a rectangle says it. */
export type Drawn = { mark: Mark; shape: Shape; path: Path2D | null; x: number; y: number; w: number; h: number };

export function drawnOf(mark: Mark, shape: Shape, view: View, bones: [string, string][]): Drawn {
  const b = bounds(shape);
  const place = { x: b.x * view.scale + view.x, y: b.y * view.scale + view.y, w: b.width * view.scale, h: b.height * view.scale };
  return { mark, shape, path: shape.kind === 'box' || shape.kind === 'mask' ? null : pathOf(shape, view, bones), ...place };
}
export function pathOf(shape: Shape, view: View, bones: [string, string][]): Path2D {
  const path = new Path2D();
  trace(path, view, shape, bones);
  return path;
}
/** Boxes need no path; and many small paths are drawn sooner than one large one. */
export function pen(c: CanvasRenderingContext2D, d: Drawn): void {
  if (d.path) c.stroke(d.path);
  else if (d.shape.kind !== 'mask') c.strokeRect(d.x, d.y, d.w, d.h);
}

export function stroke(c: CanvasRenderingContext2D, path: Path2D, color: string, width: number): void {
  c.lineJoin = 'round';
  c.lineWidth = width + 2;
  c.strokeStyle = RIM;
  c.stroke(path);
  c.lineWidth = width;
  c.strokeStyle = color;
  c.stroke(path);
}

/** One object by itself, close up: its outline with a dark rim and its points. */
export function alone(c: CanvasRenderingContext2D, view: View, shape: Shape, bones: [string, string][], color: string): void {
  const path = pathOf(shape, view, bones);
  stroke(c, path, color, 1.5);
  dots(c, view, shape, bones, color, false);
}
