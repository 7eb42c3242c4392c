import type { Colouring, Looks } from './space-view';
import type { Index } from './frame';

const KEPT = 'skeno-cloud';

/** How clouds are shown, from item to item. */
export class CloudLooks implements Looks {
  by = $state<Colouring>('height');
  size = $state(2);
  ground = $state(true);
  low = $state<number | null>(null);
  high = $state<number | null>(null);

  constructor() {
    try {
      const kept = JSON.parse(localStorage.getItem(KEPT) ?? '{}') as Partial<Looks>;
      if (typeof kept.size === 'number' && kept.size >= 1 && kept.size <= 8) this.size = kept.size;
      if (typeof kept.ground === 'boolean') this.ground = kept.ground;
      if (kept.by !== undefined && ['height', 'intensity', 'class', 'distance', 'colour'].includes(kept.by)) this.by = kept.by;
    } catch {
      // the store is switched off or broken: as usual
    }
  }
  /** What its points can be coloured by. */
  ways(index: Index | null): Colouring[] {
    return [
      'height',
      ...(index?.intensity ? ['intensity' as const] : []),
      ...(index?.has_class ? ['class' as const] : []),
      'distance',
      ...(index?.has_colour ? ['colour' as const] : [])
    ];
  }
  next(index: Index | null): void {
    const ways = this.ways(index);
    this.by = ways[(ways.indexOf(this.by) + 1) % ways.length]!;
    this.#keep();
  }
  larger(by: 1 | -1): void {
    this.size = Math.max(1, Math.min(8, this.size + by));
    this.#keep();
  }
  toggleGround(): void {
    this.ground = !this.ground;
    this.#keep();
  }
  /** What is higher over the ground, or lower, is not shown. */
  crop(end: 'low' | 'high', by: number): void {
    const now = this[end] ?? (end === 'low' ? -0.25 : 4);
    this[end] = Math.round((now + by) * 4) / 4;
    if (this.low !== null && this.high !== null && this.high - this.low < 0.25) this[end === 'low' ? 'high' : 'low'] = null;
  }
  uncrop(): void {
    this.low = this.high = null;
  }
  #keep(): void {
    try {
      localStorage.setItem(KEPT, JSON.stringify({ by: this.by, size: this.size, ground: this.ground }));
    } catch {
      // it stays for this visit
    }
  }
}
