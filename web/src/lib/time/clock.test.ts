// @vitest-environment jsdom
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { Clock, FrameTimes, type Pace } from './clock.svelte';
import { placeOf } from './goto';

/** Frames of the screen that come when they are told to. */
let screen: FrameRequestCallback[] = [];
const next = () => {
  const now = screen;
  screen = [];
  for (const call of now) call(0);
};
class Hand implements Pace {
  at = 0;
  plays = false;
  start(at: number): void {
    this.at = at;
    this.plays = true;
  }
  stop(): void {
    this.plays = false;
  }
  now(): number {
    return this.at;
  }
}
const even = (count: number) =>
  new FrameTimes(
    Array.from({ length: count }, (_, k) => k * 100),
    count * 100,
    1000
  );
function clock(count = 20, decoded: (frame: number) => boolean = () => true) {
  const pace = new Hand();
  const shown: number[] = [];
  let wanted = -1;
  let slow: ((frame: number) => Promise<void>) | null = null;
  const failed: string[] = [];
  const c = new Clock(
    even(count),
    {
      show: async (frame) => {
        wanted = frame;
        await slow?.(frame);
        if (wanted !== frame) return false;
        shown.push(frame);
        return true;
      },
      newest: (frame) => {
        for (let k = frame; k >= 0; k--)
          if (decoded(k)) {
            shown.push(k);
            return k;
          }
        return null;
      },
      ahead: () => {},
      failed: (why) => failed.push(why)
    },
    pace
  );
  return { c, pace, shown, failed, slowly: (f: typeof slow) => (slow = f) };
}
beforeEach(() => {
  screen = [];
  localStorage.clear();
  vi.stubGlobal('requestAnimationFrame', (call: FrameRequestCallback) => screen.push(call));
  vi.stubGlobal('cancelAnimationFrame', () => (screen = []));
});
afterEach(() => vi.unstubAllGlobals());

describe('times of frames', () => {
  it('tell which frame is shown when, also at an odd rate', () => {
    const times = new FrameTimes([900, 4500, 8100, 20_000], 24_000, 90_000);
    expect([0, 0.01, 0.0499, 0.05, 0.0899, 0.09, 0.2223, 9].map((s) => times.at(s))).toEqual([0, 0, 0, 1, 1, 2, 3, 3]);
    for (let k = 0; k < 4; k++) expect(times.at(times.seconds(k))).toBe(k);
  });
  it('are gone to by number or by time', () => {
    const times = even(100);
    expect(['1', '100', '0:04.5', '4,5 s', '00:00:09', ' 7 '].map((t) => placeOf(t, times))).toEqual([0, 99, 45, 45, 90, 6]);
    expect(['0', '101', '', 'x', '1:10', '-3', '4.5'].map((t) => placeOf(t, times))).toEqual(Array(7).fill(null));
  });
});

describe('a clock', () => {
  it('steps from where a press before it is heading to, and shows the last that was wanted', async () => {
    const { c, shown, slowly } = clock();
    let free = () => {};
    slowly(() => new Promise((done) => (free = done)));
    const first = c.by(1);
    const release = free;
    const second = c.by(1);
    expect([c.heading, c.frame]).toEqual([2, 0]);
    release();
    free();
    await Promise.all([first, second]);
    expect([shown, c.frame, c.wanted]).toEqual([[2], 2, null]);
    slowly(null);
    await c.go(99);
    expect(c.frame).toBe(19);
  });
  it('plays by its pace, leaves out what is late, never goes back, and stops at the end', async () => {
    const { c, pace, shown } = clock(20, (k) => k !== 5 && k !== 6);
    await c.play();
    for (const at of [0.1, 0.3, 0.45, 0.5, 0.65, 0.7, 1.2]) {
      pace.at = at;
      next();
    }
    expect(shown).toEqual([1, 3, 4, 4, 4, 7, 12]);
    pace.at = 2.5;
    next();
    expect([c.frame, c.playing, pace.plays]).toEqual([19, false, false]);
  });
  it('plays a stretch round and round, from its beginning each time', async () => {
    const { c, pace } = clock(20, (k) => k !== 9);
    c.loop = [5, 9];
    await c.play();
    expect(c.frame).toBe(5);
    pace.at = 0.85;
    next();
    expect(c.frame).toBe(8);
    // its last frame is late: it begins anew all the same
    pace.at = 1.01;
    next();
    await vi.waitFor(() => expect(c.frame).toBe(5));
    expect([c.playing, pace.at]).toEqual([true, 0.5]);
    c.stop();
    expect(c.playing).toBe(false);
  });
  it('says what could not be shown, and stays where it was', async () => {
    const { c, failed, slowly } = clock();
    slowly(() => Promise.reject(new Error('no such luck')));
    await c.go(4);
    expect([c.frame, c.wanted, failed]).toEqual([0, null, ['no such luck']]);
  });
  it('keeps the longer step of a person', () => {
    clock().c.setStep(25);
    expect(clock().c.step).toBe(25);
    clock().c.setStep(0);
    expect(clock().c.step).toBe(1);
  });
});
