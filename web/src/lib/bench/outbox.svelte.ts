import { api, ApiError, ask, type Schemas } from '$lib/api/client';
import { openDB, type IDBPDatabase } from 'idb';

/** `turn` is BESIDE for an edit made beside the turns, of a mark of `item`. */
type Stored = { id: string; user: number; project: number; turn: number; item?: number; seq: number; edit: Schemas['Edit']; held?: string };
export type Outcome = { turn: number; item?: number; edit: Schemas['Edit']; result: Schemas['EditResult'] };

/** In place of a turn: a sweep, or a correction on the contact sheet. */
export const BESIDE = 0;
/** Edits sent at a time, when they are small. */
const MOST = 50;

/**
 * Edits on their way to the server. Each is written to IndexedDB before anything else and stays there until the server has
 * acknowledged it, so a reload, a crash or a dead network only delays it. Edits of a turn that somebody else has taken over are held,
 * shown, and neither sent nor dropped by themselves.
 */
export class Outbox {
  waiting = $state(0);
  held = $state<{ turn: number; count: number; why: string }[]>([]);
  status = $state<'saved' | 'saving' | 'offline' | 'signed out'>('saved');
  /** why this browser can't keep edits over a reload, when it can't: its store is full or switched off */
  unkept = $state('');
  #db: Promise<IDBPDatabase>;
  #queue: Stored[] = [];
  #running: Promise<void> | null = null;
  #seq = 0;
  /** edits sent at a time */
  #most = MOST;
  #wake: (() => void) | null = null;
  #writes: Promise<unknown>[] = [];

