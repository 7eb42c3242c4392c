import { describe, expect, it } from 'vitest';
import { orchard } from '../../test/plane';
import { placed, unasked } from './faults';

const words = (path: string, message: string) => placed(orchard, [{ path, message }])[0]!;

describe('what is wrong with a codebook', () => {
  it('is said of what it is wrong with, at its place', () => {
    expect(words('classes[4].skeleton', 'a class with shape skeleton must name one')).toEqual({
      part: 'classes',
      index: 4,
      words: 'Moth needs a skeleton'
    });
    expect(words('classes[0].attributes[1]', '"x" is asked of the item, not of objects').words).toBe(
      'Apple: the questions it asks (2.): "x" is asked of the item, not of objects'
    );
    expect(words('attributes[2]', 'min is above max').words).toBe('Spots: min is above max');
    expect(words('skeletons[0].nodes', 'needs at least 1 entries').words).toBe('Moth needs a node: press on the board to place one');
    expect(words('attributes[0]', '"options" is missing').words).toBe('Ripeness needs choices');
    expect(words('classes[1].shapes', 'needs at least 1 entries').words).toBe('Leaf needs a shape it is drawn as');
    expect(words('classes[1].name', 'must not be empty').words).toBe('it needs a name');
    expect(words('classes[99].name', 'odd').words).toBe('entry 100: its name: odd');
  });
  it('stays what it is where it has no place', () => {
    expect(words('limits.tags', 'min is above max')).toEqual({ part: null, index: null, words: 'limits.tags: min is above max' });
    expect(words('', 'no object').words).toBe('no object');
  });
  it('and a question that no class asks is found', () => {
    expect([...unasked(orchard)]).toEqual([]);
    const document = { ...orchard, classes: orchard.classes.filter((c) => c.key !== 'apple') };
    expect([...unasked(document)]).toEqual(['ripe', 'spots', 'note']);
  });
});
