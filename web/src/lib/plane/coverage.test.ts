import { describe, expect, it } from 'vitest';
import { mark } from '../../test/plane';
import type { Mark } from '../words/mark';
import { coverage, coverageWords } from './coverage';
import { area, has, scan, toMask, type Edges } from './raster';
import { rasterised } from './runs';

const [W, H] = [37, 29];
let seed = 3;
const random = (below: number) => (seed = (seed * 48271) % 2147483647) % below;
const ring = () => Array.from({ length: 8 }, (_, i) => random(i % 2 === 0 ? W + 1 : H + 1));
const some = (n: number): Mark[] =>
  Array.from({ length: n }, (_, i) =>
    i % 2 === 0
      ? mark(`M${i}`, { kind: 'mask', geometry: toMask(scan([ring()], W, H), W, H) })
      : mark(`M${i}`, { kind: 'polygon', geometry: { rings: [ring()] } })
  );

describe('what is labelled by nobody or twice', () => {
  it('is what a count pixel by pixel says', () => {
    for (let round = 0; round < 60; round++) {
      const marks = some(random(6));
      const edges = marks.map((m) => (m.kind === 'polygon' ? scan(m.geometry.rings, W, H) : scanOf(m)));
      const found = coverage(marks, { width: W, height: H });
      let [left, doubled] = [0, 0];
      for (let x = 0; x < W; x++)
        for (let y = 0; y < H; y++) {
          const n = edges.filter((e) => has(e, x, y, H)).length;
          left += Number(n === 0);
          doubled += Number(n > 1);
          expect([has(found.none, x, y, H), has(found.twice, x, y, H)]).toEqual([n === 0, n > 1]);
        }
      expect([found.left, found.doubled]).toEqual([left, doubled]);
    }
  });
  it('counts no boxes or lines, and takes memory for the runs, not for the pixels', () => {
    const found = coverage([mark('A', [0, 0, 10, 10])], { width: 100_000, height: 100_000 });
    expect([found.none, found.left, found.share]).toEqual([[0, 1e10], 1e10, 1]);
  });
  it('is said in pixels and per cent', () => {
    const half = mark('A', { kind: 'mask', geometry: toMask([0, 500], 10, 100) });
    const on = (marks: Mark[]) => coverageWords(coverage(marks, { width: 10, height: 100 }));
    expect(on([half])).toBe('500 px left (50 %)');
    expect(on([half, half])).toBe('500 px left (50 %), 500 px labelled twice');
    expect(on([mark('B', { kind: 'mask', geometry: toMask([0, 1000], 10, 100) })])).toBe('every pixel is labelled');
    expect(coverageWords({ none: [], twice: [], left: 3, doubled: 0, share: 0.00003 })).toContain('under 0.1 %');
  });
});
const scanOf = (m: Mark): Edges => (m.kind === 'mask' ? coverage([m], { width: W, height: H }).none : []).reduce<Edges>(invert, [0]);
/** the gaps of runs: what a single mask leaves unlabelled, turned round */
function invert(out: Edges, edge: number, i: number, all: Edges): Edges {
  out.push(edge);
  if (i < all.length - 1) return out;
  if (out[out.length - 1] !== W * H) out.push(W * H);
  else out.pop();
  return out[0] === out[1] ? out.slice(2) : out;
}

describe('a region drawn for the screen', () => {
  const pixel = (edges: Edges, x: number, y: number) => (has(edges, x, y, H) ? 1 : 0);
  it('is the region pixel by pixel where a pixel is one', () => {
    for (let round = 0; round < 40; round++) {
      const edges = scan([ring()], W, H);
      const [x0, y0] = [random(W - 1), random(H - 1)];
      const [x1, y1] = [x0 + 1 + random(W - x0), y0 + 1 + random(H - y0)];
      const { cells, w, h } = rasterised(edges, H, [x0, y0, x1, y1], 1, 1);
      expect([w, h]).toEqual([x1 - x0, y1 - y0]);
      for (let y = 0; y < h; y++) for (let x = 0; x < w; x++) expect(cells[y * w + x]).toBe(pixel(edges, x0 + x, y0 + y));
    }
  });
  it('loses nothing small from far away, and takes what the screen takes, not what the picture has', () => {
    const far = 1000;
    const dot = [5_000_000 * 100_000 + 40_000, 5_000_000 * 100_000 + 40_001];
    const { cells, w, h } = rasterised(dot, 100_000, [4_990_000, 0, 5_010_000, 100_000], far, 1);
    expect([w, h, cells.reduce((a, b) => a + b, 0)]).toEqual([20, 100, 1]);
    const wide = rasterised([0, 400_000 * 300_000], 300_000, [0, 0, 400_000, 300_000], 1000, 1);
    expect(wide.cells.length).toBe(400 * 300);
    expect(wide.cells.every((c) => c === 1)).toBe(true);
    expect(area([0, 7])).toBe(7);
  });
});