  constructor(
    private readonly user: number,
    private readonly heard: (outcomes: Outcome[], answer: Schemas['EditResults']) => void
  ) {
    this.#db = openDB('skeno', 1, { upgrade: (db) => void db.createObjectStore('edits', { keyPath: 'id' }) });
    addEventListener('online', this.#retry);
  }

  close(): void {
    removeEventListener('online', this.#retry);
  }

  /** Edits left over from before a reload, oldest first; they are sent at once. */
  async restore(): Promise<void> {
    const all = ((await (await this.#db).getAll('edits')) as Stored[]).filter((s) => s.user === this.user).sort((a, b) => a.seq - b.seq);
    this.#seq = all.reduce((most, s) => Math.max(most, s.seq), 0);
    this.#queue = [...all.filter((s) => !s.held), ...this.#queue];
    for (const s of all) if (s.held) this.#note(s.turn, s.held);
    this.#count();
    void this.flush();
  }

  /** Edits of a turn that have not been acknowledged, in order; the bench lays them over what the server sent. */
  pending(turn: number): Schemas['Edit'][] {
    return this.#queue.filter((s) => s.turn === turn).map((s) => s.edit);
  }

  add(project: number, turn: number, edit: Schemas['Edit'], item?: number): void {
    const stored: Stored = {
      id: edit.id,
      user: this.user,
      project,
      turn,
      ...(item !== undefined && { item }),
      seq: ++this.#seq,
      edit: $state.snapshot(edit) as Schemas['Edit']
    };
    this.#queue.push(stored);
    // a browser that has no room left must not keep the edit from the server
    this.#writes.push(
      this.#db
        .then((db) => db.put('edits', stored))
        .catch((e: Error) => {
          this.unkept = e.message;
        })
    );
    this.#count();
    void this.flush();
  }

  /** Resolves when everything has been acknowledged or can't be sent now. */
  flush(): Promise<void> {
    this.#running ??= this.#run().finally(() => (this.#running = null));
    return this.#running;
  }

  /** Forgets the held edits of a turn: the person has seen them and lets go. */
  async drop(turn: number): Promise<void> {
    const db = await this.#db;
    for (const s of (await db.getAll('edits')) as Stored[])
      if (s.held && s.turn === turn && s.user === this.user) await db.delete('edits', s.id);
    this.held = this.held.filter((h) => h.turn !== turn);
  }

  /** Sends the held edits of a turn again: it may be free by now. */
  async again(turn: number): Promise<void> {
    const db = await this.#db;
    const all = ((await db.getAll('edits')) as Stored[])
      .filter((s) => s.held && s.turn === turn && s.user === this.user)
      .sort((a, b) => a.seq - b.seq);
    for (const s of all) {
      delete s.held;
      await db.put('edits', s);
      this.#queue.push(s);
    }
    this.held = this.held.filter((h) => h.turn !== turn);
    this.#count();
    await this.flush();
  }

  #retry = (): void => this.#wake?.();

  /** Called after signing in again. */
  wake(): void {
    this.#wake?.();
  }

  async #run(): Promise<void> {
    let wait = 1000;
    while (this.#queue.length > 0) {
      this.status = 'saving';
      await Promise.all(this.#writes.splice(0));
      const first = this.#queue[0]!;
      const batch = this.#queue.filter((s) => s.turn === first.turn && s.project === first.project).slice(0, this.#most);
      try {
        const answer = await this.#send(first, batch);
        await this.#forget(batch);
        this.heard(
          batch.map((s, i) => ({ turn: s.turn, ...(s.item !== undefined && { item: s.item }), edit: s.edit, result: answer.results[i]! })),
          answer
        );
        wait = 1000;
        this.#most = Math.min(MOST, this.#most * 2);
      } catch (e) {
        const error = e as ApiError;
        if (error instanceof ApiError && error.status === 413 && batch.length > 1) {
          // too much at a time: fewer now, none is lost
          this.#most = Math.floor(batch.length / 2);
        } else if (error instanceof ApiError && [403, 404, 409, 410, 413, 422].includes(error.status)) {
          await this.#hold(batch[0]!.turn, error.message);
        } else {
          // while the labels of the project are put into the words of a new codebook, edits wait a moment
          // or while somebody else writes for long
          const soon = error instanceof ApiError && (error.code === 'codebook_changing' || error.code === 'busy_writing');
          if (soon) wait = 1000;
          this.status = error.status === 401 || error.status === 419 ? 'signed out' : soon ? 'saving' : 'offline';
          await new Promise<void>((done) => {
            const timer = setTimeout(done, wait);
            this.#wake = () => {
              clearTimeout(timer);
              done();
            };
          });
          this.#wake = null;
          wait = Math.min(wait * 2, 15_000);
        }
      }
    }
    this.status = 'saved';
  }

  #send({ project, turn }: Stored, batch: Stored[]): Promise<Schemas['EditResults']> {
    return turn === BESIDE
      ? ask(
          api.POST('/projects/{project}/edits', {
            params: { path: { project } },
            body: { edits: batch.map((s) => ({ ...s.edit, item: s.item ?? 0 })) }
          })
        )
      : ask(
          api.POST('/projects/{project}/turns/{turn}/edits', {
            params: { path: { project, turn } },
            body: { edits: batch.map((s) => s.edit) }
          })
        );
  }

  async #forget(batch: Stored[]): Promise<void> {
    const gone = new Set(batch.map((s) => s.id));
    this.#queue = this.#queue.filter((s) => !gone.has(s.id));
    this.#count();
    try {
      const tx = (await this.#db).transaction('edits', 'readwrite');
      await Promise.all([...[...gone].map((id) => tx.store.delete(id)), tx.done]);
    } catch (e) {
      // what stays behind is sent again after a reload, and applied once: the server knows its id
      this.unkept = (e as Error).message;
    }
  }

  async #hold(turn: number, why: string): Promise<void> {
    const mine = this.#queue.filter((s) => s.turn === turn);
    this.#queue = this.#queue.filter((s) => s.turn !== turn);
    const db = await this.#db;
    for (const s of mine) {
      await db.put('edits', { ...s, held: why });
      this.#note(turn, why);
    }
    this.#count();
  }

  #note(turn: number, why: string): void {
    const there = this.held.find((h) => h.turn === turn);
    if (there) there.count++;
    else this.held.push({ turn, count: 1, why });
  }

  #count(): void {
    this.waiting = this.#queue.length;
  }
}
