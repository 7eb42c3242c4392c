import { ulid } from '$lib/edits/ulid';
import { begun, body, type FlatKind, type Mark, type Point, type Ring, type Shape } from '$lib/words/mark';
import type { Assist } from './assist.svelte';
import type { Drawing } from './drawing.svelte';
import { around, type Nearby } from './nearby';
import type { PlanePorts } from './ports';
import { toMask, type Edges } from './raster';
import { bounds, handlesOf, hit, moved, pointKeysOf, pulled, shapeOf, withoutPoint } from './shapes';
import { vertexKey } from './shapes/geometry';
import { mirrored, nextState, withNode } from './shapes/skeleton';
import type { Sight } from './sight.svelte';
import { toScreen, type Size } from './view';

type Ports = Pick<
  PlanePorts,
  'editor' | 'hand' | 'words' | 'chosen' | 'asking' | 'acts' | 'item' | 'project' | 'user' | 'say' | 'mode' | 'drawn'
>;
/** A point of a neighbour's outline. */
export type Neighbour = { mark: string; ring: Ring; i: number };
type Copied = { project: number; size: Size; marks: ReturnType<typeof body>[] };

/** Screen px within which a neighbour's point is meant. */
const NEAR = 9;
/** Picture px within which two points are one that neighbours share. */
const SAME = 0.005;

/** What a hand does to flat marks: draw, reshape, paint, nudge, copy; every one is a step of the editor. */
export class Forms {
  constructor(
    private readonly ports: Ports,
    private readonly sight: Sight,
    private readonly drawing: Drawing,
    private readonly nearby: Nearby,
    private readonly assist: Assist
  ) {}

  get editable(): boolean {
    return this.ports.mode !== 'look';
  }
  /** The mask that is being painted. */
  get painted(): Extract<Mark, { kind: 'mask' }> | null {
    const mark = this.ports.hand.one;
    return this.drawing.mode === 'draw' && this.drawing.shape === 'mask' && !this.drawing.cutting && mark?.kind === 'mask' ? mark : null;
  }

