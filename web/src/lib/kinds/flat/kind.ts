import type { Chosen } from '$lib/edits/hand.svelte';
import { Drawing } from '$lib/plane/drawing.svelte';
import { Show } from '$lib/plane/show.svelte';
import { flatKinds } from '$lib/words/mark';
import type { Words } from '$lib/words/words.svelte';
import type { BenchPorts, Item, Kind, Media, Settings, Surface } from '../kind';

/**
 * A kind of items that are worked on on one plane. How one draws and how it is shown stays from item to item.
 *
 * @param load what an item shows
 * @param open an item on the bench
 */
export function flatKind<M extends Media>(
  load: (item: Item) => M,
  open: (item: Item, media: M, ports: BenchPorts, drawing: Drawing, show: Show) => Surface
): (ports: { words: Words; chosen: Chosen }) => Kind {
  return ({ words, chosen }) => {
    const drawing = new Drawing(words, chosen);
    const show = new Show();
    return {
      shapes: flatKinds,
      load,
      open: (item, media, ports) => open(item, media as M, ports, drawing, show),
      take: (settings: Settings) => show.take(settings)
    };
  };
}
