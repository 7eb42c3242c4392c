import { hit, shapeOf } from '../shapes';
import type { Point } from '$lib/words/mark';
import { boxBetween } from '../view';
import { Grab, handleUnder, markAt, MIN_DRAG, overlaidAt, wordOf, type Preview, type StageTool, type Tag, type ToolPorts } from './tool';

/** Picks, moves and reshapes. A drag from an empty place takes all marks it encloses; Shift adds one to those in hand. */
export class PickTool implements StageTool {
  #grab: Grab;
  #pressed: Point | null = null;
  #again: string | null = null;
  #band: { from: Point; to: Point } | null = null;
  constructor(private readonly at: ToolPorts) {
    this.#grab = new Grab(at);
  }
  preview(): Preview | null {
    return this.#band ? { box: boxBetween(this.#band.from, this.#band.to), color: '#e9e4d8', id: null } : this.#grab.preview;
  }
  down(p: Point, keys = { shift: false }): void {
    this.#pressed = p;
    this.#again = null;
    const under = markAt(this.at, p);
    if (keys.shift) {
      if (under) this.at.hand.also(under.id);
      return;
    }
    const mark = this.at.hand.mark;
    if (
      mark &&
      this.at.hand.others.length === 0 &&
      (handleUnder(this.at, p) !== null || hit(shapeOf(mark), p, this.at.sight.view.scale, this.at.words.bones(mark.class)) !== null)
    ) {
      this.#again = mark.id;
    } else {
      this.at.hand.select(under?.id ?? null);
      if (!under) this.#band = { from: p, to: p };
    }
    if (!this.#band) this.#grab.begin(p, true);
  }
  move(p: Point): void {
    if (this.#band) this.#band.to = p;
    else if (this.#grab.busy) this.#grab.move(p);
    else this.at.hand.hover(markAt(this.at, p)?.id ?? null);
  }
  up(p: Point): void {
    const still = this.#pressed !== null && Math.hypot(p.x - this.#pressed.x, p.y - this.#pressed.y) * this.at.sight.view.scale < MIN_DRAG;
    if (this.#band) {
      const box = boxBetween(this.#band.from, p);
      this.#band = null;
      if (!still) this.at.hand.take(this.at.forms.within(box));
      // nothing of one's own lies there: what is offered there is looked at
      else overlaidAt(this.at, p)?.pick();
    }
    const handle = handleUnder(this.at, p);
    this.#grab.end(p);
    // a second press on one spot picks the mark underneath
    if (still && this.#again !== null && handle === null) this.at.hand.select(markAt(this.at, p, this.#again)?.id ?? null);
    this.#pressed = null;
  }
  cancel(): boolean {
    const was = this.#band !== null;
    this.#band = null;
    return this.#grab.cancel() || was;
  }
  tag(p: Point): Tag {
    if (this.#band) return { word: 'take these', color: '' };
    if (this.#grab.busy) return { word: this.#grab.word, color: this.at.words.light(this.at.hand.mark?.class ?? '') };
    const handle = handleUnder(this.at, p);
    const mine = this.at.hand.mark;
    if (handle && mine)
      return { word: wordOf(handle, this.at.forms.sharing(mine, handle.key).length), color: this.at.words.light(mine.class) };
    const mark = markAt(this.at, p);
    if (!mark) {
      const over = overlaidAt(this.at, p);
      return over ? { word: 'look at', color: this.at.words.light(over.mark.class) } : { word: 'pick', color: '' };
    }
    const word = this.at.hand.locked.has(mark.id)
      ? 'locked'
      : mark.id === this.at.hand.selected && this.at.forms.editable
        ? 'move'
        : 'pick';
    return { word, color: this.at.words.light(mark.class) };
  }
  cursor(p: Point): string {
    return (
      handleUnder(this.at, p)?.cursor ??
      (markAt(this.at, p) ? (this.at.forms.editable ? 'move' : 'pointer') : overlaidAt(this.at, p) ? 'pointer' : 'default')
    );
  }
}
