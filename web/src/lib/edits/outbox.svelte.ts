import { api, ApiError, ask, type Schemas } from '$lib/api/client';
import { SvelteMap } from 'svelte/reactivity';
import { keySubject } from './keys.svelte';
import { BESIDE, EditStore, type Stored } from './store';
import { Tab } from './tab';

export { BESIDE } from './store';
export type Outcome = { edit: Schemas['Edit']; item?: number; result: Schemas['EditResult'] };
export type Entry = { edit: Schemas['Edit']; item?: number };
/** Edits of a turn that are not sent any more until somebody says so, and why. */
export type Held = { project: number; turn: number; count: number; why: string };
/** Why edits wait: nobody answers, the session has ended, the server is busy for a moment, or has a fault. */
export type Trouble = { what: 'offline' | 'signed out' | 'busy' | 'fault'; said: string };
export type Listener = (outcomes: Outcome[], answer: Schemas['EditResults']) => void;

/** Edits sent at a time, when they are small. */
const MOST = 100;
/** Times a batch is tried again after a fault of the server before the edit that brings it is looked for. */
const TRIES = 3;
const LONGEST_WAIT = 15_000;

/** Edits of one turn, in order. */
type Lane = { project: number; turn: number; entries: Stored[]; most: number; wait: number; tries: number; due: boolean };

const laneOf = (project: number, turn: number): string => `${project}/${turn}`;
/** What an edit is about: a mark, a key of one, or what is said of an item. */
export const subjectOf = (edit: Pick<Schemas['Edit'], 'mark'> & Partial<Schemas['Edit']>, item?: number): string =>
  edit.mark === null
    ? `said:${item ?? ''}`
    : edit.action === 'key'
      ? keySubject(edit.mark, Number(edit.data?.place))
      : edit.action === 'drop'
        ? dropSubject(edit.mark)
        : edit.mark;
/** In place of a mark's id: whether a suggestion is found wrong. */
export const dropSubject = (suggestion: string): string => `drop:${suggestion}`;
export const isDropSubject = (subject: string): boolean => subject.startsWith('drop:');

/**
 * Edits on their way to the server; one for each tab and person. Each is written to the browser's store before it is sent and stays there
 * until the server has acknowledged it, so a reload, a crash or a dead network only delays it. One tab at a time sends. Turns do not wait
 * for each other: what can't be delivered of one is held and shown, neither sent nor dropped by itself, and the rest goes on.
 */
export class Outbox {
  trouble = $state.raw<Trouble | null>(null);
  held = $state.raw<Held[]>([]);
  /** why this browser can't keep edits over a reload, when it can't: its store is full or switched off */
  unkept = $state('');
  #waiting = new SvelteMap<number, number>();
  #lanes = new Map<string, Lane>();
  #heldBack: Stored[] = [];
  /** edits a server with a fault could not take: held as soon as it takes others, or none are left */
  #aside: Stored[] = [];
  #listeners = new Map<string, Set<Listener>>();
  #store = new EditStore((why) => (this.unkept = why));
  #tab = new Tab();
  #running: Promise<void> | null = null;
  #seq = 0;
  #writes: Promise<unknown>[] = [];
  #wake: (() => void) | null = null;
  #watch: ReturnType<typeof setInterval> | undefined;

  private constructor(private readonly user: number) {
    if (typeof addEventListener === 'undefined') return;
    addEventListener('online', () => this.wake());
    // what another tab has left behind when it was closed
    this.#watch = setInterval(() => void this.adopt(), 30_000);
  }

