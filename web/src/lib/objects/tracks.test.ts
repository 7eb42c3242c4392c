// @vitest-environment jsdom
import 'fake-indexeddb/auto';
import { IDBFactory } from 'fake-indexeddb';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import type { Schemas } from '../api/client';
import { Words } from '../words/words.svelte';
import { Asked } from './asked';
import { ObjectEdits, type Found, type StretchFound } from './edits.svelte';
import { Sweep } from './sweep.svelte';

/** A server that takes every edit, and lists what it is told to. It stands before the client is loaded, which keeps its `fetch`. */
const server = vi.hoisted(() => {
  const document = {
    skeno: 'codebook/1',
    classes: [{ key: 'net', name: 'Net', shapes: ['box'], attributes: ['load', 'kind'] }],
    attributes: [
      { key: 'load', name: 'Load', type: 'one', scope: 'object', varies: true, options: [{ key: 'empty', name: 'Empty' }, { key: 'full', name: 'Full' }] }, // prettier-ignore
      { key: 'kind', name: 'Kind', type: 'one', scope: 'object', options: [{ key: 'bag', name: 'Bag' }] },
      { key: 'light', name: 'Light', type: 'one', scope: 'frame', options: [{ key: 'sun', name: 'Sun' }, { key: 'shade', name: 'Shade' }] } // prettier-ignore
    ],
    tags: [{ key: 'blocked', name: 'Blocked', scope: 'stretch' }]
  };
  const state = { edits: [] as Record<string, unknown>[], stretches: [] as unknown[], asked: [] as string[] };
  const json = (data: unknown) => new Response(JSON.stringify(data), { status: 200, headers: { 'Content-Type': 'application/json' } });
  globalThis.fetch = async (input) => {
    const request = input as Request;
    const url = new URL(request.url);
    const path = url.pathname.replace('/api/v1/projects/3/', '');
    state.asked.push(`${path}${url.search}`);
    if (path === 'codebook') return json({ version: 1, document, looks: [] });
    if (path === 'edits') {
      const { edits }: { edits: { id: string }[] } = await request.json();
      state.edits.push(...edits);
      const results = edits.map(({ id }) => ({ id, outcome: 'applied', mark: null, said: null, key: null }));
      return json({ results, findings: [], codebook_version: 1, seconds: 0 });
    }
    return json({ data: url.searchParams.has('after') ? [] : state.stretches, total: state.stretches.length });
  };
  return { state, document };
});

type Keyed = { place: number; revision?: number; answers?: Record<string, unknown>; width?: number };
const NET = '01NET00000000000000000000';
const key = ({ place, revision = 1, answers = {}, width = 10 }: Keyed) => ({
  mark: NET,
  place,
  revision,
  deleted: false,
  geometry: { x: 0, y: 0, width, height: 10 },
  answers,
  hidden: false,
  source: 'hand',
  confidence: null,
  author_id: 1
});
const mark = (place: number, width = 10, answers: Record<string, unknown> = {}) => ({
  id: NET,
  class: 'net',
  kind: 'box',
  geometry: { x: 0, y: 0, width, height: 10 },
  answers,
  stack: null,
  part_of: null,
  flags: [],
  place,
  stretches: [[0, 39]],
  revision: 4,
  author_id: 1,
  source: 'hand',
  confidence: null
});
const item = { id: 7, name: 'a.mp4', picture: { screen: '/s' } };
const found = (k: Keyed, byKey: boolean, varying: Record<string, unknown> = {}): Found =>
  ({
    id: byKey ? `${NET}@${k.place}` : NET,
    mark: mark(k.place, k.width),
    item,
    key: key(k),
    keys: 3,
    varying,
    crop: '/x',
    turn: null,
    size: null,
    measures: null,
    oddness: null,
    author: null,
    looks_like: null
  }) as unknown as Found;
const said = (stretches: unknown[]) => ({ answers: {}, tags: [], stretches, revision: 2 }) as unknown as Schemas['Said'];
const light = (value: string, first: number, last: number) => ({ question: 'light', answer: { value }, first, last });
const stretch = (first: number, last: number, answer: unknown, all: unknown[]): StretchFound =>
  ({ id: `7@${first}`, first, last, answer, place: first, item, said: said(all), mark: null, key: null, turn: null }) as unknown as StretchFound; // prettier-ignore

