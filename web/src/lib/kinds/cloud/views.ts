import type { Cuboid } from '$lib/words/mark';
import { corners, local, type Faces, type Place } from './cuboid';

/** The three views of the object in hand, as on a technical drawing: from above, below it from its side, to the right of that from its front. */
export type View = 'above' | 'side' | 'front';
export const views: View[] = ['above', 'side', 'front'];
/** Which of the cuboid's own axes goes across each view, and which up. */
export const axes: Record<View, readonly [across: 0 | 1 | 2, up: 0 | 1 | 2]> = { above: [0, 1], side: [0, 2], front: [1, 2] };

/** px round an edge in which a press takes it. */
const GRAB = 8;
/** px from the front to the knob one turns by. */
export const KNOB = 26;

export type Size = { width: number; height: number };
export type Px = { x: number; y: number };

/** px a metre, the same in all three so that edges line up: what is in hand fills half of the narrowest. */
export function scaleOf(cuboid: Cuboid, panes: Record<View, Size>): number {
  const room = 1.9;
  let scale = 400;
  for (const view of views) {
    const [across, up] = axes[view];
    const { width, height } = panes[view];
    scale = Math.min(scale, width / (Math.max(0.2, cuboid.size[across]!) * room), height / (Math.max(0.2, cuboid.size[up]!) * room));
  }
  return Math.max(2, scale);
}

/** Where a place lies in a view that has `on` in its middle. */
export function onView(view: View, on: Cuboid, place: Place, scale: number, { width, height }: Size): Px {
  const at = local(on, place);
  const [across, up] = axes[view];
  return { x: width / 2 + at[across] * scale, y: height / 2 - at[up] * scale };
}

/** Its outline in a view: of what is turned against `on` all four corners from above, else what it covers. */
export function outline(view: View, on: Cuboid, cuboid: Cuboid, scale: number, size: Size): Px[] {
  const all = corners(cuboid).map((corner) => onView(view, on, corner, scale, size));
  if (view === 'above') return all.slice(0, 4);
  const [xs, ys] = [all.map((p) => p.x), all.map((p) => p.y)];
  const [x0, x1, y0, y1] = [Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys)];
  return [
    { x: x0, y: y1 },
    { x: x1, y: y1 },
    { x: x1, y: y0 },
    { x: x0, y: y0 }
  ];
}

/** Where one turns it, seen from above. */
export function knob(on: Cuboid, cuboid: Cuboid, scale: number, size: Size): Px {
  const [a, b] = outline('above', on, cuboid, scale, size).slice(1, 3) as [Px, Px];
  const middle = { x: (a.x + b.x) / 2, y: (a.y + b.y) / 2 };
  const turn = ((cuboid.heading - on.heading) * Math.PI) / 180;
  return { x: middle.x + Math.cos(turn) * KNOB, y: middle.y - Math.sin(turn) * KNOB };
}

/** What a press in a view takes hold of. */
export type Grip = { what: 'turn' } | { what: 'move' } | { what: 'size'; faces: Faces } | null;

export function gripAt(view: View, on: Cuboid, cuboid: Cuboid, scale: number, size: Size, at: Px): Grip {
  if (view === 'above') {
    const k = knob(on, cuboid, scale, size);
    if (Math.hypot(at.x - k.x, at.y - k.y) <= GRAB + 3) return { what: 'turn' };
  }
  const [across, up] = axes[view];
  // along its own axes, from its middle
  const middle = onView(view, on, cuboid.center as Place, scale, size);
  const turn = view === 'above' ? ((cuboid.heading - on.heading) * Math.PI) / 180 : 0;
  const [dx, dy] = [(at.x - middle.x) / scale, -(at.y - middle.y) / scale];
  const u = dx * Math.cos(turn) + dy * Math.sin(turn);
  const v = dy * Math.cos(turn) - dx * Math.sin(turn);
  const [half, high] = [cuboid.size[across]! / 2, cuboid.size[up]! / 2];
  // of a narrow one its middle can still be moved
  const near = (side: number) => Math.min(GRAB / scale, Math.max(side / 3, 2 / scale));
  const [gu, gv] = [near(half), near(high)];
  if (Math.abs(u) > half + GRAB / scale || Math.abs(v) > high + GRAB / scale) return null;
  const face = (d: number, side: number, grab: number): -1 | 0 | 1 =>
    Math.abs(Math.abs(d) - side) <= grab || Math.abs(d) > side ? (d > 0 ? 1 : -1) : 0;
  const [a, b] = [face(u, half, gu), face(v, high, gv)];
  if (a === 0 && b === 0) return { what: 'move' };
  const faces: Faces = [0, 0, 0];
  faces[across] = a;
  faces[up] = b;
  return { what: 'size', faces };
}

/** How far a drag in a view goes along the cuboid's own axes, in metres. */
export function byOf(view: View, on: Cuboid, cuboid: Cuboid, scale: number, from: Px, to: Px): Place {
  const [across, up] = axes[view];
  const turn = view === 'above' ? ((cuboid.heading - on.heading) * Math.PI) / 180 : 0;
  const [dx, dy] = [(to.x - from.x) / scale, -(to.y - from.y) / scale];
  const by: Place = [0, 0, 0];
  by[across] = dx * Math.cos(turn) + dy * Math.sin(turn);
  by[up] = dy * Math.cos(turn) - dx * Math.sin(turn);
  return by;
}
