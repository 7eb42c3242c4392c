import { describe, expect, it } from 'vitest';
import { Field } from './field';

const random = (() => {
  let s = 11;
  return (n: number) => (s = (s * 48271) % 2147483647) % n;
})();

describe('the field map', () => {
  it('puts short sets side by side, and long ones under each other', () => {
    const short = new Field([15, 15, 15, 15], 888);
    expect([short.cell, short.columns]).toEqual([24, 8]);
    expect(new Set(short.plots.map((p) => p.y)).size).toBe(1);
    expect(new Field([15, 15], 888).plots.map((p) => p.x)).toEqual([8, 452]);
    const long = new Field([900, 15], 888);
    expect(long.plots.map((p) => p.x)).toEqual([8, 8]);
    expect(long.columns).toBe(51);
    expect(new Field([], 888).plots).toEqual([]);
    expect(new Field([3], 10).columns).toBe(1);
  });
  it('finds every item where its square lies, none twice, and nothing elsewhere', () => {
    for (let round = 0; round < 60; round++) {
      const counts = Array.from({ length: 1 + random(7) }, () => random(round % 3 === 0 ? 400 : 30));
      const width = 120 + random(1600);
      const field = new Field(counts, width);
      const taken = new Set<string>();
      for (const plot of field.plots)
        for (let i = 0; i < plot.count; i++) {
          const { x, y } = field.square(plot, i);
          expect(field.at(x + 1, y + 1)).toEqual({ set: plot.set, i });
          expect(taken.has(`${x} ${y}`)).toBe(false);
          taken.add(`${x} ${y}`);
          if (width > 120) expect(x + field.cell).toBeLessThanOrEqual(Math.max(width, field.cell + 8) + 1e-9);
          expect(y + field.cell).toBeLessThanOrEqual(field.height);
          expect(y + field.cell).toBeLessThanOrEqual(field.bottom(plot));
        }
      let found = 0;
      for (let y = 0.5; y < field.height; y += field.cell / 2)
        for (let x = 0.5; x < width; x += field.cell / 2) if (field.at(x, y)) found++;
      const all = counts.reduce((a, b) => a + b, 0);
      if (field.columns > 1) expect(found).toBeLessThanOrEqual(all * 9);
      if (all > 0 && field.columns > 1) expect(found).toBeGreaterThanOrEqual(all);
    }
  });
  it('draws what is in sight and little else', () => {
    // told in one go: an expectation for each of 180,000 squares takes longer than all the rest
    const wrong: string[] = [];
    for (let round = 0; round < 200; round++) {
      const field = new Field([random(900), random(900)], 300 + random(900));
      const top = random(Math.ceil(field.height));
      const bottom = top + 100 + random(400);
      for (const plot of field.plots) {
        const { from, to } = field.between(plot, top, bottom);
        for (let i = 0; i < plot.count; i++) {
          const { y } = field.square(plot, i);
          const seen = y + field.cell > top && y < bottom;
          const drawn = i >= from && i < to;
          const far = y + 2 * field.cell <= top || y >= bottom + field.cell;
          if ((seen && !drawn) || (far && drawn)) wrong.push(`round ${round}, set ${plot.set}, item ${i}`);
        }
      }
    }
    expect(wrong).toEqual([]);
  });
});
