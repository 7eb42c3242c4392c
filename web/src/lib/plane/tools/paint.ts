import type { PaintMode } from '../drawing.svelte';
import { shapeOf } from '../shapes';
import { pixels } from '../shapes/mask';
import { fill, scan, stroke, toMask, union, without, type Edges } from '../raster';
import type { Box, Mark, Point, Ring } from '$lib/words/mark';
import { clampPoint, round } from '../view';
import { MIN_DRAG, type Preview, type StageTool, type Tag, type ToolPorts } from './tool';
import { simplified } from '../outlines';
import { unionOf, type PatchMap, type Patches } from '../patches.svelte';

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
  /** patches of the running stroke */
  #laidPatches = new Set<number>();
  #laidOn: PatchMap | null = null;
  constructor(
    private readonly at: ToolPorts,
    private readonly patches: Patches
  ) {}

  /** Whole patches are laid, not a disc. */
  get isPatching(): boolean {
    return this.at.drawing.paint.patches && (this.mode === 'paint' || this.mode === 'erase');
  }
  /** What a press would lay, with what the running stroke has laid already. */
  patched(): { map: PatchMap; edges: Edges } | null {
    const map = this.#laidOn ?? this.patches.now;
    const under = map && this.#pointer ? map.at(this.#pointer) : null;
    if (!this.isPatching || !map) return null;
    const labels = new Set([...this.#laidPatches, ...(under === null ? [] : [under])]);
    return { map, edges: unionOf([...labels].map((label) => map.pixels(label, this.at.sight.picture))) };
  }
  get mode(): PaintMode {
    return this.at.drawing.paint.mode;
  }
  preview(): Preview | null {
    const color = this.at.words.light(this.at.forms.painted?.class ?? this.at.chosen.active);
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
    if (this.isPatching) {
      this.#laidOn = this.patches.now;
      if (!this.#laidOn)
        return this.at.say(this.patches.failed === '' ? 'the patches are being worked out' : `no patches: ${this.patches.failed}`);
      this.#pointer = p;
      this.#lay(p);
      return;
    }
    this.#last = p;
    this.#stroke = [];
    this.fresh = [];
    this.#stamp(p);
  }
  #lay(p: Point): void {
    const label = this.#laidOn?.at(p) ?? null;
    if (label !== null) this.#laidPatches.add(label);
  }
  #pressed: Point | null = null;
  #laid = 0;
  move(p: Point): void {
    this.#pointer = p;
    if (this.#laidOn) this.#lay(p);
    else if (this.#last) this.#stamp(p);
    else if (this.#pressed) {
      const n = this.#ring.length;
      const from = this.#laid > 0 ? { x: this.#ring[n - 2]!, y: this.#ring[n - 1]! } : this.#pressed;
      if (Math.hypot(p.x - from.x, p.y - from.y) * this.at.sight.view.scale < MIN_DRAG + 1) return;
      const q = clampPoint(p, this.at.sight.picture);
      if (this.#laid === 0) this.#ring = [...this.#ring, round(this.#pressed.x), round(this.#pressed.y)];
      this.#ring = [...this.#ring, round(q.x), round(q.y)];
      this.#laid++;
    }
  }
  up(p: Point): void {
    if (this.#laidOn) {
      const map = this.#laidOn;
      const edges = unionOf([...this.#laidPatches].map((label) => map.pixels(label, this.at.sight.picture)));
      this.#laidOn = null;
      this.#laidPatches.clear();
      this.#commit(edges, this.mode === 'erase', 'patches');
      return;
    }
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
      this.#ring = simplified(this.#ring, 0.5 / this.at.sight.view.scale);
      this.finish();
      return;
    }
    this.#laid = 0;
    const q = clampPoint(p, this.at.sight.picture);
    const near = this.#ring.length >= 6 && Math.hypot(q.x - this.#ring[0]!, q.y - this.#ring[1]!) * this.at.sight.view.scale <= 9;
    if (near) this.finish();
    else this.#ring = [...this.#ring, round(q.x), round(q.y)];
  }
  #stamp(p: Point): void {
    const { width, height } = this.at.sight.picture;
    const ring = stroke(this.#last!.x, this.#last!.y, p.x, p.y, this.at.drawing.paint.size / 2);
    this.fresh.push(ring);
    this.#stroke = union(this.#stroke, scan([ring], width, height));
    this.#last = p;
  }
  #fill(p: Point): void {
    const mark = this.at.forms.painted;
    if (!mark) {
      this.at.say('fill works on the mask in hand: paint its rim first');
      return;
    }
    const { width, height } = this.at.sight.picture;
    if (p.x < 0 || p.y < 0 || p.x >= width || p.y >= height) return;
    const before = pixels(mark.geometry).edges;
    const after = fill(before, p.x, p.y, width, height);
    const touches = (edges: Edges) => edges.length > 0 && (edges[0]! < height || edges[edges.length - 1]! > (width - 1) * height);
    if (touches(without(after, before)) && !this.at.drawing.paint.wide) {
      // most often the rim has a gap; a second press means it
      this.at.drawing.paint = { ...this.at.drawing.paint, wide: true };
      this.at.say('this would fill out to the edge of the picture: the rim has a gap. Press again if you mean it');
      return;
    }
    this.at.drawing.paint = { ...this.at.drawing.paint, wide: false };
    this.#commit(without(after, before), false);
  }
  finish(): boolean {
    if (this.#ring.length === 0) return this.at.forms.letGo();
    if (this.#ring.length < 6) {
      this.at.say('an outline needs three points');
      return true;
    }
    const { width, height } = this.at.sight.picture;
    const ring = this.#ring;
    this.#ring = [];
    this.#commit(scan([ring], width, height), this.mode === 'cut outline');
    return true;
  }
  #commit(edges: Edges, away: boolean, source?: 'patches'): void {
    const { width, height } = this.at.sight.picture;
    const mark = this.at.forms.painted;
    const before = mark ? pixels(mark.geometry).edges : [];
    const after = away ? without(before, edges) : union(before, edges);
    if (after.length === before.length && after.every((e, i) => e === before[i])) return;
    if (after.length === 0 && !(mark && this.at.goesOn?.(mark))) {
      if (mark) this.at.forms.remove();
      return;
    }
    const claimed = this.at.drawing.paint.claim && !away ? this.#claim(mark, after) : [];
    this.at.forms.painting({ kind: 'mask', geometry: toMask(after, width, height) }, claimed, source);
  }
  /** The other masks that lose pixels to the mask in hand. */
  #claim(mine: Mark | null, edges: Edges): { mark: Mark; edges: Edges }[] {
    const kept: string[] = [];
    const claimed = this.at.nearby.find(extentOf(edges, this.at.sight.picture.height)).flatMap((mark) => {
      const s = shapeOf(mark);
      if (mark.id === mine?.id || s.kind !== 'mask' || this.at.hand.locked.has(mark.id)) return [];
      const theirs = pixels(s.geometry).edges;
      const left = without(theirs, edges);
      if (left.length === 0) {
        // a mark is never taken away by the way
        kept.push(this.at.acts.label(mark));
        return [];
      }
      return left.length === theirs.length && left.every((e, i) => e === theirs[i]) ? [] : [{ mark, edges: left }];
    });
    if (kept.length > 0)
      this.at.say(
        `nothing would be left of ${kept.join(' and ')}, so ${kept.length === 1 ? 'it keeps its' : 'they keep their'} pixels; remove what is not meant`
      );
    return claimed;
  }
  /** Splits the patch under the pointer. */
  async split(): Promise<void> {
    const why = this.#pointer ? await this.patches.split(this.#pointer) : 'point at a patch first';
    if (why !== null) this.at.say(why);
  }
  dial(by: 1 | -1, other: boolean): boolean {
    if (other && !this.isPatching) return false;
    if (other) this.patches.stronger(by);
    else if (this.isPatching) this.patches.larger(by);
    else this.at.drawing.larger(by > 0 ? 1.25 : 1 / 1.25);
    return true;
  }
  takeBack(): boolean {
    if (this.#ring.length === 0) return false;
    this.#ring = this.#ring.slice(0, -2);
    return true;
  }
  interrupt(): void {
    // what was painted is painted; undo takes it back
    if (this.#last) this.up(this.#last);
    else if (this.#laidOn && this.#pointer) this.up(this.#pointer);
    this.#pressed = null;
    this.#laid = 0;
  }
  cancel(): boolean {
    const was = this.#last !== null || this.#laidOn !== null || this.#ring.length > 0;
    this.#laidOn = null;
    this.#laidPatches.clear();
    this.#last = this.#pressed = null;
    this.#ring = [];
    this.fresh = [];
    this.#laid = 0;
    return was || this.at.forms.letGo();
  }
  busy(): boolean {
    return this.#ring.length > 0;
  }
  tag(): Tag {
    const mark = this.at.forms.painted;
    const words: Record<PaintMode, string> = {
      paint: mark ? 'paint' : this.at.words.nameOf(this.at.chosen.active),
      erase: 'erase',
      'add outline': 'add',
      'cut outline': 'cut',
      fill: 'fill'
    };
    const word = this.isPatching && this.mode === 'erase' ? 'erase patches' : this.isPatching ? 'patches' : words[this.mode];
    return {
      word: this.isPatching && this.patches.now === null ? `${word}: ${this.patches.failed === '' ? 'coming' : 'not here'}` : word,
      color: this.mode === 'erase' || this.mode === 'cut outline' ? '#f0845a' : this.at.words.light(mark?.class ?? this.at.chosen.active)
    };
  }
  cursor(): string {
    return (this.mode === 'paint' || this.mode === 'erase') && !this.isPatching ? 'none' : 'crosshair';
  }
}

/** The extent of runs, by their columns; over the whole height of the picture. */
const extentOf = (edges: Edges, height: number): Box => {
  const first = Math.floor(edges[0]! / height);
  return { x: first, y: 0, width: Math.ceil(edges[edges.length - 1]! / height) - first, height };
};
