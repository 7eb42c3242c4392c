// @vitest-environment jsdom
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { json, offline, problem } from '../../test/server';
import { Draft } from './draft.svelte';

type Doc = { skeno: string; classes: { key: string; name: string; shapes: string[] }[] };
const doc = (...names: string[]): Doc => ({
  skeno: 'codebook/1',
  classes: names.map((n) => ({ key: n.toLowerCase(), name: n, shapes: ['box'] }))
});
/** A project's codebook, with what is asked of it. */
const server = {
  version: 1,
  doc: doc('Apple'),
  change: null as object | null,
  check: { errors: [], orphans: [], report: [], rewrites: false } as Record<string, unknown>,
  put: null as (() => Response | Promise<Response>) | null,
  asked: [] as { line: string; body: Record<string, unknown> }[]
};
const later = () => new Promise((done) => setTimeout(done, 300));
let draft: Draft;
const open = async (user = 1): Promise<Draft> => {
  draft?.close();
  draft = new Draft(3, user);
  await draft.load();
  return draft;
};
/** As the page does after every change. */
const type = (...names: string[]) => {
  draft.doc = doc(...names) as never;
  draft.look(draft.doc!, { ...draft.mapping });
};

beforeEach(() => {
  localStorage.clear();
  Object.assign(server, { version: 1, doc: doc('Apple'), change: null, put: null, asked: [] });
  server.check = { errors: [], orphans: [], report: [], rewrites: false };
  globalThis.fetch = async (input) => {
    const request = input as Request;
    const line = `${request.method} ${new URL(request.url).pathname.replace('/api/v1/projects/3/', '')}`;
    const body = request.method === 'GET' ? {} : ((await request.json()) as Record<string, unknown>);
    server.asked.push({ line, body });
    if (line === 'GET codebook') return json({ version: server.version, document: server.doc, looks: [] });
    if (line === 'GET codebook/versions') return json({ data: [] });
    if (line === 'GET codebook/change') {
      const { change } = server;
      server.change = null;
      return json({ change });
    }
    if (line === 'POST codebook/check') return json(server.check);
    if (line === 'PUT codebook') {
      if (server.put) return server.put();
      server.doc = body.document as Doc;
      return json({ version: ++server.version, document: server.doc, looks: [] });
    }
    return problem(404, line);
  };
});
afterEach(() => draft.close());

describe('a codebook that is not saved', () => {
  it('is there again after a reload, and gone once it is saved', async () => {
    await open();
    expect([draft.dirty, draft.broughtBack]).toEqual([false, '']);
    draft.note = 'pears too';
    type('Apple', 'Pear');
    expect(draft.dirty).toBe(true);
    await open();
    expect(draft.doc!.classes.map((c) => c.name)).toEqual(['Apple', 'Pear']);
    expect([draft.note, draft.broughtBack]).toEqual(['pears too', 'what you had not saved is here again']);
    await draft.save();
    expect([draft.saved, draft.error, draft.broughtBack]).toEqual(['saved as version 2', '', '']);
    draft.look(draft.doc!, {});
    expect(draft.dirty).toBe(false);
    await open();
    expect([draft.broughtBack, draft.version]).toEqual(['', 2]);
  });
  it('says when another version has come meanwhile', async () => {
    await open();
    type('Apple', 'Pear');
    Object.assign(server, { version: 4, doc: doc('Apple', 'Leaf') });
    await open();
    expect(draft.broughtBack).toContain('begun on version 1, and version 4 has come since');
    expect(draft.doc!.classes).toHaveLength(2);
  });
  it('that is the same again is nothing to keep', async () => {
    await open();
    type('Apple', 'Pear');
    type('Apple');
    expect([draft.dirty, localStorage.length]).toEqual([false, 0]);
  });
  it('belongs to one person, and what can not be read is none', async () => {
    await open();
    type('Apple', 'Pear');
    await open(2);
    expect(draft.broughtBack).toBe('');
    localStorage.setItem('skeno-draft-2-3', '{broken');
    await open(2);
    expect(draft.doc!.classes).toHaveLength(1);
  });
  it('is let go of when one begins anew', async () => {
    await open();
    type('Apple', 'Pear');
    await draft.startOver();
    expect([draft.doc!.classes.length, draft.dirty, localStorage.length, draft.note]).toEqual([1, false, 0, '']);
    // but not as long as there is nothing to begin with
    type('Apple', 'Pear');
    globalThis.fetch = offline;
    await expect(draft.startOver()).rejects.toThrow(/does not answer/);
    expect([draft.doc!.classes.length, localStorage.length]).toEqual([2, 1]);
    draft.forget();
    draft.look(draft.doc!, draft.mapping);
    expect([draft.doc!.classes.length, draft.dirty, localStorage.length]).toEqual([1, false, 0]);
  });
  it('stays when it could not be saved, with the reason', async () => {
    await open();
    type('Apple', 'Pear');
    server.put = offline;
    await draft.save();
    expect(draft.error).toContain('does not answer');
    expect(draft.doc!.classes).toHaveLength(2);
    server.put = () => new Response(JSON.stringify({ code: 'codebook_changed', title: 'x', detail: 'somebody was first', status: 409, type: 'x', version: 7 }), { status: 409, headers: { 'Content-Type': 'application/problem+json' } }); // prettier-ignore
    await draft.save();
    expect([draft.error, draft.version]).toEqual(['somebody was first', 7]);
    await open();
    expect(draft.doc!.classes).toHaveLength(2);
  });
});

