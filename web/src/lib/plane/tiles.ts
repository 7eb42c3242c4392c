import type { Box } from '$lib/words/mark';
import type { Size, View } from './view';

export type TileKey = { level: number; column: number; row: number };
export const nameOf = ({ level, column, row }: TileKey): string => `${level}/${column}/${row}`;

/**
 * A large picture in square tiles at several sizes (as in the core, Imaging/TilePyramid): level 0 has every pixel, each other half the sides of
 * the one before, rounded up.
 */
export class Pyramid {
  readonly sizes: Size[];
  constructor(
    picture: Size,
    readonly side: number,
    levels: number
  ) {
    this.sizes = [];
    for (let { width, height } = picture, i = 0; i < levels; i++) {
      this.sizes.push({ width, height });
      [width, height] = [Math.ceil(width / 2), Math.ceil(height / 2)];
    }
  }

  /** The level whose pixels are no larger than those of the screen, or the sharpest; null where the copy for the screen is sharp enough. */
  levelFor(view: View, ratio: number, screen: number): number | null {
    // px of the screen for a px of the picture
    const scale = view.scale * ratio;
    if (scale <= screen) return null;
    for (let level = this.sizes.length - 1; level >= 0; level--) if (2 ** -level >= scale * 0.99) return level;
    return 0;
  }
  /** Tiles of a level that meet a part of the picture, those in its middle first. */
  within(part: Box, level: number): TileKey[] {
    const { width, height } = this.sizes[level]!;
    const k = 2 ** -level;
    const [columns, rows] = [Math.ceil(width / this.side), Math.ceil(height / this.side)];
    const clamp = (v: number, most: number) => Math.min(most, Math.max(0, v));
    const [x0, x1] = [Math.floor((part.x * k) / this.side), Math.ceil(((part.x + part.width) * k) / this.side)];
    const [y0, y1] = [Math.floor((part.y * k) / this.side), Math.ceil(((part.y + part.height) * k) / this.side)];
    const found: TileKey[] = [];
    for (let row = clamp(y0, rows); row < clamp(y1, rows); row++)
      for (let column = clamp(x0, columns); column < clamp(x1, columns); column++) found.push({ level, column, row });
    const [cx, cy] = [((part.x + part.width / 2) * k) / this.side - 0.5, ((part.y + part.height / 2) * k) / this.side - 0.5];
    const far = (t: TileKey) => (t.column - cx) ** 2 + (t.row - cy) ** 2;
    return found.sort((a, b) => far(a) - far(b));
  }
  /** Where a tile lies, in px of the picture. */
  place({ level, column, row }: TileKey): Box {
    const { width, height } = this.sizes[level]!;
    const k = 2 ** level;
    const [x, y] = [column * this.side, row * this.side];
    return { x: x * k, y: y * k, width: Math.min(this.side, width - x) * k, height: Math.min(this.side, height - y) * k };
  }
}

/** Pictures by name, as many as memory is meant for; what was not asked for longest goes first. */
export class TileStore<T> {
  #ready = new Map<string, T>();
  #loading = new Map<string, () => void>();
  #queue: string[] = [];
  #failed = new Map<string, number>();
  #closed = false;

  /**
   * @param load begins to load one; calls back with it, or null when it could not be had; returns a call that gives up
   * @param arrived there is one more to show
   */
  constructor(
    private readonly load: (name: string, done: (tile: T | null) => void) => () => void,
    private readonly arrived: () => void,
    private readonly most = 96,
    private readonly atOnce = 6,
    private readonly again = 5000
  ) {}

  get(name: string): T | undefined {
    const tile = this.#ready.get(name);
    if (tile !== undefined) {
      this.#ready.delete(name);
      this.#ready.set(name, tile);
    }
    return tile;
  }
  /** Has these, in this order; those that were wanted before and are not any more are not loaded. */
  want(names: readonly string[]): void {
    const wanted = new Set(names);
    for (const [name, giveUp] of this.#loading)
      if (!wanted.has(name)) {
        giveUp();
        this.#loading.delete(name);
      }
    this.#queue = names.filter((name) => !this.#ready.has(name) && !this.#loading.has(name) && !this.#failed.has(name));
    this.#next();
  }
  #next(): void {
    while (!this.#closed && this.#loading.size < this.atOnce) {
      const name = this.#queue.shift();
      if (name === undefined) return;
      const giveUp = this.load(name, (tile) => {
        if (!this.#loading.delete(name) || this.#closed) return;
        if (tile === null) {
          // asked for again after a while: it may be made by then
          this.#failed.set(name, setTimeout(() => this.#retry(name), this.again) as unknown as number);
        } else {
          this.#ready.set(name, tile);
          for (const old of this.#ready.keys()) {
            if (this.#ready.size <= this.most) break;
            this.#ready.delete(old);
          }
          this.arrived();
        }
        this.#next();
      });
      this.#loading.set(name, giveUp);
    }
  }
  #retry(name: string): void {
    this.#failed.delete(name);
    this.arrived();
  }
  get size(): number {
    return this.#ready.size;
  }
  close(): void {
    this.#closed = true;
    for (const giveUp of this.#loading.values()) giveUp();
    for (const timer of this.#failed.values()) clearTimeout(timer);
    this.#ready.clear();
    this.#queue = [];
  }
}
