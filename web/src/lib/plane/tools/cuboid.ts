import type { Box, Point, Shape } from '$lib/words/mark';
import { boxBetween, round } from '../view';
import { Dragged } from './dragged';

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
      x: clamp(c.x - size.width / 2, this.at.sight.picture.width - size.width),
      y: clamp(c.y - size.height / 2, this.at.sight.picture.height - size.height)
    };
    return { kind: 'cuboid_2d', geometry: { front, back } };
  }
}
