import type { Bench } from '../bench.svelte';
import { around, nearby } from '../nearby';
import { handlesOf, hit, moved, pulled, shapeOf, type Handle } from '../shapes';
import type { Mark, Point, Ring, Shape } from '../types';
import { toScreen } from '../view';

/** What a press on the stage would do, for the tag at the pointer. */
export type Tag = { word: string; color: string };

/** What is in hand, drawn over the settled marks. */
export type Preview = {
  color: string;
  id: string | null;
  shape?: Shape;
  line?: Ring;
  dots?: Ring;
  box?: { x: number; y: number; width: number; height: number };
};

/** A tool is a small state machine: pointer events in picture px go in, edits come out. */
export interface StageTool {
  preview(): Preview | null;
  down(p: Point, keys?: { shift: boolean }): void;
  move(p: Point): void;
  up(p: Point): void;
  /** one step back; false when there was nothing to step back from */
  cancel(): boolean;
  /** finishes what is being drawn; false when nothing is */
  finish?(): boolean;
  /** takes the last point back; false when nothing is being drawn */
  takeBack?(): boolean;
  /** something is being drawn, so the deck shows what can be done with it */
  busy?(): boolean;
  tag(p: Point): Tag;
  cursor(p: Point): string;
}

/** Screen px below which a press is no drag. */
export const MIN_DRAG = 3;

/** The mark under a point: the nearest line first, then the smallest. Pressing again on one spot goes deeper. */
export function markAt(bench: Bench, p: Point, after: string | null = null): Mark | null {
  const found = nearby(bench.marks, around(p, 7 / bench.view.scale))
    .map((mark) => ({ mark, score: hit(shapeOf(mark), p, bench.view.scale, bench.bones(mark.class)) }))
    .filter((f): f is { mark: Mark; score: number } => f.score !== null)
    .sort((a, b) => a.score - b.score)
    .map((f) => f.mark);
  const at = found.findIndex((m) => m.id === after);
  return found[(at + 1) % Math.max(1, found.length)] ?? null;
}

export function handleUnder(bench: Bench, p: Point): Handle | null {
  const mark = bench.mark;
  if (!mark || !bench.editable || bench.others.length > 0 || bench.locked.has(mark.id)) return null;
  const s = toScreen(bench.view, p);
  let best: Handle | null = null;
  let least = 8;
  for (const handle of handlesOf(shapeOf(mark), bench.view.scale)) {
    const h = toScreen(bench.view, handle.at);
    // real points before the middles between them
    const d = Math.max(Math.abs(h.x - s.x), Math.abs(h.y - s.y)) + (handle.faint ? 2 : 0);
    if (d < least) [best, least] = [handle, d];
  }
  return best;
}

/** Moves and reshapes the mark in hand; shared by the tools that let one grab it. */
export class Grab {
  #start: { mark: Mark; handle: Handle | null; from: Point } | null = null;
  #now: Shape | null = null;

  constructor(private readonly bench: Bench) {}

  begin(p: Point, inside: boolean): boolean {
    const mark = this.bench.mark;
    if (!mark || !this.bench.editable || this.bench.locked.has(mark.id)) return false;
    const handle = handleUnder(this.bench, p);
    if (handle === null && !(inside && hit(shapeOf(mark), p, this.bench.view.scale, this.bench.bones(mark.class)) !== null)) return false;
    this.#start = { mark, handle, from: p };
    this.#now = shapeOf(mark);
    return true;
  }
  move(p: Point): void {
    if (!this.#start) return;
    const { mark, handle, from } = this.#start;
    this.#now = handle
      ? pulled(shapeOf(mark), handle.key, this.bench.snapped(p, mark.id), this.bench.picture)
      : moved(shapeOf(mark), { x: p.x - from.x, y: p.y - from.y }, this.bench.picture);
  }
  end(p: Point): void {
    if (this.#start && this.#now) {
      const far = Math.hypot(p.x - this.#start.from.x, p.y - this.#start.from.y) * this.bench.view.scale;
      if (far >= MIN_DRAG) this.bench.reshape(this.#start.mark, this.#now);
      // a press on a point takes it in hand, so that it can be removed
      else if (this.#start.handle) this.bench.point = this.#start.handle.faint ? null : this.#start.handle.key;
    }
    this.cancel();
  }
  cancel(): boolean {
    const was = this.#start !== null;
    this.#start = this.#now = null;
    return was;
  }
  get preview(): Preview | null {
    return this.#start && this.#now ? { shape: this.#now, color: this.bench.light(this.#start.mark.class), id: this.#start.mark.id } : null;
  }
  get busy(): boolean {
    return this.#start !== null;
  }
  get word(): string {
    const handle = this.#start?.handle;
    return handle ? wordOf(handle) : 'move';
  }
}

export const wordOf = (handle: Handle): string =>
  handle.key === 'turn' ? 'turn' : handle.faint ? 'new point' : /^[vn]:/.test(handle.key) ? 'move point' : 'resize';
