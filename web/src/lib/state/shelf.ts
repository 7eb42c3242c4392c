import { ApiError } from '$lib/api/client';
import { openDB, type IDBPDatabase } from 'idb';

type Shown = { key: string; at: number; value: unknown };
/** Things kept for a reload without a network; more are not of use, since only the last item is open. */
const KEPT = 16;

/**
 * What the pages showed last: who is signed in, the project, its codebook, the item. A page that is loaded again while the server is away shows
 * them instead of nothing. Without a store there is nothing to show, and that is all.
 */
class Shelf {
  #db: Promise<IDBPDatabase | null> | undefined;
  #open(): Promise<IDBPDatabase | null> {
    this.#db ??= openDB('skeno-shelf', 1, { upgrade: (db) => void db.createObjectStore('shown', { keyPath: 'key' }) }).catch(() => null);
    return this.#db;
  }
  async put(key: string, value: unknown): Promise<void> {
    try {
      const db = await this.#open();
      if (db === null) return;
      await db.put('shown', { key, at: Date.now(), value } satisfies Shown);
      const all = ((await db.getAll('shown')) as Shown[]).sort((a, b) => b.at - a.at);
      for (const old of all.slice(KEPT)) await db.delete('shown', old.key);
    } catch {
      // a full store: the next reload needs the server
    }
  }
  async get<T>(key: string): Promise<T | null> {
    try {
      return (((await (await this.#open())?.get('shown', key)) as Shown | undefined)?.value ?? null) as T | null;
    } catch {
      return null;
    }
  }
  /** What the server says, kept for later; where it does not answer at all, what it said last. @throws what it said else */
  async or<T>(key: string, asked: Promise<T>): Promise<T> {
    try {
      const value = await asked;
      void this.put(key, value);
      return value;
    } catch (e) {
      const kept = e instanceof ApiError && e.isOffline ? await this.get<T>(key) : null;
      if (kept === null) throw e;
      return kept;
    }
  }
  /** Forgets all of it: somebody has signed out. */
  async clear(): Promise<void> {
    try {
      await (await this.#open())?.clear('shown');
    } catch {
      // nothing was kept
    }
  }
}
export const shelf = new Shelf();