  static #open: Outbox | null = null;
  /** The one of this tab. */
  static of(user: number): Outbox {
    if (Outbox.#open === null || Outbox.#open.user !== user) {
      Outbox.reset();
      Outbox.#open = new Outbox(user);
    }
    return Outbox.#open;
  }
  /** Lets go of the one of this tab: somebody else has signed in. What waits stays in the browser's store, and nothing more is sent. */
  static reset(): void {
    Outbox.#open?.retire();
    Outbox.#open = null;
  }
  retire(): void {
    this.#retired = true;
    clearInterval(this.#watch);
    this.#listeners.clear();
    this.#wake?.();
  }
  #retired = false;

  /** Edits of a project that have not been acknowledged. */
  waiting(project: number): number {
    return this.#waiting.get(project) ?? 0;
  }
  heldOf(project: number): Held[] {
    return this.held.filter((h) => h.project === project);
  }
  /** Edits of a turn that are held and have to be settled before it can be submitted. */
  undelivered(project: number, turn: number): number {
    return this.held.reduce((sum, h) => sum + (h.project === project && h.turn === turn ? h.count : 0), 0);
  }

  /** Takes over what this tab had before a reload, and what tabs that are gone have left; oldest first, sent at once. */
  async adopt(): Promise<void> {
    const [all, tab, alive] = await Promise.all([this.#store.all(), this.#tab.id(), this.#tab.alive()]);
    const known = new Set([...[...this.#lanes.values()].flatMap((l) => l.entries), ...this.#heldBack, ...this.#aside].map((s) => s.id));
    const found = all
      .filter(
        (s) => s.user === this.user && !known.has(s.id) && (alive === null || s.tab === undefined || s.tab === tab || !alive.has(s.tab))
      )
      .map((s) => ({ ...s, tab }))
      .sort((a, b) => a.seq - b.seq);
    if (found.length === 0) return;
    await this.#store.put(found);
    this.#seq = found.reduce((most, s) => Math.max(most, s.seq), this.#seq);
    const free = found.filter((s) => !s.held);
    for (const s of free) this.#lane(s.project, s.turn);
    for (const lane of this.#lanes.values()) {
      const mine = free.filter((s) => s.project === lane.project && s.turn === lane.turn);
      lane.entries = [...mine, ...lane.entries].sort((a, b) => a.seq - b.seq);
    }
    this.#heldBack.push(...found.filter((s) => s.held));
    this.#count();
    this.#run();
  }

  /** Edits of a turn that have not been acknowledged, in order; the bench lays them over what the server sent. */
  pending(project: number, turn: number): Schemas['Edit'][] {
    return (this.#lanes.get(laneOf(project, turn))?.entries ?? []).map((s) => s.edit);
  }

  add(project: number, turn: number, entries: Entry[]): void {
    if (entries.length === 0) return;
    const stored = entries.map(({ edit, item }): Stored => ({
      id: edit.id,
      user: this.user,
      project,
      turn,
      ...(item !== undefined && { item }),
      seq: ++this.#seq,
      edit: $state.snapshot(edit) as Schemas['Edit']
    }));
    this.#lane(project, turn).entries.push(...stored);
    this.#writes.push(this.#tab.id().then((tab) => this.#store.put(stored.map((s) => Object.assign(s, { tab })))));
    this.#count();
    this.#run();
  }

  /** Takes back what waits of one subject of a turn: it was refused, or somebody else was first. */
  withdraw(project: number, turn: number, subject: string): void {
    const lane = this.#lanes.get(laneOf(project, turn));
    const gone = lane?.entries.filter((s) => subjectOf(s.edit, s.item) === subject) ?? [];
    if (!lane || gone.length === 0) return;
    lane.entries = lane.entries.filter((s) => !gone.includes(s));
    this.#writes.push(this.#store.remove(gone.map((s) => s.id)));
    this.#count();
  }

  /** Hears what became of the edits of a turn. What nobody hears of and was not taken is held. @returns a call that ends it */
  listen(project: number, turn: number, listener: Listener): () => void {
    const key = laneOf(project, turn);
    const there = this.#listeners.get(key) ?? new Set();
    this.#listeners.set(key, there.add(listener));
    return () => void there.delete(listener);
  }

  /** Resolves when nothing of a turn is on its way any more; @throws Error with what keeps it, when that takes too long */
  async arrived(project: number, turn: number, patience = 8000): Promise<void> {
    const lane = this.#lanes.get(laneOf(project, turn));
    if (!lane || lane.entries.length === 0) return;
    this.wake();
    let timer: ReturnType<typeof setTimeout> | undefined;
    const late = new Promise<never>((_, no) => {
      timer = setTimeout(
        () => no(new Error(`${this.trouble?.said ?? 'the server takes long to answer'}; what you did is kept here, try again`)),
        patience
      );
    });
    try {
      while (lane.entries.length > 0) await Promise.race([this.#turnOver(), late]);
    } finally {
      clearTimeout(timer);
    }
  }
  #overs = new Set<() => void>();
  /** Resolves after the next batch, whatever came of it. */
  #turnOver(): Promise<void> {
    return new Promise((done) => this.#overs.add(done));
  }

  /** Resolves when all has been acknowledged or is held. */
  async flush(): Promise<void> {
    while (this.#running) await this.#running;
  }

  /** Forgets the held edits of a turn: the person has seen them and lets go. */
  drop(project: number, turn: number): void {
    const gone = this.#heldBack.filter((s) => s.project === project && s.turn === turn);
    this.#heldBack = this.#heldBack.filter((s) => !gone.includes(s));
    this.#count();
    this.#writes.push(this.#store.remove(gone.map((s) => s.id)));
  }
  /** Sends the held edits of a turn again: it may be free by now. */
  again(project: number, turn: number): void {
    const mine = this.#heldBack.filter((s) => s.project === project && s.turn === turn).sort((a, b) => a.seq - b.seq);
    this.#heldBack = this.#heldBack.filter((s) => !mine.includes(s));
    for (const s of mine) delete s.held;
    const lane = this.#lane(project, turn);
    lane.entries = [...mine, ...lane.entries].sort((a, b) => a.seq - b.seq);
    this.#writes.push(this.#store.put(mine));
    this.#count();
    this.#run();
  }

  /** Tries again at once: the network is back, or somebody has signed in again. */
  wake(): void {
    for (const lane of this.#lanes.values()) lane.due = true;
    this.#wake?.();
  }

  #lane(project: number, turn: number): Lane {
    const key = laneOf(project, turn);
    let lane = this.#lanes.get(key);
    if (!lane) this.#lanes.set(key, (lane = { project, turn, entries: [], most: MOST, wait: 1000, tries: 0, due: true }));
    return lane;
  }

  #run(): void {
    this.#running ??= this.#loop().finally(() => {
      this.#running = null;
      // what came in while the last one ended
      if (!this.#retired && [...this.#lanes.values()].some((l) => l.entries.length > 0)) this.#run();
    });
  }
  async #loop(): Promise<void> {
    while (!this.#retired) {
      const busy = [...this.#lanes.values()].filter((l) => l.entries.length > 0);
      if (busy.length === 0) {
        if (this.#aside.length === 0) break;
        this.#holdAside();
        continue;
      }
      const lane = busy.filter((l) => l.due).sort((a, b) => a.entries[0]!.seq - b.entries[0]!.seq)[0];
      if (!lane) {
        await new Promise<void>((done) => (this.#wake = done));
        this.#wake = null;
        continue;
      }
      await Promise.all(this.#writes.splice(0));
      if (this.#retired) break;
      await this.#tab.alone(`send-${this.user}`, () => this.#batch(lane));
      for (const done of [...this.#overs]) {
        this.#overs.delete(done);
        done();
      }
    }
    this.trouble = null;
  }
  async #batch(lane: Lane): Promise<void> {
    const batch = lane.entries.slice(0, lane.most);
    if (batch.length === 0) return;
    let answer: Schemas['EditResults'];
    try {
      answer = await this.#send(lane, batch);
    } catch (e) {
      return this.#failed(lane, batch, e);
    }
    const gone = new Set(batch);
    lane.entries = lane.entries.filter((s) => !gone.has(s));
    [lane.wait, lane.tries, lane.most, this.trouble] = [1000, 0, Math.min(MOST, lane.most * 2), null];
    if (this.#aside.length > 0) this.#holdAside();
    this.#tell(lane, batch, answer);
    await this.#store.remove(batch.filter((s) => !s.held).map((s) => s.id));
    this.#count();
  }
  #tell(lane: Lane, batch: Stored[], answer: Schemas['EditResults']): void {
    const outcomes = batch.map((s, i) => ({ edit: s.edit, ...(s.item !== undefined && { item: s.item }), result: answer.results[i]! }));
    const listeners = [...(this.#listeners.get(laneOf(lane.project, lane.turn)) ?? [])];
    if (listeners.length > 0) {
      for (const listener of listeners) listener(outcomes, answer);
      return;
    }
    const lost = batch.filter((_, i) => ['conflict', 'refused'].includes(answer.results[i]!.outcome));
    for (const s of lost) {
      const { outcome, reason } = answer.results[batch.indexOf(s)]!;
      s.held = outcome === 'conflict' ? 'somebody else had changed the same meanwhile' : (reason ?? 'the server refused it');
    }
    this.#hold(lost);
  }
  #failed(lane: Lane, batch: Stored[], e: unknown): void {
    const error = e instanceof ApiError ? e : null;
    const status = error?.status ?? 0;
    const said = (e as Error).message;
    if (status === 413 && batch.length > 1) {
      // too much at a time: fewer now, none is lost
      lane.most = Math.floor(batch.length / 2);
      return;
    }
    if ([403, 404, 409, 410, 413, 422].includes(status)) {
      const all = lane.entries;
      lane.entries = [];
      for (const s of all) s.held = said;
      this.#hold(all);
      return;
    }
    if (status === 500 && ++lane.tries >= TRIES) {
      [lane.tries, lane.wait] = [0, 1000];
      if (batch.length > 1) {
        // one of them brings it: it is found by halves, so that it does not hold the others
        lane.most = Math.ceil(batch.length / 2);
        return;
      }
      const subject = subjectOf(batch[0]!.edit, batch[0]!.item);
      const those = lane.entries.filter((s) => subjectOf(s.edit, s.item) === subject);
      lane.entries = lane.entries.filter((s) => !those.includes(s));
      for (const s of those) s.held = `the server has a fault with it (${said})`;
      this.#aside.push(...those);
      this.#count();
      return;
    }
    // while the labels of the project are put into the words of a new codebook, or somebody else writes for long, edits wait a moment
    const soon = error?.code === 'codebook_changing' || error?.code === 'busy_writing';
    if (soon) lane.wait = 1000;
    this.trouble = soon
      ? { what: 'busy', said: 'the server is busy for a moment' }
      : status === 401 || status === 419
        ? { what: 'signed out', said: 'you are signed out' }
        : status === 0
          ? { what: 'offline', said: 'the server does not answer' }
          : status === 429 || status === 502 || status === 503 || status === 504
            ? { what: 'busy', said }
            : { what: 'fault', said: `the server has a fault (${said})` };
    // whoever does not answer one does not answer the others
    const same = this.trouble.what === 'offline' || this.trouble.what === 'signed out' ? [...this.#lanes.values()] : [lane];
    for (const other of same) other.due = false;
    setTimeout(() => {
      for (const other of same) other.due = true;
      this.#wake?.();
    }, lane.wait);
    lane.wait = Math.min(lane.wait * 2, LONGEST_WAIT);
  }

  #send({ project, turn }: Lane, batch: Stored[]): Promise<Schemas['EditResults']> {
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

  #holdAside(): void {
    const those = this.#aside;
    this.#aside = [];
    this.#hold(those);
  }
  #hold(entries: Stored[]): void {
    if (entries.length === 0) return;
    this.#heldBack.push(...entries);
    this.#writes.push(this.#store.put(entries));
    this.#count();
  }

  #count(): void {
    const waiting = new Map<number, number>();
    for (const lane of this.#lanes.values()) waiting.set(lane.project, (waiting.get(lane.project) ?? 0) + lane.entries.length);
    for (const s of this.#aside) waiting.set(s.project, (waiting.get(s.project) ?? 0) + 1);
    for (const [project, n] of waiting) if (this.#waiting.get(project) !== n) this.#waiting.set(project, n);
    const held = new Map<string, Held>();
    for (const s of this.#heldBack) {
      const key = laneOf(s.project, s.turn);
      const there = held.get(key);
      if (there) there.count++;
      else held.set(key, { project: s.project, turn: s.turn, count: 1, why: s.held ?? '' });
    }
    this.held = [...held.values()];
  }
}
