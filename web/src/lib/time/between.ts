import type { Box, Cuboid, Ellipse, Faces, Kind, Points, Pose, Shape, TurnedBox } from '$lib/words/mark';

type Geometry = Shape['geometry'];

/** What lies between two shapes, `t` from 0 to 1. */
export type Between = (t: number) => Geometry;

/**
 * What lies between two keys of a kind whose in-betweens are a few numbers, as the core works it out (both pass `core/tests/vectors/tracks.json`):
 * it is shown at once, and what becomes data is the core's. null: outlines and masks, which the server is asked for.
 */
export function between(kind: Kind, a: Geometry, b: Geometry): Between | null {
  switch (kind) {
    case 'box':
      return boxes(a as Box, b as Box);
    case 'turned_box':
      return turned(a as TurnedBox, b as TurnedBox, ['width', 'height'], 360) as Between;
    case 'ellipse':
      return turned(a as Ellipse, b as Ellipse, ['rx', 'ry'], 180) as Between;
    case 'cuboid_2d': {
      const [front, back] = [boxes((a as Faces).front, (b as Faces).front), boxes((a as Faces).back, (b as Faces).back)];
      return (t) => ({ front: front(t), back: back(t) });
    }
    case 'cuboid':
      return cuboids(a as Cuboid, b as Cuboid);
    case 'points': {
      const at = moving(pairs((a as Points).points), pairs((b as Points).points));
      return (t) => ({ points: [...at(t).values()].flat() });
    }
    case 'skeleton': {
      const [from, to] = [(a as Pose).nodes, (b as Pose).nodes];
      const places = (nodes: Pose['nodes']) => new Map(Object.entries(nodes).map(([key, n]) => [key, [n.x, n.y] as [number, number]]));
      const at = moving(places(from), places(to));
      return (t) => ({ nodes: Object.fromEntries([...at(t)].map(([key, [x, y]]) => [key, { x, y, state: from[key]!.state }])) });
    }
    default:
      return null;
  }
}

const mix = (a: number, b: number, t: number): number => a + t * (b - a);

function boxes(a: Box, b: Box): (t: number) => Box {
  return (t) => ({
    x: mix(a.x, b.x, t),
    y: mix(a.y, b.y, t),
    width: Math.max(0, mix(a.width, b.width, t)),
    height: Math.max(0, mix(a.height, b.height, t))
  });
}

/** The way from one angle to another that is the shorter, in degrees: more than -period/2, at most period/2. */
function turn(from: number, to: number, period: number): number {
  const way = (to - from) % period;
  return way > period / 2 ? way - period : way <= -period / 2 ? way + period : way;
}
const positive = (angle: number): number => ((angle % 360) + 360) % 360;

function turned<T extends TurnedBox | Ellipse>(a: T, b: T, sides: (keyof T)[], period: number): (t: number) => T {
  const way = turn(a.angle, b.angle, period);
  return (t) =>
    ({
      cx: mix(a.cx, b.cx, t),
      cy: mix(a.cy, b.cy, t),
      ...Object.fromEntries(sides.map((side) => [side, Math.max(0, mix(a[side] as number, b[side] as number, t))])),
      angle: positive(a.angle + t * way)
    }) as T;
}

function cuboids(a: Cuboid, b: Cuboid): (t: number) => Cuboid {
  const way = turn(a.heading, b.heading, 360);
  const all = (from: number[], to: number[], t: number) => from.map((n, i) => mix(n, to[i]!, t));
  return (t) => ({
    center: all(a.center, b.center, t),
    size: all(a.size, b.size, t).map((side) => Math.max(0, side)),
    heading: turn(0, a.heading + t * way, 360)
  });
}

const pairs = (points: number[]): Map<string, [number, number]> =>
  new Map(points.flatMap((x, i) => (i % 2 === 0 ? [[String(i / 2), [x, points[i + 1]!]] as [string, [number, number]]] : [])));

/** Each point goes to where the same one is at the next key; one that has none goes along with the others. */
function moving(a: Map<string, [number, number]>, b: Map<string, [number, number]>): (t: number) => Map<string, [number, number]> {
  const ways = new Map<string, [number, number]>();
  let [dx, dy] = [0, 0];
  for (const [key, [x, y]] of a) {
    const to = b.get(key);
    if (!to) continue;
    ways.set(key, [to[0] - x, to[1] - y]);
    dx += to[0] - x;
    dy += to[1] - y;
  }
  const n = Math.max(1, ways.size);
  return (t) =>
    new Map(
      [...a].map(([key, [x, y]]) => {
        const [wx, wy] = ways.get(key) ?? [dx / n, dy / n];
        return [key, [x + t * wx, y + t * wy]];
      })
    );
}
