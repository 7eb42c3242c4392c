import { describe, expect, it } from 'vitest';
import { choices, read, say, written } from './conditions';
import type { Document } from '$lib/words/codebook';

const document: Document = {
  skeno: 'codebook/1',
  classes: [{ key: 'apple', name: 'Apple', shapes: ['box'] }],
  attributes: [
    { key: 'ripe', name: 'Ripe', type: 'yesno', scope: 'object', no_value: ['unsure'] },
    { key: 'light', name: 'Light', type: 'one', scope: 'item', options: [{ key: 'low', name: 'Low sun' }] }
  ],
  tags: [{ key: 'wet', name: 'Wet leaves' }]
};

describe('a condition', () => {
  it('is written and read alike, whatever is in it', () => {
    for (const [kind, value, not] of [
      ['set', 'a:b', false],
      ['re', '^-x:', true],
      ['answer', 'ripe=no:unsure', true],
      ['set', '', false]
    ] as const)
      expect(read(written(kind, value, not))).toEqual({ kind, value, not });
  });
  it('is said in words', () => {
    expect(say('class:apple', document)).toBe('has a mark of Apple');
    expect(say('-tag:wet', document)).toBe('not: tag is Wet leaves');
    expect(say('answer:light=low', document)).toBe('answer is Light: Low sun');
    expect(say('answer:ripe=open', document)).toBe('answer is Ripe: not answered');
    expect(say('fact:height>=2', document)).toBe('fact is “height>=2”');
    expect(say('re:^a', document)).toBe('name matches “^a”');
    expect(say('set:', document)).toBe('set is (top)');
  });
  it('offers the answers of every question, its ways of having no value, and none', () => {
    expect(choices('answer', document, [])?.map((c) => c.value)).toEqual([
      'ripe=yes',
      'ripe=no',
      'ripe=no:unsure',
      'ripe=open',
      'light=low',
      'light=open'
    ]);
    expect(choices('name', document, [])).toBeNull();
  });
});
