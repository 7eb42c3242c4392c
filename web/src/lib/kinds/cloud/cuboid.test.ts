import { describe, expect, it } from 'vitest';
import type { Cuboid } from '$lib/words/mark';
import {
  above,
  contains,
  corners,
  inside,
  local,
  met,
  moved,
  quarter,
  resized,
  rounded,
  sized,
  turned,
  typical,
  upright,
  world,
  type Place
} from './cuboid';
import { Frame } from './frame';
import { axes, byOf, gripAt, knob, onView, outline, scaleOf, views } from './views';

const one: Cuboid = { center: [4, 2, 1], size: [4, 2, 1], heading: 90 };
const near = (a: readonly number[], b: readonly number[]) => a.forEach((n, i) => expect(n).toBeCloseTo(b[i]!, 6));
/** Even numbers, always the same ones. */
function drawn(seed: number): (from: number, to: number) => number {
  let now = seed;
  return (from, to) => {
    now = (now * 1103515245 + 12345) % 2147483648;
    return from + ((to - from) * now) / 2147483648;
  };
}

describe('a cuboid', () => {
  it('knows places along its own axes', () => {
    near(local(one, [4, 4, 1.5]), [2, 0, 0.5]);
    near(local(one, [3, 2, 1]), [0, 1, 0]);
    near(world(one, [2, 0, 0.5]), [4, 4, 1.5]);
    near(corners(one)[1]!, [5, 4, 0.5]);
    expect(corners(one).every((c) => contains(one, c))).toBe(true);
    expect(contains(one, [4, 4.01, 1])).toBe(false);
  });
  it('knows how high over the ground around it it begins', () => {
    const frame = new Frame(12, 16, [10, 0, 2]);
    // a slope beneath it, and the top of something that is no ground
    for (let i = 0; i < 12; i++) {
      [i * 0.2 - 1, 0.1, i * 0.01].forEach((m, axis) => (frame.floats[i * 4 + axis] = m));
      frame.bytes[i * 16 + 14] = i < 9 ? 1 : 0;
    }
    frame.loaded = 12;
    expect(above({ center: [10, 0, 3], size: [1, 1, 1], heading: 20 }, frame)).toBeCloseTo(0.5 - 0.04, 6);
    frame.loaded = 3;
    expect(above({ center: [10, 0, 3], size: [1, 1, 1], heading: 20 }, frame)).toBeNull();
    frame.loaded = 12;
    expect(above({ center: [40, 0, 3], size: [1, 1, 1], heading: 20 }, frame)).toBeNull();
  });
  it('counts the points in it as a brute force does', () => {
    const random = drawn(7);
    const frame = new Frame(4_000, 20, [10, 0, 0]);
    const places: Place[] = [];
    for (let i = 0; i < frame.points; i++) {
      const at: Place = [random(-6, 6), random(-6, 6), random(-2, 3)].map(Math.fround) as Place;
      at.forEach((m, axis) => (frame.floats[i * frame.wide + axis] = m));
      places.push([at[0] + 10, at[1], at[2]]);
    }
    frame.loaded = frame.points;
    for (let n = 0; n < 20; n++) {
      const c: Cuboid = {
        center: [random(4, 16), random(-6, 6), random(-1, 2)],
        size: [random(0.1, 6), random(0.1, 6), random(0.1, 4)],
        heading: random(-180, 180)
      };
      expect(inside(c, frame)).toBe(places.filter((p) => contains(c, p)).length);
    }
    frame.loaded = 0;
    expect(inside({ ...one, size: [100, 100, 100] }, frame)).toBe(0);
  });
  it('is resized at one face, the one across from it stays, and none passes the other', () => {
    const wider = resized(one, [1, 0, 0], [1, 9, 9]);
    near(wider.size, [5, 2, 1]);
    near(world(wider, [-2.5, 0, 0]), world(one, [-2, 0, 0]));
    near(world(wider, [2.5, 0, 0]), world(one, [3, 0, 0]));
    const corner = resized(one, [-1, 1, 0], [0.5, 0.25, 0]);
    near(corner.size, [3.5, 2.25, 1]);
    near(resized(one, [0, 0, 1], [0, 0, -5]).size, [4, 2, 0.05]);
    near(resized(one, [0, 0, 1], [0, 0, -5]).center, [4, 2, 0.525]);
  });
  it('is moved, turned, and has its front on another side', () => {
    expect(moved(one, [1, -1, 0.5]).center).toEqual([5, 1, 1.5]);
    expect([turned(one, 100).heading, turned(one, -300).heading, upright(180), upright(-180), upright(540), upright(0)]).toEqual([
      -170, 150, 180, 180, 180, 0
    ]);
    const other = quarter(one);
    expect([other.heading, other.size]).toEqual([180, [2, 4, 1]]);
    // what it covers is the same
    for (const c of corners(one)) expect(contains(other, c)).toBe(true);
    const whole = quarter(quarter(quarter(other)));
    expect([whole.heading, whole.size]).toEqual([one.heading, one.size]);
    near(sized(one, [1, 1, 3]).center, [4, 2, 2]);
  });
  it('is kept to the millimetre', () => {
    expect(rounded({ center: [1.23456, -0.0001, 2e9], size: [-1, 0.0004, 1.9996], heading: 359.999 })).toEqual({
      center: [1.235, 0, 1e6],
      size: [0, 0, 2],
      heading: 0
    });
  });
  it('is met by a ray where it begins', () => {
    expect(met(one, [4, -10, 1], [0, 1, 0])).toBeCloseTo(10, 6);
    expect(met(one, [4, -10, 1], [0, -1, 0])).toBeNull();
    expect(met(one, [7, -10, 1], [0, 1, 0])).toBeNull();
    expect(met(one, [4, 2, 1], [1, 0, 0])).toBe(0);
    expect(met(one, [4, 2, 9], [0, 0, -1])).toBeCloseTo(7.5, 6);
  });
  it('has a usual size', () => {
    expect(typical([])).toBeNull();
    expect(
      typical([
        [1, 5, 2],
        [3, 1, 9],
        [2, 2, 2]
      ])
    ).toEqual([2, 2, 2]);
  });
});

