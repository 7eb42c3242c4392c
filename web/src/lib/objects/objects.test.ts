// @vitest-environment jsdom
import 'fake-indexeddb/auto';
import { IDBFactory } from 'fake-indexeddb';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { Outbox } from '../edits/outbox.svelte';
import { ObjectEdits, type Found } from './edits.svelte';
import { Sheet } from './sheet.svelte';
import { Sweep } from './sweep.svelte';

/** A server with the objects of a project, which fails as told. It stands before the client is loaded, which keeps its `fetch`. */
const server = vi.hoisted(() => {
  type Listed = { id: string; class: string; answers: Record<string, unknown>; revision: number; deleted: boolean; odd: string | null };
  const state = {
    rows: [] as Listed[],
    asked: [] as string[],
    version: 1,
    /** what happens to the next request whose path ends like this, instead of an answer; once each */
    trouble: [] as { at: string; does: 'offline' | Promise<void> }[]
  };
  const json = (data: unknown) => new Response(JSON.stringify(data), { status: 200, headers: { 'Content-Type': 'application/json' } });
  const mark = (row: Listed) => ({
    ...row,
    kind: 'box',
    geometry: { x: 1, y: 2, width: 30, height: 20 },
    stack: null,
    part_of: null,
    place: null,
    stretches: null,
    flags: [],
    author_id: 4,
    source: 'hand'
  });
  const found = (row: Listed) => ({
    id: row.id,
    key: null,
    keys: null,
    varying: {},
    mark: mark(row),
    item: { id: state.rows.indexOf(row) + 100, picture: {} },
    crop: '/x',
    turn: null,
    size: null,
    measures: null,
    oddness: null,
    author: null,
    looks_like: row.odd
  });
  const document = {
    skeno: 'codebook/1',
    classes: [
      { key: 'apple', name: 'Apple', shapes: ['box'], attributes: ['ripeness', 'damage', 'depth'] },
      { key: 'leaf', name: 'Leaf', shapes: ['box'], attributes: ['damage'] }
    ],
    attributes: [
      { key: 'ripeness', name: 'Ripeness', type: 'one', scope: 'object', options: [{ key: 'ripe', name: 'Ripe' }] },
      { key: 'damage', name: 'Damaged', type: 'yesno', scope: 'object' },
      { key: 'depth', name: 'How deep', type: 'number', scope: 'object', when: [{ attribute: 'damage', any: [true] }] }
    ]
  };
  globalThis.fetch = async (input) => {
    const request = input as Request;
    const url = new URL(request.url);
    const path = url.pathname.replace('/api/v1/projects/3/', '');
    state.asked.push(`${path}${url.search}`);
    const i = state.trouble.findIndex((t) => path.endsWith(t.at));
    const does = i < 0 ? null : state.trouble.splice(i, 1)[0]!.does;
    if (does === 'offline') throw new TypeError('no network');
    if (path === 'codebook') return json({ version: state.version, document, looks: [] });
    if (path === 'edits') {
      type Sent = { mark: string; action: string; base: number; data?: Listed };
      const { edits } = (await request.json()) as { edits: Sent[] };
      const results = edits.map((edit) => {
        const row = state.rows.find((r) => r.id === edit.mark)!;
        if (edit.data?.class === 'forbidden') return { id: edit.mark, outcome: 'refused', mark: null, said: null, reason: 'no such class' };
        if (edit.base !== row.revision) return { id: edit.mark, outcome: 'conflict', mark: mark(row), said: null };
        row.revision++;
        row.deleted = edit.action === 'delete';
        if (edit.data) Object.assign(row, { class: edit.data.class, answers: edit.data.answers });
        return { id: edit.mark, outcome: 'applied', mark: mark(row), said: null };
      });
      return json({ results, findings: [], codebook_version: state.version, seconds: 0 });
    }
    // what is listed is as it was when it was asked for
    const after = url.searchParams.get('after');
    const question = url.searchParams.get('question');
    const open = state.rows.filter(
      (r) => !r.deleted && (url.searchParams.get('answer') !== 'open' || !question || !(question in r.answers))
    );
    const from = after ? open.findIndex((r) => r.id > after) : Number(url.searchParams.get('offset') ?? 0);
    const data = from < 0 ? [] : open.slice(from, from + Number(url.searchParams.get('limit') ?? 60)).map(found);
    const answer = json({ data, total: open.length, offset: Math.max(0, from), due: 5, looking: true, enough: 20 });
    if (does) await does;
    return answer;
  };
  return { state, found };
});

