import RBush from 'rbush';
import type { Marks } from '$lib/edits/marks.svelte';
import type { Box, Mark } from '$lib/words/mark';
import { bounds, shapeOf } from './shapes';

type Entry = { minX: number; minY: number; maxX: number; maxY: number; mark: Mark; place: number };

/** Which marks lie where: a tree of their extents (R-tree), kept up with each change. */
export class Nearby {
  #tree = new RBush<Entry>();
  #entries = new Map<string, Entry>();
  #places = 0;
  #end: () => void;

  constructor(marks: Marks) {
    this.#load(marks.all());
    this.#end = marks.on((changes) => {
      // many at once are loaded anew, which is sooner done
      if (changes.length > 50 && changes.length * 4 > this.#entries.size) return this.#load(marks.all());
      for (const { id, after } of changes) {
        const was = this.#entries.get(id);
        if (was) this.#tree.remove(was);
        this.#entries.delete(id);
        if (after === null || after.away) continue;
        const entry = this.#entry(after, was?.place ?? this.#places++);
        this.#entries.set(id, entry);
        this.#tree.insert(entry);
      }
    });
  }
  close(): void {
    this.#end();
  }

  /** The marks whose extent meets a box, in the order they came. */
  find(box: Box): Mark[] {
    return this.#tree
      .search({ minX: box.x, minY: box.y, maxX: box.x + box.width, maxY: box.y + box.height })
      .sort((a, b) => a.place - b.place)
      .map((e) => e.mark);
  }

  #load(marks: Mark[]): void {
    this.#entries = new Map(marks.filter((m) => !m.away).map((mark, i) => [mark.id, this.#entry(mark, i)]));
    this.#places = marks.length;
    this.#tree.clear().load([...this.#entries.values()]);
  }
  #entry(mark: Mark, place: number): Entry {
    const b = bounds(shapeOf(mark));
    return { minX: b.x, minY: b.y, maxX: b.x + b.width, maxY: b.y + b.height, mark, place };
  }
}

export const around = (p: { x: number; y: number }, by: number): Box => ({ x: p.x - by, y: p.y - by, width: 2 * by, height: 2 * by });
