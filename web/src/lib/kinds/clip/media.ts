import { range } from '$lib/api/bytes';

/** A file made of a clip for the screen, and where in it each frame lies: see the core's Rendition. */
export type Rendition = {
  file: string;
  width: number;
  height: number;
  codec: string;
  description: string;
  offset: number;
  sizes: number[];
};
/** What the server says of a clip: see the core's Making. */
export type Index = {
  width: number;
  height: number;
  ticks: number;
  times: number[];
  end: number;
  group: number;
  full: Rendition;
  small: Rendition | null;
  sound: boolean;
};
/** A decoded frame, which can be drawn until it is closed. */
export type Picture = CanvasImageSource;

/** Frames of a clip, decoded as they are wanted. */
export interface Frames {
  /** rejects when it can't be had, or when so many others were wanted since that it was given up */
  want(frame: number): Promise<Picture>;
  /** a frame that is here already */
  have(frame: number): Picture | null;
  /** playing comes by here in a moment */
  ahead(frame: number): void;
  /** this one is on the stage, and stays until another is */
  hold(frame: number): void;
  close(): void;
}

/** Memory decoded frames may take, in bytes of pixels; a group at least is kept on each side of where one is. */
const MEMORY = 110e6;
/** Time a group may take to come and be decoded before it is tried once more. */
const PATIENCE = 12_000;

type Wait = { done: (picture: Picture) => void; fail: (why: Error) => void };
type Group = {
  frames: Map<number, VideoFrame>;
  waits: Map<number, Wait[]>;
  state: 'waiting' | 'coming' | 'here' | 'failed';
  tries: number;
};

/** By WebCodecs, a group at a time: from a key frame on every chunk gives a frame, its time stamp being its number. */
export class DecodedFrames implements Frames {
  #groups = new Map<number, Group>();
  /** groups to be decoded, what is wanted most last */
  #queue: number[] = [];
  #busy = false;
  #closed = false;
  #held = 0;
  #decoder: VideoDecoder | null = null;
  #bytes = new Map<number, Promise<ArrayBuffer>>();
  #offsets: number[];
  readonly #most: number;
  #stop = new AbortController();

  constructor(
    private readonly of: Rendition,
    private readonly group: number,
    private readonly path: string
  ) {
    this.#offsets = [of.offset];
    for (const size of of.sizes) this.#offsets.push(this.#offsets.at(-1)! + size);
    this.#most = Math.max(3, Math.min(10, Math.floor(MEMORY / (of.width * of.height * 1.5 * group))));
  }
  static get isPossible(): boolean {
    return typeof VideoDecoder !== 'undefined';
  }

  want(frame: number): Promise<Picture> {
    if (this.#closed) return Promise.reject(new Error('closed'));
    const there = this.have(frame);
    if (there) return Promise.resolve(there);
    const group = this.#ask(Math.floor(frame / this.group));
    // stepping back crosses into the group before, stepping on into the next: they come behind this one
    return new Promise((done, fail) => {
      group.waits.set(frame, [...(group.waits.get(frame) ?? []), { done, fail }]);
      void this.#work();
    });
  }
  have(frame: number): VideoFrame | null {
    return this.#groups.get(Math.floor(frame / this.group))?.frames.get(frame) ?? null;
  }
  hold(frame: number): void {
    this.#held = Math.floor(frame / this.group);
    const at = frame % this.group;
    const beside = at < 3 ? this.#held - 1 : at > this.group - 4 ? this.#held + 1 : null;
    if (beside !== null) this.#prefetch(beside);
  }
  ahead(frame: number): void {
    const group = Math.floor(frame / this.group);
    this.#prefetch(group);
    this.#prefetch(group + 1);
  }
  /** Behind all that somebody waits for. */
  #prefetch(n: number): void {
    if (n < 0 || n * this.group >= this.of.sizes.length || this.#groups.has(n) || this.#queue.includes(n)) return;
    this.#groups.set(n, blank());
    this.#queue.unshift(n);
    void this.#work();
  }
  #ask(n: number): Group {
    let group = this.#groups.get(n);
    // what has come is the youngest again
    if (group) this.#groups.delete(n);
    else group = blank();
    if (group.state === 'failed') [group.state, group.tries] = ['waiting', 0];
    this.#groups.set(n, group);
    if (group.state === 'waiting') this.#queue = [...this.#queue.filter((q) => q !== n), n];
    return group;
  }

