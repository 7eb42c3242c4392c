import type { Mark, Point } from '$lib/words/mark';
import type { Forms } from './forms';

/** Time without a key after which a nudge is over, also when its end was not heard. */
const REST = 350;

/**
 * Marks in hand moved by a key that is held: shown as they go, and one change when the key is let go, however often it was repeated.
 */
export class Nudge {
  /** what is moved, as it is shown; null when nothing is */
  shown = $state.raw<ReadonlyMap<string, Mark> | null>(null);
  #by: Point = { x: 0, y: 0 };
  #steps: { before: Mark; after: Mark }[] = [];
  #timer: ReturnType<typeof setTimeout> | undefined;

  constructor(private readonly forms: Forms) {}

  /** Moves on by some px. */
  add(by: Point): void {
    this.#by = { x: this.#by.x + by.x, y: this.#by.y + by.y };
    this.#steps = this.forms.nudged(this.#by);
    this.shown = new Map(this.#steps.map((s) => [s.before.id, s.after]));
    clearTimeout(this.#timer);
    this.#timer = setTimeout(() => this.end(), REST);
  }
  /** Makes it one change. */
  end(): void {
    clearTimeout(this.#timer);
    if (this.shown === null) return;
    const steps = this.#steps;
    [this.shown, this.#steps, this.#by] = [null, [], { x: 0, y: 0 }];
    this.forms.move(steps);
  }
}