  #change(steps: { before: Mark | null; after: Mark | null }[]): void {
    if (!this.editable) return;
    this.ports.editor.change(steps.map((s) => ({ subject: (s.before ?? s.after)!.id, item: this.ports.item.id, ...s })));
  }
  /** A mark of the class in hand that is not on the item yet. @param source what it was done with */
  #begun(shape: Shape, source = 'hand'): Mark {
    return begun(ulid(), shape, this.ports.chosen.active, this.ports.user, source);
  }
  draw(shape: Shape, source?: 'cutout' | 'fitted'): void {
    if (!this.editable) return;
    if (!this.ports.chosen.active) return this.ports.say('the codebook has no class that is drawn on pictures yet');
    const mark = this.#begun(shape, source);
    this.#change([{ before: null, after: mark }]);
    this.ports.hand.select(mark.id);
    this.ports.asking.openNext(true);
    this.ports.drawn?.(this.ports.editor.marks.get(mark.id) ?? mark);
    void this.assist.guard(mark);
  }
  /** The mark takes another shape; points its neighbours share with it go along where they are `shared`. */
  reshape(mark: Mark, shape: Shape, shared: { mark: Mark; shape: Shape }[] = [], source?: 'fitted'): void {
    const now = this.ports.editor.marks.get(mark.id) ?? mark;
    this.#change([
      { before: now, after: { ...now, ...shape, ...(source && { source }) } as Mark },
      ...shared.map((s) => ({ before: s.mark, after: { ...s.mark, ...s.shape } as Mark }))
    ]);
  }
  /** One stroke of the brush: the mask in hand changes, or begins; masks it claims pixels from change with it. */
  painting(shape: Extract<Shape, { kind: 'mask' }>, claimed: { mark: Mark; edges: Edges }[], source?: 'patches'): void {
    const { width, height } = this.ports.item;
    const mine = this.painted;
    const after = mine ? ({ ...mine, ...shape, ...(source && { source }) } as Mark) : this.#begun(shape, source);
    const steps = claimed.map(({ mark, edges }) => ({
      before: mark,
      after: edges.length === 0 ? null : ({ ...mark, geometry: toMask(edges, width, height) } as Mark)
    }));
    this.#change([...steps, { before: mine, after }]);
    if (!mine) this.ports.hand.select(after.id);
  }
  /** Ends work on the mask in hand; its required questions come up now, not at the first stroke. */
  letGo(): boolean {
    if (!this.painted) return false;
    this.ports.asking.openNext(true);
    if (this.ports.asking.question === null) this.ports.hand.select(null);
    return true;
  }

  /** What marks in hand, or the point in hand, become when moved by some px. */
  nudged(by: Point): { before: Mark; after: Mark }[] {
    const { hand, item } = this.ports;
    const mark = hand.one;
    if (mark && hand.point !== null && !hand.locked.has(mark.id)) {
      const handle = handlesOf(shapeOf(mark), this.sight.view.scale).find((h) => h.key === hand.point);
      if (!handle) return [];
      const to = { x: handle.at.x + by.x, y: handle.at.y + by.y };
      return [
        { before: mark, after: { ...mark, ...pulled(shapeOf(mark), handle.key, to, item) } as Mark },
        ...this.sharing(mark, handle.key).map((s) => ({
          before: s.mark,
          after: { ...s.mark, ...pulled(shapeOf(s.mark), s.key, to, item) } as Mark
        }))
      ];
    }
    return hand.free.map((m) => ({ before: m, after: { ...m, ...moved(shapeOf(m), by, item) } as Mark }));
  }
  move(steps: { before: Mark; after: Mark }[]): void {
    this.#change(steps.filter((s) => s.before.geometry !== s.after.geometry));
  }

  /** The point in hand, or else the marks in hand. */
  remove(): void {
    const { hand, acts } = this.ports;
    const mark = hand.one;
    if (mark && hand.point !== null && !hand.locked.has(mark.id)) {
      const left = withoutPoint(shapeOf(mark), hand.point);
      if (left) {
        const keys = pointKeysOf(left);
        const at = pointKeysOf(shapeOf(mark)).indexOf(hand.point);
        this.reshape(mark, left);
        // the next one is in hand, so that several are taken away by the same key
        hand.point = keys[Math.min(at, keys.length - 1)] ?? null;
        return;
      }
    }
    acts.remove();
  }
  /** Goes from one point of the mark in hand to the next. */
  nextPoint(): void {
    const { hand } = this.ports;
    const keys = hand.one ? pointKeysOf(shapeOf(hand.one)) : [];
    if (keys.length > 0) hand.point = keys[(hand.point === null ? 0 : keys.indexOf(hand.point) + 1) % keys.length]!;
  }
  /** Points that a points mark, or an outline of a fixed number, still lacks. */
  lacking(mark: Mark): number {
    const wanted = this.ports.words.pointsOf(mark.class, mark.kind);
    const there =
      mark.kind === 'points' || mark.kind === 'polyline'
        ? mark.geometry.points.length / 2
        : mark.kind === 'polygon' && mark.geometry.rings.length === 1
          ? mark.geometry.rings[0]!.length / 2
          : null;
    return wanted === null || there === null ? 0 : Math.max(0, wanted - there);
  }
  /** Puts a point where the mark in hand lacks one: beside the nearest of an outline, else at the end. */
  complete(mark: Mark, p: Point): void {
    if (mark.kind !== 'points' && mark.kind !== 'polyline' && mark.kind !== 'polygon') return;
    const ring = mark.kind === 'polygon' ? mark.geometry.rings[0]! : mark.geometry.points;
    const at = mark.kind === 'points' ? ring.length / 2 : bestEdge(ring, p, mark.kind === 'polygon') + 1;
    const next = [...ring.slice(0, 2 * at), p.x, p.y, ...ring.slice(2 * at)];
    const geometry = mark.kind === 'polygon' ? { rings: [next] } : { points: next };
    this.reshape(mark, { kind: mark.kind, geometry } as Shape);
  }

  duplicate(): void {
    this.#put(this.ports.hand.all, { x: 12, y: 12 });
  }
  copy(): void {
    const marks = this.ports.hand.all;
    if (marks.length === 0) return;
    const kept: Copied = { project: this.ports.project, size: this.ports.item, marks: marks.map(body) };
    try {
      localStorage.setItem('skeno-copied', JSON.stringify(kept));
      this.ports.say(marks.length === 1 ? 'copied; Ctrl V puts it onto any item of this project' : `${marks.length} marks copied`);
    } catch {
      this.ports.say('this browser has no room to copy so much');
    }
  }
  paste(): void {
    let kept: Copied | null;
    try {
      kept = JSON.parse(localStorage.getItem('skeno-copied') ?? 'null');
    } catch {
      kept = null;
    }
    const { item, words, say } = this.ports;
    if (!kept || kept.project !== this.ports.project) return say('nothing was copied in this project');
    const same = kept.size.width === item.width && kept.size.height === item.height;
    const marks = kept.marks.filter((m) => (same || m.kind !== 'mask') && words.classOf(m.class)) as Mark[];
    if (marks.length < kept.marks.length)
      say(`${kept.marks.length - marks.length} of the copied marks do not fit this picture or its codebook`);
    this.#put(
      marks.map((m) => ({ ...m, part_of: null })),
      { x: 0, y: 0 }
    );
  }
  #put(marks: Mark[], by: Point): void {
    if (!this.editable || marks.length === 0) return;
    const copies = marks.map(
      (m) => ({ ...m, ...moved(shapeOf(m), by, this.ports.item), id: ulid(), revision: 0, author: this.ports.user, source: 'hand' }) as Mark
    );
    this.#change(copies.map((m) => ({ before: null, after: m })));
    this.ports.hand.take(copies);
  }

  mirror(): void {
    const mark = this.ports.hand.mark;
    if (mark?.kind !== 'skeleton') return;
    const nodes = this.ports.words.skeletonOf(mark.class)?.nodes ?? [];
    const twins = new Map(nodes.flatMap((n): [string, string][] => (n.twin ? [[n.key, n.twin]] : [])));
    this.reshape(mark, { kind: 'skeleton', geometry: mirrored(mark.geometry, twins) });
  }
  /** A node becomes visible, hidden or absent; without a state the next of these. */
  nodeState(key: string, state?: 'visible' | 'hidden' | 'absent'): void {
    const mark = this.ports.hand.mark;
    if (mark?.kind !== 'skeleton') return;
    this.reshape(mark, { kind: 'skeleton', geometry: withNode(mark.geometry, key, state ?? nextState(mark.geometry, key)) });
  }
  /** The node in hand: hidden, or visible again. */
  toggleNode(state: 'hidden' | 'absent'): void {
    const { hand } = this.ports;
    const mark = hand.one;
    if (mark?.kind !== 'skeleton' || !hand.point?.startsWith('n:')) return;
    const key = hand.point.slice(2);
    if (state === 'absent') return this.remove();
    this.nodeState(key, mark.geometry.nodes[key]?.state === 'hidden' ? 'visible' : 'hidden');
  }

  /** The point of a neighbour's outline a press would take, when outlines are followed. */
  neighbourAt(p: Point, except: string | null): Neighbour | null {
    const kind: FlatKind = this.drawing.shape;
    if (!this.drawing.follow || this.drawing.mode !== 'draw' || (kind !== 'polygon' && kind !== 'polyline')) return null;
    const { view } = this.sight;
    const at = toScreen(view, p);
    let best: Neighbour | null = null;
    let least = NEAR;
    for (const mark of this.nearby.find(around(p, NEAR / view.scale))) {
      if (mark.id === except || (mark.kind !== 'polygon' && mark.kind !== 'polyline') || hit(shapeOf(mark), p, view.scale) === null)
        continue;
      for (const ring of mark.kind === 'polygon' ? mark.geometry.rings : [mark.geometry.points])
        for (let i = 0; i < ring.length / 2; i++) {
          const s = toScreen(view, { x: ring[2 * i]!, y: ring[2 * i + 1]! });
          const d = Math.hypot(s.x - at.x, s.y - at.y);
          if (d < least) [best, least] = [{ mark: mark.id, ring, i }, d];
        }
    }
    return best;
  }
  /** A place a point is pulled to: a neighbour's point when one is near. */
  snapped(p: Point, except: string): Point {
    const near = this.neighbourAt(p, except);
    return near ? { x: near.ring[2 * near.i]!, y: near.ring[2 * near.i + 1]! } : p;
  }
  /** Points of other outlines that lie where a point of this one lies, and so go along with it. */
  sharing(mark: Mark, key: string): { mark: Mark; key: string }[] {
    const k = vertexKey(key);
    if (!this.drawing.together || k === null || k.middle || (mark.kind !== 'polygon' && mark.kind !== 'polyline')) return [];
    const mine = mark.kind === 'polygon' ? mark.geometry.rings[k.ring] : mark.geometry.points;
    const [x, y] = [mine?.[2 * k.i], mine?.[2 * k.i + 1]];
    if (x === undefined || y === undefined) return [];
    return this.nearby.find(around({ x, y }, SAME)).flatMap((other) => {
      if (other.id === mark.id || this.ports.hand.locked.has(other.id) || (other.kind !== 'polygon' && other.kind !== 'polyline'))
        return [];
      const rings = other.kind === 'polygon' ? other.geometry.rings : [other.geometry.points];
      for (const [r, ring] of rings.entries())
        for (let i = 0; i < ring.length / 2; i++)
          if (Math.abs(ring[2 * i]! - x) <= SAME && Math.abs(ring[2 * i + 1]! - y) <= SAME) return [{ mark: other, key: `v:${r}:${i}` }];
      return [];
    });
  }

  /** All marks that lie in a box whole. */
  within(box: { x: number; y: number; width: number; height: number }): Mark[] {
    return this.nearby.find(box).filter((m) => {
      const b = bounds(shapeOf(m));
      return b.x >= box.x && b.y >= box.y && b.x + b.width <= box.x + box.width && b.y + b.height <= box.y + box.height;
    });
  }
}

/** The edge of a row of points nearest to a place, by the point it begins at. */
function bestEdge(ring: Ring, p: Point, closed: boolean): number {
  const n = ring.length / 2;
  let [best, least] = [n - 1, Infinity];
  for (let i = 0; i < (closed ? n : n - 1); i++) {
    const j = (i + 1) % n;
    const d =
      Math.hypot(p.x - ring[2 * i]!, p.y - ring[2 * i + 1]!) +
      Math.hypot(p.x - ring[2 * j]!, p.y - ring[2 * j + 1]!) -
      Math.hypot(ring[2 * j]! - ring[2 * i]!, ring[2 * j + 1]! - ring[2 * i + 1]!);
    if (d < least) [best, least] = [i, d];
  }
  return best;
}
