import type { Schemas } from '$lib/api/client';
import { openDB, type IDBPDatabase } from 'idb';

type Shown = { key: string; at: number; value: unknown };
/** Items kept for a reload without a network; more are not of use, since only the last one is open. */
const KEPT = 12;

/**
 * What a bench had last: its codebook, and the items it showed. A page that is loaded again while the server is away shows them instead of
 * nothing; what is done meanwhile waits as always. Without a store there is nothing to show, and that is all.
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
}
export const shelf = new Shelf();

export const packetKey = (user: number, turn: number): string => `packet-${user}-${turn}`;
export const codebookKey = (user: number, project: number): string => `codebook-${user}-${project}`;
export type KeptPacket = Schemas['Packet'];
