import { describe, expect, it } from 'vitest';
import { toMask, scan } from '../raster';
import { crosses } from './crosses';
import { bounds, describe as say, handlesOf, hit, moved, pointKeysOf, pulled, withoutPoint } from './index';
import { mirrored, nextState, withNode } from './skeleton';
import { corners } from './turned-box';
import type { Shape } from '$lib/words/mark';

const picture = { width: 100, height: 80 };
const box = (x: number, y: number, width: number, height: number): Shape => ({ kind: 'box', geometry: { x, y, width, height } });
const triangle: Shape = { kind: 'polygon', geometry: { rings: [[10, 10, 50, 10, 30, 40]] } };
const pose: Extract<Shape, { kind: 'skeleton' }> = {
  kind: 'skeleton',
  geometry: {
    nodes: { head: { x: 50, y: 10, state: 'visible' }, l: { x: 40, y: 30, state: 'hidden' }, r: { x: 70, y: 30, state: 'visible' } }
  }
};
const all: Shape[] = [
  box(10, 10, 20, 20),
  { kind: 'turned_box', geometry: { cx: 40, cy: 40, width: 20, height: 10, angle: 30 } },
  { kind: 'ellipse', geometry: { cx: 40, cy: 40, rx: 10, ry: 5, angle: 45 } },
  triangle,
  { kind: 'polyline', geometry: { points: [10, 10, 30, 20, 50, 10] } },
  { kind: 'points', geometry: { points: [10, 10, 30, 20] } },
  pose,
  { kind: 'mask', geometry: toMask(scan([[10, 10, 30, 10, 20, 40]], 100, 80), 100, 80) },
  { kind: 'cuboid_2d', geometry: { front: { x: 10, y: 20, width: 20, height: 20 }, back: { x: 20, y: 10, width: 16, height: 16 } } }
];

describe('every shape', () => {
  it.each(all.map((s) => [s.kind, s] as const))('%s moves as a whole and stops at the edges', (_, s) => {
    const before = bounds(s);
    const by = bounds(moved(s, { x: 7, y: -3 }, picture));
    expect(by.x).toBeCloseTo(before.x + 7, 1);
    expect(by.y).toBeCloseTo(before.y - 3, 1);
    const far = bounds(moved(s, { x: 999, y: 999 }, picture));
    expect(far.x + far.width).toBeCloseTo(100, 1);
    expect(far.y + far.height).toBeCloseTo(80, 1);
    expect(far.width).toBeCloseTo(before.width, 1);
  });
  it.each(all.filter((s) => s.kind !== 'mask').map((s) => [s.kind, s] as const))(
    '%s stays as it is when a handle is pulled to where it lies',
    (_, s) => {
      for (const handle of handlesOf(s, 1).filter((h) => !h.faint && h.key !== 'turn' && !h.key.startsWith('b:'))) {
        const after = bounds(pulled(s, handle.key, handle.at, picture));
        const before = bounds(s);
        for (const side of ['x', 'y', 'width', 'height'] as const) expect(after[side]).toBeCloseTo(before[side], 1);
      }
    }
  );
  it.each(all.map((s) => [s.kind, s] as const))('%s says in words what it is', (kind, s) => {
    expect(say(s)).toMatch(/at [\d.]+, [\d.]+, [\d.]+ × [\d.]+ px/);
    if (kind !== 'box') expect(say(s)).toContain(kind.split('_')[0]);
  });
});

describe('hits', () => {
  it('come by the edge before the inside, the smaller first', () => {
    expect(hit(box(0, 0, 50, 50), { x: 1, y: 25 }, 1)).toBe(1);
    expect(hit(box(0, 0, 50, 50), { x: 25, y: 25 }, 1)!).toBeGreaterThan(hit(box(20, 20, 20, 20), { x: 29, y: 29 }, 1)!);
    expect(hit(box(0, 0, 50, 50), { x: 60, y: 25 }, 1)).toBeNull();
    expect(hit(box(0, 0, 50, 50), { x: 51.5, y: 25 }, 4)).toBe(6);
  });
  it('are on the line of a line, on the pixels of a mask, on bones and nodes', () => {
    expect(hit(all[4]!, { x: 20, y: 16 }, 1)).toBeLessThan(2);
    expect(hit(all[4]!, { x: 30, y: 10 }, 4)).toBeNull();
    expect(hit(all[7]!, { x: 20, y: 20 }, 1)).not.toBeNull();
    expect(hit(all[7]!, { x: 11, y: 38 }, 1)).toBeNull();
    expect(hit(pose, { x: 60, y: 20 }, 1, [['head', 'r']])).toBeLessThan(1);
    expect(hit(pose, { x: 60, y: 20 }, 1)).toBeNull();
  });
  it('miss the hole of an outline', () => {
    const ring: Shape = {
      kind: 'polygon',
      geometry: {
        rings: [
          [0, 0, 60, 0, 60, 60, 0, 60],
          [20, 20, 40, 20, 40, 40, 20, 40]
        ]
      }
    };
    expect(hit(ring, { x: 30, y: 30 }, 1)).toBeNull();
    expect(hit(ring, { x: 10, y: 30 }, 1)).not.toBeNull();
  });
});

