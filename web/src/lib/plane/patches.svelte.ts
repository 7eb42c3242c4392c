import type { Box, Point } from '$lib/words/mark';
import { union, type Edges } from './raster';
import type { Sight } from './sight.svelte';

/** The part of a picture that is patched, in px of it, and px of the picture for one that is looked at. */
export type PatchedPart = Box & { step: number };
export type AskPatches = (part: PatchedPart, side: number, signal: AbortSignal) => Promise<ArrayBuffer>;

/** Pixels looked at in one part. */
const MOST = 1_500_000;
/** Parts begin and end on multiples of these, so that a little pan asks for nothing new. */
const GRID = 256;
/** px across a patch, small to large: of what is looked at. */
export const SIDES = [17, 34, 64] as const;
/** The smallest patches a patch is split into. */
const FINEST = 6;
/** Maps that are kept: three sizes here and of where one was. */
const KEPT = 9;
/** A piece of a split patch smaller than this goes with the largest. */
const SLIVER = 12;

/** Patches of one size of one part, as the server has worked them out; split where a hand asked for it. */
export class PatchMap {
  readonly columns: number;
  readonly rows: number;
  count: number;
  /** patch of each pixel that is looked at, row by row */
  readonly labels: Uint32Array;
  /** extent of each patch: left, top, right, bottom, the latter two included */
  readonly #extent: number[];
  #edges: OffscreenCanvas | HTMLCanvasElement | null = null;

