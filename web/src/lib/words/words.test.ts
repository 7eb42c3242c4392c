import { describe, expect, it } from 'vitest';
import { mark, orchard, wordsOf } from '../../test/plane';
import { asked, askedOfItem, type Answer } from './codebook';

const words = wordsOf();
const apple = (answers: Parameters<typeof words.questionsOf>[0]['answers']) => mark('A', [0, 0, 5, 5], { answers });

describe('a codebook in use', () => {
  it('asks what the plain look-up asks', () => {
    for (const scab of [undefined, { value: true }, { value: false }, { no_value: 'unsure' as const }])
      for (const { key } of orchard.classes) {
        const answers: Record<string, Answer> = scab ? { scab } : {};
        expect(words.questionsOf({ class: key, answers })).toEqual(asked(orchard, key, answers));
        expect(words.questionsOfItem(answers)).toEqual(askedOfItem(orchard, answers));
      }
    expect(words.questionsOf({ class: 'gone', answers: {} })).toEqual([]);
  });
  it('says what keys mean, and the key itself where nobody knows', () => {
    expect([words.nameOf('leaf'), words.nameOf('gone'), words.light('leaf'), words.light('gone')]).toEqual([
      'Leaf',
      'gone',
      '#abcdef',
      '#d5d8da'
    ]);
    expect(words.kindsOf('apple')).toEqual(['box', 'polygon', 'mask']);
    expect([words.pointsOf('eyes'), words.pointsOf('corner', 'polygon'), words.pointsOf('apple', 'polygon')]).toEqual([3, 4, null]);
    expect([0, 1, 2].map((i) => words.pointName('eyes', i))).toEqual(['left eye', 'right eye', '3']);
    expect(words.bones('moth')).toEqual([['head', 'tail']]);
    expect(words.stackOf(mark('A', [0, 0, 1, 1], { stack: 3 }))).toBe(3);
  });
  it('drops an answer nobody asks any more, and keeps what was never asked here', () => {
    const before = apple({ scab: { value: true }, spots: { value: 3 }, old: { value: 'x' } });
    expect(words.answered(before, 'scab', { value: false }).answers).toEqual({ scab: { value: false }, old: { value: 'x' } });
    expect(words.answered(before, 'scab', null).answers).toEqual({ old: { value: 'x' } });
    expect(words.reclassed(before, 'leaf').answers).toEqual({ scab: { value: true } });
  });
  it('puts a tag in the place of the other of its group', () => {
    const said = { answers: {}, tags: ['blurred', 'wet'], stretches: [] };
    expect(words.tagged(said, 'dry').tags).toEqual(['blurred', 'dry']);
    expect(words.tagged(said, 'wet').tags).toEqual(['blurred']);
    expect(words.tagged(said, 'wet', false)).toBe(said);
  });
});
