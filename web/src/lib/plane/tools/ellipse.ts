import type { Point, Shape } from '$lib/words/mark';
import { boxBetween, round } from '../view';
import { Dragged } from './dragged';

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
