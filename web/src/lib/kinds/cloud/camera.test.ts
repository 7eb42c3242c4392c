import { describe, expect, it } from 'vitest';
import { best, covers, outlineOn, project, seen, type Camera } from './camera';

/** 1.5 m over the origin, looking along x. */
const ahead: Camera = {
  name: 'front',
  width: 480,
  height: 320,
  to_camera: [0, -1, 0, 0, 0, 0, -1, 1.5, 1, 0, 0, 0],
  projection: [400, 0, 240, 0, 0, 400, 160, 0, 0, 0, 1, 0],
  pictures: ['jpg', 'jpg', '']
};
const behind: Camera = { ...ahead, name: 'behind', to_camera: [0, 1, 0, 0, 0, 0, -1, 1.5, -1, 0, 0, 0] };

describe('a camera beside the scanner', () => {
  it('has places where a pinhole has them', () => {
    expect(seen(ahead, [10, -1, 1])).toEqual([1, 0.5, 10]);
    expect(project(ahead, [10, 0, 1.5])).toEqual({ x: 240, y: 160 });
    expect(project(ahead, [10, -1, 0.5])).toEqual({ x: 280, y: 200 });
    expect(project(ahead, [-10, 0, 1.5])).toBeNull();
  });
  it('shows a cuboid by its edges and its front', () => {
    // its front looks away: the face at 12 m
    const it = outlineOn(ahead, { center: [11, 0, 1.5], size: [2, 2, 1], heading: 0 })!;
    expect(it.edges).toHaveLength(12);
    expect(it.far).toBe(11);
    expect(Math.max(...it.front.map((p) => p.x))).toBeCloseTo(240 + 400 / 12, 9);
    expect(Math.min(...it.edges.flat().map((p) => p.x))).toBeCloseTo(200, 9);
    expect(outlineOn(ahead, { center: [-5, 0, 1], size: [1, 1, 1], heading: 0 })).toBeNull();
    expect(outlineOn(ahead, { center: [5, 40, 1], size: [1, 1, 1], heading: 0 })).toBeNull();
  });
  it('cuts off what goes behind it', () => {
    const it = outlineOn(ahead, { center: [0.5, 1.2, 1], size: [4, 0.6, 1.2], heading: 0 })!;
    // the far end and the four edges that lead there
    expect(it.edges).toHaveLength(8);
    for (const p of it.edges.flat()) expect([p.x, p.y].every(Number.isFinite)).toBe(true);
    expect(outlineOn(ahead, { center: [0.5, 1.2, 1], size: [4, 0.6, 1.2], heading: 180 })!.front).toEqual([]);
  });
  it('is taken where it covers the picture, and not beside it', () => {
    const it = outlineOn(ahead, { center: [11, 0, 1.5], size: [2, 2, 1], heading: 0 })!;
    expect(covers(it, { x: 240, y: 160 })).toBe(true);
    expect(covers(it, { x: 201, y: 141 })).toBe(true);
    expect(covers(it, { x: 199, y: 160 })).toBe(false);
    expect(covers(it, { x: 240, y: 181 })).toBe(false);
  });
  it('is the one that sees a thing best, where it has a picture', () => {
    const cuboid = { center: [-8, 0, 1], size: [1, 1, 1], heading: 0 };
    expect(best([ahead, behind], 0, cuboid)).toBe(1);
    expect(best([ahead, behind], 2, cuboid)).toBeNull();
    expect(best([ahead], 0, cuboid)).toBeNull();
  });
});
