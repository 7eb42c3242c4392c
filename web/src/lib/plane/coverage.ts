import type { Mark } from '$lib/words/mark';
import { area, scan, type Edges } from './raster';
import { outline, shapeOf } from './shapes';
import { pixels } from './shapes/mask';
import type { Size } from './view';

/** Which pixels nobody has labelled and which two marks have, as runs; and how many they are. */
export type Coverage = { none: Edges; twice: Edges; left: number; doubled: number; share: number };

/** The runs of a mark that labels a region; boxes, lines and points label none. */
export function region(mark: Mark, { width, height }: Size): Edges | null {
  const s = shapeOf(mark);
  if (s.kind === 'mask') return pixels(s.geometry).edges;
  return s.kind === 'polygon' || s.kind === 'ellipse' ? scan(outline(s)!, width, height) : null;
}

/**
 * What marks leave unlabelled, and label twice: their runs are merged in one pass over the places where they begin and end, so it takes
 * memory for the runs, not for the pixels.
 */
export function coverage(marks: readonly Mark[], size: Size): Coverage {
  const total = size.width * size.height;
  const begins: number[] = [];
  const ends: number[] = [];
  for (const mark of marks) {
    const edges = region(mark, size) ?? [];
    for (let i = 0; i < edges.length; i += 2) {
      begins.push(edges[i]!);
      ends.push(edges[i + 1]!);
    }
  }
  const order = (list: number[]) => Float64Array.from(list).sort();
  const [b, e] = [order(begins), order(ends)];
  const none: Edges = [];
  const twice: Edges = [];
  let [i, j, depth, from] = [0, 0, 0, 0];
  const close = (at: number) => {
    if (at > from) {
      const list = depth === 0 ? none : depth > 1 ? twice : null;
      if (list && list[list.length - 1] === from) list[list.length - 1] = at;
      else list?.push(from, at);
    }
    from = at;
  };
  while (j < e.length) {
    const at = Math.min(b[i] ?? Infinity, e[j]!);
    close(at);
    while (i < b.length && b[i] === at) [depth, i] = [depth + 1, i + 1];
    while (j < e.length && e[j] === at) [depth, j] = [depth - 1, j + 1];
  }
  close(total);
  const left = area(none);
  return { none, twice, left, doubled: area(twice), share: total > 0 ? left / total : 0 };
}

/** What is left, in words: pixels, and per cent of the picture. */
export function coverageWords({ left, doubled, share }: Coverage): string {
  const per = (n: number) => (n > 0 && n < 0.001 ? 'under 0.1' : (100 * n).toFixed(n < 0.1 ? 1 : 0));
  return [
    left === 0 ? 'every pixel is labelled' : `${left.toLocaleString('en')} px left (${per(share)} %)`,
    ...(doubled > 0 ? [`${doubled.toLocaleString('en')} px labelled twice`] : [])
  ].join(', ');
}
