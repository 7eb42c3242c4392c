import { describe, expect, it } from 'vitest';
import vectors from '../../../../core/tests/vectors/asked.json';
import { asked, say, type Answer, type Document } from './codebook';

describe('open questions', () => {
  for (const c of vectors.cases) {
    it(`are those of the core: ${c.what}`, () => {
      expect(asked(vectors.codebook as Document, c.class, c.answers as unknown as Record<string, Answer>).map((a) => a.key)).toEqual(
        c.asked
      );
    });
  }
});

describe('answers in a word', () => {
  const [damage, length, , shaded] = (vectors.codebook as Document).attributes!;
  it('says choices, numbers, yes and no, and ways of having no value', () => {
    expect(say(damage!, { value: ['bird', 'crack'] })).toBe('Bird, Crack');
    expect(say({ ...length!, unit: 'mm' }, { value: 5 })).toBe('5 mm');
    expect(say(shaded!, { value: false })).toBe('no');
    expect(say(shaded!, { no_value: 'unsure' })).toBe("can't tell");
    expect(say(shaded!, undefined)).toBe('');
  });
});
