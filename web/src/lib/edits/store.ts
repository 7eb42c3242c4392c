import type { Schemas } from '$lib/api/client';
import { openDB, type IDBPDatabase } from 'idb';

/**
 * An edit on its way. `turn` is BESIDE for an edit made beside the turns, of a mark of `item`. `tab` says in which tab of the browser it
 * was made; `held` why it is not sent any more.
 */
export type Stored = {
  id: string;
  user: number;
  project: number;
  turn: number;
  item?: number;
  seq: number;
  edit: Schemas['Edit'];
  tab?: string;
  held?: string;
};

/** In place of a turn: a sweep, or a correction on the contact sheet. */
export const BESIDE = 0;

/**
 * The browser's own store of edits on their way. All of it is a copy of what the tab holds: a store that is full or switched off keeps
 * nothing from the server, and is said.
 */
export class EditStore {
  /** called with the reason when the browser can't keep edits over a reload */
  constructor(private readonly unkept: (why: string) => void) {}

  #db: Promise<IDBPDatabase | null> | undefined;
  #open(): Promise<IDBPDatabase | null> {
    this.#db ??= openDB('skeno', 1, { upgrade: (db) => void db.createObjectStore('edits', { keyPath: 'id' }) }).catch((e: unknown) => {
      this.unkept((e as Error).message);
      return null;
    });
    return this.#db;
  }

  async all(): Promise<Stored[]> {
    try {
      return ((await (await this.#open())?.getAll('edits')) ?? []) as Stored[];
    } catch (e) {
      this.unkept((e as Error).message);
      return [];
    }
  }
  /** Writes many in one go: all of them or none. */
  put(entries: Stored[]): Promise<void> {
    return this.#write((store) => entries.map((s) => store.put(s)));
  }
  remove(ids: string[]): Promise<void> {
    return this.#write((store) => ids.map((id) => store.delete(id)));
  }
  async #write(
    work: (store: { put(s: Stored): Promise<unknown>; delete(id: string): Promise<unknown> }) => Promise<unknown>[]
  ): Promise<void> {
    try {
      const db = await this.#open();
      if (db === null) return;
      const tx = db.transaction('edits', 'readwrite');
      const writes = work(tx.store);
      await Promise.all([...writes, tx.done]);
    } catch (e) {
      // what stays behind is sent again after a reload, and applied once: the server knows its id
      this.unkept((e as Error).message);
    }
  }
}
