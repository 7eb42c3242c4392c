import type { Chosen } from '$lib/edits/hand.svelte';
import { Drawing } from '$lib/plane/drawing.svelte';
import { Show } from '$lib/plane/show.svelte';
import { flatKinds } from '$lib/words/mark';
import type { Words } from '$lib/words/words.svelte';
import type { BenchPorts, Item, Kind, Media, Settings, Surface } from '../kind';
import { Picture } from './picture.svelte';
import { PictureSurface } from './surface.svelte';

/** Pictures: one plane, every flat shape. */
class PictureKind implements Kind {
  readonly shapes = flatKinds;
  readonly #drawing: Drawing;
  readonly #show = new Show();

  constructor(words: Words, chosen: Chosen) {
    this.#drawing = new Drawing(words, chosen);
  }
  load(item: Item): Media {
    return new Picture(item);
  }
  open(item: Item, media: Media, ports: BenchPorts): Surface {
    return new PictureSurface(item, media as Picture, ports, this.#drawing, this.#show);
  }
  take(settings: Settings): void {
    this.#show.take(settings);
  }
}

export const begin = ({ words, chosen }: { words: Words; chosen: Chosen }): Kind => new PictureKind(words, chosen);
