import type { Ground } from '$lib/plane/ground';
import { nameOf, Pyramid, TileStore } from '$lib/plane/tiles';
import type { View } from '$lib/plane/view';
import type { Box } from '$lib/words/mark';
import type { Item, Media } from '../kind';

/** Longest side of the copy for the screen, in px; larger pictures have their full size, or their tiles, beside it. */
const SCREEN = 2048;

/**
 * The picture of an item: its copy for the screen at once, every pixel as soon as that is here, and never the other way round. A very large one
 * is loaded in tiles, those in sight; what they hold of memory does not grow with the picture.
 */
export class Picture implements Media, Ground {
  #image = $state.raw<HTMLImageElement | null>(null);
  version = $state(0);
  failed = $state(false);
  #loading: HTMLImageElement[] = [];
  #sharp = false;
  #pyramid: Pyramid | null = null;
  #tiles: TileStore<HTMLImageElement> | null = null;

  constructor(private readonly item: Item) {
    this.#load(item.picture.screen, false);
    const { tiles } = item.picture;
    if (tiles) {
      this.#pyramid = new Pyramid(item, tiles.side, tiles.levels);
      this.#tiles = new TileStore(
        (name, done) => begin(`${tiles.path}/${name}?${tiles.query}`, done),
        () => this.version++
      );
    } else if (Math.max(item.width, item.height) > SCREEN) this.#load(item.picture.full, true);
  }
  #load(src: string, full: boolean): void {
    const image = new Image();
    image.onload = () => {
      if (this.#sharp) return;
      this.#sharp = full;
      this.#image = image;
      this.failed = false;
      this.version++;
    };
    image.onerror = () => (this.failed = this.#image === null);
    image.src = src;
    this.#loading.push(image);
  }
  get ready(): boolean {
    return this.#image !== null;
  }

  paint(c: CanvasRenderingContext2D, view: View, part: Box): void {
    const { scale, x, y } = view;
    const [width, height] = [this.item.width * scale, this.item.height * scale];
    c.imageSmoothingEnabled = scale < 3;
    c.imageSmoothingQuality = 'medium';
    if (this.#image) c.drawImage(this.#image, x, y, width, height);
    else {
      c.fillStyle = '#0d100f';
      c.fillRect(x, y, width, height);
    }
    if (!this.#pyramid || !this.#tiles) return;
    const level = this.#pyramid.levelFor(view, devicePixelRatio, SCREEN / Math.max(this.item.width, this.item.height));
    if (level === null) return this.#tiles.want([]);
    // coarser tiles that are here already stand in for sharper ones that are not
    for (let each = this.#pyramid.sizes.length - 1; each >= level; each--)
      for (const key of this.#pyramid.within(part, each)) {
        const tile = this.#tiles.get(nameOf(key));
        if (!tile) continue;
        const at = this.#pyramid.place(key);
        // to the whole px, so that no seam shows between two
        const [left, top] = [Math.round(at.x * scale + x), Math.round(at.y * scale + y)];
        const [right, bottom] = [Math.round((at.x + at.width) * scale + x), Math.round((at.y + at.height) * scale + y)];
        c.drawImage(tile, left, top, right - left, bottom - top);
      }
    this.#tiles.want(this.#pyramid.within(part, level).map(nameOf));
  }
  cut(c: CanvasRenderingContext2D, part: Box, side: number): void {
    if (!this.#image) return;
    const whole = { x: 0, y: 0, width: this.item.width, height: this.item.height };
    lay(c, this.#image, whole, part, side);
    for (const key of this.#pyramid?.within(part, 0) ?? []) {
      const tile = this.#tiles!.get(nameOf(key));
      if (tile) lay(c, tile, this.#pyramid!.place(key), part, side);
    }
  }
  close(): void {
    for (const image of this.#loading) {
      image.onload = image.onerror = null;
      // what is still on its way is not wanted any more
      if (!image.complete) image.src = '';
    }
    this.#tiles?.close();
    this.#image = null;
  }
}

/** Loads an image; @returns a call that gives up */
function begin(src: string, done: (image: HTMLImageElement | null) => void): () => void {
  const image = new Image();
  image.onload = () => done(image);
  image.onerror = () => done(null);
  image.src = src;
  return () => {
    image.onload = image.onerror = null;
    image.src = '';
  };
}

/** Draws a piece of the picture into a square that shows a part of it. */
function lay(c: CanvasRenderingContext2D, image: HTMLImageElement, piece: Box, part: Box, side: number): void {
  const k = side / part.width;
  c.drawImage(image, (piece.x - part.x) * k, (piece.y - part.y) * k, piece.width * k, piece.height * k);
}
