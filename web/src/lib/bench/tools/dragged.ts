import type { Bench } from '../bench.svelte';
import { angleOf, turn } from '../shapes';
import type { Box, Point, Shape } from '../types';
import { boxBetween, clampPoint, round } from '../view';
import { Grab, handleUnder, MIN_DRAG, wordOf, type Preview, type StageTool, type Tag } from './tool';

/**
 * Shapes drawn from one place to another, by a drag or by two presses; some need a third press: how deep a turned box is, where the far
 * face of a cuboid lies. The mark in hand can still be pulled by its handles.
 */
abstract class Dragged implements StageTool {
  #grab: Grab;
  protected from: Point | null = null;
  protected to: Point | null = null;
  /** the place before last is fixed and the pointer moves what comes after */
  protected third = false;
  #pressing = false;
  #twoPress = false;
  constructor(protected readonly bench: Bench) {
    this.#grab = new Grab(bench);
  }
  /** shape between two places, and after the third press when there is one */
  protected abstract shape(a: Point, b: Point, c: Point | null): Shape;
  protected readonly needsThird: boolean = false;
  protected readonly thirdWord: string = '';
  #third: Point | null = null;

  preview(): Preview | null {
    if (this.from && this.to)
      return {
        shape: this.shape(this.from, this.to, this.third ? this.#third : null),
        color: this.bench.light(this.bench.active),
        id: null
      };
    return this.#grab.preview;
  }
  down(p: Point): void {
    if (this.third || this.#twoPress) return;
    if (this.#grab.begin(p, false)) return;
    this.#pressing = true;
    this.from = this.to = clampPoint(p, this.bench.picture);
  }
  move(p: Point): void {
    if (this.third) this.#third = clampPoint(p, this.bench.picture);
    else if (this.from) this.to = clampPoint(p, this.bench.picture);
    else this.#grab.move(p);
  }
  up(p: Point): void {
    const q = clampPoint(p, this.bench.picture);
    if (this.third) {
      const shape = this.shape(this.from!, this.to!, q);
      this.cancel();
      this.bench.draw(shape);
      return;
    }
    if (!this.from) return this.#grab.end(p);
    this.to = q;
    const size = Math.max(Math.abs(q.x - this.from.x), Math.abs(q.y - this.from.y)) * this.bench.view.scale;
    if (size < MIN_DRAG) {
      // a press without a drag begins what the next press goes on with
      this.#twoPress = !this.#twoPress;
      if (!this.#twoPress) this.cancel();
      this.#pressing = false;
      return;
    }
    this.#pressing = this.#twoPress = false;
    if (this.needsThird) {
      this.third = true;
      this.#third = q;
      return;
    }
    const shape = this.shape(this.from, q, null);
    this.cancel();
    this.bench.draw(shape);
  }
  cancel(): boolean {
    const was = this.from !== null;
    this.from = this.to = this.#third = null;
    this.third = this.#twoPress = this.#pressing = false;
    return this.#grab.cancel() || was;
  }
  busy(): boolean {
    return this.from !== null && !this.#pressing;
  }
  tag(p: Point): Tag {
    const handle = this.from ? null : handleUnder(this.bench, p);
    if (this.#grab.busy || handle)
      return { word: handle ? wordOf(handle) : this.#grab.word, color: this.bench.light(this.bench.mark?.class ?? '') };
    const word = this.third ? this.thirdWord : this.#twoPress ? 'far corner' : this.bench.nameOf(this.bench.active);
    return { word, color: this.bench.light(this.bench.active) };
  }
  cursor(p: Point): string {
    return (this.from ? null : handleUnder(this.bench, p)?.cursor) ?? 'crosshair';
  }
}

export class BoxTool extends Dragged {
  protected shape(a: Point, b: Point): Shape {
    return { kind: 'box', geometry: boxBetween(a, b) };
  }
}

export class EllipseTool extends Dragged {
  protected shape(a: Point, b: Point): Shape {
    const box = boxBetween(a, b);
    return {
      kind: 'ellipse',
      geometry: {
        cx: round(box.x + box.width / 2),
        cy: round(box.y + box.height / 2),
        rx: round(box.width / 2),
        ry: round(box.height / 2),
        angle: 0
      }
    };
  }
}

/** First one side of the object, then how deep it is. */
export class TurnedBoxTool extends Dragged {
  protected override readonly needsThird = true;
  protected override readonly thirdWord = 'depth';
  protected shape(a: Point, b: Point, c: Point | null): Shape {
    const angle = angleOf(a, b);
    const width = Math.hypot(b.x - a.x, b.y - a.y);
    // the third place in the box's own axes: only its distance from the side counts, and on which hand it lies
    const depth = c ? turn(c.x - a.x, c.y - a.y, -angle).y : 0;
    const middle = turn(width / 2, depth / 2, angle);
    return {
      kind: 'turned_box',
      geometry: {
        cx: round(a.x + middle.x),
        cy: round(a.y + middle.y),
        width: round(width),
        height: round(Math.abs(depth)),
        angle: round((angle + 360) % 360)
      }
    };
  }
}

/** The near face as a box, then where the far face lies; it is as large as perspective leaves it and can be pulled. */
export class CuboidTool extends Dragged {
  protected override readonly needsThird = true;
  protected override readonly thirdWord = 'far face';
  protected shape(a: Point, b: Point, c: Point | null): Shape {
    const front = boxBetween(a, b);
    if (!c) return { kind: 'cuboid_2d', geometry: { front, back: { ...front } } };
    const share = 0.8;
    const size = { width: round(front.width * share), height: round(front.height * share) };
    const clamp = (v: number, most: number) => round(Math.min(Math.max(0, v), Math.max(0, most)));
    const back: Box = {
      ...size,
      x: clamp(c.x - size.width / 2, this.bench.picture.width - size.width),
      y: clamp(c.y - size.height / 2, this.bench.picture.height - size.height)
    };
    return { kind: 'cuboid_2d', geometry: { front, back } };
  }
}

/**
 * A skeleton by two presses: from the middle of its upper edge to the middle of its lower edge, so that it lies as the object lies. Where
 * its class stands upright, as a box instead.
 */
export class SkeletonTool extends Dragged {
  protected shape(a: Point, b: Point): Shape {
    const skeleton = this.bench.skeletonOf(this.bench.active);
    const nodes = skeleton?.nodes ?? [];
    const xs = nodes.map((n) => n.x);
    const ys = nodes.map((n) => n.y);
    const [top, bottom] = [Math.min(...ys), Math.max(...ys)];
    const place = (x: number, y: number): Point => {
      if (this.bench.isUpright(this.bench.active)) {
        const box = boxBetween(a, b);
        return { x: box.x + x * box.width, y: box.y + y * box.height };
      }
      const length = Math.hypot(b.x - a.x, b.y - a.y);
      const unit = bottom > top ? length / (bottom - top) : length;
      const middle = (Math.min(...xs) + Math.max(...xs)) / 2;
      const q = turn((x - middle) * unit, (y - top) * unit, angleOf(a, b) - 90);
      return { x: a.x + q.x, y: a.y + q.y };
    };
    return {
      kind: 'skeleton',
      geometry: {
        nodes: Object.fromEntries(
          nodes.map((n) => {
            const p = clampPoint(place(n.x, n.y), this.bench.picture);
            return [n.key, { x: round(p.x), y: round(p.y), state: 'visible' as const }];
          })
        )
      }
    };
  }
}
