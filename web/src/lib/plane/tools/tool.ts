import type { Acts } from '$lib/edits/acts';
import type { Chosen, Hand } from '$lib/edits/hand.svelte';
import type { Kept } from '$lib/edits/kept';
import type { Box, Mark, Point, Ring, Shape } from '$lib/words/mark';
import type { Words } from '$lib/words/words.svelte';
import type { Drawing } from '../drawing.svelte';
import type { Forms } from '../forms';
import { around, type Nearby } from '../nearby';
import type { Overlay } from '../ports';
import type { Posing } from '../posing.svelte';
import { handlesOf, hit, moved, pulled, shapeOf, type Handle } from '../shapes';
import type { Sight } from '../sight.svelte';
import { toScreen } from '../view';

/** What the tools of a flat surface work with. */
export type ToolPorts = {
  words: Words;
  hand: Hand;
  chosen: Chosen;
  acts: Acts;
  kept: Kept;
  sight: Sight;
  drawing: Drawing;
  nearby: Nearby;
  forms: Forms;
  posing: Posing;
  /** what lies over the marks and is shown */
  over: () => readonly Overlay[];
  say: (message: string) => void;
  /** a mask whose last pixel here is wiped off goes on elsewhere */
  goesOn?: (mark: Mark) => boolean;
  /** a pin is to be written at a place of the picture; null: not any more */
  pin: (at: (Point & { mark: string | null }) | null) => void;
};

/** What a press on the stage would do, for the tag at the pointer. */
export type Tag = { word: string; color: string };

/** What is in hand, drawn over the settled marks. */
export type Preview = {
  color: string;
  /** the settled mark that is drawn as this instead */
  id: string | null;
  shape?: Shape;
  line?: Ring;
  dots?: Ring;
  box?: Box;
  /** further marks that change with it */
  also?: { id: string; shape: Shape }[];
  /** what a hand has said of single spots */
  strokes?: readonly { adds: boolean; points: Ring }[];
};

/** A tool is a small state machine: pointer events in picture px go in, edits come out. */
export interface StageTool {
  preview(): Preview | null;
  down(p: Point, keys?: { shift: boolean }): void;
  move(p: Point): void;
  up(p: Point): void;
  /** one step back; false when there was nothing to step back from */
  cancel(): boolean;
  /** The press that was going on has been taken away: it ends where it is, and what was drawn before it stays. Else `cancel` is called. */
  interrupt?(): void;
  /** finishes what is being drawn; false when nothing is */
  finish?(): boolean;
  /** takes the last point back; false when nothing is being drawn */
  takeBack?(): boolean;
  /** one step of what is being drawn back, or on again; false when there is none */
  undo?(): boolean;
  redo?(): boolean;
  /** the wheel with Shift held, or with Alt (`other`), by one notch up or down; false when it means nothing here */
  dial?(by: 1 | -1, other: boolean): boolean;
  /** something is being drawn, so the deck shows what can be done with it */
  busy?(): boolean;
  tag(p: Point): Tag;
  cursor(p: Point): string;
}

/** Screen px below which a press is no drag. */
export const MIN_DRAG = 3;

/** The mark under a point: the nearest line first, then the smallest. Pressing again on one spot goes deeper. */
export function markAt(at: Pick<ToolPorts, 'nearby' | 'sight' | 'words'>, p: Point, after: string | null = null): Mark | null {
  const { scale } = at.sight.view;
  const found = at.nearby
    .find(around(p, 7 / scale))
    .map((mark) => ({ mark, score: hit(shapeOf(mark), p, scale, at.words.bones(mark.class)) }))
    .filter((f): f is { mark: Mark; score: number } => f.score !== null)
    .sort((a, b) => a.score - b.score)
    .map((f) => f.mark);
  const place = found.findIndex((m) => m.id === after);
  return found[(place + 1) % Math.max(1, found.length)] ?? null;
}

/** What lies over the marks under a point, of what may be picked there: the smallest, since larger ones lie round it. */
export function overlaidAt(at: Pick<ToolPorts, 'over' | 'sight' | 'words'>, p: Point): { mark: Mark; pick: () => void } | null {
  const { scale } = at.sight.view;
  const found = at.over().flatMap(({ marks, pick }) =>
    (pick ? marks : []).flatMap((mark) => {
      const score = hit(shapeOf(mark), p, scale, at.words.bones(mark.class));
      return score === null ? [] : [{ mark, score, pick: () => pick!(mark.id) }];
    })
  );
  return found.sort((a, b) => a.score - b.score)[0] ?? null;
}

