import type { Bench } from '../bench.svelte';
import { pixels, shapeOf } from '../shapes';
import { fill, scan, stroke, toMask, union, without, type Edges } from '../raster';
import type { Mark, Point, Ring } from '../types';
import { clampPoint, round } from '../view';
import { MIN_DRAG, type Preview, type StageTool, type Tag } from './tool';
import { simplified } from '../outlines';

export type PaintMode = 'paint' | 'erase' | 'add outline' | 'cut outline' | 'fill';

/**
 * Paints masks by pixels. The mask in hand goes on until it is let go (Enter or Esc): every stroke is one edit, kept at once. What the
 * brush covers is worked out stroke by stroke, so the picture can be of any size.
 */
export class PaintTool implements StageTool {
  #last: Point | null = null;
  #stroke: Edges = [];
  #ring: Ring = [];
  #pointer: Point | null = null;
  /** pieces of the running stroke, for the stage to lay over the picture in the frame of the event */
  fresh: Ring[] = [];
  constructor(private readonly bench: Bench) {}

  get mode(): PaintMode {
    return this.bench.paint.mode;
  }
  preview(): Preview | null {
    const color = this.bench.light(this.bench.painted?.class ?? this.bench.active);
    if (this.#ring.length > 0) {
      const p = this.#pointer;
      return { line: p ? [...this.#ring, p.x, p.y] : this.#ring, dots: this.#ring, color, id: null };
    }
    return null;
  }
  /** the running stroke, laid over the mask in hand */
  get running(): { pieces: Ring[]; erase: boolean } | null {
    return this.#last ? { pieces: this.fresh, erase: this.mode === 'erase' } : null;
  }
  down(p: Point): void {
    if (this.mode === 'fill') return;
    if (this.mode === 'add outline' || this.mode === 'cut outline') {
      this.#pressed = p;
      return;
    }
    this.#last = p;
    this.#stroke = [];
    this.fresh = [];
    this.#stamp(p);
  }
  #pressed: Point | null = null;
  #laid = 0;
  move(p: Point): void {
    this.#pointer = p;
    if (this.#last) this.#stamp(p);
    else if (this.#pressed) {
      const n = this.#ring.length;
      const from = this.#laid > 0 ? { x: this.#ring[n - 2]!, y: this.#ring[n - 1]! } : this.#pressed;
      if (Math.hypot(p.x - from.x, p.y - from.y) * this.bench.view.scale < MIN_DRAG + 1) return;
      const q = clampPoint(p, this.bench.picture);
      if (this.#laid === 0) this.#ring = [...this.#ring, round(this.#pressed.x), round(this.#pressed.y)];
      this.#ring = [...this.#ring, round(q.x), round(q.y)];
      this.#laid++;
    }
  }
  up(p: Point): void {
    if (this.#last) {
      this.#last = null;
      this.#commit(this.#stroke, this.mode === 'erase');
      this.fresh = [];
      return;
    }
    if (this.mode === 'fill') return this.#fill(p);
    if (!this.#pressed) return;
    this.#pressed = null;
    if (this.#laid > 2) {
      // an outline drawn in one go closes when the pointer is let go
      this.#laid = 0;
      this.#ring = simplified(this.#ring, 0.5 / this.bench.view.scale);
      this.finish();
      return;
    }
    this.#laid = 0;
    const q = clampPoint(p, this.bench.picture);
    const near = this.#ring.length >= 6 && Math.hypot(q.x - this.#ring[0]!, q.y - this.#ring[1]!) * this.bench.view.scale <= 9;
    if (near) this.finish();
    else this.#ring = [...this.#ring, round(q.x), round(q.y)];
  }
  #stamp(p: Point): void {
    const { width, height } = this.bench.picture;
    const ring = stroke(this.#last!.x, this.#last!.y, p.x, p.y, this.bench.paint.size / 2);
    this.fresh.push(ring);
    this.#stroke = union(this.#stroke, scan([ring], width, height));
    this.#last = p;
  }
  #fill(p: Point): void {
    const mark = this.bench.painted;
    if (!mark) {
      this.bench.message = 'fill works on the mask in hand: paint its rim first';
      return;
    }
    const { width, height } = this.bench.picture;
    if (p.x < 0 || p.y < 0 || p.x >= width || p.y >= height) return;
    const before = pixels(mark.geometry).edges;
    const after = fill(before, p.x, p.y, width, height);
    const touches = (edges: Edges) => edges.length > 0 && (edges[0]! < height || edges[edges.length - 1]! > (width - 1) * height);
    if (touches(without(after, before)) && !this.bench.paint.wide) {
      // most often the rim has a gap; a second press means it
      this.bench.paint = { ...this.bench.paint, wide: true };
      this.bench.message = 'this would fill out to the edge of the picture: the rim has a gap. Press again if you mean it';
      return;
    }
    this.bench.paint = { ...this.bench.paint, wide: false };
    this.#commit(without(after, before), false);
  }
  finish(): boolean {
    if (this.#ring.length === 0) return this.bench.letGo();
    if (this.#ring.length < 6) {
      this.bench.message = 'an outline needs three points';
      return true;
    }
    const { width, height } = this.bench.picture;
    const ring = this.#ring;
    this.#ring = [];
    this.#commit(scan([ring], width, height), this.mode === 'cut outline');
    return true;
  }
  #commit(edges: Edges, away: boolean): void {
    const { width, height } = this.bench.picture;
    const mark = this.bench.painted;
    const before = mark ? pixels(mark.geometry).edges : [];
    const after = away ? without(before, edges) : union(before, edges);
    if (after.length === before.length && after.every((e, i) => e === before[i])) return;
    if (after.length === 0) {
      if (mark) this.bench.remove();
      return;
    }
    const claimed = this.bench.paint.claim && !away ? this.#claim(mark, after) : [];
    this.bench.painting({ kind: 'mask', geometry: toMask(after, width, height) }, claimed);
  }
  /** The other masks that lose pixels to the mask in hand. */
  #claim(mine: Mark | null, edges: Edges): { mark: Mark; edges: Edges }[] {
    return this.bench.marks.flatMap((mark) => {
      const s = shapeOf(mark);
      if (mark.id === mine?.id || s.kind !== 'mask' || this.bench.locked.has(mark.id)) return [];
      const theirs = pixels(s.geometry).edges;
      const left = without(theirs, edges);
      return left.length === theirs.length && left.every((e, i) => e === theirs[i]) ? [] : [{ mark, edges: left }];
    });
  }
  takeBack(): boolean {
    if (this.#ring.length === 0) return false;
    this.#ring = this.#ring.slice(0, -2);
    return true;
  }
  cancel(): boolean {
    const was = this.#last !== null || this.#ring.length > 0;
    this.#last = this.#pressed = null;
    this.#ring = [];
    this.fresh = [];
    this.#laid = 0;
    return was || this.bench.letGo();
  }
  busy(): boolean {
    return this.#ring.length > 0;
  }
  tag(): Tag {
    const mark = this.bench.painted;
    const words: Record<PaintMode, string> = {
      paint: mark ? 'paint' : this.bench.nameOf(this.bench.active),
      erase: 'erase',
      'add outline': 'add',
      'cut outline': 'cut',
      fill: 'fill'
    };
    return {
      word: words[this.mode],
      color: this.mode === 'erase' || this.mode === 'cut outline' ? '#f0845a' : this.bench.light(mark?.class ?? this.bench.active)
    };
  }
  cursor(): string {
    return this.mode === 'paint' || this.mode === 'erase' ? 'none' : 'crosshair';
  }
}
