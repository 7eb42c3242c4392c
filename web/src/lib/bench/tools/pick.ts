import type { Bench } from '../bench.svelte';
import { bounds, hit, shapeOf } from '../shapes';
import type { Point } from '../types';
import { boxBetween } from '../view';
import { Grab, handleUnder, markAt, MIN_DRAG, wordOf, type Preview, type StageTool, type Tag } from './tool';

/** Picks, moves and reshapes. A drag from an empty place takes all marks it encloses; Shift adds one to those in hand. */
export class PickTool implements StageTool {
  #grab: Grab;
  #pressed: Point | null = null;
  #again: string | null = null;
  #band: { from: Point; to: Point } | null = null;
  constructor(private readonly bench: Bench) {
    this.#grab = new Grab(bench);
  }
  preview(): Preview | null {
    return this.#band ? { box: boxBetween(this.#band.from, this.#band.to), color: '#e9e4d8', id: null } : this.#grab.preview;
  }
  down(p: Point, keys = { shift: false }): void {
    this.#pressed = p;
    this.#again = null;
    const under = markAt(this.bench, p);
    if (keys.shift) {
      if (under) this.bench.also(under.id);
      return;
    }
    const mark = this.bench.mark;
    if (
      mark &&
      this.bench.others.length === 0 &&
      (handleUnder(this.bench, p) !== null || hit(shapeOf(mark), p, this.bench.view.scale, this.bench.bones(mark.class)) !== null)
    ) {
      this.#again = mark.id;
    } else {
      this.bench.select(under?.id ?? null);
      if (!under) this.#band = { from: p, to: p };
    }
    if (!this.#band) this.#grab.begin(p, true);
  }
  move(p: Point): void {
    if (this.#band) this.#band.to = p;
    else if (this.#grab.busy) this.#grab.move(p);
    else this.bench.hovered = markAt(this.bench, p)?.id ?? null;
  }
  up(p: Point): void {
    const still = this.#pressed !== null && Math.hypot(p.x - this.#pressed.x, p.y - this.#pressed.y) * this.bench.view.scale < MIN_DRAG;
    if (this.#band) {
      const box = boxBetween(this.#band.from, p);
      this.#band = null;
      if (!still)
        this.bench.take(
          this.bench.marks.filter((m) => {
            const b = bounds(shapeOf(m));
            return b.x >= box.x && b.y >= box.y && b.x + b.width <= box.x + box.width && b.y + b.height <= box.y + box.height;
          })
        );
    }
    const handle = handleUnder(this.bench, p);
    this.#grab.end(p);
    // a second press on one spot picks the mark underneath
    if (still && this.#again !== null && handle === null) this.bench.select(markAt(this.bench, p, this.#again)?.id ?? null);
    this.#pressed = null;
  }
  cancel(): boolean {
    const was = this.#band !== null;
    this.#band = null;
    return this.#grab.cancel() || was;
  }
  tag(p: Point): Tag {
    if (this.#band) return { word: 'take these', color: '' };
    if (this.#grab.busy) return { word: this.#grab.word, color: this.bench.light(this.bench.mark?.class ?? '') };
    const handle = handleUnder(this.bench, p);
    if (handle) return { word: wordOf(handle), color: this.bench.light(this.bench.mark?.class ?? '') };
    const mark = markAt(this.bench, p);
    if (!mark) return { word: 'pick', color: '' };
    const word = this.bench.locked.has(mark.id) ? 'locked' : mark.id === this.bench.selected && this.bench.editable ? 'move' : 'pick';
    return { word, color: this.bench.light(mark.class) };
  }
  cursor(p: Point): string {
    return handleUnder(this.bench, p)?.cursor ?? (markAt(this.bench, p) ? (this.bench.editable ? 'move' : 'pointer') : 'default');
  }
}

export class PinTool implements StageTool {
  constructor(private readonly bench: Bench) {}
  preview = () => null;
  down(): void {}
  move(p: Point): void {
    this.bench.hovered = markAt(this.bench, p)?.id ?? null;
  }
  up(p: Point): void {
    const at = { x: Math.min(this.bench.picture.width, Math.max(0, p.x)), y: Math.min(this.bench.picture.height, Math.max(0, p.y)) };
    this.bench.pinAt = { ...at, mark: markAt(this.bench, p)?.id ?? null };
  }
  cancel(): boolean {
    const was = this.bench.pinAt !== null;
    this.bench.pinAt = null;
    return was;
  }
  tag(): Tag {
    return { word: 'pin', color: '' };
  }
  cursor(): string {
    return 'crosshair';
  }
}

/** Presses on the whole of which the deck asked: any mark may be it. */
export class WholeTool implements StageTool {
  constructor(private readonly bench: Bench) {}
  preview = () => null;
  down(): void {}
  move(p: Point): void {
    this.bench.hovered = markAt(this.bench, p)?.id ?? null;
  }
  up(p: Point): void {
    const whole = markAt(this.bench, p);
    this.bench.partOf(whole && whole.id !== this.bench.selected ? whole.id : null);
  }
  cancel(): boolean {
    this.bench.tool = 'pick';
    return true;
  }
  tag(p: Point): Tag {
    const mark = markAt(this.bench, p);
    return mark && mark.id !== this.bench.selected
      ? { word: `part of ${this.bench.label(mark)}`, color: this.bench.light(mark.class) }
      : { word: 'part of nothing', color: '' };
  }
  cursor(): string {
    return 'crosshair';
  }
}
