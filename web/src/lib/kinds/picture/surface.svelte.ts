import type { Drawing } from '$lib/plane/drawing.svelte';
import type { Show } from '$lib/plane/show.svelte';
import { Flat } from '../flat/flat.svelte';
import type { BenchPorts, Item, Surface } from '../kind';
import Badge from './Badge.svelte';
import Detail from './Detail.svelte';
import type { Picture } from './picture.svelte';
import Stage from './Stage.svelte';

/** A picture on the bench. */
export class PictureSurface extends Flat implements Surface {
  readonly Stage = Stage;
  readonly noun = 'picture';
  readonly Detail = Detail;
  readonly Badge = Badge;

  constructor(
    item: Item,
    readonly picture: Picture,
    ports: BenchPorts,
    drawing: Drawing,
    shows: Show
  ) {
    super(item, ports, drawing, shows);
  }
  close(): void {
    this.plane.close();
    this.picture.close();
  }
  get keys() {
    return this.planeKeys;
  }
  get isShown(): boolean {
    return this.picture.ready;
  }
}