/** The handle of the mark in hand under a point; middles that would put a point in where the class has as many as it may are none. */
export function handleUnder(at: Pick<ToolPorts, 'hand' | 'sight' | 'forms' | 'words'>, p: Point): Handle | null {
  const mark = at.hand.one;
  if (!mark || !at.forms.editable || at.hand.locked.has(mark.id)) return null;
  const s = toScreen(at.sight.view, p);
  const full = at.words.pointsOf(mark.class, mark.kind) !== null && at.forms.lacking(mark) === 0;
  let best: Handle | null = null;
  let least = 8;
  for (const handle of handlesOf(shapeOf(mark), at.sight.view.scale)) {
    if (full && handle.faint) continue;
    const h = toScreen(at.sight.view, handle.at);
    // real points before the middles between them
    const d = Math.max(Math.abs(h.x - s.x), Math.abs(h.y - s.y)) + (handle.faint ? 2 : 0);
    if (d < least) [best, least] = [handle, d];
  }
  return best;
}

/** Moves and reshapes the mark in hand, and what shares a point with it; used by the tools that let one grab it. */
export class Grab {
  #start: { mark: Mark; handle: Handle | null; from: Point; sharing: { mark: Mark; key: string }[] } | null = null;
  #now: { shape: Shape; also: { mark: Mark; shape: Shape }[] } | null = null;

  constructor(private readonly at: ToolPorts) {}

  begin(p: Point, inside: boolean): boolean {
    const mark = this.at.hand.mark;
    if (!mark || !this.at.forms.editable || this.at.hand.locked.has(mark.id)) return false;
    const handle = handleUnder(this.at, p);
    if (handle === null && !(inside && hit(shapeOf(mark), p, this.at.sight.view.scale, this.at.words.bones(mark.class)) !== null))
      return false;
    this.#start = { mark, handle, from: p, sharing: handle ? this.at.forms.sharing(mark, handle.key) : [] };
    this.#now = { shape: shapeOf(mark), also: [] };
    return true;
  }
  move(p: Point): void {
    if (!this.#start) return;
    const { mark, handle, from, sharing } = this.#start;
    const { picture } = this.at.sight;
    if (handle) {
      // a shared point is free of its neighbours, which go along with it
      const to = sharing.length > 0 ? p : this.at.forms.snapped(p, mark.id);
      this.#now = {
        shape: pulled(shapeOf(mark), handle.key, to, picture),
        also: sharing.map((s) => ({ mark: s.mark, shape: pulled(shapeOf(s.mark), s.key, to, picture) }))
      };
    } else this.#now = { shape: moved(shapeOf(mark), { x: p.x - from.x, y: p.y - from.y }, picture), also: [] };
  }
  end(p: Point): void {
    if (this.#start && this.#now) {
      const { mark, handle, from } = this.#start;
      const far = Math.hypot(p.x - from.x, p.y - from.y) * this.at.sight.view.scale;
      if (far >= MIN_DRAG) this.at.forms.reshape(mark, this.#now.shape, this.#now.also);
      // a press on a point takes it in hand, so that it can be removed
      else if (handle) this.at.hand.point = handle.faint ? null : handle.key;
    }
    this.cancel();
  }
  cancel(): boolean {
    const was = this.#start !== null;
    this.#start = this.#now = null;
    return was;
  }
  get preview(): Preview | null {
    if (!this.#start || !this.#now) return null;
    const { mark } = this.#start;
    return {
      shape: this.#now.shape,
      color: this.at.words.light(mark.class),
      id: mark.id,
      also: this.#now.also.map((a) => ({ id: a.mark.id, shape: a.shape }))
    };
  }
  get busy(): boolean {
    return this.#start !== null;
  }
  get word(): string {
    const start = this.#start;
    return start?.handle ? wordOf(start.handle, start.sharing.length) : 'move';
  }
}

/** @param shared marks that go along */
export const wordOf = (handle: Handle, shared = 0): string =>
  handle.key === 'turn'
    ? 'turn'
    : handle.faint
      ? 'new point'
      : /^[vn]:/.test(handle.key)
        ? shared > 0
          ? `move point of ${shared + 1}`
          : 'move point'
        : 'resize';
