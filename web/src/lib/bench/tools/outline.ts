import type { Bench } from '../bench.svelte';
import { added, between, cut, redrawn, simplified } from '../outlines';
import { crosses } from '../shapes';
import type { Mark, Point, Ring } from '../types';
import { clampPoint, round, toScreen } from '../view';
import { Grab, handleUnder, MIN_DRAG, wordOf, type Preview, type StageTool, type Tag } from './tool';

/** Distance in screen px between points laid along the pointer before they are thinned out. */
const LAID = 3;
/** Screen px within which the first point is meant again, and closes the outline. */
const CLOSE = 9;

type Neighbour = { mark: string; ring: Ring; i: number };

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
  constructor(private readonly bench: Bench) {
    this.#grab = new Grab(bench);
  }

  get points(): Ring {
    return this.#points;
  }
  preview(): Preview | null {
    if (this.#points.length === 0) return this.#grab.preview;
    const at = this.#pointer && !this.#laying && this.bench.shape !== 'points' ? this.#snap(this.#pointer).p : null;
    return {
      line: at ? [...this.#points, at.x, at.y] : this.#points,
      dots: this.#points,
      color: this.bench.light(this.#kept()?.class ?? this.bench.active),
      id: null
    };
  }
  down(p: Point): void {
    if (this.#points.length === 0 && this.bench.stroke === 'new' && this.#grab.begin(p, false)) return;
    this.#pressed = p;
    this.#laying = false;
  }
  move(p: Point): void {
    this.#pointer = p;
    if (this.#grab.busy) return this.#grab.move(p);
    if (!this.#pressed || this.bench.shape === 'points') return;
    const from = this.#laying ? { x: this.#points[this.#points.length - 2]!, y: this.#points[this.#points.length - 1]! } : this.#pressed;
    if (Math.hypot(p.x - from.x, p.y - from.y) * this.bench.view.scale < (this.#laying ? LAID : MIN_DRAG + 2)) return;
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
    this.#presses.push(0);
    this.#add(p, false);
    const rule = this.bench.pointsOf(this.bench.active, this.bench.shape);
    const wanted = this.bench.shape === 'points' ? rule : (rule ?? this.bench.corners);
    if (wanted !== null && this.#points.length / 2 >= wanted) this.finish();
  }
  /** A laid stretch is thinned to what half a screen px needs. */
  #endLaying(): void {
    this.#laying = false;
    const count = this.#presses[this.#presses.length - 1]!;
    const start = this.#points.length - 2 * count;
    const thin = simplified(this.#points.slice(start), 0.8 / this.bench.view.scale).map(round);
    this.#points = [...this.#points.slice(0, start), ...thin];
    this.#from = [...this.#from.slice(0, start / 2), ...Array.from({ length: thin.length / 2 }, () => null)];
    this.#presses[this.#presses.length - 1] = thin.length / 2;
    const last = { x: this.#points[this.#points.length - 2]!, y: this.#points[this.#points.length - 1]! };
    if (this.#closes(last) && thin.length > 6) this.finish();
  }
  #closes(p: Point): boolean {
    if (this.#points.length < 6 || this.bench.shape !== 'polygon' || this.bench.stroke === 'redraw') return false;
    const [a, b] = [toScreen(this.bench.view, p), toScreen(this.bench.view, { x: this.#points[0]!, y: this.#points[1]! })];
    return Math.hypot(a.x - b.x, a.y - b.y) <= CLOSE;
  }
  #snap(p: Point): { p: Point; at: Neighbour | null } {
    const near = this.bench.neighbourAt(p, this.bench.stroke === 'new' ? null : this.bench.selected);
    return near
      ? { p: { x: near.ring[2 * near.i]!, y: near.ring[2 * near.i + 1]! }, at: near }
      : { p: clampPoint(p, this.bench.picture), at: null };
  }
  #add(p: Point, raw: boolean): void {
    const { p: q, at } = raw ? { p: clampPoint(p, this.bench.picture), at: null } : this.#snap(p);
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
    return true;
  }
  #kept(): Mark | undefined {
    return this.bench.stroke === 'new' ? undefined : this.bench.mark;
  }
  finish(): boolean {
    if (this.#points.length === 0) return false;
    const points = this.#points;
    const kind = this.bench.shape;
    const enough = kind === 'points' ? 2 : kind === 'polyline' || this.bench.stroke === 'redraw' ? 4 : 6;
    if (points.length < enough) {
      this.bench.message = kind === 'polyline' ? 'a line needs two points' : 'an outline needs three points';
      return true;
    }
    if (kind === 'points') this.#done(() => this.bench.draw({ kind, geometry: { points } }));
    else if (kind === 'polyline') this.#done(() => this.bench.draw({ kind, geometry: { points } }));
    else this.#finishRings(points);
    return true;
  }
  #finishRings(points: Ring): void {
    const mark = this.#kept();
    let rings: Ring[] = [points];
    if (mark?.kind === 'polygon') {
      const before = mark.geometry.rings;
      if (this.bench.stroke === 'add') rings = added(before, points);
      else if (this.bench.stroke === 'cut') rings = cut(before, points);
      else {
        const first = { x: points[0]!, y: points[1]! };
        const at = before.reduce((best, ring, r) => (nearestIn(ring, first) < nearestIn(before[best]!, first) ? r : best), 0);
        rings = before.map((ring, r) => (r === at ? redrawn(ring, points, this.bench.otherStretch) : ring));
      }
    }
    if (rings.length === 0) {
      this.bench.message = 'nothing of the outline would be left; remove the mark instead';
      this.#clear();
      return;
    }
    const crossing = crosses(rings);
    if (crossing) {
      // what was drawn stays in hand: a point taken back mends it
      this.bench.message = `the outline crosses itself near ${Math.round(crossing.x)}, ${Math.round(crossing.y)}; take points back, or draw on`;
      return;
    }
    if (mark) this.#done(() => this.bench.reshape(mark, { kind: 'polygon', geometry: { rings } }));
    else this.#done(() => this.bench.draw({ kind: 'polygon', geometry: { rings } }));
    this.bench.stroke = 'new';
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
  }
  cancel(): boolean {
    const was = this.#points.length > 0 || this.bench.stroke !== 'new';
    this.#clear();
    this.bench.stroke = 'new';
    return this.#grab.cancel() || was;
  }
  busy(): boolean {
    return this.#points.length > 0;
  }
  tag(p: Point): Tag {
    const color = this.bench.light(this.#kept()?.class ?? this.bench.active);
    if (this.#points.length === 0 && this.bench.stroke === 'new') {
      const handle = handleUnder(this.bench, p);
      if (this.#grab.busy || handle)
        return { word: handle ? wordOf(handle) : this.#grab.word, color: this.bench.light(this.bench.mark?.class ?? '') };
    }
    if (this.#closes(p)) return { word: 'close', color };
    const near = this.bench.neighbourAt(p, this.bench.stroke === 'new' ? null : this.bench.selected);
    const last = this.#from[this.#from.length - 1];
    if (near) return { word: last?.ring === near.ring && last.i !== near.i ? 'follow' : 'same point', color };
    if (this.bench.stroke !== 'new') return { word: this.bench.stroke, color };
    const n = this.#points.length / 2;
    const wanted = this.bench.shape === 'points' ? this.bench.pointsOf(this.bench.active) : this.bench.corners;
    return { word: n === 0 ? this.bench.nameOf(this.bench.active) : wanted ? `point ${n + 1} of ${wanted}` : `point ${n + 1}`, color };
  }
  cursor(p: Point): string {
    return (this.#points.length === 0 && this.bench.stroke === 'new' ? handleUnder(this.bench, p)?.cursor : null) ?? 'crosshair';
  }
}

const nearestIn = (ring: Ring, p: Point): number => {
  let d = Infinity;
  for (let i = 0; i < ring.length; i += 2) d = Math.min(d, Math.hypot(p.x - ring[i]!, p.y - ring[i + 1]!));
  return d;
};
