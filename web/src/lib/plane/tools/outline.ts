import { added, between, cut, redrawn, simplified } from '../outlines';
import type { Neighbour } from '../forms';
import { crosses } from '../shapes/crosses';
import type { FlatKind, Mark, Point, Ring } from '$lib/words/mark';
import type { Stroke } from '../drawing.svelte';
import { clampPoint, round, toScreen } from '../view';
import { Grab, handleUnder, MIN_DRAG, wordOf, type Preview, type StageTool, type Tag, type ToolPorts } from './tool';

/** Distance in screen px between points laid along the pointer before they are thinned out. */
const LAID = 3;
/** Screen px within which the first point is meant again, and closes the outline. */
const CLOSE = 9;

/** An outline half drawn, as it is kept. */
type Begun = { class: string; shape: FlatKind; stroke: Stroke; mark: string | null; points: Ring; presses: number[] };

/**
 * Points one by one, or laid along the pointer while it is pressed: polygons, polylines and sets of points. Beside a neighbour's outline
 * its points are taken exactly; two of them in a row bring the way between along.
 */
export class OutlineTool implements StageTool {
  #grab: Grab;
  #points: Ring = [];
  /** which point of which neighbour each of ours was taken from */
  #from: (Neighbour | null)[] = [];
  /** how many points each press brought, so that taking back undoes presses */
  #presses: number[] = [];
  #pointer: Point | null = null;
  #laying = false;
  #pressed: Point | null = null;
  constructor(private readonly at: ToolPorts) {
    this.#grab = new Grab(at);
    this.#recall();
  }
  /** What was half drawn before a reload is in hand again. */
  #recall(): void {
    const begun = this.at.forms.editable ? this.at.kept.get<Begun>('outline') : null;
    if (begun === null || !this.at.words.kindsOf(begun.class).includes(begun.shape)) return;
    const { drawing, chosen, hand } = this.at;
    chosen.active = begun.class;
    [drawing.mode, drawing.shape, drawing.stroke] = ['draw', begun.shape, begun.stroke];
    if (begun.stroke !== 'new') {
      hand.select(begun.mark);
      if (hand.mark?.kind !== 'polygon') return this.#forget();
    }
    this.#points = begun.points;
    this.#presses = begun.presses;
    this.#from = Array.from({ length: begun.points.length / 2 }, () => null);
  }
  #forget(): void {
    this.at.drawing.stroke = 'new';
    this.at.kept.set('outline', null);
  }
  /** Keeps what is half drawn over a reload. */
  #keep(): void {
    const { drawing, chosen, hand, kept } = this.at;
    const begun: Begun = {
      class: chosen.active,
      shape: drawing.shape,
      stroke: drawing.stroke,
      mark: hand.selected,
      points: this.#points,
      presses: this.#presses
    };
    kept.set('outline', this.#points.length > 0 ? begun : null);
  }

  get points(): Ring {
    return this.#points;
  }
  preview(): Preview | null {
    if (this.#points.length === 0) return this.#grab.preview;
    const at = this.#pointer && !this.#laying && this.at.drawing.shape !== 'points' ? this.#snap(this.#pointer).p : null;
    return {
      line: at ? [...this.#points, at.x, at.y] : this.#points,
      dots: this.#points,
      color: this.at.words.light(this.#kept()?.class ?? this.at.chosen.active),
      id: null
    };
  }
  down(p: Point): void {
    if (this.#points.length === 0 && this.at.drawing.stroke === 'new' && this.#grab.begin(p, false)) return;
    this.#pressed = p;
    this.#laying = false;
  }
  move(p: Point): void {
    this.#pointer = p;
    if (this.#grab.busy) return this.#grab.move(p);
    if (!this.#pressed || this.at.drawing.shape === 'points' || this.#lacking()) return;
    const from = this.#laying ? { x: this.#points[this.#points.length - 2]!, y: this.#points[this.#points.length - 1]! } : this.#pressed;
    if (Math.hypot(p.x - from.x, p.y - from.y) * this.at.sight.view.scale < (this.#laying ? LAID : MIN_DRAG + 2)) return;
    if (!this.#laying) {
      this.#laying = true;
      this.#presses.push(0);
      this.#add(this.#pressed, true);
    }
    this.#add(p, true);
  }
  up(p: Point): void {
    if (this.#grab.busy) return this.#grab.end(p);
    if (!this.#pressed) return;
    this.#pressed = null;
    if (this.#laying) return this.#endLaying();
    if (this.#closes(p)) {
      this.finish();
      return;
    }
    const lacking = this.#lacking();
    if (lacking) {
      const q = clampPoint(p, this.at.sight.picture);
      this.at.forms.complete(lacking, { x: round(q.x), y: round(q.y) });
      return;
    }
    this.#presses.push(0);
    this.#add(p, false);
    this.#full();
    this.#keep();
  }
  /** An outline of a fixed number stops at its number: what goes beyond, along a neighbour or along the pointer, is left out. */
  #full(): void {
    const { wanted, stroke } = this.at.drawing;
    if (wanted === null || stroke !== 'new' || this.#points.length / 2 < wanted) return;
    const over = this.#points.length / 2 - wanted;
    this.#points = this.#points.slice(0, 2 * wanted);
    this.#from.length = wanted;
    if (over > 0) this.#presses[this.#presses.length - 1]! -= over;
    this.finish();
  }
  /** The mark in hand that lacks points of the number its class has: the next presses complete it. */
  #lacking(): Mark | null {
    const mark = this.at.hand.one;
    if (this.#points.length > 0 || this.at.drawing.stroke !== 'new' || !mark || mark.kind !== this.at.drawing.shape) return null;
    return this.at.forms.editable && !this.at.hand.locked.has(mark.id) && this.at.forms.lacking(mark) > 0 ? mark : null;
  }
  /** A laid stretch is thinned to what half a screen px needs. */
  #endLaying(): void {
    this.#laying = false;
    const count = this.#presses[this.#presses.length - 1]!;
    const start = this.#points.length - 2 * count;
    const thin = simplified(this.#points.slice(start), 0.8 / this.at.sight.view.scale).map(round);
    this.#points = [...this.#points.slice(0, start), ...thin];
    this.#from = [...this.#from.slice(0, start / 2), ...Array.from({ length: thin.length / 2 }, () => null)];
    this.#presses[this.#presses.length - 1] = thin.length / 2;
    const last = { x: this.#points[this.#points.length - 2]!, y: this.#points[this.#points.length - 1]! };
    if (this.#closes(last) && thin.length > 6) this.finish();
    else this.#full();
    this.#keep();
  }
  #closes(p: Point): boolean {
    if (this.#points.length < 6 || this.at.drawing.shape !== 'polygon' || this.at.drawing.stroke === 'redraw') return false;
    const [a, b] = [toScreen(this.at.sight.view, p), toScreen(this.at.sight.view, { x: this.#points[0]!, y: this.#points[1]! })];
    return Math.hypot(a.x - b.x, a.y - b.y) <= CLOSE;
  }
  #snap(p: Point): { p: Point; at: Neighbour | null } {
    const near = this.at.forms.neighbourAt(p, this.at.drawing.stroke === 'new' ? null : this.at.hand.selected);
    return near
      ? { p: { x: near.ring[2 * near.i]!, y: near.ring[2 * near.i + 1]! }, at: near }
      : { p: clampPoint(p, this.at.sight.picture), at: null };
  }
  #add(p: Point, raw: boolean): void {
    const { p: q, at } = raw ? { p: clampPoint(p, this.at.sight.picture), at: null } : this.#snap(p);
    const last = this.#from[this.#from.length - 1] ?? null;
    if (at && last && last.mark === at.mark && last.ring === at.ring && last.i !== at.i) return this.#follow(last, at, false);
    // a point taken from a neighbour stays the neighbour's to the last digit
    this.#push(at ? q : { x: round(q.x), y: round(q.y) }, at);
  }
  #push(p: Point, at: Neighbour | null): void {
    this.#points = [...this.#points, p.x, p.y];
    this.#from.push(at);
    this.#presses[this.#presses.length - 1]!++;
  }
  #follow(from: Neighbour, to: Neighbour, longer: boolean): void {
    const way = between(from.ring, from.i, to.i, longer);
    for (let i = 2; i < way.length; i += 2) {
      const end = i + 2 >= way.length;
      this.#push({ x: way[i]!, y: way[i + 1]! }, end ? to : { ...to, i: -1 });
    }
    this.#followed = { from, to, longer };
  }
  #followed: { from: Neighbour; to: Neighbour; longer: boolean } | null = null;
  /** whether the last press followed a neighbour, so that the other way round can be taken */
  get followed(): boolean {
    const last = this.#from[this.#from.length - 1];
    return this.#followed !== null && last?.i === this.#followed.to.i && last.ring === this.#followed.to.ring;
  }
  otherWay(): void {
    const last = this.#followed;
    if (!last || !this.followed) return;
    this.takeBack();
    this.#presses.push(0);
    this.#follow(last.from, last.to, !last.longer);
  }
  takeBack(): boolean {
    const count = this.#presses.pop();
    if (count === undefined) return false;
    this.#points = this.#points.slice(0, this.#points.length - 2 * count);
    this.#from.length = this.#points.length / 2;
    this.#keep();
    return true;
  }
  #kept(): Mark | undefined {
    return this.at.drawing.stroke === 'new' ? undefined : this.at.hand.mark;
  }
  finish(): boolean {
    if (this.#points.length === 0) return false;
    const points = this.#points;
    const kind = this.at.drawing.shape;
    const enough = kind === 'points' ? 2 : kind === 'polyline' || this.at.drawing.stroke === 'redraw' ? 4 : 6;
    if (points.length < enough) {
      this.at.say(kind === 'polyline' ? 'a line needs two points' : 'an outline needs three points');
      return true;
    }
    if (kind === 'points') this.#done(() => this.at.forms.draw({ kind, geometry: { points } }));
    else if (kind === 'polyline') this.#done(() => this.at.forms.draw({ kind, geometry: { points } }));
    else this.#finishRings(points);
    return true;
  }
  #finishRings(points: Ring): void {
    const mark = this.#kept();
    let rings: Ring[] = [points];
    if (mark?.kind === 'polygon') {
      const before = mark.geometry.rings;
      if (this.at.drawing.stroke === 'add') rings = added(before, points);
      else if (this.at.drawing.stroke === 'cut') rings = cut(before, points);
      else {
        const first = { x: points[0]!, y: points[1]! };
        const at = before.reduce((best, ring, r) => (nearestIn(ring, first) < nearestIn(before[best]!, first) ? r : best), 0);
        rings = before.map((ring, r) => (r === at ? redrawn(ring, points, this.at.drawing.otherStretch) : ring));
      }
    }
    if (rings.length === 0) {
      this.at.say('nothing of the outline would be left; remove the mark instead');
      this.#clear();
      return;
    }
    const crossing = crosses(rings);
    if (crossing) {
      // what was drawn stays in hand: a point taken back mends it
      this.at.say(`the outline crosses itself near ${Math.round(crossing.x)}, ${Math.round(crossing.y)}; take points back, or draw on`);
      return;
    }
    if (mark) this.#done(() => this.at.forms.reshape(mark, { kind: 'polygon', geometry: { rings } }));
    else this.#done(() => this.at.forms.draw({ kind: 'polygon', geometry: { rings } }));
    this.at.drawing.stroke = 'new';
  }
  #done(act: () => void): void {
    this.#clear();
    act();
  }
  #clear(): void {
    this.#points = [];
    this.#from = [];
    this.#presses = [];
    this.#pressed = this.#followed = null;
    this.#laying = false;
    this.at.kept.set('outline', null);
  }
  interrupt(): void {
    if (this.#grab.busy) return void this.#grab.cancel();
    this.#pressed = null;
    if (this.#laying) this.#endLaying();
  }
  cancel(): boolean {
    const was = this.#points.length > 0 || this.at.drawing.stroke !== 'new';
    this.#clear();
    this.at.drawing.stroke = 'new';
    return this.#grab.cancel() || was;
  }
  busy(): boolean {
    return this.#points.length > 0;
  }
  tag(p: Point): Tag {
    const color = this.at.words.light(this.#kept()?.class ?? this.at.chosen.active);
    if (this.#points.length === 0 && this.at.drawing.stroke === 'new') {
      const handle = handleUnder(this.at, p);
      if (this.#grab.busy || handle)
        return { word: handle ? wordOf(handle) : this.#grab.word, color: this.at.words.light(this.at.hand.mark?.class ?? '') };
    }
    if (this.#closes(p)) return { word: 'close', color };
    const near = this.at.forms.neighbourAt(p, this.at.drawing.stroke === 'new' ? null : this.at.hand.selected);
    const last = this.#from[this.#from.length - 1];
    if (near) return { word: last?.ring === near.ring && last.i !== near.i ? 'follow' : 'same point', color };
    if (this.at.drawing.stroke !== 'new') return { word: this.at.drawing.stroke, color };
    const lacking = this.#lacking();
    if (lacking) return { word: `one of ${this.at.forms.lacking(lacking)} points more`, color: this.at.words.light(lacking.class) };
    const n = this.#points.length / 2;
    const { active } = this.at.chosen;
    const { wanted, shape } = this.at.drawing;
    const name = shape === 'points' && this.at.words.classOf(active)?.point_names ? `: ${this.at.words.pointName(active, n)}` : '';
    const first = `${this.at.words.nameOf(active)}${name}`;
    return { word: n === 0 ? first : wanted ? `point ${n + 1} of ${wanted}${name}` : `point ${n + 1}`, color };
  }
  cursor(p: Point): string {
    return (this.#points.length === 0 && this.at.drawing.stroke === 'new' ? handleUnder(this.at, p)?.cursor : null) ?? 'crosshair';
  }
}

const nearestIn = (ring: Ring, p: Point): number => {
  let d = Infinity;
  for (let i = 0; i < ring.length; i += 2) d = Math.min(d, Math.hypot(p.x - ring[i]!, p.y - ring[i + 1]!));
  return d;
};
