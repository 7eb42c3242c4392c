import { document, whole } from '$lib/api/bytes';
import type { Ground } from '$lib/plane/ground';
import type { View } from '$lib/plane/view';
import type { Box } from '$lib/words/mark';
import type { Item, Media } from '../kind';
import { DecodedFrames, SoughtFrames, type Frames, type Index, type Picture } from './media';

/** The files of a clip: its index, its frames as they are wanted, its sound. What lies on the stage is one frame of it. */
export class Clip implements Media, Ground {
  index = $state.raw<Index | null>(null);
  version = $state(0);
  failed = $state('');
  /** least and most of each 10 ms of the sound, -128 to 127 */
  wave = $state.raw<Int8Array | null>(null);
  readonly ready: boolean = $derived(this.version > 0);
  readonly opened: Promise<Index>;
  #full: Frames | null = null;
  #small: Frames | null = null;
  #shown: { frame: number; picture: Picture } | null = null;
  #wanted = -1;
  #stop = new AbortController();
  #closed = false;

  constructor(private readonly item: Item) {
    this.opened = this.#open();
    this.opened.catch((e: Error) => (this.failed = e.message));
  }
  async #open(): Promise<Index> {
    const index = await document<Index>(this.path('index.json'), this.#stop.signal);
    if (this.#closed) throw new Error('closed');
    this.#full = this.#frames(index, index.full);
    this.index = index;
    // its first frame, also when it is loaded ahead of its turn
    void this.show(0).catch((e: Error) => (this.failed = this.#closed ? '' : e.message));
    if (index.sound)
      void whole(this.path('wave.bin'), this.#stop.signal)
        .then((bytes) => (this.wave = new Int8Array(bytes)))
        // the clip is labelled without the picture of its sound
        .catch(() => (this.wave = null));
    return index;
  }
  #frames(index: Index, rendition: Index['full']): Frames {
    return DecodedFrames.isPossible
      ? new DecodedFrames(rendition, index.group, this.path(rendition.file))
      : new SoughtFrames(index, this.path(rendition.file));
  }
  path(file: string): string {
    const { clip } = this.item;
    return `${clip!.path}/${file}?${clip!.query}`;
  }

  /** The frame that lies on the stage. */
  get shown(): number {
    void this.version;
    return this.#shown?.frame ?? 0;
  }
  /** Puts a frame on the stage as soon as it is decoded. @returns whether it is the one that is wanted still */
  async show(frame: number): Promise<boolean> {
    this.#wanted = frame;
    const picture = await this.#full!.want(frame);
    if (this.#closed || this.#wanted !== frame) return false;
    this.#lay(frame, picture, this.#full!);
    return true;
  }
  /** Puts the newest frame up to one on the stage that is decoded already. */
  newest(frame: number, fast: boolean): number | null {
    const frames = this.#playing(fast);
    for (let k = frame; k > frame - 8 && k >= 0; k--) {
      const picture = frames?.have(k);
      if (!picture) continue;
      this.#wanted = k;
      if (k !== this.#shown?.frame) this.#lay(k, picture, frames!);
      return k;
    }
    return null;
  }
  ahead(frame: number, fast: boolean): void {
    this.#playing(fast)?.ahead(frame);
  }
  /** Played fast a large clip is shown small: as many frames as can be matter more than their pixels. */
  #playing(fast: boolean): Frames | null {
    const small = this.index?.small;
    if (!fast || !small || !this.index) return this.#full;
    this.#small ??= this.#frames(this.index, small);
    return this.#small;
  }
  #lay(frame: number, picture: Picture, of: Frames): void {
    this.#shown = { frame, picture };
    of.hold(frame);
    this.version++;
  }

  paint(c: CanvasRenderingContext2D, view: View): void {
    const { scale, x, y } = view;
    const [width, height] = [this.item.width * scale, this.item.height * scale];
    c.imageSmoothingEnabled = scale < 3;
    c.imageSmoothingQuality = 'medium';
    if (!this.#shown) {
      c.fillStyle = '#0d100f';
      c.fillRect(x, y, width, height);
      return;
    }
    const [w, h] = this.#size();
    c.drawImage(this.#shown.picture, 0, 0, w, h, x, y, width, height);
  }
  cut(c: CanvasRenderingContext2D, part: Box, side: number): void {
    if (!this.#shown) return;
    const [w, h] = this.#size();
    const [kx, ky] = [w / this.item.width, h / this.item.height];
    c.drawImage(this.#shown.picture, part.x * kx, part.y * ky, part.width * kx, part.height * ky, 0, 0, side, side);
  }
  /** What of the decoded picture is shown: an odd side has a row more than the clip. */
  #size(): [number, number] {
    const { picture } = this.#shown!;
    const [width, height] =
      'displayWidth' in picture
        ? [picture.displayWidth, picture.displayHeight]
        : [(picture as OffscreenCanvas).width, (picture as OffscreenCanvas).height];
    const odd = width === this.item.width + 1 || height === this.item.height + 1;
    return odd ? [this.item.width, this.item.height] : [width, height];
  }
  close(): void {
    this.#closed = true;
    this.#stop.abort();
    this.#shown = null;
    this.#full?.close();
    this.#small?.close();
  }
}
