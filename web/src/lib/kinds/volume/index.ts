import { flatKind } from '../flat/kind';
import type { Kind } from '../kind';
import type { KindPorts } from '../index';
import { VolumeSurface } from './surface.svelte';
import { Volume } from './volume.svelte';
import { Windowing } from './window.svelte';

/** Volumes: three planes that meet in a cross, and the slices below; every flat shape along the slices. */
export const begin = (ports: KindPorts): Kind => {
  const window = new Windowing();
  return flatKind(
    (item) => new Volume(item, window),
    (...opened) => new VolumeSurface(...opened)
  )(ports);
};
