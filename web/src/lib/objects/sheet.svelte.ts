import { api, ask, type Schemas } from '$lib/api/client';
import { SvelteMap, SvelteSet } from 'svelte/reactivity';
import type { Found } from './edits.svelte';

export type Query = NonNullable<import('$lib/api/schema').paths['/projects/{project}/objects']['get']['parameters']['query']>;

const PAGE = 60;
/** Time after which a list that is scrolled has come to rest: what was scrolled past is not asked for. */
const REST = 80;
/** Pages of a range that are asked for at a time. */
const AT_ONCE = 4;

/** A long list of objects of which only what is in sight is fetched; and which of them are chosen. */
export class Sheet {
  total = $state<number | null>(null);
  /** objects of the project nobody has looked at yet */
  due = $state(0);
  /** a worker is at it */
  looking = $state(false);
  error = $state('');
  /** place in the list the keys act on */
  at = $state(0);
  chosen = new SvelteSet<string>();
  /** examples of a class from which on oddness can be told */
  enough = $state(0);
  /** there are tracks among them */
  tracks = $state(false);
  /** the first page could not be loaded: nothing is known yet */
  get failed(): boolean {
    return this.total === null && this.error !== '';
  }
  #pages = new SvelteMap<number, Found[]>();
  #asked = new Set<number>();
  #wanted: { from: number; to: number } = { from: 0, to: 0 };
  #resting: ReturnType<typeof setTimeout> | undefined;
  #query: Query = {};
  #run = 0;

  constructor(private readonly project: number) {}

  /** Begins anew with another question. */
  async show(query: Query): Promise<void> {
    this.#query = query;
    this.#run++;
    this.#pages.clear();
    this.#asked.clear();
    this.chosen.clear();
    this.total = null;
    await this.#load(Math.floor(this.at / PAGE));
  }
  /** Asks again after the first page could not be loaded. */
  retry(): Promise<void> {
    return this.show(this.#query);
  }
  /** What stands from one place to another; fetched where it is not here yet, once the scrolling has come to rest. */
  need(from: number, to: number): void {
    if (this.total === null) return;
    this.#wanted = { from, to };
    clearTimeout(this.#resting);
    this.#resting = setTimeout(() => this.#fill(), REST);
  }
  #fill(): void {
    if (this.total === null) return;
    const { from, to } = this.#wanted;
    for (let page = Math.max(0, Math.floor(from / PAGE)); page <= Math.floor(Math.min(to, this.total - 1) / PAGE); page++)
      if (!this.#asked.has(page)) void this.#load(page);
  }
  /** All that stands from one place to another, fetched first where it is not here; null when something could not be. */
  async range(from: number, to: number): Promise<Found[] | null> {
    const last = Math.min(to, (this.total ?? 0) - 1);
    const run = this.#run;
    const missing: number[] = [];
    for (let page = Math.floor(from / PAGE); page <= Math.floor(last / PAGE); page++) if (!this.#pages.has(page)) missing.push(page);
    // a range may be a thousand pages long: a few at a time, and no more once one was not to be had or another list is shown
    const fetching = async () => {
      for (let page = missing.shift(); page !== undefined; page = missing.shift()) {
        await this.#load(page);
        if (run !== this.#run || !this.#pages.has(page)) missing.length = 0;
      }
    };
    await Promise.all(Array.from({ length: AT_ONCE }, fetching));
    if (run !== this.#run) return null;
    const found = Array.from({ length: last - from + 1 }, (_, i) => this.get(from + i));
    return found.every((o) => o !== undefined) ? found : null;
  }
  close(): void {
    this.#run++;
    clearTimeout(this.#resting);
  }
  get(place: number): Found | undefined {
    return this.#pages.get(Math.floor(place / PAGE))?.[place % PAGE];
  }
  /** Chosen objects; without any the one the keys act on. */
  get inHand(): Found[] {
    if (this.chosen.size === 0) {
      const one = this.get(this.at);
      return one ? [one] : [];
    }
    return [...this.#pages.values()].flat().filter((o) => this.chosen.has(o.id));
  }
  /** @param subject what was changed: a mark, or a key of one */
  placeOf(subject: string): number | null {
    for (const [page, objects] of this.#pages) {
      const i = objects.findIndex(
        (o) => o.id === subject || o.mark.id === subject || (o.key && `${o.key.mark}@${o.key.place}` === subject)
      );
      if (i >= 0) return page * PAGE + i;
    }
    return null;
  }
  /** The next object after this one that looks like another class, among those that are here. */
  nextDoubt(): number | null {
    for (let place = this.at + 1; place < (this.total ?? 0); place++) {
      const object = this.get(place);
      if (!object) return null;
      if (object.looks_like !== null) return place;
    }
    return null;
  }

  /** Asks whether the worker is done. */
  async look(): Promise<void> {
    const found = await ask(
      api.GET('/projects/{project}/objects', { params: { path: { project: this.project }, query: { ...this.#query, limit: 1 } } })
    ).catch(() => null);
    // without an answer it is asked again
    if (found === null) return;
    this.due = found.due;
    this.looking = found.looking;
    this.enough = found.enough;
  }

  async #load(page: number): Promise<void> {
    const run = this.#run;
    this.#asked.add(page);
    try {
      const found: Schemas['ObjectPage'] = await ask(
        api.GET('/projects/{project}/objects', {
          params: { path: { project: this.project }, query: { ...this.#query, offset: page * PAGE, limit: PAGE } }
        })
      );
      if (run !== this.#run) return;
      this.total = found.total;
      this.tracks ||= found.data.some((o) => o.key !== null);
      this.due = found.due;
      this.looking = found.looking;
      this.enough = found.enough;
      this.#pages.set(page, found.data);
      this.error = '';
    } catch (e) {
      if (run !== this.#run) return;
      // asked for again when it comes into sight once more
      this.#asked.delete(page);
      this.error = (e as Error).message;
    }
  }
}
