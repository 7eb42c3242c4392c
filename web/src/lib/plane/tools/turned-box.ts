import type { Point, Shape } from '$lib/words/mark';
import { angleOf, turn } from '../shapes/geometry';
import { round } from '../view';
import { Dragged } from './dragged';

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
