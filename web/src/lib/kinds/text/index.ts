import { Phrases } from '$lib/text/alike.svelte';
import { TextFile } from '$lib/text/running.svelte';
import type { BenchPorts, Item, Kind, Media, Surface } from '../kind';
import { TextSurface } from './surface.svelte';

/** Texts: running words, spans as lines below them. What was marked is known from one to the next. */
class TextKind implements Kind {
  readonly shapes = ['span'] as const;
  readonly #phrases = new Phrases();
  readonly #ways = { byKeys: true };

  load(item: Item): Media {
    return new TextFile(item.text!.path);
  }
  open(item: Item, media: Media, ports: BenchPorts): Surface {
    return new TextSurface(item, media as TextFile, ports, this.#phrases, this.#ways);
  }
  take(): void {
    // nothing of how texts are shown is kept with the account yet
  }
}

export const begin = (): Kind => new TextKind();
