import type { Ground } from '$lib/plane/ground';
import type { View } from '$lib/plane/view';
import type { Box } from '$lib/words/mark';
import type { Item, Media } from '../kind';

/** Longest side of the copy for the screen, in px; larger pictures have their full size beside it. */
const SCREEN = 2048;

/** The picture of an item: its copy for the screen at once, every pixel as soon as that is here, and never the other way round. */
export class Picture implements Media, Ground {
  #image = $state.raw<HTMLImageElement | null>(null);
  version = $state(0);
  failed = $state(false);
  #loading: HTMLImageElement[] = [];
  #sharp = false;

  constructor(private readonly item: Item) {
    this.#load(item.picture.screen, false);
    if (Math.max(item.width, item.height) > SCREEN) this.#load(item.picture.full, true);
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
  paint(c: CanvasRenderingContext2D, { scale, x, y }: View): void {
    const [width, height] = [this.item.width * scale, this.item.height * scale];
    c.imageSmoothingEnabled = scale < 3;
    c.imageSmoothingQuality = 'medium';
    if (this.#image) c.drawImage(this.#image, x, y, width, height);
    else {
      c.fillStyle = '#0d100f';
      c.fillRect(x, y, width, height);
    }
  }
  cut(c: CanvasRenderingContext2D, part: Box, side: number): void {
    if (!this.#image) return;
    const k = this.#image.naturalWidth / this.item.width;
    c.drawImage(this.#image, part.x * k, part.y * k, part.width * k, part.height * k, 0, 0, side, side);
  }
  close(): void {
    for (const image of this.#loading) {
      image.onload = image.onerror = null;
      // what is still on its way is not wanted any more
      if (!image.complete) image.src = '';
    }
    this.#image = null;
  }
}
