import type { Index, Window } from './planes';

/** Windows one knows by name where what is measured are Hounsfield units; offered where the range of a scan holds air and bone. */
const HOUNSFIELD: Window[] = [
  { name: 'soft tissue', level: 40, width: 400 },
  { name: 'lung', level: -600, width: 1500 },
  { name: 'bone', level: 500, width: 2000 }
];

/** What of the measured range is shown from black to white, and how. One for all items of a bench: a hand sets it once for alike scans. */
export class Windowing {
  level = $state(0);
  width = $state(1);
  inverted = $state(false);
  /** a hand has set it; else each scan opens as it is seen best */
  #own = false;
  presets = $state.raw<Window[]>([]);
  /** counts up with each change of what a value is shown as */
  version = $state(0);
  #table: Uint32Array | null = null;
  #stored = { slope: 1, intercept: 0 };

  /** Another scan lies there. */
  open(index: Index): void {
    this.#stored = index.stored;
    const whole = index.windows.at(-1);
    const isHounsfield = whole && whole.level - whole.width / 2 < -900 && whole.level + whole.width / 2 > 1200;
    this.presets = [...index.windows, ...(isHounsfield ? HOUNSFIELD : [])];
    const [first] = this.presets;
    if (!this.#own && first) [this.level, this.width] = [first.level, first.width];
    this.#changed();
  }
  take({ level, width }: Window): void {
    this.set(level, width);
  }
  set(level: number, width: number): void {
    this.#own = true;
    const step = Math.abs(this.#stored.slope);
    this.width = Math.max(step, Math.abs(width));
    this.level = level;
    this.#changed();
  }
  /** The next of the presets. */
  next(): Window | null {
    const at = this.presets.findIndex((w) => w.level === this.level && w.width === this.width);
    const next = this.presets[(at + 1) % Math.max(1, this.presets.length)] ?? null;
    if (next) this.take(next);
    return next;
  }
  invert(): void {
    this.inverted = !this.inverted;
    this.#changed();
  }
  #changed(): void {
    this.#table = null;
    this.version++;
  }
  measured(stored: number): number {
    return stored * this.#stored.slope + this.#stored.intercept;
  }
  /** What each value that is kept is shown as: the four bytes of a pixel (little endian). */
  get table(): Uint32Array {
    if (this.#table) return this.#table;
    const table = new Uint32Array(65_536);
    const { slope, intercept } = this.#stored;
    const from = this.level - this.width / 2;
    for (let v = 0; v < table.length; v++) {
      const share = Math.max(0, Math.min(1, (v * slope + intercept - from) / this.width));
      const grey = Math.round(255 * (this.inverted ? 1 - share : share));
      table[v] = 0xff000000 | (grey << 16) | (grey << 8) | grey;
    }
    return (this.#table = table);
  }
}
