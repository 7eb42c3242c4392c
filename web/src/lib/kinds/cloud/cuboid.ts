import type { Cuboid } from '$lib/words/mark';
import type { Frame } from './frame';

/** A place in space: x ahead, y to the left, z up, in metres. */
export type Place = [x: number, y: number, z: number];
/** Which face of each axis is meant: along the heading, to its left, up; 1 the far one, -1 the near one, 0 none. */
export type Faces = [along: -1 | 0 | 1, left: -1 | 0 | 1, up: -1 | 0 | 1];

/** Metres a side has at least. */
export const THIN = 0.05;
const LIMIT = 1e6;
const rad = (degrees: number): number => (degrees * Math.PI) / 180;

/** To the millimetre and a hundredth of a degree, as it is kept. */
export function rounded({ center, size, heading }: Cuboid): Cuboid {
  const mm = (m: number) => Math.round(Math.max(-LIMIT, Math.min(LIMIT, m)) * 1000) / 1000 || 0;
  return { center: center.map(mm) as Place, size: size.map((m) => Math.max(0, mm(m))) as Place, heading: upright(heading) };
}
/** A heading in (-180, 180]. */
export function upright(degrees: number): number {
  const d = Math.round((((degrees % 360) + 540) % 360) * 100) / 100 - 180;
  return d <= -180 ? 180 : d || 0;
}

/** From its middle, along its own axes. */
export function local({ center, heading }: Cuboid, [x, y, z]: Place): Place {
  const [c, s] = [Math.cos(rad(heading)), Math.sin(rad(heading))];
  const [dx, dy] = [x - center[0]!, y - center[1]!];
  return [dx * c + dy * s, dy * c - dx * s, z - center[2]!];
}
export function world({ center, heading }: Cuboid, [u, v, w]: Place): Place {
  const [c, s] = [Math.cos(rad(heading)), Math.sin(rad(heading))];
  return [center[0]! + u * c - v * s, center[1]! + u * s + v * c, center[2]! + w];
}
export function contains(cuboid: Cuboid, place: Place): boolean {
  return local(cuboid, place).every((d, axis) => Math.abs(d) <= cuboid.size[axis]! / 2 + 1e-9);
}
/** Its eight corners: the lower four from behind on the right, counter-clockwise as seen from above, then those over them. */
export function corners(cuboid: Cuboid): Place[] {
  const [l, w, h] = cuboid.size.map((m) => m / 2) as Place;
  const around: [number, number][] = [
    [-l, -w],
    [l, -w],
    [l, w],
    [-l, w]
  ];
  return [-h, h].flatMap((z) => around.map(([u, v]) => world(cuboid, [u, v, z])));
}
/** Its edges, by its corners. */
export const EDGES = [
  [0, 1],
  [1, 2],
  [2, 3],
  [3, 0],
  [4, 5],
  [5, 6],
  [6, 7],
  [7, 4],
  [0, 4],
  [1, 5],
  [2, 6],
  [3, 7]
] as const;
/** How many points of a frame lie in it or on its faces. */
export function inside(cuboid: Cuboid, frame: Frame): number {
  const { floats, wide, loaded, origin } = frame;
  const [c, s] = [Math.cos(rad(cuboid.heading)), Math.sin(rad(cuboid.heading))];
  const [cx, cy, cz] = [cuboid.center[0]! - origin[0]!, cuboid.center[1]! - origin[1]!, cuboid.center[2]! - origin[2]!];
  const [l, w, h] = cuboid.size.map((m) => m / 2 + 1e-6) as Place;
  const reach = Math.hypot(l, w);
  let count = 0;
  for (let i = 0, at = 0; i < loaded; i++, at += wide) {
    const dx = floats[at]! - cx;
    if (dx > reach || dx < -reach) continue;
    const dy = floats[at + 1]! - cy;
    const dz = floats[at + 2]! - cz;
    if (dz <= h && dz >= -h && Math.abs(dx * c + dy * s) <= l && Math.abs(dy * c - dx * s) <= w) count++;
  }
  return count;
}

