// @vitest-environment jsdom
import 'fake-indexeddb/auto';
import { IDBFactory, IDBObjectStore } from 'fake-indexeddb';
import { beforeEach, describe, expect, it, vi } from 'vitest';
import { Outbox, type Outcome } from './outbox.svelte';
import { ulid } from './ulid';

/** A server that answers as told, and remembers the batches it was sent. It stands before the client is loaded, which keeps its `fetch`. */
const server = vi.hoisted(() => {
  const state = { batches: [] as string[][], answers: [] as (() => Response | Promise<Response>)[] };
  const json = (status: number, data: unknown) =>
    new Response(JSON.stringify(data), {
      status,
      headers: { 'Content-Type': status < 400 ? 'application/json' : 'application/problem+json' }
    });
  const Plain = globalThis.Request;
  // paths of the app are relative to its own address, which there is none of here
  globalThis.Request = class extends Plain {
    constructor(input: RequestInfo | URL, init?: RequestInit) {
      super(typeof input === 'string' ? new URL(input, 'http://127.0.0.1') : input, init);
    }
  };
  globalThis.fetch = async (request) => {
    const { edits } = (await (request as Request).json()) as { edits: { id: string }[] };
    state.batches.push(edits.map((e) => e.id));
    const answer = state.answers.shift();
    return answer
      ? answer()
      : json(200, {
          results: edits.map(() => ({ id: null, outcome: 'applied', mark: null })),
          findings: [],
          codebook_version: 1,
          seconds: 0
        });
  };
  return {
    state,
    problem: (status: number, message: string) => json(status, { code: 'x', title: message, message, status, detail: message })
  };
});
const { problem } = server;

beforeEach(() => {
  server.state.batches = [];
  server.state.answers = [];
  globalThis.indexedDB = new IDBFactory();
});

const edit = () => ({ id: ulid(), action: 'create' as const, mark: ulid(), base: 0, data: {} });
const box = (user = 1, heard: (o: Outcome[]) => void = () => {}) => new Outbox(user, heard);

describe('the outbox', () => {
  it('sends fewer at a time when the server says it is too much, and loses none', async () => {
    server.state.answers = [() => problem(413, 'too much'), () => problem(413, 'too much')];
    const outbox = box();
    const edits = Array.from({ length: 40 }, edit);
    for (const e of edits) outbox.add(7, 3, e);
    await outbox.flush();
    const sizes = server.state.batches.map((b) => b.length);
    expect(sizes[0]! / 2).toBe(sizes[1]);
    expect(new Set(server.state.batches.slice(2).flat())).toEqual(new Set(edits.map((e) => e.id)));
    expect([outbox.waiting, outbox.held.length]).toEqual([0, 0]);
  });
  it('waits while a codebook is changed, and says no more than that it is saving', async () => {
    vi.useFakeTimers({ toFake: ['setTimeout'] });
    server.state.answers = [
      () =>
        new Response(JSON.stringify({ code: 'codebook_changing', title: 'x', status: 503, detail: 'being changed' }), {
          status: 503,
          headers: { 'Content-Type': 'application/problem+json' }
        })
    ];
    const outbox = box();
    outbox.add(7, 3, edit());
    const done = outbox.flush();
    await vi.waitFor(() => expect(server.state.batches).toHaveLength(1));
    expect(outbox.status).toBe('saving');
    await vi.waitFor(() => {
      vi.advanceTimersByTime(1000);
      expect(server.state.batches).toHaveLength(2);
    });
    vi.useRealTimers();
    await done;
    expect(outbox.waiting).toBe(0);
  });
  it('sends in order, in server.state.batches, and tells the outcome of each', async () => {
    const seen: string[] = [];
    const outbox = box(1, (outcomes) => seen.push(...outcomes.map((o) => o.edit.id)));
    const edits = Array.from({ length: 60 }, edit);
    for (const e of edits) outbox.add(7, 3, e);
    expect(outbox.waiting).toBe(60);
    await outbox.flush();
    expect(server.state.batches.map((b) => b.length)).toEqual([50, 10]);
    expect(seen).toEqual(edits.map((e) => e.id));
    expect([outbox.waiting, outbox.status]).toEqual([0, 'saved']);
  });
  it('keeps what was not acknowledged over a reload, and sends it again as it was', async () => {
    server.state.answers = [() => Promise.reject(new TypeError('network'))];
    const before = box();
    const e = edit();
    before.add(7, 3, e);
    await vi.waitFor(() => expect(before.status).toBe('offline'));
    before.close();
    // another page: nothing in memory, the store is the same
    const after = box();
    await after.restore();
    await after.flush();
    expect(server.state.batches.at(-1)).toEqual([e.id]);
    expect(after.pending(3)).toEqual([]);
    const third = box();
    await third.restore();
    expect(third.waiting).toBe(0);
  });
  it("does not send another person's edits", async () => {
    server.state.answers = [() => Promise.reject(new TypeError('network'))];
    const mei = box(1);
    mei.add(7, 3, edit());
    await vi.waitFor(() => expect(mei.status).toBe('offline'));
    const sent = server.state.batches.length;
    const ravi = box(2);
    await ravi.restore();
    await ravi.flush();
    expect([ravi.waiting, server.state.batches.length]).toEqual([0, sent]);
  });
  it('holds the edits of a turn that was taken over, sends those of others, and lets go only when told', async () => {
    server.state.answers = [() => problem(409, 'somebody else has taken this item over')];
    const outbox = box();
    const [lost, fine] = [edit(), edit()];
    outbox.add(7, 3, lost);
    outbox.add(7, 4, fine);
    await outbox.flush();
    expect(outbox.held).toEqual([{ turn: 3, count: 1, why: 'somebody else has taken this item over' }]);
    expect(server.state.batches).toEqual([[lost.id], [fine.id]]);
    // still there after a reload; then free again
    const after = box();
    await after.restore();
    expect(after.held).toHaveLength(1);
    await after.again(3);
    expect(server.state.batches.at(-1)).toEqual([lost.id]);
    expect(after.held).toEqual([]);
  });
  it('waits while signed out and goes on when woken', async () => {
    server.state.answers = [() => problem(401, 'signed out')];
    const outbox = box();
    const e = edit();
    outbox.add(7, 3, e);
    await vi.waitFor(() => expect(outbox.status).toBe('signed out'));
    expect(outbox.pending(3)).toHaveLength(1);
    outbox.wake();
    await outbox.flush();
    expect(server.state.batches).toEqual([[e.id], [e.id]]);
    expect(outbox.status).toBe('saved');
  });
  it('delivers from memory when the browser has no room to keep edits, and says so', async () => {
    const put = vi.spyOn(IDBObjectStore.prototype, 'put').mockImplementation(() => {
      throw new DOMException('the quota has been exceeded', 'QuotaExceededError');
    });
    const outbox = box();
    const e = edit();
    outbox.add(7, 3, e);
    await outbox.flush();
    put.mockRestore();
    expect(server.state.batches).toEqual([[e.id]]);
    expect(outbox.unkept).toContain('quota');
    expect(outbox.waiting).toBe(0);
  });
});
