import type { Point, Shape } from '$lib/words/mark';
import { angleOf, turn } from '../shapes/geometry';
import { boxBetween, clampPoint, round } from '../view';
import { Dragged } from './dragged';

/**
 * A skeleton by two presses: from the middle of its upper edge to the middle of its lower edge, so that it lies as the object lies. Where
 * its class stands upright, as a box instead. Where skeletons of its class were learned, its nodes are moved to where the picture shows them.
 */
export class SkeletonTool extends Dragged {
  protected done(shape: Shape): void {
    super.done(shape);
    void this.at.posing.start(this.at.hand.one);
  }
  cancel(): boolean {
    return this.at.posing.leave() || super.cancel();
  }
  protected shape(a: Point, b: Point): Shape {
    const skeleton = this.at.words.skeletonOf(this.at.chosen.active);
    const nodes = skeleton?.nodes ?? [];
    const xs = nodes.map((n) => n.x);
    const ys = nodes.map((n) => n.y);
    const [top, bottom] = [Math.min(...ys), Math.max(...ys)];
    const place = (x: number, y: number): Point => {
      if (this.at.words.isUpright(this.at.chosen.active)) {
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
            const p = clampPoint(place(n.x, n.y), this.at.sight.picture);
            return [n.key, { x: round(p.x), y: round(p.y), state: 'visible' as const }];
          })
        )
      }
    };
  }
}
