import type { Bench } from './bench.svelte';
import type { Box, Mark, Point } from './types';
import { boxBetween, clampPoint, handleAt, handles, hit, moved, resized, toScreen, type Handle } from './view';

/** What a press on the stage would do, for the tag at the pointer. */
export type Tag = { word: string; color: string };

/** A tool is a small state machine: pointer events in picture px go in, edits come out. */
export interface StageTool {
  /** the box in hand, drawn over the settled marks */
  preview(): { box: Box; color: string; id: string | null } | null;
  down(p: Point): void;
  move(p: Point): void;
  up(p: Point): void;
  /** one step back; false when there was nothing to step back from */
  cancel(): boolean;
  tag(p: Point): Tag;
  cursor(p: Point): string;
}

const MIN_DRAG = 3;

/** The mark under a point: the one in hand first, then the nearest edge, then the smallest. Pressing again on one spot goes deeper. */
export function markAt(bench: Bench, p: Point, after: string | null = null): Mark | null {
  const found = bench.marks
    .map((mark) => ({ mark, score: hit(mark.geometry, p, bench.view.scale) }))
    .filter((f): f is { mark: Mark; score: number } => f.score !== null)
    .sort((a, b) => a.score - b.score)
    .map((f) => f.mark);
  const at = found.findIndex((m) => m.id === after);
  return found[(at + 1) % Math.max(1, found.length)] ?? null;
}

function handleUnder(bench: Bench, p: Point): Handle | null {
  const mark = bench.mark;
  if (!mark || !bench.editable) return null;
  const s = toScreen(bench.view, p);
  for (const handle of [...handles].sort((a, b) => b.length - a.length)) {
    const h = toScreen(bench.view, handleAt(mark.geometry, handle));
    if (Math.abs(h.x - s.x) <= 7 && Math.abs(h.y - s.y) <= 7) return handle;
  }
  return null;
}

const cursors: Record<Handle, string> = {
  nw: 'nwse-resize',
  se: 'nwse-resize',
  ne: 'nesw-resize',
  sw: 'nesw-resize',
  n: 'ns-resize',
  s: 'ns-resize',
  e: 'ew-resize',
  w: 'ew-resize'
};

/** Moves and resizes the mark in hand; shared by the tools that let one grab it. */
class Grab {
  #start: { mark: Mark; handle: Handle | null; from: Point } | null = null;
  #now: Box | null = null;

  constructor(private readonly bench: Bench) {}

