import type { Point, Shape } from '$lib/words/mark';
import { clampPoint } from '../view';
import { Grab, handleUnder, MIN_DRAG, wordOf, type Preview, type StageTool, type Tag, type ToolPorts } from './tool';

/**
 * Shapes drawn from one place to another, by a drag or by two presses; some need a third press: how deep a turned box is, where the far
 * face of a cuboid lies. The mark in hand can still be pulled by its handles.
 */
export abstract class Dragged implements StageTool {
  #grab: Grab;
  protected from: Point | null = null;
  protected to: Point | null = null;
  /** the place before last is fixed and the pointer moves what comes after */
  protected third = false;
  #pressing = false;
  #twoPress = false;
  constructor(protected readonly at: ToolPorts) {
    this.#grab = new Grab(at);
  }
  /** shape between two places, and after the third press when there is one */
  protected abstract shape(a: Point, b: Point, c: Point | null): Shape;
  protected readonly needsThird: boolean = false;
  protected readonly thirdWord: string = '';
  #third: Point | null = null;

  preview(): Preview | null {
    if (this.from && this.to)
      return {
        shape: this.shape(this.from, this.to, this.third ? this.#third : null),
        color: this.at.words.light(this.at.chosen.active),
        id: null
      };
    return this.#grab.preview;
  }
  down(p: Point): void {
    if (this.third || this.#twoPress) return;
    if (this.#grab.begin(p, false)) return;
    this.#pressing = true;
    this.from = this.to = clampPoint(p, this.at.sight.picture);
  }
  move(p: Point): void {
    if (this.third) this.#third = clampPoint(p, this.at.sight.picture);
    else if (this.from) this.to = clampPoint(p, this.at.sight.picture);
    else this.#grab.move(p);
  }
  up(p: Point): void {
    const q = clampPoint(p, this.at.sight.picture);
    if (this.third) {
      const shape = this.shape(this.from!, this.to!, q);
      this.cancel();
      this.done(shape);
      return;
    }
    if (!this.from) return this.#grab.end(p);
    this.to = q;
    const size = Math.max(Math.abs(q.x - this.from.x), Math.abs(q.y - this.from.y)) * this.at.sight.view.scale;
    if (size < MIN_DRAG) {
      // a press without a drag begins what the next press goes on with
      this.#twoPress = !this.#twoPress;
      if (!this.#twoPress) this.cancel();
      this.#pressing = false;
      return;
    }
    this.#pressing = this.#twoPress = false;
    if (this.needsThird) {
      this.third = true;
      this.#third = q;
      return;
    }
    const shape = this.shape(this.from, q, null);
    this.cancel();
    this.done(shape);
  }
  protected done(shape: Shape): void {
    this.at.forms.draw(shape);
  }
  cancel(): boolean {
    const was = this.from !== null;
    this.from = this.to = this.#third = null;
    this.third = this.#twoPress = this.#pressing = false;
    return this.#grab.cancel() || was;
  }
  busy(): boolean {
    return this.from !== null && !this.#pressing;
  }
  tag(p: Point): Tag {
    const handle = this.from ? null : handleUnder(this.at, p);
    if (this.#grab.busy || handle)
      return { word: handle ? wordOf(handle) : this.#grab.word, color: this.at.words.light(this.at.hand.mark?.class ?? '') };
    const word = this.third ? this.thirdWord : this.#twoPress ? 'far corner' : this.at.words.nameOf(this.at.chosen.active);
    return { word, color: this.at.words.light(this.at.chosen.active) };
  }
  cursor(p: Point): string {
    return (this.from ? null : handleUnder(this.at, p)?.cursor) ?? 'crosshair';
  }
}