const begun: ObjectEdits[] = [];
const begin = async (): Promise<ObjectEdits> => {
  const edits = new ObjectEdits(3, 1);
  begun.push(edits);
  await edits.start();
  return edits;
};
const sent = async (edits: ObjectEdits) => {
  await edits.outbox.flush();
  return server.state.edits.splice(0).map((e) => [e['action'], e['mark'], e['base'], e['data']]);
};

beforeEach(() => {
  globalThis.indexedDB = new IDBFactory();
  Object.assign(server.state, { edits: [], stretches: [], asked: [] });
});
afterEach(() => {
  for (const edits of begun.splice(0)) {
    edits.close();
  }
});

describe('tracks in a list', () => {
  it('an answer that varies is said by the key they are shown by, all else of the whole track', async () => {
    const edits = await begin();
    const shown = found({ place: 12, revision: 3, answers: { load: { value: 'empty' } } }, true, { load: { value: 'empty' } });
    expect(edits.now(shown)?.answers).toEqual({ load: { value: 'empty' } });
    edits.change([shown], (m) => edits.words.answered(m, 'load', { value: 'full' }));
    edits.change([shown], (m) => edits.words.answered(m, 'kind', { value: 'bag' }));
    expect(edits.now(shown)?.answers).toEqual({ load: { value: 'full' }, kind: { value: 'bag' } });
    expect(await sent(edits)).toEqual([
      ['key', NET, 3, { place: 12, class: 'net', key: { geometry: shown.mark.geometry, answers: { load: { value: 'full' } } } }],
      ['change', NET, 4, { answers: { kind: { value: 'bag' } }, class: 'net' }]
    ]);
    // what is said of all of it by several of its keys is said once
    edits.change([shown, found({ place: 30 }, true)], (m) => edits.words.answered(m, 'kind', null));
    expect((await sent(edits)).map(([action]) => action)).toEqual(['change']);
    edits.undo();
    expect((await sent(edits)).length).toBe(1);
    // another key of it has its own shape and what it says itself, and the answer of the whole
    const other = found({ place: 30, width: 25 }, true, { load: { value: 'empty' } });
    expect([edits.now(other)?.geometry, edits.now(other)?.answers]).toEqual([
      { x: 0, y: 0, width: 25, height: 10 },
      { kind: { value: 'bag' }, load: { value: 'empty' } }
    ]);
    edits.undo();
    edits.undo();
    expect(edits.now(shown)?.answers).toEqual({ load: { value: 'empty' } });
    await sent(edits);
  });
  it('what is listed by its key loses that key, but never the last; what is listed once goes as a whole', async () => {
    const edits = await begin();
    const keys = [found({ place: 1 }, true), found({ place: 12, revision: 3 }, true), found({ place: 30 }, true)];
    expect(edits.change(keys, () => null)).toBe(2);
    expect(edits.message).toBe('a track keeps one key at least');
    expect(keys.map((k) => edits.now(k) === null)).toEqual([true, true, false]);
    expect(await sent(edits)).toEqual([
      ['key', NET, 1, { place: 1, class: 'net', key: null }],
      ['key', NET, 3, { place: 12, class: 'net', key: null }]
    ]);
    edits.undo();
    expect(keys.map((k) => edits.now(k) === null)).toEqual([false, false, false]);
    expect(edits.change([found({ place: 12 }, false)], () => null)).toBe(1);
    expect((await sent(edits)).at(-1)?.slice(0, 2)).toEqual(['delete', NET]);
    expect(edits.now(keys[0]!)).toBeNull();
    await sent(edits);
  });
});

