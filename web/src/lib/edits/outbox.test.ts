// @vitest-environment jsdom
import 'fake-indexeddb/auto';
import { IDBFactory, IDBObjectStore } from 'fake-indexeddb';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { applied, EditServer, offline, problem } from '../../test/server';
import { BESIDE, Outbox, type Outcome } from './outbox.svelte';
import { ulid } from './ulid';

let server: EditServer;
beforeEach(() => {
  server = new EditServer();
  globalThis.indexedDB = new IDBFactory();
  sessionStorage.clear();
});
afterEach(() => {
  Outbox.reset();
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

const edit = (more: object = {}) => ({ id: ulid(), action: 'create' as const, mark: ulid(), base: 0, data: {}, ...more });
const add = (box: Outbox, turn: number, ...edits: ReturnType<typeof edit>[]) =>
  box.add(
    7,
    turn,
    edits.map((e) => ({ edit: e }))
  );
/** Another page of the same tab: nothing in memory, the store is the same. */
const reload = (user = 1): Outbox => {
  Outbox.reset();
  return Outbox.of(user);
};
/** Lets time pass until something is so; only timers are false, the store works as ever. */
const pass = async (is: () => void) => {
  await vi.waitFor(() => {
    vi.advanceTimersByTime(15_000);
    is();
  });
};

describe('the outbox', () => {
  it('is one for the tab and a person', () => {
    expect(Outbox.of(1)).toBe(Outbox.of(1));
    const mei = Outbox.of(1);
    expect(Outbox.of(2)).not.toBe(mei);
  });
  it('sends in order, in batches, and tells the outcome of each', async () => {
    const seen: string[] = [];
    const box = Outbox.of(1);
    box.listen(7, 3, (outcomes) => seen.push(...outcomes.map((o) => o.edit.id)));
    const edits = Array.from({ length: 130 }, () => edit());
    add(box, 3, ...edits);
    expect(box.waiting(7)).toBe(130);
    await box.flush();
    expect(server.batches.map((b) => b.length)).toEqual([100, 30]);
    expect(seen).toEqual(edits.map((e) => e.id));
    expect([box.waiting(7), box.trouble]).toEqual([0, null]);
  });
  it('sends fewer at a time when the server says it is too much, and loses none', async () => {
    server.answers = [() => problem(413, 'too much'), () => problem(413, 'too much')];
    const edits = Array.from({ length: 40 }, () => edit());
    const box = Outbox.of(1);
    add(box, 3, ...edits);
    await box.flush();
    const sizes = server.batches.map((b) => b.length);
    expect([sizes[0], sizes[1], sizes[2]]).toEqual([40, 20, 10]);
    expect(new Set(server.ids.slice(2).flat())).toEqual(new Set(edits.map((e) => e.id)));
    expect(box.held).toEqual([]);
  });
  it('keeps apart what belongs to different projects', async () => {
    server.answers = [offline];
    const box = Outbox.of(1);
    box.add(7, 3, [{ edit: edit() }]);
    box.add(8, 3, [{ edit: edit() }]);
    expect([box.waiting(7), box.waiting(8), box.waiting(9)]).toEqual([1, 1, 0]);
    expect(box.pending(8, 3)).toHaveLength(1);
  });
  it('takes back what waits of one mark', async () => {
    server.answers = [offline];
    const box = Outbox.of(1);
    const [a, b] = [edit({ mark: 'A' }), edit({ mark: 'B' })];
    add(box, 3, a, b, edit({ mark: 'A' }));
    box.withdraw(7, 3, 'A');
    expect(box.pending(7, 3).map((e) => e.id)).toEqual([b.id]);
  });
});

describe('what a connection does to it', () => {
  it('keeps what was not acknowledged over a reload, and sends it again as it was', async () => {
    server.answers = [offline];
    const before = Outbox.of(1);
    const e = edit();
    add(before, 3, e);
    await vi.waitFor(() => expect(before.trouble?.what).toBe('offline'));
    const after = reload();
    await after.adopt();
    await after.flush();
    expect(server.ids.at(-1)).toEqual([e.id]);
    expect(after.pending(7, 3)).toEqual([]);
    const third = reload();
    await third.adopt();
    expect(third.waiting(7)).toBe(0);
  });
  it('stops sending when it is let go', async () => {
    vi.useFakeTimers({ toFake: ['setTimeout'] });
    server.answers = [offline];
    const box = Outbox.of(1);
    add(box, 3, edit());
    await vi.waitFor(() => expect(box.trouble?.what).toBe('offline'));
    Outbox.reset();
    vi.advanceTimersByTime(60_000);
    await Promise.resolve();
    expect(server.batches).toHaveLength(1);
  });
  it("does not send another person's edits", async () => {
    server.answers = [offline];
    const mei = Outbox.of(1);
    add(mei, 3, edit());
    await vi.waitFor(() => expect(mei.trouble?.what).toBe('offline'));
    const sent = server.batches.length;
    const ravi = reload(2);
    await ravi.adopt();
    await ravi.flush();
    expect([ravi.waiting(7), server.batches.length]).toEqual([0, sent]);
  });
  it('names what keeps it: signed out, busy, a fault; and goes on when woken', async () => {
    for (const [status, code, what] of [
      [401, 'x', 'signed out'],
      [503, 'codebook_changing', 'busy'],
      [429, 'x', 'busy'],
      [500, 'x', 'fault']
    ] as const) {
      server.answers = [() => problem(status, 'no', code)];
      const box = reload();
      const e = edit();
      add(box, 3, e);
      await vi.waitFor(() => expect(box.trouble?.what).toBe(what));
      expect(box.pending(7, 3)).toHaveLength(1);
      box.wake();
      await box.flush();
      expect(server.ids.at(-1)).toEqual([e.id]);
      expect(box.trouble).toBeNull();
    }
  });
  it('says by when it has arrived, and what keeps it when it does not', async () => {
    vi.useFakeTimers({ toFake: ['setTimeout'] });
    const box = Outbox.of(1);
    await box.arrived(7, 3);
    add(box, 3, edit());
    await box.arrived(7, 3);
    expect(server.batches).toHaveLength(1);
    server.answers = Array.from({ length: 20 }, () => offline);
    add(box, 3, edit());
    const late = box.arrived(7, 3, 60_000).then(
      () => 'arrived',
      (e: Error) => e.message
    );
    await pass(() => expect(server.batches.length).toBeGreaterThan(4));
    expect(await late).toContain('the server does not answer');
  });
  it('a turn that can not be delivered holds no other', async () => {
    server.answers = [() => problem(500, 'broken'), () => problem(409, 'somebody else has taken this item over')];
    const box = Outbox.of(1);
    const [broken, lost, fine] = [edit(), edit(), edit()];
    add(box, 3, broken);
    add(box, 4, lost);
    add(box, 5, fine);
    await vi.waitFor(() => expect(server.ids).toEqual([[broken.id], [lost.id], [fine.id]]));
    await vi.waitFor(() => expect(box.held).toEqual([{ project: 7, turn: 4, count: 1, why: 'somebody else has taken this item over' }]));
    expect(box.waiting(7)).toBe(1);
    expect(box.undelivered(7, 4)).toBe(1);
    expect(box.undelivered(7, 5)).toBe(0);
  });
  it('finds the one edit that brings a fault, holds it with what was built on it, and delivers the rest', async () => {
    vi.useFakeTimers({ toFake: ['setTimeout'] });
    const edits = Array.from({ length: 8 }, (_, i) => edit({ mark: `M${i === 6 ? 2 : i}` }));
    const bad = edits[2]!;
    server.answers = Array.from(
      { length: 60 },
      () => (all: { id: string }[]) => (all.some((e) => e.id === bad.id) ? problem(500, 'broken') : applied(all as never))
    );
    const box = Outbox.of(1);
    add(box, 3, ...edits);
    await pass(() => expect(box.waiting(7)).toBe(0));
    expect(box.held).toMatchObject([{ turn: 3, count: 2 }]);
    expect(box.held[0]!.why).toContain('fault');
    const arrived = new Set(server.ids.filter((b) => !b.includes(bad.id)).flat());
    expect([...arrived].sort()).toEqual(
      edits
        .filter((_, i) => i !== 2 && i !== 6)
        .map((e) => e.id)
        .sort()
    );
  });
});

describe('what was not taken', () => {
  it('is held with its reason when nobody hears of it, and sent again or let go when told', async () => {
    const outcome = { current: 'conflict' as 'conflict' | 'applied' };
    server.answers = Array.from({ length: 3 }, () => (all) => applied(all, () => ({ outcome: outcome.current })));
    const box = Outbox.of(1);
    const e = edit();
    add(box, 3, e);
    await box.flush();
    expect(box.held[0]!.why).toContain('somebody else');
    // still there after a reload
    const after = reload();
    await after.adopt();
    expect(after.undelivered(7, 3)).toBe(1);
    outcome.current = 'applied';
    after.again(7, 3);
    await after.flush();
    expect(server.ids.at(-1)).toEqual([e.id]);
    expect(after.held).toEqual([]);
    server.answers = [() => problem(403, 'no')];
    add(after, 3, edit());
    await after.flush();
    after.drop(7, 3);
    await after.flush();
    expect(after.held).toEqual([]);
  });
  it('is told to who listens, and then not held', async () => {
    server.answers = [(all) => applied(all, () => ({ outcome: 'refused', reason: 'no such class' }))];
    const heard: Outcome[] = [];
    const box = Outbox.of(1);
    const end = box.listen(7, BESIDE, (outcomes) => heard.push(...outcomes));
    box.add(7, BESIDE, [{ edit: edit(), item: 12 }]);
    await box.flush();
    expect(heard.map((o) => [o.item, o.result.outcome])).toEqual([[12, 'refused']]);
    expect(box.held).toEqual([]);
    end();
    expect(server.paths).toEqual(['/projects/7/edits']);
    expect(server.batches[0]![0]!.item).toBe(12);
  });
});

describe('a browser that keeps nothing', () => {
  it('delivers from memory when there is no room, also what has to be held, and says so', async () => {
    const put = vi.spyOn(IDBObjectStore.prototype, 'put').mockImplementation(() => {
      throw new DOMException('the quota has been exceeded', 'QuotaExceededError');
    });
    server.answers = [(all) => applied(all), () => problem(409, 'taken over')];
    const box = Outbox.of(1);
    const e = edit();
    add(box, 3, e);
    await box.flush();
    expect(server.ids).toEqual([[e.id]]);
    expect(box.unkept).toContain('quota');
    add(box, 3, edit(), edit());
    await box.flush();
    put.mockRestore();
    expect(box.undelivered(7, 3)).toBe(2);
  });
  it('opens without a store at all', async () => {
    vi.stubGlobal('indexedDB', {
      open: () => {
        throw new DOMException('storage is switched off', 'SecurityError');
      }
    });
    const box = Outbox.of(1);
    await box.adopt();
    add(box, 3, edit());
    await box.flush();
    expect(server.batches).toHaveLength(1);
    expect(box.unkept).toContain('switched off');
  });
});

describe('several tabs', () => {
  /** Locks of a browser that tabs share. */
  class Locks {
    held = new Map<string, Promise<unknown>>();
    async request(name: string, options: unknown, call?: (lock: object | null) => Promise<unknown>) {
      const work = (call ?? options) as (lock: object | null) => Promise<unknown>;
      const only = call !== undefined && (options as { ifAvailable?: boolean }).ifAvailable;
      if (only && this.held.has(name)) return work(null);
      while (this.held.has(name)) await this.held.get(name);
      const done = Promise.resolve(work({}));
      this.held.set(name, done);
      try {
        return await done;
      } finally {
        this.held.delete(name);
      }
    }
    query = () => Promise.resolve({ held: [...this.held.keys()].map((name) => ({ name })) });
  }
  it("leaves a living tab's edits to it, takes over those of one that is gone, and sends one batch at a time", async () => {
    const locks = new Locks();
    vi.stubGlobal('navigator', { ...navigator, locks });
    server.answers = [offline];
    const first = Outbox.of(1);
    add(first, 3, edit());
    await vi.waitFor(() => expect(first.trouble?.what).toBe('offline'));
    // a second tab: its own name, and the first is alive
    sessionStorage.clear();
    const second = reload();
    await second.adopt();
    expect(second.waiting(7)).toBe(0);
    // the first one is closed
    for (const name of locks.held.keys()) if (name.startsWith('skeno-tab-')) locks.held.delete(name);
    await second.adopt();
    await second.flush();
    expect(server.batches).toHaveLength(2);
    expect(second.waiting(7)).toBe(0);
  });
  it('a tab that was doubled takes a name of its own', async () => {
    const locks = new Locks();
    vi.stubGlobal('navigator', { ...navigator, locks });
    const { Tab } = await import('./tab');
    const name = await new Tab().id();
    sessionStorage.setItem('skeno-tab', name);
    const other = await new Tab().id();
    expect(other).not.toBe(name);
  });
});
