import type { Shape } from '$lib/words/mark';
import { alone } from './layers/pens';
import { paintMask } from './runs';
import { bounds } from './shapes';
import type { View } from './view';

/** One object by itself, close up; a mask as no more than a tint, since what is asked about must be seen. */
export function paintAlone(c: CanvasRenderingContext2D, v: View, s: Shape, bones: [string, string][], color: string): void {
  if (s.kind === 'mask') paintMask(c, v, s.geometry, bounds(s), color, 0.3);
  alone(c, v, s, bones, color);
}
