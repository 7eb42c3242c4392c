import type { Chosen } from '$lib/edits/hand.svelte';
import { Drawing } from '$lib/plane/drawing.svelte';
import { Show } from '$lib/plane/show.svelte';
import { flatKinds } from '$lib/words/mark';
import type { Words } from '$lib/words/words.svelte';
import type { BenchPorts, Item, Kind, Media, Settings, Surface } from '../kind';
import { Clip } from './clip.svelte';
import { ClipSurface } from './surface.svelte';

/** Clips: one plane, a frame on it, and the time below; every flat shape as a track. */
class ClipKind implements Kind {
  readonly shapes = flatKinds;
  readonly #drawing: Drawing;
  readonly #show = new Show();

  constructor(words: Words, chosen: Chosen) {
    this.#drawing = new Drawing(words, chosen);
  }
  load(item: Item): Media {
    return new Clip(item);
  }
  open(item: Item, media: Media, ports: BenchPorts): Surface {
    return new ClipSurface(item, media as Clip, ports, this.#drawing, this.#show);
  }
  take(settings: Settings): void {
    this.#show.take(settings);
  }
}

export const begin = ({ words, chosen }: { words: Words; chosen: Chosen }): Kind => new ClipKind(words, chosen);