describe('a sweep over stretches', () => {
  const asked = (edits: ObjectEdits, search: string) => new Asked(edits.words, new URLSearchParams(search));

  it('asks what is said of each, answers all of it, and takes the answer back', async () => {
    const all = [light('sun', 0, 9), light('shade', 20, 29)];
    server.state.stretches = [stretch(10, 19, null, all), stretch(30, 39, null, all)];
    const edits = await begin();
    const { plan } = asked(edits, 'ask=q:light');
    expect(plan).toEqual({ over: 'stretches', question: 'light', answer: 'open' });
    const sweep = new Sweep(edits, plan);
    await sweep.start(null);
    expect(server.state.asked.at(-1)).toBe('stretches?answer=open&question=light&limit=50');
    expect([sweep.total, sweep.question?.key, sweep.answers, sweep.mark]).toEqual([2, 'light', {}, null]);
    sweep.answer({ value: 'sun' });
    sweep.answer({ value: 'shade' });
    expect(edits.saidNow({ item, said: said(all) } as never).stretches).toEqual([light('sun', 0, 19), light('shade', 20, 39)]);
    sweep.back();
    expect([sweep.at, sweep.answers]).toEqual([1, {}]);
    expect(edits.saidNow({ item, said: said(all) } as never).stretches).toEqual([light('sun', 0, 19), light('shade', 20, 29)]);
    const edits_ = await sent(edits);
    expect(edits_.map(([action, of, base]) => [action, of, base])).toEqual([
      ['change', null, 2],
      ['change', null, 3],
      ['change', null, 4]
    ]);
  });
  it('keeps a tag on, or takes it off from there to there', async () => {
    const all = [light('sun', 0, 9), { tag: 'blocked', first: 3, last: 7 }];
    server.state.stretches = [stretch(3, 7, null, all)];
    const edits = await begin();
    const of = asked(edits, 'ask=t:blocked');
    expect([of.plan, of.noun(1), of.which]).toEqual([{ over: 'stretches', tag: 'blocked' }, 'stretch', '']);
    const sweep = new Sweep(edits, of.plan);
    await sweep.start(null);
    expect(sweep.tags).toEqual(['blocked']);
    sweep.tag('blocked');
    expect(await sent(edits)).toEqual([]);
    sweep.back();
    sweep.untag('blocked');
    expect(edits.saidNow({ item, said: said(all) } as never).stretches).toEqual([light('sun', 0, 9)]);
    await sent(edits);
  });
  it('answers for an object from the first place of the stretch on, by the key there or a new one', async () => {
    const of = (first: number, last: number, k: Keyed | null): StretchFound =>
      ({ id: `${NET}@${first}`, first, last, answer: k?.answers?.['load'] ?? null, place: first, item, said: null, mark: mark(first), key: k && key(k), turn: 5 }) as unknown as StretchFound; // prettier-ignore
    server.state.stretches = [of(5, 9, null), of(10, 24, { place: 10, revision: 2, answers: { load: { value: 'empty' } } })];
    const edits = await begin();
    const { plan } = asked(edits, 'ask=q:load&answer=');
    expect(plan).toEqual({ over: 'stretches', question: 'load' });
    const sweep = new Sweep(edits, plan);
    await sweep.start(null);
    expect([sweep.mark?.id, sweep.answers]).toEqual([NET, {}]);
    sweep.answer({ value: 'empty' });
    expect(sweep.answers).toEqual({ load: { value: 'empty' } });
    sweep.answer({ value: 'full' });
    sweep.back();
    expect(sweep.answers).toEqual({ load: { value: 'empty' } });
    expect(await sent(edits)).toEqual([
      ['key', NET, 0, { place: 5, class: 'net', key: { answers: { load: { value: 'empty' } } } }],
      ['key', NET, 2, { place: 10, class: 'net', key: { geometry: expect.anything(), answers: { load: { value: 'full' } } } }],
      ['key', NET, 3, { place: 10, class: 'net', key: { geometry: expect.anything(), answers: { load: { value: 'empty' } } } }]
    ]);
  });
  it('says in a sentence what it goes over', async () => {
    const words = new Words(3);
    await words.load();
    const choice = new Asked(words, new URLSearchParams('ask=q:light')).choices([]).map((c) => [c.name, c.options.map((o) => o.word)]);
    expect(choice).toEqual([
      ['ask', ['Load (as it changes)', 'Kind', 'every open question', 'Light (along the clip)', 'tag: Blocked (along the clip)', 'nothing, only look']],
      ['answer', ['not answered', 'answered or not', 'now “Sun”', 'now “Shade”']]
    ]); // prettier-ignore
    expect(new Asked(words, new URLSearchParams('ask=t:blocked')).choices([]).map((c) => c.name)).toEqual(['ask']);
    expect(new Asked(words, new URLSearchParams('ask=q:load')).choices([]).map((c) => c.name)).toEqual(['ask', 'class', 'answer']);
  });
});
