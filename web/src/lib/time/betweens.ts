import { keySubject } from '$lib/edits/keys.svelte';
import type { Mark, Shape } from '$lib/words/mark';
import type { Wanted } from './track';

type Geometry = Shape['geometry'];
/** Asks the core what lies between two keys, from one place to another. @returns a shape for each, in order */
export type AskBetween = (mark: Mark, wanted: Wanted, first: number, last: number) => Promise<Geometry[]>;
/** Places asked for at a time. */
const WINDOW = 48;

type Between = Wanted & { shapes: Geometry[] | null };

/** What lies between keys where only the core can work it out: asked for as it is looked at, and kept. */
export class Betweens {
  #known = new Map<string, Between>();
  #closed = false;

  /** @param changed more is known of a mark */
  constructor(
    private readonly ask: AskBetween,
    private readonly changed: (mark: string) => void
  ) {}
  close(): void {
    this.#closed = true;
  }

  /** The shape at a place between two keys; null as long as it is not known. */
  at(mark: Mark, wanted: Wanted, place: number): Geometry | null {
    const { from, to } = wanted;
    const window = Math.floor((place - from.place - 1) / WINDOW);
    const first = from.place + 1 + window * WINDOW;
    const name = `${keySubject(mark.id, from.place)}>${to.place}:${window}`;
    const known = this.#known.get(name);
    if (known?.from !== from || known.to !== to) {
      // what was there before a key was moved stands for it until the answer is here
      const asked: Between = { from, to, shapes: known?.shapes ?? null };
      this.#known.set(name, asked);
      this.ask(mark, wanted, first, Math.min(to.place - 1, first + WINDOW - 1))
        .then((shapes) => {
          asked.shapes = shapes;
          if (!this.#closed && this.#known.get(name) === asked) this.changed(mark.id);
        })
        // offline the first key stands for what lies behind it; it is asked for again when it is looked at again
        .catch(() => this.#known.get(name) === asked && this.#known.delete(name));
      return asked.shapes?.[place - first] ?? null;
    }
    return known.shapes?.[place - first] ?? null;
  }
}
