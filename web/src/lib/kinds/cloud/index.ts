import type { BenchPorts, Item, Kind, Media, Surface } from '../kind';
import { Cloud } from './cloud.svelte';
import { CloudLooks } from './looks.svelte';
import { CloudSurface } from './surface.svelte';

/** Clouds: points in space, cuboids among them, and the three views of the one in hand. How they are shown stays from item to item. */
class CloudKind implements Kind {
  readonly shapes = ['cuboid'] as const;
  readonly #looks = new CloudLooks();
  /** sizes of what was drawn, by class */
  readonly #sizes = new Map<string, number[][]>();

  load(item: Item): Media {
    return new Cloud(item);
  }
  open(item: Item, media: Media, ports: BenchPorts): Surface {
    return new CloudSurface(item, media as Cloud, ports, this.#looks, this.#sizes);
  }
  take(): void {
    // nothing of how clouds are shown is kept with the account yet
  }
}

export const begin = (): Kind => new CloudKind();
