import { document, range } from '$lib/api/bytes';

/** A direction planes are cut in: across the slices (xy), or along them. */
export type Direction = 'xy' | 'xz' | 'yz';
/** What of the measured range is shown from black to white. */
export type Window = { name: string; level: number; width: number };
/** What the server says of what it has made. */
export type Index = {
  sizes: [number, number, number];
  /** mm along x, y, z */
  spacing: [number, number, number];
  /** where x, y, z go to in a body; null: nobody knows */
  letters: [string, string, string] | null;
  /** what is measured is slope times what is kept, plus intercept */
  stored: { slope: number; intercept: number };
  windows: Window[];
  planes: Record<Direction, { width: number; height: number; lengths: number[] }>;
};

/** Bytes packed that are fetched at a time, and planes at most. */
const GROUP_BYTES = 1_200_000;
const GROUP_PLANES = 24;
/** Bytes of planes that are held. */
const ROOM = 320_000_000;

const unpacked = async (bytes: Uint8Array<ArrayBuffer>): Promise<Uint16Array> => {
  const stream = new Response(bytes).body!.pipeThrough(new DecompressionStream('deflate-raw'));
  return new Uint16Array(await new Response(stream).arrayBuffer());
};

/** The planes of a volume, fetched in groups of neighbours and held as long as there is room. */
export class Planes {
  #begins: Record<Direction, number[]>;
  /** by direction and number, the least recently wanted first */
  #held = new Map<string, Uint16Array>();
  #bytes = 0;
  /** planes that are being unpacked: asked for with every frame, each is once */
  #coming = new Map<string, Promise<Uint16Array>>();
  /** what is packed of a group that was fetched, or is on its way */
  #groups = new Map<string, Promise<Map<number, Uint8Array<ArrayBuffer>>>>();
  #closed = new AbortController();

  private constructor(
    readonly index: Index,
    private readonly path: (file: string) => string
  ) {
    const begins = (lengths: number[]) => {
      let at = 0;
      return [0, ...lengths.map((n) => (at += n))];
    };
    this.#begins = {
      xy: begins(index.planes.xy.lengths),
      xz: begins(index.planes.xz.lengths),
      yz: begins(index.planes.yz.lengths)
    };
  }
  static async open(path: (file: string) => string, signal: AbortSignal): Promise<Planes> {
    return new Planes(await document<Index>(path('index.json'), signal), path);
  }
  close(): void {
    this.#closed.abort();
    this.#held.clear();
    this.#groups.clear();
  }
  count(direction: Direction): number {
    return this.index.planes[direction].lengths.length;
  }

  /** A plane that is held. */
  have(direction: Direction, n: number): Uint16Array | null {
    const key = `${direction} ${n}`;
    const found = this.#held.get(key);
    if (!found) return null;
    this.#held.delete(key);
    this.#held.set(key, found);
    return found;
  }
  async want(direction: Direction, n: number): Promise<Uint16Array> {
    const held = this.have(direction, n);
    if (held) return held;
    const key = `${direction} ${n}`;
    let coming = this.#coming.get(key);
    if (!coming) {
      coming = this.#unpack(direction, n, key);
      this.#coming.set(key, coming);
    }
    return coming;
  }
  async #unpack(direction: Direction, n: number, key: string): Promise<Uint16Array> {
    try {
      const plane = await unpacked((await this.#group(direction, n)).get(n)!);
      this.#hold(key, plane);
      return plane;
    } finally {
      this.#coming.delete(key);
    }
  }
  /** Those that will be wanted next. @param by which way one goes */
  ahead(direction: Direction, n: number, by: 1 | -1): void {
    for (const next of [n + by, n + 2 * by, n - by])
      if (next >= 0 && next < this.count(direction)) void this.want(direction, next).catch(() => {});
    const [first, last] = this.#around(direction, n);
    const beyond = by > 0 ? last + 1 : first - 1;
    // the group behind this one, before one comes to its end
    if (beyond >= 0 && beyond < this.count(direction)) void this.#group(direction, beyond).catch(() => {});
  }

  #hold(key: string, plane: Uint16Array): void {
    if (this.#held.has(key) || this.#closed.signal.aborted) return;
    this.#held.set(key, plane);
    this.#bytes += plane.byteLength;
    for (const [old, of] of this.#held) {
      if (this.#bytes <= ROOM) break;
      this.#held.delete(old);
      this.#bytes -= of.byteLength;
    }
  }
  /** First and last plane of the group one lies in: as many as make a good piece, from a place that does not depend on where one comes from. */
  #around(direction: Direction, n: number): [number, number] {
    const begins = this.#begins[direction];
    const mean = begins.at(-1)! / Math.max(1, begins.length - 1);
    const many = Math.max(1, Math.min(GROUP_PLANES, Math.floor(GROUP_BYTES / Math.max(1, mean))));
    const first = Math.floor(n / many) * many;
    return [first, Math.min(this.count(direction) - 1, first + many - 1)];
  }
  #group(direction: Direction, n: number): Promise<Map<number, Uint8Array<ArrayBuffer>>> {
    const [first, last] = this.#around(direction, n);
    const key = `${direction} ${first}`;
    const known = this.#groups.get(key);
    if (known) return known;
    const begins = this.#begins[direction];
    const asked = range(this.path(`${direction}.bin`), begins[first]!, begins[last + 1]! - 1, this.#closed.signal).then((bytes) => {
      const planes = new Map<number, Uint8Array<ArrayBuffer>>();
      for (let k = first; k <= last; k++) planes.set(k, new Uint8Array(bytes, begins[k]! - begins[first]!, begins[k + 1]! - begins[k]!));
      return planes;
    });
    this.#groups.set(key, asked);
    // packed groups are small; of many the oldest goes
    if (this.#groups.size > 120) this.#groups.delete(this.#groups.keys().next().value!);
    // what did not come is asked for again the next time
    asked.catch(() => this.#groups.get(key) === asked && this.#groups.delete(key));
    return asked;
  }
}
