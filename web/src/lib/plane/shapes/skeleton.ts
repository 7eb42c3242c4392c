import type { Box, Point, Pose } from '$lib/words/mark';
import { clampPoint, resized, round, type Handle as BoxHandle, type Size } from '../view';
import type { Form } from './form';
import { angleOf, boxHandles, cornersOnly, distance, dot, extent, grown, traceLine, turn, turner } from './geometry';

const eachNode = (g: Pose, move: (p: Point) => Point): Pose => ({
  nodes: Object.fromEntries(
    Object.entries(g.nodes).map(([key, n]) => {
      const p = move(n);
      return [key, { ...n, x: round(p.x), y: round(p.y) }];
    })
  )
});
/** A pose turned about its middle; nodes stop at the picture's edge. */
export function turned(g: Pose, degrees: number, picture: Size): Pose {
  const box = skeleton.bounds(g);
  const [cx, cy] = [box.x + box.width / 2, box.y + box.height / 2];
  return eachNode(g, (n) => {
    const q = turn(n.x - cx, n.y - cy, degrees);
    return clampPoint({ x: cx + q.x, y: cy + q.y }, picture);
  });
}
function scaled(g: Pose, from: Box, to: Box): Pose {
  const [fx, fy] = [from.width > 0 ? to.width / from.width : 1, from.height > 0 ? to.height / from.height : 1];
  return eachNode(g, (n) => ({ x: to.x + (n.x - from.x) * fx, y: to.y + (n.y - from.y) * fy }));
}
/** Mirrored left to right: each node takes the place of its twin, so that left stays left. */
export function mirrored(g: Pose, twins: Map<string, string>): Pose {
  const box = skeleton.bounds(g);
  const flipped = Object.entries(g.nodes).map(([key, n]): [string, typeof n] => [
    twins.get(key) ?? key,
    { ...n, x: round(2 * box.x + box.width - n.x) }
  ]);
  return { nodes: Object.fromEntries(flipped) };
}
/** With a node in another state: visible and hidden in turns; one that is absent comes to stand in the middle. */
export function withNode(g: Pose, key: string, state: 'visible' | 'hidden' | 'absent'): Pose {
  const nodes = { ...g.nodes };
  const there = nodes[key];
  if (state === 'absent') {
    if (Object.keys(nodes).length > 1) delete nodes[key];
  } else if (there) nodes[key] = { ...there, state };
  else {
    const b = skeleton.bounds(g);
    nodes[key] = { x: Math.round(b.x + b.width / 2), y: Math.round(b.y + b.height / 2), state };
  }
  return { nodes };
}
/** The next state of a node: visible, hidden, absent, and again. */
export const nextState = (g: Pose, key: string): 'visible' | 'hidden' | 'absent' =>
  g.nodes[key] === undefined ? 'visible' : g.nodes[key].state === 'visible' ? 'hidden' : 'absent';

export const skeleton: Form<Pose> = {
  bounds: (g) => extent(Object.values(g.nodes).flatMap((n) => [n.x, n.y])),
  line: ({ nodes }, p, bones) => {
    let line = Math.min(...Object.values(nodes).map((n) => Math.hypot(p.x - n.x, p.y - n.y)));
    for (const [a, b] of bones)
      if (nodes[a] && nodes[b]) line = Math.min(line, distance(p, nodes[a].x, nodes[a].y, nodes[b].x, nodes[b].y));
    return line;
  },
  handles: (g, scale) => {
    const box = grown(skeleton.bounds(g), 14 / scale);
    const nodes = Object.entries(g.nodes).map(([key, n]) => ({
      key: `n:${key}`,
      at: { x: n.x, y: n.y },
      cursor: 'move',
      dot: true,
      hidden: n.state === 'hidden'
    }));
    return [
      ...nodes,
      ...cornersOnly(boxHandles(box, 'b:')),
      turner(box.x + box.width / 2, box.y + box.height / 2, box.height / 2, 0, scale)
    ];
  },
  pulled: (g, key, to, p, picture) => {
    if (key.startsWith('n:')) {
      const name = key.slice(2);
      return { nodes: { ...g.nodes, [name]: { ...g.nodes[name]!, x: round(p.x), y: round(p.y) } } };
    }
    const box = skeleton.bounds(g);
    if (key === 'turn') return turned(g, angleOf({ x: box.x + box.width / 2, y: box.y + box.height / 2 }, to) + 90, picture);
    return scaled(g, box, resized(box, key.slice(2) as BoxHandle, p));
  },
  moved: (g, dx, dy) => eachNode(g, (n) => ({ x: n.x + dx, y: n.y + dy })),
  without: (g, key) => {
    if (!key.startsWith('n:')) return null;
    const nodes = { ...g.nodes };
    delete nodes[key.slice(2)];
    return Object.keys(nodes).length > 0 ? { nodes } : null;
  },
  points: (g) => Object.keys(g.nodes).map((key) => `n:${key}`),
  describe: (g) => {
    const hidden = Object.values(g.nodes).filter((node) => node.state === 'hidden').length;
    return `skeleton of ${Object.keys(g.nodes).length} nodes${hidden > 0 ? `, ${hidden} hidden` : ''}`;
  },
  short: (g) => `${Object.keys(g.nodes).length} nodes`,
  trace: (pen, v, { nodes: n }, bones) => {
    for (const [a, b] of bones)
      if (n[a]?.state === 'visible' && n[b]?.state === 'visible') traceLine(pen, v, [n[a].x, n[a].y, n[b].x, n[b].y], false);
  },
  dots: (c, v, { nodes: n }, bones, color, lit) => {
    c.setLineDash([4, 4]);
    c.beginPath();
    for (const [a, b] of bones)
      if (n[a] && n[b] && (n[a].state === 'hidden' || n[b].state === 'hidden')) traceLine(c, v, [n[a].x, n[a].y, n[b].x, n[b].y], false);
    c.lineWidth = lit ? 2.5 : 1.5;
    c.strokeStyle = color;
    c.stroke();
    c.setLineDash([]);
    for (const node of Object.values(n)) dot(c, v, node.x, node.y, color, lit, node.state === 'hidden');
  }
};
