import type { Stretch } from '$lib/words/mark';

/** Speeds one steps through. */
export const SPEEDS = [0.25, 0.5, 1, 1.5, 2, 3, 5];
/** Frames of the longer step, until a person sets another number. */
const STEP = 10;
const KEPT = 'skeno-step';

/** What tells how far playing is: the sound where there is one, else the time that has passed. In seconds from the start of the clip. */
export interface Pace {
  start(at: number, speed: number): Promise<void> | void;
  stop(): void;
  now(): number;
}

/** Time that has passed on the browser's clock. */
export class PlainPace implements Pace {
  #from = { at: 0, began: 0, speed: 1 };
  start(at: number, speed: number): void {
    this.#from = { at, began: performance.now(), speed };
  }
  stop(): void {}
  now(): number {
    return this.#from.at + ((performance.now() - this.#from.began) / 1000) * this.#from.speed;
  }
}

/** When each frame is shown. */
export class FrameTimes {
  constructor(
    private readonly times: readonly number[],
    private readonly end: number,
    private readonly ticks: number
  ) {}
  get count(): number {
    return this.times.length;
  }
  seconds(frame: number): number {
    return this.times[Math.max(0, Math.min(this.count - 1, frame))]! / this.ticks;
  }
  get endsAt(): number {
    return this.end / this.ticks;
  }
  /** The frame that is shown at a time: the last that has begun. */
  at(seconds: number): number {
    const ticks = Math.floor(seconds * this.ticks + 0.5);
    let [low, high] = [0, this.count];
    while (low < high) {
      const middle = (low + high) >> 1;
      if (this.times[middle]! <= ticks) low = middle + 1;
      else high = middle;
    }
    return Math.max(0, low - 1);
  }
}

/** What shows a place. */
export type Drawn = {
  /** shows a frame as soon as it can be; resolves with whether it is the one that is wanted still */
  show: (frame: number) => Promise<boolean>;
  /** the newest frame up to this one that can be shown now; shows it */
  newest: (frame: number) => number | null;
  /** playing is about to come by here */
  ahead: (frame: number) => void;
  failed: (why: string) => void;
};

/**
 * Where on the axis one is, and playing. What is shown is shown by `draw`: while playing the newest frame that is there already, so that
 * picture and marks are always of one frame.
 */
export class Clock {
  /** the frame that is on the stage */
  frame = $state(0);
  playing = $state(false);
  speed = $state(1);
  /** frames of the longer step */
  step = $state(STEP);
  /** played round and round */
  loop = $state.raw<Stretch | null>(null);
  /** the frame that is wanted, while its picture is on its way */
  wanted = $state<number | null>(null);
  #raf = 0;
  #closed = false;
  #run = 0;

  constructor(
    public times: FrameTimes,
    private readonly draw: Drawn,
    private readonly pace: Pace
  ) {
    try {
      const kept = Number(localStorage.getItem(KEPT));
      if (Number.isInteger(kept) && kept > 0 && kept <= 10_000) this.step = kept;
    } catch {
      // the store is switched off: the usual step
    }
  }
  close(): void {
    this.#closed = true;
    this.stop();
  }
  get last(): number {
    return this.times.count - 1;
  }
  /** Where the next step goes from: a press before this one may still be on its way. */
  get heading(): number {
    return this.wanted ?? this.frame;
  }

  setStep(step: number): void {
    this.step = Math.max(1, Math.min(10_000, Math.round(step) || 1));
    try {
      localStorage.setItem(KEPT, String(this.step));
    } catch {
      // it stays for this visit
    }
  }
  async go(frame: number): Promise<void> {
    this.stop();
    await this.#to(Math.max(0, Math.min(this.last, Math.round(frame))));
  }
  async #to(frame: number): Promise<void> {
    if (frame === this.heading && this.wanted === null) return;
    this.wanted = frame;
    try {
      if (!(await this.draw.show(frame)) || this.#closed) return;
      this.frame = frame;
    } catch (e) {
      if (!this.#closed && this.wanted === frame) this.draw.failed((e as Error).message);
    }
    if (this.wanted === frame) this.wanted = null;
  }
  by(frames: number): Promise<void> {
    return this.go(this.heading + frames);
  }

  toggle(): void {
    if (this.playing) this.stop();
    else void this.play();
  }
  stop(): void {
    this.#run++;
    if (!this.playing) return;
    this.playing = false;
    cancelAnimationFrame(this.#raf);
    this.pace.stop();
  }
  faster(by: 1 | -1): void {
    const at = SPEEDS.findIndex((s) => s >= this.speed);
    this.speed = SPEEDS[Math.max(0, Math.min(SPEEDS.length - 1, at + by))]!;
    if (this.playing) void this.play();
  }
  /** @param again from the beginning of what is played round and round */
  async play(again = false): Promise<void> {
    const run = ++this.#run;
    const [first, last] = this.loop ?? [0, this.last];
    const inside = !again && this.frame >= first && this.frame < last;
    const from = inside ? this.frame : first;
    this.playing = true;
    try {
      if (from !== this.frame) await this.#to(from);
      if (run !== this.#run) return;
      await this.pace.start(this.times.seconds(from), this.speed);
    } catch (e) {
      if (run === this.#run) {
        this.stop();
        this.draw.failed((e as Error).message);
      }
      return;
    }
    if (run !== this.#run || this.#closed) return;
    const end = last === this.last ? this.times.endsAt : this.times.seconds(last + 1);
    const tick = () => {
      if (run !== this.#run) return;
      const now = this.pace.now();
      if (now >= end) {
        if (this.loop) return void this.play(true);
        this.#shown(last, first);
        if (this.frame === last) return this.stop();
      } else this.#shown(Math.max(first, Math.min(last, this.times.at(now))), first);
      this.#raf = requestAnimationFrame(tick);
    };
    cancelAnimationFrame(this.#raf);
    this.#raf = requestAnimationFrame(tick);
  }
  #shown(wanted: number, first: number): void {
    this.draw.ahead(wanted);
    if (wanted === this.frame) return;
    const shown = this.draw.newest(wanted);
    // never back: what is late is left out
    if (shown !== null && (shown > this.frame || this.frame > wanted) && shown >= first) this.frame = shown;
  }
}
