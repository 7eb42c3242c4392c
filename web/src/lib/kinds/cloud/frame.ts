import { range, whole } from '$lib/api/bytes';

/** What the server says of a cloud beside its points; see the core's `Cloud\Making`. */
export type Index = {
  origin: [number, number, number];
  /** bytes of a point */
  record: number;
  /** the weakest and the strongest; null: its points have none */
  intensity: [number, number] | null;
  has_class: boolean;
  has_colour: boolean;
  least: [number, number, number];
  most: [number, number, number];
  frames: {
    points: number;
    unseen: number;
    levels: number[];
    least: [number, number, number];
    most: [number, number, number];
  }[];
};

/** A first picture has so many points, where there are more. */
const FIRST = 250_000;

/** The points of a frame, as many as are here: records of x, y, z as floats, then intensity, class, ground, nothing as bytes, then colours. */
export class Frame {
  readonly bytes: Uint8Array<ArrayBuffer>;
  readonly floats: Float32Array<ArrayBuffer>;
  /** floats a point takes */
  readonly wide: number;
  loaded = 0;

  constructor(
    readonly points: number,
    readonly record: number,
    readonly origin: readonly number[]
  ) {
    const buffer = new ArrayBuffer(points * record);
    this.bytes = new Uint8Array(buffer);
    this.floats = new Float32Array(buffer);
    this.wide = record / 4;
  }
  get whole(): boolean {
    return this.loaded === this.points;
  }
  /** How high the ground lies, as half of its points are at most; of the first there are. */
  floor(): number {
    const heights: number[] = [];
    for (let i = 0; i < Math.min(this.loaded, 40_000); i++)
      if (this.bytes[i * this.record + 14] === 1) heights.push(this.floats[i * this.wide + 2]!);
    heights.sort((a, b) => a - b);
    return (heights[heights.length >> 1] ?? 0) + this.origin[2]!;
  }

  /**
   * Fetches a frame: first a choice of its points from everywhere, then all.
   *
   * @param some more of them are here
   */
  static async load(index: Index, n: number, url: string, signal: AbortSignal, some: (frame: Frame) => void): Promise<Frame> {
    const { points, levels } = index.frames[n]!;
    const frame = new Frame(points, index.record, index.origin);
    const first = points <= FIRST * 1.5 ? points : (levels.findLast((count) => count <= FIRST) ?? levels[0]!);
    for (const [from, to] of [
      [0, first],
      [first, points]
    ] as const) {
      if (to <= from) continue;
      const all = to - from === points;
      const bytes = new Uint8Array(await (all ? whole(url, signal) : range(url, from * index.record, to * index.record - 1, signal)));
      if (bytes.length !== (to - from) * index.record) throw new Error('its points came cut off');
      frame.bytes.set(bytes, from * index.record);
      frame.loaded = to;
      some(frame);
    }
    return frame;
  }
}