/** How high its bottom is over the ground around it, as half of the ground's points there are at most; null: there is none in sight. */
export function above(cuboid: Cuboid, frame: Frame): number | null {
  const { floats, bytes, wide, record, loaded, origin } = frame;
  const [cx, cy] = [cuboid.center[0]! - origin[0]!, cuboid.center[1]! - origin[1]!];
  const reach = Math.hypot(cuboid.size[0]!, cuboid.size[1]!) / 2 + 1;
  const heights: number[] = [];
  for (let i = 0, at = 0; i < loaded; i++, at += wide) {
    const dx = floats[at]! - cx;
    if (dx > reach || dx < -reach || bytes[i * record + 14] !== 1) continue;
    const dy = floats[at + 1]! - cy;
    if (dx * dx + dy * dy <= reach * reach) heights.push(floats[at + 2]!);
  }
  if (heights.length < 5) return null;
  heights.sort((a, b) => a - b);
  return cuboid.center[2]! - cuboid.size[2]! / 2 - heights[heights.length >> 1]! - origin[2]!;
}

/** Some of its faces moved by so much along its own axes; those across from them stay, and none passes the other. */
export function resized(cuboid: Cuboid, faces: Faces, by: Place): Cuboid {
  const size = [...cuboid.size] as Place;
  const shift: Place = [0, 0, 0];
  faces.forEach((face, axis) => {
    if (face === 0) return;
    const grown = Math.max(THIN, size[axis]! + face * by[axis]!);
    shift[axis] = (face * (grown - size[axis]!)) / 2;
    size[axis] = grown;
  });
  return { center: world(cuboid, shift), size, heading: cuboid.heading };
}
export const moved = (cuboid: Cuboid, [x, y, z]: Place): Cuboid => ({
  ...cuboid,
  center: [cuboid.center[0]! + x, cuboid.center[1]! + y, cuboid.center[2]! + z]
});
export const turned = (cuboid: Cuboid, by: number): Cuboid => ({ ...cuboid, heading: upright(cuboid.heading + by) });
/** Its front is the side to the left of what it was; where it lies it stays. */
export const quarter = ({ center, size, heading }: Cuboid): Cuboid => ({
  center,
  size: [size[1]!, size[0]!, size[2]!],
  heading: upright(heading + 90)
});
/** As large as something else, standing where it stands. */
export const sized = ({ center, size, heading }: Cuboid, to: readonly number[]): Cuboid => ({
  center: [center[0]!, center[1]!, center[2]! + (to[2]! - size[2]!) / 2],
  size: [to[0]!, to[1]!, to[2]!],
  heading
});

/** How far along a ray it is met; null: it is not. */
export function met(cuboid: Cuboid, from: Place, towards: Place): number | null {
  const a = local(cuboid, from);
  const b = local(cuboid, [from[0] + towards[0], from[1] + towards[1], from[2] + towards[2]]);
  let [near, far] = [-Infinity, Infinity];
  for (let axis = 0; axis < 3; axis++) {
    const half = cuboid.size[axis]! / 2;
    const way = b[axis]! - a[axis]!;
    if (Math.abs(way) < 1e-12) {
      if (Math.abs(a[axis]!) > half) return null;
      continue;
    }
    const [t, u] = [(-half - a[axis]!) / way, (half - a[axis]!) / way];
    near = Math.max(near, Math.min(t, u));
    far = Math.min(far, Math.max(t, u));
  }
  return near <= far && far >= 0 ? Math.max(0, near) : null;
}

/** The size in the middle of some sizes, side by side; null: there are none. */
export function typical(sizes: readonly (readonly number[])[]): Place | null {
  if (sizes.length === 0) return null;
  const middle = (axis: number) => sizes.map((s) => s[axis]!).sort((a, b) => a - b)[sizes.length >> 1]!;
  return [middle(0), middle(1), middle(2)];
}
