import { SvelteMap } from 'svelte/reactivity';

export type Shown = { id: number; picture: { screen: string }; /** of a clip: which frame */ place?: number | null };
const name = (item: Shown): string => (item.place == null ? String(item.id) : `${item.id}@${item.place}`);

/** Pictures kept ready, decoded; the ones not asked for longest go first. */
export class Pictures {
  #ready = new SvelteMap<string, HTMLImageElement>();
  #asked = new Map<string, number>();
  #clock = 0;

  constructor(private readonly most = 24) {}

  get(item: Shown): HTMLImageElement | null {
    return this.#ready.get(name(item)) ?? null;
  }
  /** Has these ready soon. */
  want(items: Shown[]): void {
    for (const item of items) {
      const known = this.#asked.has(name(item));
      this.#asked.set(name(item), ++this.#clock);
      if (known) continue;
      const image = new Image();
      image.src = item.place == null ? item.picture.screen : `${item.picture.screen}&place=${item.place}`;
      image.decode().then(
        () => this.#ready.set(name(item), image),
        // asked for again when it is wanted again
        () => this.#asked.delete(name(item))
      );
    }
    const old = [...this.#asked].sort((a, b) => a[1] - b[1]).slice(0, Math.max(0, this.#asked.size - this.most));
    for (const [id] of old) {
      this.#asked.delete(id);
      this.#ready.delete(id);
    }
  }
}
