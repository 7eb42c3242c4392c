import type { Point } from '$lib/words/mark';
import { clampPoint } from '../view';
import { markAt, type StageTool, type Tag, type ToolPorts } from './tool';

/** Sets a pin: a remark on a spot. */
export class PinTool implements StageTool {
  constructor(private readonly at: ToolPorts) {}
  preview = () => null;
  down(): void {}
  move(p: Point): void {
    this.at.hand.hover(markAt(this.at, p)?.id ?? null);
  }
  up(p: Point): void {
    this.at.pin({ ...clampPoint(p, this.at.sight.picture), mark: markAt(this.at, p)?.id ?? null });
  }
  cancel(): boolean {
    return false;
  }
  tag(): Tag {
    return { word: 'pin', color: '' };
  }
  cursor(): string {
    return 'crosshair';
  }
}
