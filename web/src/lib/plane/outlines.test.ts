import { describe, expect, it } from 'vitest';
import { added, between, cut, redrawn, simplified } from './outlines';
import { area, scan } from './raster';

const square = [0, 0, 40, 0, 40, 40, 0, 40];
const px = (rings: number[][]) => area(scan(rings, 100, 100));

describe('outlines', () => {
  it('take another in or away, with holes and parts as they come', () => {
    expect(px(added([square], [20, 20, 60, 20, 60, 60, 20, 60]))).toBe(2 * 1600 - 400);
    expect(px(cut([square], [10, 10, 30, 10, 30, 30, 10, 30]))).toBe(1200);
    expect(cut([square], [10, 10, 30, 10, 30, 30, 10, 30])).toHaveLength(2);
    expect(cut([square], [-5, 15, 45, 15, 45, 25, -5, 25])).toHaveLength(2);
    expect(cut([square], [-5, -5, 50, -5, 50, 50, -5, 50])).toEqual([]);
    expect(added([square], [60, 60, 80, 60, 70, 80])).toHaveLength(2);
    // what was a hole can be filled in again
    const ring = cut([square], [10, 10, 30, 10, 30, 30, 10, 30]);
    expect(px(added(ring, [8, 8, 32, 8, 32, 32, 8, 32]))).toBe(1600);
  });
  it('lead along a neighbour either way round, its points exactly', () => {
    const ring = [0.1, 0.2, 10.3, 0.4, 10.5, 10.6, 0.7, 10.8, 0.05, 5.5];
    expect(between(ring, 0, 1, false)).toEqual([0.1, 0.2, 10.3, 0.4]);
    expect(between(ring, 0, 1, true)).toEqual([0.1, 0.2, 0.05, 5.5, 0.7, 10.8, 10.5, 10.6, 10.3, 0.4]);
    expect(between(ring, 1, 0, false)).toEqual([10.3, 0.4, 0.1, 0.2]);
  });
  it('get one stretch drawn anew, the rest staying', () => {
    // from the top left to the top right corner over a bulge: the upper side goes
    expect(px([redrawn(square, [1, 1, 20, -1, 39, 1], false)])).toBe(1600);
    const bulged = redrawn([20, 20, 60, 20, 60, 60, 20, 60], [21, 20, 40, 5, 59, 20], false);
    expect(bulged).toEqual([60, 20, 60, 60, 20, 60, 20, 20, 40, 5]);
    expect(redrawn([20, 20, 60, 20, 60, 60, 20, 60], [21, 20, 40, 5, 59, 20], true)).toEqual([60, 20, 20, 20, 40, 5]);
  });
  it('drop points on a straight way', () => {
    expect(simplified([0, 0, 5, 0.1, 10, 0, 10, 10], 0.5)).toEqual([0, 0, 10, 0, 10, 10]);
  });
});
