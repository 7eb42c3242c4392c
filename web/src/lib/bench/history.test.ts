// @vitest-environment jsdom
import { beforeEach, describe, expect, it } from 'vitest';
import { keep, restore, same, type Step } from './history';
import type { Mark, Said } from './types';

const mark = (id: string, x: number): Mark => ({
  id,
  class: 'apple',
  kind: 'box',
  geometry: { x, y: 1, width: 5, height: 5 },
  answers: {},
  stack: null,
  part_of: null,
  flags: [],
  revision: 1,
  author: 1,
  source: 'hand'
});
const nothing: Said = { answers: {}, tags: [] };
const steps: Step[][] = [
  [{ id: 'a', before: null, after: mark('a', 1) }],
  [{ id: 'a', before: mark('a', 1), after: mark('a', 2) }],
  [{ id: 's', before: null, after: null, said: { before: nothing, after: { answers: {}, tags: ['wet'] } } }]
];

beforeEach(() => sessionStorage.clear());

describe('what can be taken back over a reload', () => {
  it('is all of it when everything is as it was left, whoever counted revisions meanwhile', () => {
    keep(1, 9, steps);
    expect(restore(1, 9, [{ ...mark('a', 2), revision: 7, author: 4 }], { answers: {}, tags: ['wet'] })).toEqual(steps);
  });
  it('ends where somebody else has changed a mark since', () => {
    keep(1, 9, steps);
    expect(restore(1, 9, [mark('a', 99)], { answers: {}, tags: ['wet'] })).toEqual([steps[2]]);
    expect(restore(1, 9, [mark('a', 2)], nothing)).toEqual([]);
    expect(restore(1, 9, [], { answers: {}, tags: ['wet'] })).toEqual([steps[2]]);
  });
  it('is kept for each person and item, and nothing where the store holds rubbish', () => {
    keep(1, 9, steps);
    expect(restore(2, 9, [mark('a', 2)], nothing)).toEqual([]);
    expect(restore(1, 8, [mark('a', 2)], nothing)).toEqual([]);
    sessionStorage.setItem('skeno-undo-1-9', '{not json');
    expect(restore(1, 9, [mark('a', 2)], nothing)).toEqual([]);
  });
  it('forgets the oldest steps first, and gives up on what no store holds', () => {
    keep(
      1,
      9,
      Array.from({ length: 100 }, (_, i) => [{ id: 'a', before: mark('a', i), after: mark('a', i + 1) }])
    );
    expect(restore(1, 9, [mark('a', 100)], nothing)).toHaveLength(60);
    keep(1, 9, [[{ id: 'a', before: null, after: { ...mark('a', 1), answers: { remark: { value: 'x'.repeat(2_000_000) } } } }]]);
    expect(sessionStorage.getItem('skeno-undo-1-9')).toBeNull();
  });
  it('compares values, not the order of their keys', () => {
    expect(same({ a: 1, b: [1, { c: 2 }] }, { b: [1, { c: 2 }], a: 1 })).toBe(true);
    expect(same({ a: 1 }, { a: 1, b: undefined })).toBe(false);
  });
});
