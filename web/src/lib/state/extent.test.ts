import { describe, expect, it } from 'vitest';
import { extentOf } from './extent';

const nothing = { width: 640, height: 480, volume: null, cloud: null, text: null, document: null };
const of = (more: object): string => extentOf({ ...nothing, ...more } as Parameters<typeof extentOf>[0]);

describe('how large an item is', () => {
  it('is said in what it is measured by', () => {
    expect(of({})).toBe('640 × 480');
    expect(of({ volume: { slices: 72 } })).toBe('640 × 480 × 72');
    expect(of({ cloud: { frames: 1, points: [1] } })).toBe('1 point');
    expect(of({ cloud: { frames: 2, points: [60_000, 65_000] } })).toBe('2 frames, 125,000 points');
    expect(of({ text: { length: 1_204 } })).toBe('1,204 characters');
    expect(of({ document: { pages: 3 } })).toBe('640 × 480, 3 pages');
    expect(of({ document: { pages: 1 } })).toBe('640 × 480');
  });
});