  begin(p: Point, inside: boolean): boolean {
    const mark = this.bench.mark;
    if (!mark || !this.bench.editable) return false;
    const handle = handleUnder(this.bench, p);
    if (handle === null && !(inside && hit(mark.geometry, p, this.bench.view.scale) !== null)) return false;
    this.#start = { mark, handle, from: p };
    this.#now = { ...mark.geometry };
    return true;
  }
  move(p: Point): void {
    if (!this.#start) return;
    const { mark, handle, from } = this.#start;
    this.#now = handle
      ? resized(mark.geometry, handle, clampPoint(p, this.bench.picture))
      : moved(mark.geometry, { x: p.x - from.x, y: p.y - from.y }, this.bench.picture);
  }
  end(p: Point): void {
    if (this.#start && this.#now) {
      const far = Math.hypot(p.x - this.#start.from.x, p.y - this.#start.from.y) * this.bench.view.scale;
      if (far >= MIN_DRAG) this.bench.reshape(this.#start.mark, this.#now);
    }
    this.cancel();
  }
  cancel(): boolean {
    const was = this.#start !== null;
    this.#start = this.#now = null;
    return was;
  }
  get preview() {
    return this.#start && this.#now ? { box: this.#now, color: this.bench.light(this.#start.mark.class), id: this.#start.mark.id } : null;
  }
  get busy(): boolean {
    return this.#start !== null;
  }
  get word(): string {
    return this.#start?.handle ? 'resize' : 'move';
  }
}

export class PickTool implements StageTool {
  #grab: Grab;
  #pressed: Point | null = null;
  #again: string | null = null;
  constructor(private readonly bench: Bench) {
    this.#grab = new Grab(bench);
  }
  preview = () => this.#grab.preview;
  down(p: Point): void {
    this.#pressed = p;
    this.#again = null;
    const before = this.bench.selected;
    if (before !== null && (handleUnder(this.bench, p) !== null || hit(this.bench.mark!.geometry, p, this.bench.view.scale) !== null)) {
      this.#again = before;
    } else {
      this.bench.select(markAt(this.bench, p)?.id ?? null);
    }
    this.#grab.begin(p, true);
  }
  move(p: Point): void {
    if (this.#grab.busy) this.#grab.move(p);
    else this.bench.hovered = markAt(this.bench, p)?.id ?? null;
  }
  up(p: Point): void {
    const still = this.#pressed !== null && Math.hypot(p.x - this.#pressed.x, p.y - this.#pressed.y) * this.bench.view.scale < MIN_DRAG;
    this.#grab.end(p);
    // a second press on one spot picks the mark underneath
    if (still && this.#again !== null && handleUnder(this.bench, p) === null)
      this.bench.select(markAt(this.bench, p, this.#again)?.id ?? null);
    this.#pressed = null;
  }
  cancel(): boolean {
    return this.#grab.cancel();
  }
  tag(p: Point): Tag {
    const mark = this.#grab.busy ? this.bench.mark : (markAt(this.bench, p) ?? undefined);
    if (this.#grab.busy) return { word: this.#grab.word, color: this.bench.light(this.bench.mark?.class ?? '') };
    if (handleUnder(this.bench, p)) return { word: 'resize', color: this.bench.light(this.bench.mark?.class ?? '') };
    return mark
      ? { word: mark.id === this.bench.selected && this.bench.editable ? 'move' : 'pick', color: this.bench.light(mark.class) }
      : { word: 'pick', color: '' };
  }
  cursor(p: Point): string {
    const handle = handleUnder(this.bench, p);
    return handle ? cursors[handle] : markAt(this.bench, p) ? (this.bench.editable ? 'move' : 'pointer') : 'default';
  }
}

/** Draws by dragging, or by two presses; the mark in hand can still be pulled by its handles. */
export class BoxTool implements StageTool {
  #grab: Grab;
  #from: Point | null = null;
  #to: Point | null = null;
  #twoPress = false;
  constructor(private readonly bench: Bench) {
    this.#grab = new Grab(bench);
  }
  preview() {
    if (this.#from && this.#to) return { box: boxBetween(this.#from, this.#to), color: this.bench.light(this.bench.active), id: null };
    return this.#grab.preview;
  }
  down(p: Point): void {
    if (this.#twoPress || this.#grab.begin(p, false)) return;
    this.#from = this.#to = clampPoint(p, this.bench.picture);
  }
  move(p: Point): void {
    if (this.#from) this.#to = clampPoint(p, this.bench.picture);
    else this.#grab.move(p);
  }
  up(p: Point): void {
    if (!this.#from) return this.#grab.end(p);
    this.#to = clampPoint(p, this.bench.picture);
    const box = boxBetween(this.#from, this.#to);
    if (Math.max(box.width, box.height) * this.bench.view.scale < MIN_DRAG) {
      // a press without a drag begins a box that the next press ends
      this.#twoPress = !this.#twoPress;
      if (!this.#twoPress) this.cancel();
      return;
    }
    this.cancel();
    this.bench.draw(box);
  }
  cancel(): boolean {
    const was = this.#from !== null;
    this.#from = this.#to = null;
    this.#twoPress = false;
    return this.#grab.cancel() || was;
  }
  tag(p: Point): Tag {
    const handle = this.#grab.busy || (!this.#from && handleUnder(this.bench, p) !== null);
    return handle
      ? { word: 'resize', color: this.bench.light(this.bench.mark?.class ?? '') }
      : { word: this.#twoPress ? 'far corner' : this.bench.nameOf(this.bench.active), color: this.bench.light(this.bench.active) };
  }
  cursor(p: Point): string {
    const handle = this.#from ? null : handleUnder(this.bench, p);
    return handle ? cursors[handle] : 'crosshair';
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
    const at = clampPoint(p, this.bench.picture);
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
