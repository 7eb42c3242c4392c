import { describe, expect, it } from 'vitest';
import { itemsNamed, pieces } from './named';

describe('messages that name pictures', () => {
  it('tells names apart from the rest', () => {
    expect(pieces('slope/p00.png: Apple 3 (polygon) is off by 0.2000 px')).toEqual([
      { text: 'slope/p00.png', name: 'slope/p00.png' },
      { text: ': Apple 3 (polygon) is off by 0.2000 px' }
    ]);
    expect(pieces('could not be written: old-wall/row 2/p1.JPG: its labels are missing; b.tif: the same')).toEqual([
      { text: 'could not be written: old-wall/row ' },
      { text: '2/p1.JPG', name: '2/p1.JPG' },
      { text: ': its labels are missing; ' },
      { text: 'b.tif', name: 'b.tif' },
      { text: ': the same' }
    ]);
  });
  it('leaves a message without names as it is', () => {
    for (const text of ['', 'is the disk full?', 'annotations/all.json: not JSON', 'see p1.png for more'])
      expect(
        pieces(text)
          .map((p) => p.text)
          .join('')
      ).toBe(text);
    expect(pieces('see p1.png for more').some((p) => p.name)).toBe(false);
  });
  it('makes an address of a name with signs in it', () => {
    expect(itemsNamed(3, 'a&b/p 1.png')).toBe('/p/3/items?f=name%3Aa%26b%2Fp+1.png');
  });
});