describe('what the core says of it', () => {
  it('is asked a moment after the last change, and of that one alone', async () => {
    await open();
    server.check = { ...server.check, errors: [{ path: 'classes[0].name', message: 'no' }] };
    for (const name of ['P', 'Pe', 'Pea', 'Pear']) type('Apple', name);
    await later();
    const checks = server.asked.filter((a) => a.line === 'POST codebook/check');
    expect(checks.map((c) => (c.body.document as Doc).classes[1]!.name)).toEqual(['Pear']);
    expect([draft.settled, draft.check.errors.length]).toEqual([false, 1]);
  });
  it('does not stand over a later change', async () => {
    await open();
    const answers: ((r: Response) => void)[] = [];
    const plain = globalThis.fetch;
    globalThis.fetch = ((input: Request) =>
      input.url.endsWith('/check') ? new Promise((done) => answers.push(done)) : plain(input)) as typeof fetch;
    type('Apple', 'Pear');
    await later();
    type('Apple', 'Plum');
    await later();
    const said = (n: number) => json({ ...server.check, errors: Array(n).fill({ path: 'x', message: 'y' }) });
    answers[1]!(said(2));
    await vi.waitFor(() => expect(draft.check.errors).toHaveLength(2));
    answers[0]!(said(1));
    await later();
    expect(draft.check.errors).toHaveLength(2);
  });
  it('settles by itself where the same word goes to, and asks of the rest', async () => {
    await open();
    const orphan = (name: string, guess: string | null) => ({
      address: `class:${name.toLowerCase()}`,
      name,
      count: 3,
      guess,
      choices: [{ key: 'malus', name: 'Apple' }, { key: 'leaf', name: 'Leaf' }] // prettier-ignore
    });
    server.check = { ...server.check, orphans: [orphan('Apple', 'malus'), orphan('Pear', 'leaf')] };
    type('Malus');
    await later();
    expect(draft.mapping).toEqual({ 'class:apple': 'malus' });
    expect(Object.keys(draft.questions)).toEqual(['class:apple', 'class:pear']);
    draft.settle('class:pear', null);
    expect(draft.mapping['class:pear']).toBeNull();
    draft.settle('class:pear', undefined);
    expect('class:pear' in draft.mapping).toBe(false);
  });
  it('lets go of an answer that fits no longer', async () => {
    await open();
    draft.mapping = { 'class:apple': 'gone' };
    const plain = globalThis.fetch;
    globalThis.fetch = ((input: Request) =>
      input.url.endsWith('/check')
        ? Promise.resolve(new Response(JSON.stringify({ code: 'x', title: 'x', detail: 'nowhere to go', status: 422, type: 'x', field: 'mapping.class:apple' }), { status: 422, headers: { 'Content-Type': 'application/problem+json' } })) // prettier-ignore
        : plain(input)) as typeof fetch;
    type('Pear');
    await later();
    expect([draft.mapping, draft.error]).toEqual([{}, '']);
  });
});

describe('labels on their way into new words', () => {
  it('are waited for, and then the version is in force', async () => {
    await open();
    type('Pear');
    server.put = () => {
      server.change = { version: 2, done: 10, total: 40 };
      return json({ version: 1, document: server.doc, looks: [] });
    };
    const saving = draft.save();
    await vi.waitFor(() => expect(draft.underWay).toEqual({ version: 2, done: 10, total: 40 }));
    Object.assign(server, { version: 2, doc: doc('Pear') });
    await saving;
    expect([draft.underWay, draft.saved, draft.version]).toEqual([null, 'version 2 is in force', 2]);
  });
  it('an earlier version is taken up as a draft', async () => {
    await open();
    server.doc = doc('Old');
    await draft.goBack(1);
    expect([draft.doc!.classes[0]!.name, draft.note, draft.version]).toEqual(['Old', 'back to version 1', 1]);
  });
});