const fill = (n: number) => {
  server.state.rows = Array.from({ length: n }, (_, i) => ({
    id: `01${String(i).padStart(24, '0')}`,
    class: 'apple',
    answers: {},
    revision: 1,
    deleted: false,
    odd: i % 7 === 3 ? 'leaf' : null
  }));
};
const row = (i: number) => server.state.rows[i]!;
const listed = (i: number) => server.found(row(i)) as unknown as Found;
/** what the server still owes an answer to: given when it is said */
const later = (at: string): (() => void) => {
  let give = () => {};
  server.state.trouble.push({ at, does: new Promise<void>((done) => (give = done)) });
  return give;
};
const settled = (edits: ObjectEdits) => edits.outbox.flush();
let begun: ObjectEdits[] = [];
const begin = async (refused = () => {}): Promise<ObjectEdits> => {
  const edits = new ObjectEdits(3, 1, refused);
  begun.push(edits);
  await edits.start();
  return edits;
};
const ripe = { value: 'ripe' };

beforeEach(() => {
  globalThis.indexedDB = new IDBFactory();
  Object.assign(server.state, { asked: [], trouble: [], version: 1 });
  fill(10);
});

// what a test leaves on its way must not arrive in the next
afterEach(async () => {
  await Promise.all(begun.map(settled));
  for (const edits of begun) edits.close();
  begun = [];
  Outbox.reset();
});

describe('changes beside the turns', () => {
  it('are shown at once, delivered, and taken back one step at a time', async () => {
    const edits = await begin();
    const three = [listed(0), listed(1), listed(2)];
    expect(edits.change(three, (m) => edits.words.reclassed(m, 'leaf'))).toBe(3);
    expect(three.map((o) => edits.now(o)?.class)).toEqual(['leaf', 'leaf', 'leaf']);
    edits.change([three[1]!], () => null);
    expect(edits.now(three[1]!)).toBeNull();
    await settled(edits);
    expect(server.state.rows.slice(0, 4).map((r) => [r.class, r.deleted])).toEqual([
      ['leaf', false],
      ['leaf', true],
      ['leaf', false],
      ['apple', false]
    ]);
    expect(edits.undo()).toEqual([row(1).id]);
    expect(edits.now(three[1]!)?.class).toBe('leaf');
    expect(edits.undo()).toHaveLength(3);
    expect(edits.canUndo).toBe(false);
    expect(edits.redo()).toHaveLength(3);
    await settled(edits);
    expect(server.state.rows.slice(0, 3).map((r) => [r.class, r.deleted])).toEqual(Array(3).fill(['leaf', false]));
  });

  it('count each change of an object on, so that one after the other is not a conflict with itself', async () => {
    const edits = await begin();
    const one = listed(4);
    for (const damage of [true, false, true]) edits.change([one], (m) => ({ ...m, answers: { damage: { value: damage } } }));
    await settled(edits);
    expect([row(4).revision, row(4).answers, edits.message]).toEqual([4, { damage: { value: true } }, '']);
  });

  it('leave nothing to be redone after another change, and nothing to be done where nothing changes', async () => {
    const edits = await begin();
    const one = listed(0);
    expect(edits.change([one], (m) => m)).toBe(0);
    expect(edits.canUndo).toBe(false);
    edits.change([one], () => null);
    expect(edits.change([one], () => null)).toBe(0);
    edits.undo();
    expect(edits.editor.canRedo).toBe(true);
    edits.change([one], (m) => edits.words.reclassed(m, 'leaf'));
    expect(edits.editor.canRedo).toBe(false);
  });

  it('give way to what somebody else has made of the object, and say so', async () => {
    const refused = vi.fn();
    const edits = await begin(refused);
    const [mine, theirs] = [listed(0), listed(1)];
    Object.assign(row(1), { class: 'leaf', revision: 3 });
    edits.change([mine, theirs], (m) => ({ ...m, answers: { ripeness: ripe } }));
    await settled(edits);
    expect(edits.editor.conflicts.map((c) => [c.subject, c.refused])).toEqual([[row(1).id, null]]);
    expect(refused).not.toHaveBeenCalled();
    expect([edits.now(mine)?.answers, edits.now(theirs)?.class, edits.now(theirs)?.answers]).toEqual([{ ripeness: ripe }, 'leaf', {}]);
    // only what was taken can be taken back
    expect(edits.undo()).toEqual([row(0).id]);
    // and the next change of it begins where the server is
    edits.change([theirs], () => null);
    await settled(edits);
    expect(row(1).deleted).toBe(true);
  });

  it('say why the server refused, and have what is there listed again', async () => {
    const refused = vi.fn();
    const edits = await begin(refused);
    edits.change([listed(0)], (m) => ({ ...m, class: 'forbidden' }));
    await settled(edits);
    expect(edits.editor.conflicts[0]?.refused).toBe('no such class');
    expect([refused.mock.calls.length, edits.canUndo]).toEqual([1, false]);
  });

  it('drop answers that are no longer asked, and keep those nobody asked here', async () => {
    const edits = await begin();
    const { words } = edits;
    const mark = { ...edits.now(listed(0))!, answers: { damage: { value: true }, depth: { value: 3 }, old: { value: 'x' } } };
    expect(words.answered(mark, 'damage', { value: false }).answers).toEqual({ damage: { value: false }, old: { value: 'x' } });
    expect(words.answered(mark, 'damage', null).answers).toEqual({ old: { value: 'x' } });
    expect(edits.words.reclassed(mark, 'leaf').answers).toEqual({ damage: { value: true } });
  });

  it('hear of a new codebook with the answer to an edit', async () => {
    const edits = await begin();
    server.state.version = 2;
    edits.change([listed(0)], (m) => ({ ...m, answers: { ripeness: ripe } }));
    await settled(edits);
    await vi.waitFor(() => expect(edits.words.version).toBe(2));
  });

  it('that a crash left behind are delivered before anything is listed', async () => {
    const first = await begin();
    server.state.trouble.push({ at: 'edits', does: 'offline' });
    first.change([listed(5)], () => null);
    await vi.waitFor(() => expect(first.outbox.trouble?.what).toBe('offline'));
    first.close();
    Outbox.reset();
    await begin();
    expect(row(5).deleted).toBe(true);
  });
});