describe('turned boxes', () => {
  it('have their corners clockwise from what was top left', () => {
    const ring = corners({ cx: 50, cy: 25, width: 20, height: 10, angle: 90 });
    expect(ring.map((v) => Math.round(v))).toEqual([55, 15, 55, 35, 45, 35, 45, 15]);
  });
  it('turn by their handle and grow about the corner that stays', () => {
    const s: Shape = { kind: 'turned_box', geometry: { cx: 50, cy: 40, width: 20, height: 10, angle: 0 } };
    expect(pulled(s, 'turn', { x: 80, y: 40 }, picture).geometry).toMatchObject({ angle: 90 });
    expect(pulled(s, 'se', { x: 70, y: 55 }, picture).geometry).toMatchObject({ cx: 55, cy: 45, width: 30, height: 20 });
  });
});

describe('points of outlines', () => {
  it('are put in by pulling the middle of an edge, and taken out', () => {
    const more = pulled(triangle, 'm:0:0', { x: 30, y: 5 }, picture);
    expect(more.geometry).toEqual({ rings: [[10, 10, 30, 5, 50, 10, 30, 40]] });
    expect(withoutPoint(more, 'v:0:1')?.geometry).toEqual(triangle.geometry);
    expect(withoutPoint(triangle, 'v:0:1')).toBeNull();
  });
  it('cross or only touch', () => {
    expect(crosses([[0, 0, 10, 10, 10, 0, 0, 10]])).toEqual({ x: 5, y: 5 });
    expect(crosses([[0, 0, 10, 0, 10, 10, 0, 10]])).toBeNull();
    expect(crosses([[0, 0, 10, 0, 10, 10, 5, 0, 0, 10]])).toBeNull();
  });
});

describe('skeletons', () => {
  it('mirror so that left stays left: each node takes the place of its twin', () => {
    const twins = new Map([
      ['l', 'r'],
      ['r', 'l']
    ]);
    // the extent runs from 40 to 70: 40 ↔ 70, 50 → 60
    expect(mirrored(pose.geometry, twins)).toEqual({
      nodes: { head: { x: 60, y: 10, state: 'visible' }, r: { x: 70, y: 30, state: 'hidden' }, l: { x: 40, y: 30, state: 'visible' } }
    });
  });
  it('move by node, and lose one', () => {
    expect(pulled(pose, 'n:head', { x: 55, y: 500 }, picture).geometry).toMatchObject({
      nodes: { head: { x: 55, y: 80, state: 'visible' } }
    });
    expect(Object.keys((withoutPoint(pose, 'n:l')!.geometry as { nodes: object }).nodes)).toEqual(['head', 'r']);
  });
  it('have nodes visible, hidden and absent in turns, and keep the last one', () => {
    const states = ['visible'];
    let geometry = pose.geometry;
    for (let i = 0; i < 3; i++) {
      const next = nextState(geometry, 'head');
      geometry = withNode(geometry, 'head', next);
      states.push(geometry.nodes.head?.state ?? 'absent');
    }
    expect(states).toEqual(['visible', 'hidden', 'absent', 'visible']);
    expect(geometry.nodes.head).toEqual({ x: 55, y: 30, state: 'visible' });
    const alone = { nodes: { head: geometry.nodes.head! } };
    expect(withNode(alone, 'head', 'absent')).toEqual(alone);
  });
  it('and outlines name their points in order', () => {
    expect(pointKeysOf(pose)).toEqual(['n:head', 'n:l', 'n:r']);
    expect(pointKeysOf(triangle)).toEqual(['v:0:0', 'v:0:1', 'v:0:2']);
    expect(pointKeysOf(all[0]!)).toEqual([]);
  });
});
