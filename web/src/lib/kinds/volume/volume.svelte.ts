import type { Ground } from '$lib/plane/ground';
import type { View } from '$lib/plane/view';
import type { Box } from '$lib/words/mark';
import type { Item, Media } from '../kind';
import { facings, type Facing, type Spot } from './facing';
import { Planes, type Direction, type Index } from './planes';
import type { Windowing } from './window.svelte';

/** A plane as a picture: drawn for one window, kept while neither changes. */
class Drawn {
  readonly canvas = document.createElement('canvas');
  #of: Uint16Array | null = null;
  #version = -1;

  update(plane: Uint16Array, width: number, height: number, flip: boolean, window: Windowing): void {
    if (this.#of === plane && this.#version === window.version) return;
    if (this.canvas.width !== width || this.canvas.height !== height) [this.canvas.width, this.canvas.height] = [width, height];
    const table = window.table;
    const cells = new Uint32Array(width * height);
    for (let row = 0, at = 0; row < height; row++) {
      const to = (flip ? height - 1 - row : row) * width;
      for (let column = 0; column < width; column++) cells[to + column] = table[plane[at++]!]!;
    }
    this.canvas.getContext('2d')!.putImageData(new ImageData(new Uint8ClampedArray(cells.buffer), width, height), 0, 0);
    this.#of = plane;
    this.#version = window.version;
  }
}

/** The files of a volume: its planes as they are wanted. What lies on the stage is one of them. */
export class Volume implements Media, Ground {
  index = $state.raw<Index | null>(null);
  failed = $state('');
  version = $state(0);
  readonly ready: boolean = $derived(this.version > 0);
  readonly opened: Promise<Planes>;
  /** which plane is the large one */
  direction = $state<Direction>('xy');
  /** where the planes meet: x, y, slice */
  cross = $state.raw<Spot>([0, 0, 0]);
  facings = $state.raw<Record<Direction, Facing> | null>(null);
  #planes: Planes | null = null;
  #drawn: Record<Direction, Drawn> = { xy: new Drawn(), xz: new Drawn(), yz: new Drawn() };
  /** what was shown last of each direction, until what is wanted is here */
  #shown: Record<Direction, Uint16Array | null> = { xy: null, xz: null, yz: null };
  #stop = new AbortController();
  #closed = false;

  constructor(
    private readonly item: Item,
    readonly window: Windowing
  ) {
    this.opened = this.#open();
    this.opened.catch((e: Error) => (this.failed = this.#closed ? '' : e.message));
  }
  async #open(): Promise<Planes> {
    const planes = await Planes.open((file) => this.path(file), this.#stop.signal);
    if (this.#closed) throw new Error('closed');
    this.#planes = planes;
    this.index = planes.index;
    this.facings = facings(planes.index);
    const [x, y, z] = planes.index.sizes;
    this.cross = [x >> 1, y >> 1, z >> 1];
    // loaded ahead of its turn, it is not shown yet: its window is set when it is
    await planes.want('xy', z >> 1);
    return planes;
  }
  /** It is on the bench now. */
  begin(): void {
    void this.opened.then(
      ({ index }) => {
        if (this.#closed) return;
        this.window.open(index);
        this.version++;
      },
      () => {}
    );
  }
  path(file: string): string {
    const { volume } = this.item;
    return `${volume!.path}/${file}?${volume!.query}`;
  }
  get facing(): Facing | null {
    return this.facings?.[this.direction] ?? null;
  }

  /** Goes along the cross; what is shown of each direction comes as soon as it is here. @returns whether it is still wanted when it is */
  async go(cross: Spot): Promise<boolean> {
    const planes = await this.opened;
    if (this.#closed) return false;
    const was = this.cross;
    this.cross = cross;
    const large = this.facings![this.direction];
    const at = cross[large.through];
    const by = at >= was[large.through] ? 1 : -1;
    try {
      await planes.want(this.direction, at);
    } finally {
      planes.ahead(this.direction, at, by);
    }
    if (this.#closed || this.cross[large.through] !== at) return false;
    this.version++;
    return true;
  }
  /** The nearest slice that is here already, up to one. */
  newest(slice: number): number | null {
    for (let k = slice; k > slice - 8 && k >= 0; k--) if (this.#planes?.have('xy', k)) return k;
    return null;
  }
  ahead(slice: number): void {
    this.#planes?.ahead('xy', slice, 1);
  }
  /** What is measured at a place; null as long as its plane is not here. */
  measured([x, y, z]: Spot): number | null {
    const plane = this.#planes?.have('xy', z);
    return plane ? this.window.measured(plane[y * this.index!.sizes[0] + x]!) : null;
  }

  /** A plane as a picture, a pixel a voxel; null as long as there is none. Asks for it where it is not here. */
  picture(direction: Direction): HTMLCanvasElement | null {
    const [planes, facing] = [this.#planes, this.facings?.[direction]];
    if (!planes || !facing) return null;
    const n = this.cross[facing.through];
    const plane = planes.have(direction, n);
    if (plane) this.#shown[direction] = plane;
    else
      void planes
        .want(direction, n)
        .then(() => {
          if (!this.#closed && this.cross[facing.through] === n) this.version++;
        })
        .catch((e: Error) => (this.failed = this.#closed ? '' : e.message));
    const shown = this.#shown[direction];
    if (!shown) return null;
    const { width, height } = planes.index.planes[direction];
    this.#drawn[direction].update(shown, width, height, facing.turned.down, this.window);
    return this.#drawn[direction].canvas;
  }

  paint(c: CanvasRenderingContext2D, view: View): void {
    const { facing } = this;
    const picture = facing && this.picture(this.direction);
    const { scale, x, y } = view;
    const [width, height] = facing ? [facing.width * scale, facing.height * scale] : [this.item.width * scale, this.item.height * scale];
    if (!picture) {
      c.fillStyle = '#0d100f';
      c.fillRect(x, y, width, height);
      return;
    }
    // close up one sees voxels
    c.imageSmoothingEnabled = scale < 6;
    c.imageSmoothingQuality = 'medium';
    c.drawImage(picture, x, y, width, height);
  }
  cut(c: CanvasRenderingContext2D, part: Box, side: number): void {
    const { facing } = this;
    const picture = facing && this.picture(this.direction);
    if (!picture) return;
    const { across, down } = facing.scale;
    c.drawImage(picture, part.x / across, part.y / down, part.width / across, part.height / down, 0, 0, side, side);
  }
  close(): void {
    this.#closed = true;
    this.#stop.abort();
    this.#planes?.close();
  }
}