describe('the views of the one in hand', () => {
  const panes = { above: { width: 200, height: 200 }, side: { width: 200, height: 150 }, front: { width: 120, height: 150 } };
  it('have one scale, so that edges line up', () => {
    const scale = scaleOf(one, panes);
    const right = (view: 'above' | 'side') => Math.max(...outline(view, one, one, scale, panes[view]).map((p) => p.x));
    expect(right('above')).toBeCloseTo(right('side'), 6);
    const top = (view: 'side' | 'front') => Math.min(...outline(view, one, one, scale, panes[view]).map((p) => p.y));
    expect(top('side')).toBeCloseTo(top('front'), 6);
    for (const view of views)
      for (const p of outline(view, one, one, scale, panes[view])) {
        expect(p.x).toBeGreaterThan(0);
        expect(p.x).toBeLessThan(panes[view].width);
        expect(p.y).toBeGreaterThan(0);
        expect(p.y).toBeLessThan(panes[view].height);
      }
  });
  it('say what a press takes: a face, a corner, the whole, the knob it is turned by, nothing', () => {
    const at = (x: number, y: number) => gripAt('above', one, one, 30, panes.above, { x, y });
    expect(at(100, 100)).toEqual({ what: 'move' });
    expect(at(160, 100)).toEqual({ what: 'size', faces: [1, 0, 0] });
    expect(at(160, 70)).toEqual({ what: 'size', faces: [1, 1, 0] });
    expect(at(100, 130)).toEqual({ what: 'size', faces: [0, -1, 0] });
    expect(at(20, 100)).toBeNull();
    const k = knob(one, one, 30, panes.above);
    expect(at(k.x, k.y)).toEqual({ what: 'turn' });
    expect(gripAt('front', one, one, 30, panes.front, { x: 60, y: 75 - 15 })).toEqual({ what: 'size', faces: [0, 0, 1] });
    // of one that is narrower than a fingertip the middle can still be moved
    expect(gripAt('front', one, { ...one, size: [4, 0.3, 1] }, 30, panes.front, { x: 60, y: 75 })).toEqual({ what: 'move' });
  });
  it('tell how far a drag goes, also when it is turned meanwhile', () => {
    near(byOf('above', one, one, 10, { x: 0, y: 0 }, { x: 10, y: -20 }), [1, 2, 0]);
    near(byOf('side', one, one, 10, { x: 0, y: 0 }, { x: -10, y: 5 }), [-1, 0, -0.5]);
    near(byOf('front', one, one, 10, { x: 0, y: 0 }, { x: 10, y: 0 }), [0, 1, 0]);
    near(byOf('above', one, turned(one, 90), 10, { x: 0, y: 0 }, { x: 10, y: 0 }), [0, -1, 0]);
    near([onView('above', one, [4, 3, 1], 10, panes.above).x, onView('above', one, [4, 3, 1], 10, panes.above).y], [110, 100]);
    expect(axes.side).toEqual([0, 2]);
  });
});