  async #work(): Promise<void> {
    if (this.#busy) return;
    this.#busy = true;
    for (let n = this.#queue.pop(); n !== undefined && !this.#closed; n = this.#queue.pop()) {
      const group = this.#groups.get(n);
      if (!group || group.state !== 'waiting') continue;
      group.state = 'coming';
      try {
        await this.#decode(n, group);
        if (this.#closed) break;
        group.state = 'here';
        // a frame that was wanted and has not come out will not
        for (const waits of group.waits.values()) for (const w of waits) w.fail(new Error('the frame could not be decoded'));
        group.waits.clear();
      } catch (e) {
        this.#reset();
        this.#bytes.delete(n);
        if (this.#closed) break;
        group.tries++;
        if (group.tries < 2 && group.waits.size > 0) {
          group.state = 'waiting';
          this.#queue.push(n);
        } else {
          group.state = 'failed';
          for (const waits of group.waits.values()) for (const w of waits) w.fail(e as Error);
          group.waits.clear();
          if (group.frames.size === 0) this.#groups.delete(n);
        }
      }
      this.#tidy();
    }
    this.#busy = false;
  }
  async #decode(n: number, group: Group): Promise<void> {
    const [first, last] = [n * this.group, Math.min(this.of.sizes.length, (n + 1) * this.group) - 1];
    const bytes = await this.#bytesOf(n);
    // the next one is on its way while this one is decoded
    if (this.#queue.length > 0) void this.#bytesOf(this.#queue.at(-1)!).catch(() => {});
    if (this.#closed) return;
    const decoder = this.#decoder ?? this.#open();
    for (let k = first; k <= last; k++)
      decoder.decode(
        new EncodedVideoChunk({
          type: k === first ? 'key' : 'delta',
          timestamp: k,
          data: new Uint8Array(bytes, this.#offsets[k]! - this.#offsets[first]!, this.of.sizes[k]!)
        })
      );
    let timer: ReturnType<typeof setTimeout> | undefined;
    const late = new Promise<never>((_, no) => (timer = setTimeout(() => no(new Error('the frame takes too long to decode')), PATIENCE)));
    try {
      await Promise.race([decoder.flush(), late]);
    } finally {
      clearTimeout(timer);
    }
    void group;
  }
  #bytesOf(n: number): Promise<ArrayBuffer> {
    const [first, end] = [n * this.group, Math.min(this.of.sizes.length, (n + 1) * this.group)];
    let bytes = this.#bytes.get(n);
    if (!bytes) {
      bytes = range(this.path, this.#offsets[first]!, this.#offsets[end]! - 1, this.#stop.signal);
      this.#bytes.set(n, bytes);
      bytes.then(
        () => this.#bytes.size > 40 && this.#bytes.delete(this.#bytes.keys().next().value!),
        () => this.#bytes.delete(n)
      );
    }
    return bytes;
  }
  #open(): VideoDecoder {
    const decoder = new VideoDecoder({
      output: (frame) => this.#came(frame),
      error: () => {
        if (this.#decoder === decoder) this.#decoder = null;
      }
    });
    decoder.configure({
      codec: this.of.codec,
      description: Uint8Array.from(atob(this.of.description), (c) => c.charCodeAt(0)),
      codedWidth: this.of.width,
      codedHeight: this.of.height,
      optimizeForLatency: true
    });
    this.#decoder = decoder;
    return decoder;
  }
  #came(frame: VideoFrame): void {
    const k = frame.timestamp;
    const group = this.#groups.get(Math.floor(k / this.group));
    if (this.#closed || !group) return frame.close();
    group.frames.get(k)?.close();
    group.frames.set(k, frame);
    for (const w of group.waits.get(k) ?? []) w.done(frame);
    group.waits.delete(k);
  }
  #reset(): void {
    if (this.#decoder && this.#decoder.state !== 'closed') this.#decoder.close();
    this.#decoder = null;
  }
  /** Lets go of what was wanted longest ago, but never of what is on the stage. */
  #tidy(): void {
    for (const [n, group] of this.#groups) {
      if (this.#groups.size <= this.#most) break;
      if (n === this.#held || group.state === 'coming' || group.waits.size > 0) continue;
      for (const frame of group.frames.values()) frame.close();
      this.#groups.delete(n);
      this.#queue = this.#queue.filter((q) => q !== n);
    }
  }
  close(): void {
    this.#closed = true;
    this.#stop.abort();
    this.#reset();
    for (const group of this.#groups.values()) {
      for (const frame of group.frames.values()) frame.close();
      for (const waits of group.waits.values()) for (const w of waits) w.fail(new Error('closed'));
    }
    this.#groups.clear();
    this.#queue = [];
  }
}

const blank = (): Group => ({ frames: new Map(), waits: new Map(), state: 'waiting', tries: 0 });

/**
 * By a `<video>`, where the browser has no decoder to lend (on a page without https): sought to the middle between two frames, and believed only
 * when the browser says which frame it shows.
 */
export class SoughtFrames implements Frames {
  #video: HTMLVideoElement;
  #ready: Promise<void>;
  #shown: { frame: number; picture: OffscreenCanvas } | null = null;
  #next: { frame: number; waits: Wait[] } | null = null;
  #busy = false;
  #closed = false;

  constructor(
    private readonly index: Index,
    path: string
  ) {
    this.#video = globalThis.document.createElement('video');
    this.#video.muted = true;
    this.#video.preload = 'auto';
    this.#video.playsInline = true;
    this.#ready = new Promise((done, fail) => {
      this.#video.onloadeddata = () => done();
      this.#video.onerror = () => fail(new Error('the browser can not play this clip'));
    });
    this.#ready.catch(() => {});
    this.#video.src = path;
  }
  have(frame: number): Picture | null {
    return this.#shown?.frame === frame ? this.#shown.picture : null;
  }
  want(frame: number): Promise<Picture> {
    if (this.#closed) return Promise.reject(new Error('closed'));
    const there = this.have(frame);
    if (there) return Promise.resolve(there);
    return new Promise((done, fail) => {
      if (this.#next?.frame === frame) this.#next.waits.push({ done, fail });
      else {
        for (const w of this.#next?.waits ?? []) w.fail(new Error('another frame is wanted'));
        this.#next = { frame, waits: [{ done, fail }] };
      }
      void this.#work();
    });
  }
  /** While playing the next one is sought as soon as the last has come: as many as the browser manages. */
  ahead(frame: number): void {
    if (!this.#busy && this.#next === null && this.#shown?.frame !== frame) this.want(frame).catch(() => {});
  }
  hold(): void {}

  async #work(): Promise<void> {
    if (this.#busy) return;
    this.#busy = true;
    try {
      for (let next = this.#next; next !== null && !this.#closed; next = this.#next) {
        this.#next = null;
        try {
          await this.#ready;
          const picture = await this.#seek(next.frame);
          this.#shown = { frame: next.frame, picture };
          for (const w of next.waits) w.done(picture);
        } catch (e) {
          for (const w of next.waits) w.fail(e as Error);
        }
      }
    } finally {
      this.#busy = false;
    }
  }
  async #seek(frame: number): Promise<OffscreenCanvas> {
    const { times, ticks, end } = this.index;
    const from = times[frame]! / ticks;
    const to = (times[frame + 1] ?? end) / ticks;
    for (let tries = 0; tries < 3; tries++) {
      const media = await this.#presented((from + to) / 2);
      // the time the browser gives is that of the frame, give or take its rounding
      if (media === null || Math.abs(media - from) < Math.max(0.002, (to - from) / 2)) return this.#copy();
    }
    throw new Error('the browser does not show this frame');
  }
  /** @returns the time of the frame that is shown; null when the browser does not say */
  #presented(at: number): Promise<number | null> {
    const video = this.#video;
    return new Promise((done, fail) => {
      let told: number | null = null;
      let sought = false;
      const timer = setTimeout(() => (sought ? finish(told) : fail(new Error('the frame takes too long'))), 2500);
      const finish = (time: number | null) => {
        clearTimeout(timer);
        done(time);
      };
      video.requestVideoFrameCallback((_, meta) => {
        told = meta.mediaTime;
        if (sought) finish(told);
      });
      video.onseeked = () => {
        sought = true;
        if (told !== null) finish(told);
      };
      // a seek to where one is gives no new frame: a hair beside it does
      video.currentTime = video.currentTime === at ? at + 1e-5 : at;
    });
  }
  #copy(): OffscreenCanvas {
    const canvas = new OffscreenCanvas(this.#video.videoWidth, this.#video.videoHeight);
    canvas.getContext('2d')!.drawImage(this.#video, 0, 0);
    return canvas;
  }
  close(): void {
    this.#closed = true;
    for (const w of this.#next?.waits ?? []) w.fail(new Error('closed'));
    this.#next = null;
    this.#video.removeAttribute('src');
    this.#video.load();
  }
}
