import type { Point, Ring } from '$lib/words/mark';
import type { Cutout } from '../cutout.svelte';
import { isBox } from '../cutout.svelte';
import { boxBetween, clampPoint, round } from '../view';
import { MIN_DRAG, type Preview, type StageTool, type Tag, type ToolPorts } from './tool';

/** Screen px between the points of a stroke. */
const STEP = 4;

/** A rough box in, the outline out; then presses and short strokes add or take away until it is taken. */
export class CutoutTool implements StageTool {
  #from: Point | null = null;
  #to: Point | null = null;
  #twoPress = false;
  #stroke: Ring = [];

  constructor(
    private readonly at: ToolPorts,
    readonly cutout: Cutout
  ) {}

  preview(): Preview | null {
    const color = this.at.words.light(this.at.chosen.active);
    if (this.#from && this.#to) return { box: boxBetween(this.#from, this.#to), color, id: null };
    const { state, found, adds } = this.cutout;
    if (!state) return null;
    const strokes = this.#stroke.length > 0 ? [...state.strokes, { adds, points: this.#stroke }] : state.strokes;
    return { box: state.box, color, id: null, strokes, ...(found?.shape && { shape: found.shape }) };
  }
  down(p: Point): void {
    const q = clampPoint(p, this.at.sight.picture);
    if (this.cutout.isOpen) this.#stroke = [round(q.x), round(q.y)];
    else if (!this.#twoPress) this.#from = this.#to = q;
  }
  move(p: Point): void {
    const q = clampPoint(p, this.at.sight.picture);
    if (this.#from) this.#to = q;
    const n = this.#stroke.length;
    if (n > 0 && n < 600 && Math.hypot(q.x - this.#stroke[n - 2]!, q.y - this.#stroke[n - 1]!) * this.at.sight.view.scale >= STEP)
      this.#stroke = [...this.#stroke, round(q.x), round(q.y)];
  }
  up(p: Point): void {
    if (this.#stroke.length > 0) {
      this.cutout.stroke(this.#stroke);
      this.#stroke = [];
      return;
    }
    if (!this.#from) return;
    const q = clampPoint(p, this.at.sight.picture);
    this.#to = q;
    const from = this.#from;
    const size = Math.max(Math.abs(q.x - from.x), Math.abs(q.y - from.y)) * this.at.sight.view.scale;
    if (size < MIN_DRAG && !this.#twoPress) {
      this.#twoPress = true;
      return;
    }
    this.#from = this.#to = null;
    this.#twoPress = false;
    if (!isBox(from, q)) return this.at.say('this box is too small to cut anything out of it');
    if (!this.at.chosen.active) return this.at.say('the codebook has no class that is drawn on pictures yet');
    this.at.hand.select(null);
    this.cutout.begin(boxBetween(from, q));
  }
  interrupt(): void {
    this.#stroke = [];
    if (!this.#twoPress) this.#from = this.#to = null;
  }
  cancel(): boolean {
    const was = this.#from !== null || this.#stroke.length > 0;
    this.#from = this.#to = null;
    this.#twoPress = false;
    this.#stroke = [];
    return was || this.cutout.leave();
  }
  /** Takes what was found. */
  finish(): boolean {
    if (!this.cutout.isOpen) return false;
    const shape = this.cutout.take();
    if (shape) this.at.forms.draw(shape, 'cutout');
    else if (this.cutout.failed !== '') this.cutout.again();
    else
      this.at.say(
        this.cutout.working ? 'it is still being worked out' : 'there is nothing to take: press on the object, or leave it with Esc'
      );
    return true;
  }
  takeBack(): boolean {
    return this.cutout.isOpen && this.cutout.undo();
  }
  undo(): boolean {
    // the box itself is the first step
    return this.cutout.isOpen && (this.cutout.undo() || this.cutout.leave());
  }
  redo(): boolean {
    return this.cutout.isOpen && this.cutout.redo();
  }
  dial(by: 1 | -1, other: boolean): boolean {
    if (!this.cutout.isOpen || other) return false;
    this.cutout.dial(by * 0.5);
    return true;
  }
  busy(): boolean {
    return this.cutout.isOpen || this.#twoPress;
  }
  tag(): Tag {
    const color = this.at.words.light(this.at.chosen.active);
    if (!this.cutout.isOpen)
      return { word: this.#twoPress ? 'far corner' : `cut out ${this.at.words.nameOf(this.at.chosen.active)}`, color };
    return this.cutout.adds ? { word: 'add', color } : { word: 'take away', color: '#f0845a' };
  }
  cursor(): string {
    return 'crosshair';
  }
}