describe('the sheet', () => {
  it('fetches what comes into sight, each page once', async () => {
    fill(200);
    const sheet = new Sheet(3);
    await sheet.show({ class: 'apple' });
    expect([sheet.total, sheet.due, sheet.looking, sheet.get(59)?.mark.id, sheet.get(60)]).toEqual([200, 5, true, row(59).id, undefined]);
    sheet.need(50, 70);
    sheet.need(50, 70);
    await vi.waitFor(() => expect(sheet.get(70)?.mark.id).toBe(row(70).id));
    expect(server.state.asked).toHaveLength(2);
    sheet.need(150, 900);
    await vi.waitFor(() => expect(sheet.get(199)?.mark.id).toBe(row(199).id));
    expect([sheet.get(200), sheet.placeOf(row(70).id), sheet.placeOf('nowhere')]).toEqual([undefined, 70, null]);
  });

  it('keeps an answer that comes late out of another list', async () => {
    fill(100);
    const sheet = new Sheet(3);
    const give = later('objects');
    const late = sheet.show({ class: 'apple' });
    fill(3);
    await sheet.show({ class: 'leaf' });
    give();
    await late;
    expect([sheet.total, sheet.get(0)?.mark.id, sheet.get(5)]).toEqual([3, row(0).id, undefined]);
  });

  it('says what went wrong, and asks again when the page comes into sight once more', async () => {
    fill(100);
    const sheet = new Sheet(3);
    await sheet.show({});
    server.state.trouble.push({ at: 'objects', does: 'offline' });
    sheet.need(60, 99);
    await vi.waitFor(() => expect(sheet.error).not.toBe(''));
    expect(sheet.get(60)).toBeUndefined();
    sheet.need(60, 99);
    await vi.waitFor(() => expect(sheet.get(60)?.mark.id).toBe(row(60).id));
    expect(sheet.error).toBe('');
    // whether the worker is done is asked again and again; not being told changes nothing
    server.state.trouble.push({ at: 'objects', does: 'offline' });
    await sheet.look();
    expect([sheet.due, sheet.looking, sheet.error]).toEqual([5, true, '']);
  });

  it('does not ask for what is only scrolled past', async () => {
    fill(1000);
    const sheet = new Sheet(3);
    await sheet.show({});
    for (let from = 0; from < 900; from += 60) sheet.need(from, from + 50);
    await vi.waitFor(() => expect(sheet.get(840)).toBeDefined());
    expect(server.state.asked.map((a) => Number(new URLSearchParams(a.split('?')[1]).get('offset')))).toEqual([0, 840]);
    sheet.close();
  });

  it('has a range whole, also what nobody has scrolled to, or says that it could not', async () => {
    fill(200);
    const sheet = new Sheet(3);
    await sheet.show({});
    expect((await sheet.range(55, 130))?.map((o) => o.mark.id)).toEqual(server.state.rows.slice(55, 131).map((r) => r.id));
    server.state.trouble.push({ at: 'objects', does: 'offline' });
    expect(await sheet.range(150, 199)).toBeNull();
  });

  it('asks again when its first page could not be loaded', async () => {
    const sheet = new Sheet(3);
    server.state.trouble.push({ at: 'objects', does: 'offline' });
    await sheet.show({ class: 'apple' });
    expect([sheet.failed, sheet.total]).toEqual([true, null]);
    await sheet.retry();
    expect([sheet.failed, sheet.total, sheet.error, sheet.enough]).toEqual([false, 10, '', 20]);
  });

  it('has in hand what is chosen, else where the keys are, and goes from doubt to doubt', async () => {
    const sheet = new Sheet(3);
    await sheet.show({});
    sheet.at = 2;
    expect(sheet.inHand.map((o) => o.mark.id)).toEqual([row(2).id]);
    expect(sheet.nextDoubt()).toBe(3);
    sheet.at = 3;
    expect(sheet.nextDoubt()).toBeNull();
    sheet.chosen.add(row(7).id);
    sheet.chosen.add(row(1).id);
    expect(sheet.inHand.map((o) => o.mark.id)).toEqual([row(1).id, row(7).id]);
    await sheet.show({ class: 'leaf' });
    expect(sheet.chosen.size).toBe(0);
  });
});

