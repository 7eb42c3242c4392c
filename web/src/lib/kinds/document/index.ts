import type { Chosen } from '$lib/edits/hand.svelte';
import { Drawing } from '$lib/plane/drawing.svelte';
import { Show } from '$lib/plane/show.svelte';
import { flatKinds } from '$lib/words/mark';
import type { Words } from '$lib/words/words.svelte';
import type { BenchPorts, Item, Kind, Media, Settings, Surface } from '../kind';
import { Book } from './book.svelte';
import { DocumentSurface } from './surface.svelte';

/** Documents: pages under each other, every flat shape on a page, answers per page. */
class DocumentKind implements Kind {
  readonly shapes = flatKinds;
  readonly #drawing: Drawing;
  readonly #show = new Show();

  constructor(words: Words, chosen: Chosen) {
    this.#drawing = new Drawing(words, chosen);
  }
  load(item: Item): Media {
    return new Book(item);
  }
  open(item: Item, media: Media, ports: BenchPorts): Surface {
    return new DocumentSurface(item, media as Book, ports, this.#drawing, this.#show);
  }
  take(settings: Settings): void {
    this.#show.take(settings);
  }
}

export const begin = ({ words, chosen }: { words: Words; chosen: Chosen }): Kind => new DocumentKind(words, chosen);
