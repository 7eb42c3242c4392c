import { document } from '$lib/api/bytes';
import type { Item, Media } from '../kind';
import { Frame, type Index } from './frame';

/** Points of frames that are kept beside the one that is shown. */
const KEPT = 6_000_000;

/** The files of a cloud: its frames as they are wanted. */
export class Cloud implements Media {
  index = $state.raw<Index | null>(null);
  failed = $state('');
  /** the frame that is shown, as far as its points are here */
  frame = $state.raw<Frame | null>(null);
  /** counts up when more of its points are here */
  version = $state(0);
  shown = $state(0);
  readonly opened: Promise<Index>;
  #wanted = 0;
  #frames = new Map<number, { frame: Frame | null; ready: Promise<Frame> }>();
  #stop = new AbortController();
  #closed = false;

  constructor(private readonly item: Item) {
    this.opened = this.#open();
    this.opened.catch((e: Error) => (this.failed = this.#closed ? '' : e.message));
  }
  async #open(): Promise<Index> {
    const index = await document<Index>(this.path('index.json'), this.#stop.signal);
    if (this.#closed) throw new Error('closed');
    this.index = index;
    return index;
  }
  path(file: string): string {
    const { cloud } = this.item;
    return `${cloud!.path}/${file}?${cloud!.query}`;
  }
  get ready(): boolean {
    return this.frame !== null;
  }

  /** Shows a frame; its first points at once, the rest as they come. @returns whether it is still wanted when its first points are here */
  async show(n: number): Promise<boolean> {
    const index = await this.opened;
    if (this.#closed) return false;
    this.#wanted = n;
    await this.#want(index, n);
    if (this.#closed || this.#wanted !== n) return false;
    this.#put(n);
    for (const next of [n + 1, n - 1]) if (next >= 0 && next < index.frames.length) void this.#want(index, next).catch(() => {});
    this.#tidy(index, n);
    return true;
  }
  /** The nearest frame that is here already, up to one. */
  newest(n: number): number | null {
    for (let k = n; k > n - 4 && k >= 0; k--)
      if (this.#frames.get(k)?.frame) {
        this.#wanted = k;
        this.#put(k);
        return k;
      }
    return null;
  }
  ahead(n: number): void {
    const { index } = this;
    if (index && n + 1 < index.frames.length) void this.#want(index, n + 1).catch(() => {});
  }
  #put(n: number): void {
    this.frame = this.#frames.get(n)!.frame;
    this.shown = n;
    this.version++;
  }
  /** Resolves when the first points of a frame are here. */
  #want(index: Index, n: number): Promise<void> {
    const known = this.#frames.get(n);
    if (known?.frame) return Promise.resolve();
    return new Promise((resolve, reject) => {
      const entry =
        known ??
        ({
          frame: null,
          ready: Frame.load(index, n, this.path(`${n}.bin`), this.#stop.signal, (frame) => {
            entry.frame = frame;
            for (const one of waiting) one();
            if (!this.#closed && this.shown === n && this.frame !== null) this.#put(n);
          })
        } as { frame: Frame | null; ready: Promise<Frame> });
      const waiting = (this.#waiting.get(n) ?? new Set()).add(resolve);
      this.#waiting.set(n, waiting);
      this.#frames.set(n, entry);
      entry.ready.then(
        () => this.#waiting.delete(n),
        (e: Error) => {
          // the next who asks asks the server again
          this.#frames.delete(n);
          this.#waiting.delete(n);
          reject(e);
        }
      );
    });
  }
  #waiting = new Map<number, Set<() => void>>();
  #tidy(index: Index, n: number): void {
    let points = 0;
    for (const k of [...this.#frames.keys()].sort((a, b) => Math.abs(a - n) - Math.abs(b - n))) {
      points += index.frames[k]!.points;
      if (points > KEPT && Math.abs(k - n) > 1) this.#frames.delete(k);
    }
  }
  close(): void {
    this.#closed = true;
    this.#stop.abort();
    this.#frames.clear();
  }
}
