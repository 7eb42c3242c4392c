import { describe, expect, it } from 'vitest';
import { changes, nextOf } from './goto';

describe('the next change', () => {
  it('is a key, or where a stretch begins or ends, each once', () => {
    expect(changes([30, 0, 12], [[0, 20] as const, [25, 30] as const])).toEqual([0, 12, 20, 25, 30]);
    expect(changes([], [])).toEqual([]);
  });
  it('is looked for on one side, and round from the other end', () => {
    const places = [0, 12, 20];
    expect([nextOf(places, 5, 1), nextOf(places, 12, 1), nextOf(places, 20, 1)]).toEqual([12, 20, 0]);
    expect([nextOf(places, 5, -1), nextOf(places, 12, -1), nextOf(places, 0, -1)]).toEqual([0, 0, 20]);
    expect(nextOf([], 5, 1)).toBeNull();
  });
});
