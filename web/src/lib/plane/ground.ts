import type { Box } from '$lib/words/mark';
import type { View } from './view';

/** What lies under the marks: a picture whole or in tiles, a frame, a page. */
export interface Ground {
  /** something of it can be shown */
  readonly ready: boolean;
  /** grows when there is more, or sharper, to show */
  readonly version: number;
  /** Paints what is in sight. @param part in px of the picture */
  paint(c: CanvasRenderingContext2D, view: View, part: Box): void;
  /** Paints a part of the picture into a square of a canvas, for the loupe. */
  cut(c: CanvasRenderingContext2D, part: Box, side: number): void;
}
