// @vitest-environment jsdom
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { Uploader } from './upload.svelte';

type Kept = { id: number; path: string; bytes: number; received: number; state: string; reason: string };

/** A server that keeps what it is sent, and fails as told. It stands before the client is loaded, which keeps its `fetch`. */
const server = vi.hoisted(() => {
  const state = {
    asked: [] as string[],
    files: [] as Kept[],
    content: new Map<number, string>(),
    /** what happens to the next request whose method and path begin like this, instead of an answer; once each */
    trouble: [] as { at: string; does: 'offline' | 'lost' | { status: number; code: string; field?: string } }[]
  };
  const Plain = globalThis.Request;
  globalThis.Request = class extends Plain {
    constructor(input: RequestInfo | URL, init?: RequestInit) {
      super(typeof input === 'string' ? new URL(input, 'http://127.0.0.1') : input, init);
    }
  };
  const json = (status: number, data: unknown) =>
    new Response(JSON.stringify(data), {
      status,
      headers: { 'Content-Type': status < 400 ? 'application/json' : 'application/problem+json' }
    });
  const begun = { id: 7, state: 'receiving', piece_bytes: 4, counts: {}, noticed: [], options: {}, labels: null, error: '', done: 0 };
  const announce = (file: { path: string; bytes: number }): Kept => {
    let kept = state.files.find((f) => f.path === file.path);
    if (!kept) state.files.push((kept = { id: state.files.length + 1, ...file, received: 0, state: 'receiving', reason: '' }));
    return { ...kept };
  };
  globalThis.fetch = async (input) => {
    const request = input as Request;
    const url = new URL(request.url);
    const at = `${request.method} ${url.pathname.replace('/api/v1/projects/3/imports', '')}`;
    state.asked.push(at);
    const i = state.trouble.findIndex((t) => at.startsWith(t.at));
    const does = i < 0 ? null : state.trouble.splice(i, 1)[0]!.does;
    if (does === 'offline') throw new TypeError('no network');
    if (does !== null && typeof does === 'object') return json(does.status, { ...does, title: 'no', detail: `refused: ${does.code}` });
    const answer = await (async () => {
      if (at === 'POST ') return json(201, begun);
      if (at === 'POST /7/finish') return json(200, { ...begun, state: 'working' });
      if (at === 'POST /7/files/many') return json(201, { data: ((await request.json()) as { files: Kept[] }).files.map(announce) });
      if (at === 'POST /7/files') return json(201, announce((await request.json()) as Kept));
      const file = state.files.find((f) => f.id === Number(url.pathname.split('/').pop()))!;
      const offset = Number(url.searchParams.get('offset'));
      if (offset !== file.received)
        return json(409, { status: 409, code: 'wrong_offset', title: 'no', detail: 'no', received: file.received });
      const piece = new TextDecoder().decode(await request.arrayBuffer());
      state.content.set(file.id, (state.content.get(file.id) ?? '') + piece);
      file.received += piece.length;
      if (file.received === file.bytes) file.state = 'received';
      return json(200, { ...file });
    })();
    // done, but nobody hears of it
    if (does === 'lost') throw new TypeError('the line broke');
    return answer;
  };
  return { state };
});

const file = (path: string, content: string) => ({ path, file: new File([content], path) });
const many = (n: number) => Array.from({ length: n }, (_, i) => file(`walk/p${i}.jpg`, `picture ${i}`));
const arrived = () => Object.fromEntries(server.state.files.map((f) => [f.path, server.state.content.get(f.id)]));

beforeEach(() => {
  vi.useFakeTimers({ shouldAdvanceTime: true, advanceTimeDelta: 400 });
  Object.assign(server.state, { asked: [], files: [], content: new Map(), trouble: [] });
});
afterEach(() => vi.useRealTimers());

async function send(files: { path: string; file: File }[]): Promise<Uploader> {
  const uploader = new Uploader(3, { again: false });
  uploader.add(files);
  await uploader.run();
  return uploader;
}

describe('sending files', () => {
  it('announces many at a time, and sends each whole in its pieces', async () => {
    const uploader = await send(many(230));
    expect(server.state.asked.filter((a) => a === 'POST /7/files/many')).toHaveLength(3);
    expect(server.state.asked.filter((a) => a === 'POST /7/files')).toHaveLength(0);
    expect(arrived()).toEqual(Object.fromEntries(Array.from({ length: 230 }, (_, i) => [`walk/p${i}.jpg`, `picture ${i}`])));
    expect(uploader.busy).toBe(false);
    expect(uploader.sent).toBe(uploader.bytes);
    expect(server.state.asked.at(-1)).toBe('POST /7/finish');
  });

  it('sends a handful one after the other, so that they come in as they stand', async () => {
    await send(['c', 'a', 'b'].map((name) => file(`${name}.jpg`, `picture ${name} in pieces`)));
    const pieces = server.state.asked.filter((a) => a.startsWith('PUT')).map((a) => Number(a.split('/').pop()));
    expect(pieces).toEqual([...pieces].sort());
    expect(new Set(pieces).size).toBe(3);
    expect(pieces.length).toBeGreaterThan(6);
  });

  it('goes on where the server stopped, also when only the answer was lost', async () => {
    server.state.trouble = [
      { at: 'POST /7/files/many', does: 'offline' },
      { at: 'PUT', does: 'offline' },
      { at: 'PUT', does: 'lost' },
      { at: 'POST /7/files', does: 'offline' }
    ];
    const uploader = await send([file('a.jpg', 'a picture of some length'), file('b.jpg', 'another')]);
    expect(arrived()).toEqual({ 'a.jpg': 'a picture of some length', 'b.jpg': 'another' });
    expect(uploader.jobs.map((j) => j.state)).toEqual(['sent', 'sent']);
    expect(uploader.paused).toBe('');
    // the waits after four broken connections come one after the other
  }, 20_000);

  it('waits where the server is busy writing or the session has ended', async () => {
    server.state.trouble = [
      { at: 'POST /7/files/many', does: { status: 503, code: 'busy_writing' } },
      { at: 'PUT', does: { status: 401, code: 'signed_out' } }
    ];
    await send([file('a.jpg', 'one'), file('b.jpg', 'two')]);
    expect(arrived()).toEqual({ 'a.jpg': 'one', 'b.jpg': 'two' });
  });

  it('leaves out the one that is refused, and says why; the others go', async () => {
    server.state.trouble = [{ at: 'POST /7/files/many', does: { status: 422, code: 'invalid_value', field: 'files[1].bytes' } }];
    const uploader = await send([file('a.jpg', 'one'), file('empty.jpg', ''), file('c.jpg', 'three')]);
    expect(uploader.jobs.map((j) => [j.state, j.reason])).toEqual([
      ['sent', ''],
      ['failed', 'refused: invalid_value'],
      ['sent', '']
    ]);
    expect(arrived()).toEqual({ 'a.jpg': 'one', 'c.jpg': 'three' });
  });

  it('says of all of them that the import was stopped meanwhile', async () => {
    server.state.trouble = [{ at: 'POST /7/files/many', does: { status: 409, code: 'import_cancelled' } }];
    const uploader = await send(many(5));
    expect(uploader.jobs.every((j) => j.state === 'failed' && j.reason === 'refused: import_cancelled')).toBe(true);
    expect(uploader.busy).toBe(false);
  });
});
