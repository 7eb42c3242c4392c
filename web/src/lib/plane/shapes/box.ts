import type { Box } from '$lib/words/mark';
import { resized, type Handle as BoxHandle } from '../view';
import type { Form } from './form';
import { boxHandles, boxRing, nearestRing, shiftedBox, traceBox } from './geometry';

export const box: Form<Box> = {
  bounds: (g) => g,
  line: (g, p) => nearestRing(p, [boxRing(g)]),
  outline: (g) => [boxRing(g)],
  handles: (g) => boxHandles(g),
  pulled: (g, key, _to, p) => resized(g, key as BoxHandle, p),
  moved: shiftedBox,
  describe: () => '',
  trace: traceBox
};
