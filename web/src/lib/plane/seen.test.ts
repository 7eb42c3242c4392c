import { describe, expect, it } from 'vitest';
import vectors from '../../../../core/tests/vectors/seen.json';
import { Seen } from './seen';

describe('what has been seen', () => {
  it('has the grid of the core', () => {
    for (const g of vectors.grids) {
      const seen = new Seen(g);
      expect([seen.cell, seen.columns, seen.rows]).toEqual([g.cell, g.columns, g.rows]);
    }
  });
  for (const v of vectors.views)
    it(`is ${v.what}`, () => {
      const seen = new Seen({ width: v.picture[0]!, height: v.picture[1]! }).with(
        v.view,
        { width: v.stage[0]!, height: v.stage[1]! },
        v.zoom
      );
      if (v.seen === 'all') return expect(seen.all).toBe(true);
      const found = [];
      for (let row = 0; row < seen.rows; row++)
        for (let column = 0; column < seen.columns; column++) if (seen.has(column, row)) found.push([column, row]);
      expect(found).toEqual(v.seen);
    });
  it('adds up, and leads to the nearest part that is left', () => {
    let seen = new Seen({ width: 128, height: 128 });
    expect(seen.next({ x: 127, y: 127 })).toEqual({ x: 96, y: 96 });
    seen = seen.with({ scale: 1, x: 0, y: 0 }, { width: 128, height: 64 }, 1);
    expect([seen.cells, seen.share]).toEqual(['1100', 0.5]);
    expect(seen.next({ x: 10, y: 10 })).toEqual({ x: 32, y: 96 });
    seen = seen.with({ scale: 1, x: 0, y: -64 }, { width: 128, height: 64 }, 1);
    expect(seen.all).toBe(true);
    expect(seen.next({ x: 0, y: 0 })).toBeNull();
  });
  it('takes up what was kept, if it is of this picture', () => {
    expect(new Seen({ width: 128, height: 128 }, '0110').cells).toBe('0110');
    expect(new Seen({ width: 128, height: 128 }, '01').cells).toBe('0000');
  });
});
