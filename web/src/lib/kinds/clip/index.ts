import { flatKind } from '../flat/kind';
import { Clip } from './clip.svelte';
import { ClipSurface } from './surface.svelte';

/** Clips: one plane, a frame on it, and the time below; every flat shape as a track. */
export const begin = flatKind(
  (item) => new Clip(item),
  (...opened) => new ClipSurface(...opened)
);
