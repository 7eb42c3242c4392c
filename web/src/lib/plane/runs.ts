import type { Box, Mask } from '$lib/words/mark';
import type { Edges } from './raster';
import { pixels } from './shapes/mask';
import type { View } from './view';

/**
 * Regions of pixels painted at the screen's own resolution, and only where they are in sight: what it takes is told by the stage, not by the
 * picture, which may have a hundred million pixels.
 */

/** The part of a picture a canvas shows, in px of the picture. */
export type Part = Box;
/** A region drawn for one view. */
type Drawn = { canvas: HTMLCanvasElement; x: number; y: number; width: number; height: number; key: string };

/** Regions narrower than this on the screen are drawn column by column, so that none falls between two. */
const NARROW = 96;

/** Index of the first edge at or behind a pixel. */
function firstEdge(edges: Edges, pixel: number): number {
  let [low, high] = [0, edges.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (edges[middle]! < pixel) low = middle + 1;
    else high = middle;
  }
  return low;
}

/** Calls with first and end row of every run in a column between two rows. */
function runsIn(edges: Edges, height: number, x: number, top: number, bottom: number, run: (from: number, to: number) => void): void {
  const [start, end] = [x * height + top, x * height + bottom];
  let i = firstEdge(edges, start);
  // odd: the place lies within a run
  if (i % 2 === 1) i--;
  for (; i < edges.length && edges[i]! < end; i += 2) {
    const from = Math.max(start, edges[i]!);
    const to = Math.min(end, edges[i + 1]!);
    if (to > from) run(from - x * height, to - x * height);
  }
}

/** Colour as the four bytes of a canvas pixel (little endian: alpha, blue, green, red). */
function bytes(color: string): number {
  const n = parseInt(color.slice(1, 7), 16);
  return (0xff000000 | ((n & 0xff) << 16) | (n & 0xff00) | (n >> 16)) >>> 0;
}

/**
 * Pixels of the part of a region between two corners, row by row.
 *
 * @param grain px of the picture for a px drawn: at least 1
 * @param ink the value of a pixel of the region; the others stay 0
 */
export function rasterised(edges: Edges, height: number, [x0, y0, x1, y1]: [number, number, number, number], grain: number, ink: number) {
  const [w, h] = [Math.max(1, Math.ceil((x1 - x0) / grain)), Math.max(1, Math.ceil((y1 - y0) / grain))];
  const cells = new Uint32Array(w * h);
  const lay = (column: number, x: number) =>
    runsIn(edges, height, x, y0, y1, (from, to) => {
      const top = Math.min(h - 1, Math.floor((from - y0) / grain));
      const end = Math.max(top + 1, Math.min(h, Math.round((to - y0) / grain)));
      for (let row = top, at = top * w + column; row < end; row++, at += w) cells[at] = ink;
    });
  if (grain === 1) for (let x = x0; x < x1; x++) lay(x - x0, x);
  else if (w <= NARROW) for (let x = x0; x < x1; x++) lay(Math.min(w - 1, Math.floor((x - x0) / grain)), x);
  else for (let column = 0; column < w; column++) lay(column, Math.min(x1 - 1, Math.floor(x0 + (column + 0.5) * grain)));
  return { cells, w, h };
}

/**
 * Draws the part of a region that is in sight.
 *
 * @param edges runs, column by column
 * @param height of the picture, in px
 * @param box the region's extent
 * @param part what is in sight
 * @param grain px of the picture for a px drawn: at least 1
 */
export function drawRuns(
  into: HTMLCanvasElement | null,
  edges: Edges,
  height: number,
  box: Box,
  part: Part,
  grain: number,
  color: string
): Omit<Drawn, 'key'> | null {
  const x0 = Math.max(0, Math.floor(Math.max(box.x, part.x)));
  const y0 = Math.max(0, Math.floor(Math.max(box.y, part.y)));
  const x1 = Math.ceil(Math.min(box.x + box.width, part.x + part.width));
  const y1 = Math.min(height, Math.ceil(Math.min(box.y + box.height, part.y + part.height)));
  if (x1 <= x0 || y1 <= y0) return null;
  const { cells, w, h } = rasterised(edges, height, [x0, y0, x1, y1], grain, bytes(color));
  const canvas = into ?? document.createElement('canvas');
  if (canvas.width !== w || canvas.height !== h) [canvas.width, canvas.height] = [w, h];
  canvas.getContext('2d')!.putImageData(new ImageData(new Uint8ClampedArray(cells.buffer), w, h), 0, 0);
  return { canvas, x: x0, y: y0, width: x1 - x0, height: y1 - y0 };
}

const grainOf = (v: View): number => Math.max(1, 1 / (v.scale * (globalThis.devicePixelRatio || 1)));

let scratch: HTMLCanvasElement | null = null;

/** Paints runs onto a canvas that shows `part` of the picture. */
export function paintRuns(
  c: CanvasRenderingContext2D,
  v: View,
  edges: Edges,
  height: number,
  box: Box,
  part: Part,
  color: string,
  opacity: number
): void {
  scratch ??= document.createElement('canvas');
  const drawn = drawRuns(scratch, edges, height, box, part, grainOf(v), color);
  if (drawn) lay(c, v, drawn, opacity);
}
function lay(c: CanvasRenderingContext2D, v: View, d: Omit<Drawn, 'key'>, opacity: number): void {
  c.globalAlpha = opacity;
  c.imageSmoothingEnabled = v.scale < 1;
  c.drawImage(d.canvas, d.x * v.scale + v.x, d.y * v.scale + v.y, d.width * v.scale, d.height * v.scale);
  c.globalAlpha = 1;
}

export function paintMask(c: CanvasRenderingContext2D, v: View, mask: Mask, part: Part, color: string, opacity: number): void {
  const { edges, box } = pixels(mask);
  paintRuns(c, v, edges, mask.size[0]!, box, part, color, opacity);
}

/** The mask in hand is painted with every frame: what was drawn for the view is kept while neither changes. */
export class KeptMask {
  #drawn: Drawn | null = null;
  #of: Mask | null = null;

  paint(c: CanvasRenderingContext2D, v: View, mask: Mask, part: Part, color: string, opacity: number): void {
    const key = `${v.scale} ${part.x} ${part.y} ${part.width} ${part.height} ${color}`;
    if (this.#of !== mask || this.#drawn?.key !== key) {
      const { edges, box } = pixels(mask);
      const drawn = drawRuns(this.#drawn?.canvas ?? null, edges, mask.size[0]!, box, part, grainOf(v), color);
      this.#of = mask;
      this.#drawn = drawn && { ...drawn, key };
    }
    if (this.#drawn) lay(c, v, this.#drawn, opacity);
  }
}
