import type { Point } from '$lib/words/mark';
import { markAt, type StageTool, type Tag, type ToolPorts } from './tool';

/** Presses on the whole of which the deck asked: any mark may be it. */
export class WholeTool implements StageTool {
  constructor(private readonly at: ToolPorts) {}
  preview = () => null;
  down(): void {}
  move(p: Point): void {
    this.at.hand.hover(markAt(this.at, p)?.id ?? null);
  }
  up(p: Point): void {
    const whole = markAt(this.at, p);
    this.at.acts.partOf(whole && whole.id !== this.at.hand.selected ? whole.id : null);
    this.at.drawing.mode = 'pick';
  }
  cancel(): boolean {
    this.at.drawing.mode = 'pick';
    return true;
  }
  tag(p: Point): Tag {
    const mark = markAt(this.at, p);
    return mark && mark.id !== this.at.hand.selected
      ? { word: `part of ${this.at.acts.label(mark)}`, color: this.at.words.light(mark.class) }
      : { word: 'part of nothing', color: '' };
  }
  cursor(): string {
    return 'crosshair';
  }
}
