import type { Point } from '$lib/words/mark';
import type { Plane } from './plane.svelte';
import { clampPoint, toPicture, toScreen } from './view';

/** The pointer over the stage, moved by a mouse, a pen or keys, in px of the picture. */
export class Pointer {
  at = $state.raw<Point | null>(null);
  panning = $state.raw<Point | null>(null);
  space = $state(false);
  /** a press by keys that lasts until the next */
  holding = $state(false);
  byKeys = $state(false);
  #down = false;

  constructor(private readonly plane: Plane) {}

  get screen(): Point {
    return this.at ? toScreen(this.plane.sight.view, this.at) : { x: 0, y: 0 };
  }
  get grabs(): boolean {
    return this.space || this.plane.drawing.mode === 'hand';
  }
  #in(p: Point): Point {
    return toPicture(this.plane.sight.view, p);
  }

  /** @param p px of the stage @param client px of the window, which the view does not move */
  down(p: Point, client: Point, button: number, shift: boolean): void {
    this.plane.nudge.end();
    if (button === 1 || (button === 0 && this.grabs)) {
      this.panning = client;
      return;
    }
    if (button !== 0) return;
    // what is pressed may be another picture of the same table
    this.plane.ports.under?.(this.#in(p));
    this.#down = true;
    this.plane.acted(() => {
      this.plane.tool.down(this.#in(p), { shift });
      return true;
    });
  }
  /** @param between where it was between the last event and this, so that a quick stroke keeps its curve */
  move(p: Point, client: Point, between: readonly Point[] = []): void {
    const { sight, tool } = this.plane;
    if (this.panning) {
      // what lies under the pointer stays under it
      sight.pan(client.x - this.panning.x, client.y - this.panning.y);
      this.panning = client;
      return;
    }
    this.byKeys = false;
    if (this.#down && this.plane.drawing.mode === 'draw') for (const one of between) tool.move(this.#in(one));
    this.at = this.#in(p);
    tool.move(this.at);
  }
  up(p: Point, button: number): void {
    if (this.panning) {
      this.panning = null;
      return;
    }
    if (button !== 0 || !this.#down) return;
    this.#down = false;
    this.plane.acted(() => {
      this.plane.tool.up(this.#in(p));
      return true;
    });
  }
  /** The browser has taken the pointer away: the press is over, nothing stays half taken, and what was drawn before it stays. */
  cancel(): void {
    if (this.panning) {
      this.panning = null;
      return;
    }
    if (!this.#down) return;
    this.#down = false;
    this.plane.acted(() => {
      const { tool } = this.plane;
      if (tool.interrupt) tool.interrupt();
      else tool.cancel();
      return true;
    });
  }
  leave(): void {
    this.at = null;
    this.plane.ports.hand.hover(null);
  }
  get isDown(): boolean {
    return this.#down || this.holding;
  }
  /** Along a table of pictures. */
  scroll(p: Point, dx: number, dy: number): void {
    this.plane.sight.pan(-dx, -dy);
    this.at = this.#in(p);
  }
  wheel(p: Point, by: number): void {
    this.plane.sight.zoom(p, Math.exp(-Math.max(-200, Math.min(200, by)) * 0.0018));
    this.at = this.#in(p);
  }

  /** Moved by keys, in px of the picture; the view follows. */
  step(by: Point): void {
    const { sight, tool } = this.plane;
    const from = this.at ?? toPicture(sight.view, sight.middle);
    const at = clampPoint({ x: from.x + by.x, y: from.y + by.y }, sight.picture);
    const s = toScreen(sight.view, at);
    const { width, height } = sight.stage;
    sight.pan(Math.min(0, width - 24 - s.x) + Math.max(0, 24 - s.x), Math.min(0, height - 24 - s.y) + Math.max(0, 24 - s.y));
    this.at = at;
    tool.move(at);
    this.plane.beat++;
    this.byKeys = true;
  }
  /** A press by keys: once, or held until the next. */
  press(hold: boolean, shift: boolean): void {
    this.step({ x: 0, y: 0 });
    this.plane.acted(() => {
      const { tool } = this.plane;
      if (!this.holding) tool.down(this.at!, { shift });
      if (this.holding || !hold) tool.up(this.at!);
      this.holding = hold && !this.holding;
      return true;
    });
  }
  /** Gives up what is begun; false when nothing was. */
  escape(): boolean {
    this.holding = false;
    return this.plane.acted(() => this.plane.tool.cancel());
  }
}
