import type { Cuboid } from '$lib/words/mark';
import { corners, EDGES, type Place } from './cuboid';
import type { Px } from './views';

/** A camera beside the scanner, as the server says it: 3 × 4 numbers row by row, from the cloud to the camera, and from there to px times depth. */
export type Camera = { name: string; width: number; height: number; to_camera: number[]; projection: number[]; pictures: string[] };

/** Metres: what is nearer to the camera, or behind it, is on no picture. */
const NEAR = 0.1;
/** Of a cuboid's corners those of its front. */
const FRONT = [1, 2, 6, 5];

const by = (m: readonly number[], [x, y, z]: Place): Place => [
  m[0]! * x + m[1]! * y + m[2]! * z + m[3]!,
  m[4]! * x + m[5]! * y + m[6]! * z + m[7]!,
  m[8]! * x + m[9]! * y + m[10]! * z + m[11]!
];
/** A place in the camera's axes: to the right, down, ahead. */
export const seen = (camera: Camera, place: Place): Place => by(camera.to_camera, place);
function onPicture(camera: Camera, at: Place): Px | null {
  const [u, v, depth] = by(camera.projection, at);
  return at[2] < NEAR - 1e-9 || depth <= 0 ? null : { x: u / depth, y: v / depth };
}
/** Where a place is on the picture; null: it is behind, or too near. */
export const project = (camera: Camera, place: Place): Px | null => onPicture(camera, seen(camera, place));

/** What a picture shows of a cuboid: its edges, each cut off where it goes behind the camera, and its front where that is whole before it. */
export type Outline = { edges: [Px, Px][]; front: Px[]; far: number };

/** @returns null: nothing of it is on the picture */
export function outlineOn(camera: Camera, cuboid: Cuboid): Outline | null {
  const all = corners(cuboid).map((corner) => seen(camera, corner));
  const edges = EDGES.flatMap(([i, j]): [Px, Px][] => {
    const [a, b] = [all[i]!, all[j]!];
    if (a[2] < NEAR && b[2] < NEAR) return [];
    const cut = (end: Place, other: Place): Place => {
      if (end[2] >= NEAR) return end;
      const t = (NEAR - end[2]) / (other[2] - end[2]);
      return [end[0] + t * (other[0] - end[0]), end[1] + t * (other[1] - end[1]), NEAR];
    };
    const [p, q] = [onPicture(camera, cut(a, b)), onPicture(camera, cut(b, a))];
    return p && q ? [[p, q]] : [];
  });
  const ends = edges.flat();
  const { width, height } = camera;
  const [xs, ys] = [ends.map((p) => p.x), ends.map((p) => p.y)];
  if (edges.length === 0 || Math.max(...xs) <= 0 || Math.min(...xs) >= width || Math.max(...ys) <= 0 || Math.min(...ys) >= height)
    return null;
  const front = FRONT.map((i) => onPicture(camera, all[i]!));
  return { edges, front: front.every((p) => p !== null) ? front : [], far: seen(camera, cuboid.center as Place)[2] };
}

/** Whether a press is on what an outline covers: the hull of its ends. */
export function covers({ edges }: Outline, at: Px): boolean {
  const points = edges.flat().sort((a, b) => a.x - b.x || a.y - b.y);
  // the two chains of a hull, left to right and back
  const chain = (of: Px[]): Px[] => {
    const hull: Px[] = [];
    for (const p of of) {
      while (hull.length > 1 && side(hull[hull.length - 2]!, hull[hull.length - 1]!, p) <= 0) hull.pop();
      hull.push(p);
    }
    return hull.slice(0, -1);
  };
  const hull = [...chain(points), ...chain([...points].reverse())];
  return hull.length > 2 && hull.every((p, i) => side(p, hull[(i + 1) % hull.length]!, at) >= 0);
}
const side = (a: Px, b: Px, c: Px): number => (b.x - a.x) * (c.y - a.y) - (b.y - a.y) * (c.x - a.x);

/** The camera that sees a cuboid best: whose picture has it nearest to its middle, of those with a picture of the frame; null: none sees it. */
export function best(cameras: readonly Camera[], frame: number, cuboid: Cuboid): number | null {
  let found: { n: number; far: number } | null = null;
  cameras.forEach((camera, n) => {
    const at = camera.pictures[frame] ? project(camera, cuboid.center as Place) : null;
    if (!at || at.x < 0 || at.y < 0 || at.x > camera.width || at.y > camera.height) return;
    const far = Math.hypot(at.x / camera.width - 0.5, at.y / camera.height - 0.5);
    if (found === null || far < found.far) found = { n, far };
  });
  return (found as { n: number } | null)?.n ?? null;
}
