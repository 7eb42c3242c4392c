import { describe, expect, it } from 'vitest';
import { Grid } from './grid';

const random = (() => {
  let s = 5;
  return (n: number) => (s = (s * 48271) % 2147483647) % n;
})();

describe('where the objects of a sheet lie', () => {
  it('side by side within the width, in rows, none over another', () => {
    const grid = new Grid(7, 100, 340, 300);
    expect([grid.columns, grid.rows, grid.perPage]).toEqual([3, 3, 6]);
    const spots = Array.from({ length: 7 }, (_, i) => grid.at(i));
    expect(spots.map((s) => s.x)).toEqual([10, 120, 230, 10, 120, 230, 10]);
    expect(new Set(spots.map((s) => s.y)).size).toBe(3);
    expect(spots[3]!.y - spots[0]!.y).toBeGreaterThan(grid.cell);
    expect(spots[6]!.y + grid.cell).toBeLessThanOrEqual(grid.extent);
  });
  it('is one column where there is no room, and nothing where there are no objects', () => {
    expect(new Grid(5, 240, 60, 300).columns).toBe(1);
    const none = new Grid(0, 100, 900, 500);
    expect(none.sight(0)).toEqual({ from: 0, to: 0 });
    expect(none.sight(9999)).toEqual({ from: expect.any(Number), to: expect.any(Number) });
    expect(none.sight(9999).to - none.sight(9999).from).toBe(0);
  });
  it('has all in sight that meet the window, wherever it is, and few more', () => {
    for (let round = 0; round < 300; round++) {
      const grid = new Grid(1 + random(500), 64 + random(176), 200 + random(1200), 120 + random(700));
      const top = random(Math.max(1, Math.ceil(grid.extent)));
      const { from, to } = grid.sight(top);
      for (let place = 0; place < grid.total; place++) {
        const { y } = grid.at(place);
        if (y + grid.cell > top && y < top + grid.height) expect(place >= from && place < to, `${place} of ${from}–${to}`).toBe(true);
      }
      expect(to).toBeLessThanOrEqual(grid.total);
      expect(to - from).toBeLessThanOrEqual(grid.columns * (Math.ceil(grid.height / grid.rowHeight) + 5));
    }
  });
  it('scrolls no further than it must, until a place is whole in sight', () => {
    for (let round = 0; round < 300; round++) {
      const grid = new Grid(200, 100, 700, 200 + random(500));
      const top = random(2000);
      const place = random(200);
      const now = grid.reveal(place, top, false);
      const { y } = grid.at(place);
      expect(y).toBeGreaterThanOrEqual(now);
      expect(y + grid.cell).toBeLessThanOrEqual(now + grid.height + 1e-9);
      if (y - 8 >= top && y + grid.cell <= top + grid.height) expect(now).toBe(top);
      const middle = grid.reveal(place, top, true);
      if (middle > 0) expect(Math.abs(y + grid.cell / 2 - middle - grid.height / 2)).toBeLessThan(grid.rowHeight / 2);
    }
  });
});
