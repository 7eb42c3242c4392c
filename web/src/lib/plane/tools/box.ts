import type { Point, Shape } from '$lib/words/mark';
import { boxBetween } from '../view';
import { Dragged } from './dragged';

export class BoxTool extends Dragged {
  protected shape(a: Point, b: Point): Shape {
    return { kind: 'box', geometry: boxBetween(a, b) };
  }
}
