import { flatKind } from '../flat/kind';
import { Picture } from './picture.svelte';
import { PictureSurface } from './surface.svelte';

/** Pictures: one plane, every flat shape. */
export const begin = flatKind(
  (item) => new Picture(item),
  (...opened) => new PictureSurface(...opened)
);
