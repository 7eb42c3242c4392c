import { SvelteMap } from 'svelte/reactivity';

type Shown = { id: number; picture: { screen: string } };

/** Pictures kept ready, decoded; the ones not asked for longest go first. */
export class Pictures {
  #ready = new SvelteMap<number, HTMLImageElement>();
  #asked = new Map<number, number>();
  #clock = 0;

  constructor(private readonly most = 24) {}

  get(item: Shown): HTMLImageElement | null {
    return this.#ready.get(item.id) ?? null;
  }
  /** Has these ready soon. */
  want(items: Shown[]): void {
    for (const item of items) {
      const known = this.#asked.has(item.id);
      this.#asked.set(item.id, ++this.#clock);
      if (known) continue;
      const image = new Image();
      image.src = item.picture.screen;
      image.decode().then(
        () => this.#ready.set(item.id, image),
        // asked for again when it is wanted again
        () => this.#asked.delete(item.id)
      );
    }
    const old = [...this.#asked].sort((a, b) => a[1] - b[1]).slice(0, Math.max(0, this.#asked.size - this.most));
    for (const [id] of old) {
      this.#asked.delete(id);
      this.#ready.delete(id);
    }
  }
}
