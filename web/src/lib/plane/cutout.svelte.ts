import type { Box, Point, Ring, Shape } from '$lib/words/mark';

/** What a hand says of some pixels: a click or a short stroke, in px of the picture. */
export type Stroke = { adds: boolean; points: Ring };
export type Wish = { box: Box; strokes: readonly Stroke[]; loose: number; as: 'polygon' | 'mask' };
export type Found = {
  /** null: nothing stands out from its ground */
  shape: Shape | null;
  /** px */
  area: number;
  /** sides of the box it runs along */
  touches: readonly string[];
  /** how much colours of object and ground have in common, 0 to 1 */
  alike: number;
};
export type AskCutout = (wish: Wish, signal: AbortSignal) => Promise<Found>;

/** How far the dial goes to either side. */
const LOOSEST = 4;
/** From here on object and ground are said to be of one colour. */
const ALIKE = 0.45;
/** Time after which it is said that the server takes long. */
const LONG = 2500;

type State = Pick<Wish, 'box' | 'strokes' | 'loose'>;

/**
 * One object that is being cut out: the rough box, what the hand has said since, what was found. One request is on its way at a time; what
 * the hand says meanwhile goes with the next. Nothing is lost when the server does not answer: the box and the strokes stay, and are sent
 * again.
 */
export class Cutout {
  state = $state.raw<State | null>(null);
  found = $state.raw<Found | null>(null);
  /** what the next press says */
  adds = $state(true);
  working = $state(false);
  slow = $state(false);
  /** why nothing was found out */
  failed = $state('');
  #past: State[] = [];
  #future: State[] = [];
  /** what the last answer is an answer to */
  #answered: State | null = null;
  #asked = '';
  #stop: AbortController | null = null;

  constructor(
    private readonly ask: AskCutout,
    private readonly as: () => 'polygon' | 'mask'
  ) {}

  get isOpen(): boolean {
    return this.state !== null;
  }
  /** How many inputs went into it. */
  get inputs(): number {
    return 1 + (this.state?.strokes.length ?? 0);
  }
  /** What the hand should know before it takes it. */
  get doubts(): string[] {
    const { found } = this;
    if (!found || this.working) return [];
    if (!found.shape) return ['nothing in the box stands out from what is round it: press on the object'];
    return [
      ...(found.touches.length > 0
        ? [
            `the outline runs along the box ${found.touches.length > 2 ? 'on most sides' : `at its ${found.touches.join(' and ')}`}: it may be cut off there, or have swallowed ground`
          ]
        : []),
      ...(found.alike >= ALIKE ? ['object and ground have the same colours: look at its edge'] : [])
    ];
  }

  begin(box: Box): void {
    this.leave();
    this.#set({ box, strokes: [], loose: 0 });
  }
  /** Says of some pixels what they are. */
  stroke(points: Ring): void {
    if (!this.state) return;
    this.#step({ ...this.state, strokes: [...this.state.strokes, { adds: this.adds, points }] });
  }
  dial(by: number): void {
    if (!this.state) return;
    const loose = Math.max(-LOOSEST, Math.min(LOOSEST, this.state.loose + by));
    if (loose !== this.state.loose) this.#step({ ...this.state, loose });
  }
  undo(): boolean {
    const before = this.#past.pop();
    if (!this.state || !before) return false;
    this.#future.push(this.state);
    this.#set(before);
    return true;
  }
  redo(): boolean {
    const next = this.#future.pop();
    if (!this.state || !next) return false;
    this.#past.push(this.state);
    this.#set(next);
    return true;
  }
  /** Asks again: after a failure, or because it is wanted as another shape. */
  again(): void {
    if (this.state) void this.#send();
  }
  /** What was found, when it is the answer to all that was said; then nothing is open any more. */
  take(): Shape | null {
    if (this.working || this.#answered !== this.state || !this.found?.shape) return null;
    const { shape } = this.found;
    this.leave();
    return shape;
  }
  /** Lets it be. @returns whether there was anything */
  leave(): boolean {
    const was = this.state !== null;
    this.#stop?.abort();
    this.#stop = null;
    this.state = this.found = this.#answered = null;
    this.#past = [];
    this.#future = [];
    this.#asked = '';
    this.working = this.slow = false;
    this.failed = '';
    this.adds = true;
    return was;
  }

  #step(state: State): void {
    this.#past.push(this.state!);
    this.#future = [];
    this.#set(state);
  }
  #set(state: State): void {
    this.state = state;
    void this.#send();
  }
  async #send(): Promise<void> {
    // what is on its way is waited for: the server goes on from it
    if (this.#stop) return;
    const stop = (this.#stop = new AbortController());
    this.working = true;
    this.failed = '';
    try {
      while (this.state) {
        const { state } = this;
        const wish: Wish = { ...state, as: this.as() };
        this.#asked = JSON.stringify(wish);
        const timer = setTimeout(() => (this.slow = !stop.signal.aborted), LONG);
        const found = await this.ask(wish, stop.signal).finally(() => clearTimeout(timer));
        if (stop.signal.aborted) return;
        this.slow = false;
        this.found = found;
        this.#answered = state;
        if (this.state === state && this.#asked === JSON.stringify({ ...state, as: this.as() })) break;
      }
    } catch (e) {
      if (stop.signal.aborted) return;
      this.failed = (e as Error).message;
    } finally {
      if (this.#stop === stop) {
        this.#stop = null;
        this.working = this.slow = false;
      }
    }
  }
}

/** A box as rough as a hand draws it is never smaller than this, in px of the picture. */
export const LEAST = 4;
export const isBox = (a: Point, b: Point): boolean => Math.abs(a.x - b.x) >= LEAST && Math.abs(a.y - b.y) >= LEAST;