describe('a sweep', () => {
  const over = async (plan: Partial<ConstructorParameters<typeof Sweep>[1]> = {}) => {
    const edits = await begin();
    const sweep = new Sweep(edits, { over: 'objects', class: 'apple', question: 'ripeness', answer: 'open', ...plan });
    await sweep.start(null);
    return { edits, sweep };
  };

  it('asks every object once, fetches more in good time, and ends', async () => {
    fill(130);
    const { edits, sweep } = await over();
    expect(sweep.total).toBe(130);
    const seen: string[] = [];
    while (!sweep.ended && seen.length < 200) {
      if (sweep.subject) {
        seen.push(sweep.subject.id);
        sweep.answer(ripe);
      } else await new Promise((done) => setTimeout(done));
    }
    await settled(edits);
    expect(seen).toEqual(server.state.rows.map((r) => r.id));
    expect(server.state.rows.every((r) => JSON.stringify(r.answers) === JSON.stringify({ ripeness: ripe }))).toBe(true);
  });

  it('goes back over what was skipped to the last answer, and takes that back', async () => {
    const { edits, sweep } = await over();
    sweep.answer(ripe);
    sweep.skip();
    sweep.skip();
    expect([sweep.at, sweep.skipped.size]).toEqual([3, 2]);
    sweep.back();
    expect([sweep.at, sweep.skipped.size, sweep.done.length]).toEqual([2, 1, 1]);
    sweep.back();
    sweep.back();
    expect([sweep.at, sweep.done.length, sweep.mark?.answers]).toEqual([0, 0, {}]);
    await settled(edits);
    expect([row(0).answers, row(0).revision]).toEqual([{}, 3]);
    sweep.back();
    expect(sweep.at).toBe(0);
  });

  it('takes back the answer of its own object, whatever was changed beside it', async () => {
    const { edits, sweep } = await over();
    sweep.answer(ripe);
    edits.change([listed(7)], (m) => edits.words.reclassed(m, 'leaf'));
    sweep.back();
    expect([sweep.at, sweep.mark?.answers, edits.now(listed(7))?.class]).toEqual([0, {}, 'leaf']);
    // an answer that was there already is not undone into something older
    row(0).answers = {};
    sweep.answer(null);
    sweep.back();
    expect(edits.now(listed(7))?.class).toBe('leaf');
  });

  it('says in the end what it did, also when it only looked', async () => {
    const { sweep } = await over();
    sweep.answer(ripe);
    sweep.answer(ripe);
    sweep.become('leaf');
    sweep.remove();
    expect(sweep.sum).toBe('2 answers, 1 put into another class, 1 removed');
    const { sweep: look } = await over({ question: undefined, answer: undefined });
    look.next();
    look.next();
    expect(look.sum).toBe('2 looked at, nothing changed');
  });

  it('asks every open question of an object, also one that an answer opens, then the next object', async () => {
    const { edits, sweep } = await over({ question: undefined, answer: undefined, every: true });
    row(1).answers = { ripeness: ripe, damage: { value: false } };
    const asks: (string | undefined)[] = [];
    for (const answer of [ripe, { value: true }, { value: 4 }]) {
      asks.push(sweep.question?.key);
      sweep.answer(answer);
    }
    expect(asks).toEqual(['ripeness', 'damage', 'depth']);
    expect([sweep.at, sweep.question?.key]).toEqual([1, 'ripeness']);
    sweep.remove();
    expect(sweep.at).toBe(2);
    sweep.become('leaf');
    expect([sweep.at, sweep.question?.key]).toEqual([2, 'damage']);
    sweep.back();
    expect([sweep.at, sweep.mark?.class]).toEqual([2, 'apple']);
    await settled(edits);
    expect([row(0).answers, row(2).class]).toEqual([{ ripeness: ripe, damage: { value: true }, depth: { value: 4 } }, 'apple']);
  });

  it('passes over an object that has been taken away meanwhile, and one of a class that is not asked this', async () => {
    const { edits, sweep } = await over();
    edits.change([listed(1)], () => null);
    sweep.answer(ripe);
    expect(sweep.at).toBe(2);
    sweep.become('leaf');
    expect(sweep.at).toBe(3);
    sweep.become('apple');
    expect([sweep.at, sweep.done.length]).toEqual([3, 2]);
  });

  it('keeps what was answered when the server can not be asked for more, and goes on when it can', async () => {
    fill(60);
    const { edits, sweep } = await over();
    server.state.trouble.push({ at: 'objects', does: 'offline' });
    for (let i = 0; i < 50; i++) sweep.answer(ripe);
    await vi.waitFor(() => expect(sweep.error).toContain('what you did is kept here'));
    expect([sweep.subject, sweep.ended]).toEqual([undefined, false]);
    await sweep.retry();
    expect([sweep.error, sweep.subject?.id]).toEqual(['', row(50).id]);
    await settled(edits);
    expect(server.state.rows.filter((r) => 'ripeness' in r.answers)).toHaveLength(50);
  });

  it('that could not begin goes on behind the same object when it can', async () => {
    fill(60);
    const edits = await begin();
    const sweep = new Sweep(edits, { over: 'objects', class: 'apple', question: 'ripeness', answer: 'open' });
    server.state.trouble.push({ at: 'objects', does: 'offline' }, { at: 'objects', does: 'offline' });
    await sweep.start(row(20).id);
    expect([sweep.subject, sweep.error]).toEqual([undefined, expect.stringContaining('kept')]);
    await sweep.retry();
    expect([sweep.error, sweep.subject?.id]).toEqual(['', row(21).id]);
  });

  it('has a pace only after two answers, over the last minute', async () => {
    const { sweep } = await over();
    const now = Date.now();
    const did = { subject: 'x', changed: true, what: 'answer' as const };
    expect(sweep.pace(now)).toBe(0);
    sweep.done = [0, 0, 30_000, 55_000].map((ago, at) => ({ ...did, at, when: now - 70_000 * Number(at === 0) - ago }));
    expect(sweep.pace(now)).toBe(Math.round((3 / 1000) * 60_000));
    sweep.done = [50_000, 20_000, 5_000].map((ago, at) => ({ ...did, at, when: now - ago }));
    expect(sweep.pace(now)).toBe(4);
  });
});
