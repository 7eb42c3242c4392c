import type { Range } from './tokens';

/**
 * On which line below the words each span lies: the shorter ones nearer to the words, none over another. What lies around others lies below
 * them, as a bow under notes lies below the shorter ones within it.
 *
 * @returns the layer of each, in their order, from 0
 */
export function layersOf(spans: readonly Range[]): number[] {
  const order = spans.map((_, i) => i).sort((a, b) => length(spans[a]!) - length(spans[b]!) || spans[a]!.start - spans[b]!.start || a - b);
  const lines: Range[][] = [];
  const layers = new Array<number>(spans.length).fill(0);
  for (const i of order) {
    const span = spans[i]!;
    // above everything it lies over, so that what is within is always nearer to the words
    let layer = 0;
    for (let l = lines.length - 1; l >= 0; l--)
      if (lines[l]!.some((other) => other.start < span.end && span.start < other.end)) {
        layer = l + 1;
        break;
      }
    (lines[layer] ??= []).push(span);
    layers[i] = layer;
  }
  return layers;
}
const length = ({ start, end }: Range): number => end - start;