  constructor(
    readonly part: PatchedPart,
    readonly side: number,
    bytes: ArrayBuffer
  ) {
    const view = new DataView(bytes);
    if (view.byteLength < 16 || view.getUint32(0, false) !== 0x534b5031) throw new Error('the patches have not arrived whole');
    this.columns = view.getUint32(4, true);
    this.rows = view.getUint32(8, true);
    this.count = view.getUint32(12, true);
    this.labels = new Uint32Array(this.columns * this.rows);
    let at = 0;
    for (let o = 16; o + 3 < view.byteLength && at < this.labels.length; o += 4) {
      const end = at + view.getUint16(o + 2, true);
      this.labels.fill(view.getUint16(o, true), at, end);
      at = end;
    }
    if (at !== this.labels.length) throw new Error('the patches have not arrived whole');
    this.#extent = new Array<number>(4 * this.count).fill(-1);
    for (let y = 0, i = 0; y < this.rows; y++) for (let x = 0; x < this.columns; x++, i++) this.#reach(this.labels[i]!, x, y);
  }
  #reach(label: number, x: number, y: number): void {
    const e = this.#extent;
    const k = 4 * label;
    if ((e[k] ?? -1) < 0) [e[k], e[k + 1], e[k + 2], e[k + 3]] = [x, y, x, y];
    else {
      e[k] = Math.min(e[k]!, x);
      e[k + 2] = Math.max(e[k + 2]!, x);
      e[k + 3] = Math.max(e[k + 3]!, y);
    }
  }
  /** The patch at a place of the picture; null beside the part. */
  at(p: Point): number | null {
    const { x, y, step } = this.part;
    const [column, row] = [Math.floor((p.x - x) / step), Math.floor((p.y - y) / step)];
    return column < 0 || row < 0 || column >= this.columns || row >= this.rows ? null : this.labels[row * this.columns + column]!;
  }
  /** The pixels of a patch as runs down the columns of the picture. */
  pixels(label: number, picture: { width: number; height: number }): Edges {
    const e = this.#extent;
    const { x, y, step } = this.part;
    const edges: Edges = [];
    const [left, top, right, bottom] = [e[4 * label]!, e[4 * label + 1]!, e[4 * label + 2]!, e[4 * label + 3]!];
    for (let column = left; column <= right; column++) {
      const runs: number[] = [];
      for (let row = top, i = top * this.columns + column; row <= bottom; row++, i += this.columns) {
        if (this.labels[i] !== label) continue;
        const from = y + row * step;
        const to = Math.min(picture.height, from + step);
        if (runs.at(-1) === from) runs[runs.length - 1] = to;
        else runs.push(from, to);
      }
      for (let k = 0; k < step && x + column * step + k < picture.width; k++) {
        const base = (x + column * step + k) * picture.height;
        for (let i = 0; i < runs.length; i += 2) {
          // a run that goes on from the foot of the column before is one with it
          if (edges.length > 0 && edges[edges.length - 1] === base + runs[i]!) edges[edges.length - 1] = base + runs[i + 1]!;
          else edges.push(base + runs[i]!, base + runs[i + 1]!);
        }
      }
    }
    return edges;
  }
  /** Splits a patch along the patches of a finer map of the same part. @returns into how many */
  split(label: number, finer: PatchMap): number {
    const e = this.#extent;
    const [left, top, right, bottom] = [e[4 * label]!, e[4 * label + 1]!, e[4 * label + 2]!, e[4 * label + 3]!];
    const pieces = new Map<number, number>();
    const each = (act: (i: number, x: number, y: number) => void) => {
      for (let y = top; y <= bottom; y++)
        for (let x = left, i = y * this.columns + left; x <= right; x++, i++) if (this.labels[i] === label) act(i, x, y);
    };
    each((i) => pieces.set(finer.labels[i]!, (pieces.get(finer.labels[i]!) ?? 0) + 1));
    const largest = [...pieces].reduce((a, b) => (b[1] > a[1] ? b : a))[0];
    const named = new Map<number, number>();
    for (const [piece, size] of pieces)
      if (piece !== largest && size >= SLIVER) {
        named.set(piece, this.count);
        e.push(-1, -1, -1, -1);
        this.count++;
      }
    if (named.size === 0) return 1;
    e[4 * label] = -1;
    each((i, x, y) => {
      this.labels[i] = named.get(finer.labels[i]!) ?? label;
      this.#reach(this.labels[i]!, x, y);
    });
    this.#edges = null;
    return named.size + 1;
  }
  /** Lines between patches, a pixel for each that is looked at; drawn once. */
  lines(): CanvasImageSource {
    if (this.#edges) return this.#edges;
    const canvas = document.createElement('canvas');
    [canvas.width, canvas.height] = [this.columns, this.rows];
    const context = canvas.getContext('2d')!;
    const image = context.createImageData(this.columns, this.rows);
    const ink = new Uint32Array(image.data.buffer);
    for (let y = 0, i = 0; y < this.rows; y++)
      for (let x = 0; x < this.columns; x++, i++) {
        const mine = this.labels[i];
        if ((x + 1 < this.columns && this.labels[i + 1] !== mine) || (y + 1 < this.rows && this.labels[i + this.columns] !== mine))
          // little endian: alpha, blue, green, red
          ink[i] = 0xffe7f3f7;
      }
    context.putImageData(image, 0, 0);
    return (this.#edges = canvas);
  }
}

/** The part of a picture to be patched for what is in sight: all of it where it is small enough. */
export function partInSight(picture: { width: number; height: number }, seen: Box): PatchedPart {
  const { width, height } = picture;
  if (width * height <= MOST) return { x: 0, y: 0, width, height, step: 1 };
  for (let step = 1; ; step++) {
    const grid = GRID * step;
    const x = Math.max(0, Math.floor(seen.x / grid) * grid);
    const y = Math.max(0, Math.floor(seen.y / grid) * grid);
    const right = Math.min(width, Math.ceil((seen.x + seen.width) / grid) * grid);
    const bottom = Math.min(height, Math.ceil((seen.y + seen.height) / grid) * grid);
    const [w, h] = [Math.max(1, right - x), Math.max(1, bottom - y)];
    if (Math.ceil(w / step) * Math.ceil(h / step) <= MOST)
      return { x: Math.min(x, width - 1), y: Math.min(y, height - 1), width: w, height: h, step };
  }
}

/**
 * The patches of the picture on the bench: three sizes, worked out by the server before they are asked for, one after the other so that
 * nothing else waits for them.
 */
export class Patches {
  /** which of the three sizes */
  size = $state(1);
  /** how strongly lines between patches show, 0 to 1 */
  strength = $state(0.45);
  /** counts what has arrived, so that the stage draws again */
  version = $state(0);
  /** why they are not here */
  failed = $state('');
  #maps = new Map<string, PatchMap>();
  #waiting: { key: string; part: PatchedPart; side: number }[] = [];
  #stop = new AbortController();
  #busy: string | null = null;
  #closed = false;

  constructor(
    private readonly ask: AskPatches,
    private readonly sight: Sight,
    /** what is on the stage: a clip has many pictures */
    private readonly place: () => number | null
  ) {}
  close(): void {
    this.#closed = true;
    this.#stop.abort();
  }

  get part(): PatchedPart {
    return partInSight(this.sight.picture, this.sight.part(this.sight.view, 0));
  }
  #key(part: PatchedPart, side: number): string {
    return [this.place() ?? '', part.x, part.y, part.width, part.height, part.step, side].join();
  }
  /** The patches in sight, in the size that is set; null while they are not here. */
  get now(): PatchMap | null {
    void this.version;
    return this.#maps.get(this.#key(this.part, SIDES[this.size]!)) ?? null;
  }
  /** Sees to it that all three sizes of what is in sight come, the one that is set first. */
  ahead(): void {
    const { part } = this;
    this.#waiting = [this.size, ...[1, 0, 2].filter((s) => s !== this.size)].map((s) => ({
      key: this.#key(part, SIDES[s]!),
      part,
      side: SIDES[s]!
    }));
    void this.#bring();
  }
  async #bring(): Promise<void> {
    if (this.#busy !== null || this.#closed) return;
    try {
      for (let next = this.#waiting.shift(); next && !this.#closed; next = this.#waiting.shift()) {
        if (this.#maps.has(next.key)) continue;
        this.#busy = next.key;
        await this.#map(next.key, next.part, next.side);
      }
      this.failed = '';
    } catch (e) {
      if (!this.#closed) this.failed = (e as Error).message;
    } finally {
      this.#busy = null;
    }
  }
  async #map(key: string, part: PatchedPart, side: number): Promise<PatchMap> {
    const found = this.#maps.get(key);
    if (found) return found;
    const map = new PatchMap(part, side, await this.ask(part, side, this.#stop.signal));
    this.#maps.set(key, map);
    for (const old of this.#maps.keys()) {
      if (this.#maps.size <= KEPT) break;
      this.#maps.delete(old);
    }
    this.version++;
    return map;
  }
  larger(by: 1 | -1): void {
    this.size = Math.max(0, Math.min(SIDES.length - 1, this.size + by));
    this.ahead();
  }
  stronger(by: 1 | -1): void {
    this.strength = Math.max(0, Math.min(1, Math.round((this.strength + 0.15 * by) * 100) / 100));
  }
  /** Splits the patch at a place by patches of half its size. @returns what to say about it, if anything */
  async split(p: Point): Promise<string | null> {
    const map = this.now;
    const label = map?.at(p) ?? null;
    if (!map || label === null) return 'no patch is here yet';
    const extent = map.pixels(label, this.sight.picture);
    // a patch that was split already is split finer
    const across = Math.sqrt(areaOf(extent)) / map.part.step;
    const side = Math.max(FINEST, Math.round(Math.min(map.side, across) / 2));
    try {
      const finer = await this.#map(this.#key(map.part, side), map.part, side);
      if (this.#closed) return null;
      const into = map.split(label, finer);
      this.version++;
      return into > 1 ? null : side <= FINEST ? 'it can not be split any finer: use the brush' : 'it is of one piece: use the brush';
    } catch (e) {
      return this.#closed ? null : `not split: ${(e as Error).message}`;
    }
  }
}

const areaOf = (edges: Edges): number => {
  let sum = 0;
  for (let i = 0; i < edges.length; i += 2) sum += edges[i + 1]! - edges[i]!;
  return sum;
};
export const unionOf = (parts: readonly Edges[]): Edges => parts.reduce((a, b) => union(a, b), [] as Edges);
