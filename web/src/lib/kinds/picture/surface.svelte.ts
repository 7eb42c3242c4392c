import type { Drawing } from '$lib/plane/drawing.svelte';
import type { Show } from '$lib/plane/show.svelte';
import { Flat } from '../flat.svelte';
import type { BenchPorts, Item, Surface } from '../kind';
import Badge from './Badge.svelte';
import Detail from './Detail.svelte';
import Note from './Note.svelte';
import type { Picture } from './picture.svelte';
import Preferences from './Preferences.svelte';
import Stage from './Stage.svelte';

/** A picture on the bench. */
export class PictureSurface extends Flat implements Surface {
  readonly Stage = Stage;
  readonly noun = 'picture';
  readonly Preferences = Preferences;
  readonly Detail = Detail;
  readonly Badge = Badge;
  readonly Note = Note;

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
