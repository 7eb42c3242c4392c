// @vitest-environment jsdom
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { Beside } from './beside.svelte';
import { keptDraft } from './draft';
import { Prompts } from './prompts.svelte';

const all = { classes: ['pest', 'count'], questions: ['urgency'], tags: [] };
const version = (id: number, number: number, words = `words ${number} {form}`, more: object = {}) => ({
  id,
  prompt: 1,
  number,
  model: 4,
  model_name: 'reader',
  task: { classes: ['pest'], questions: ['urgency'], tags: [] },
  words,
  by: 'Ines',
  at: null,
  ...more
});
const reader = { id: 4, name: 'reader', address: 'http://a', path: '/v1', remote: 'r', has_key: true, price: null, most_tokens: 2000 };
const trial = (id: number, state = 'done', done = 3, more: object = {}) => ({
  id,
  version: 11,
  prompt: 'Find all',
  number: 2,
  model: 'reader',
  state,
  done,
  total: 3,
  error: '',
  at: null,
  ...more
});
const row = (item: number, missing = 0) => ({
  item,
  path: `notes/${item}`,
  right: 1,
  missing,
  extra: 0,
  bounded: 0,
  wrong: 0,
  left: 0,
  failed: ''
});
const measured = (id: number, state = 'done', done = 3, more: object = {}) => ({
  ...trial(id, state, done),
  figures: { items: done },
  texts: [row(1, 2), row(2), row(3, 1)].slice(0, done),
  against: null,
  ...more
});
const compared = (item: number, missing: number) => ({
  item,
  path: `notes/${item}`,
  text: 'ten aphids',
  pairs: Array.from({ length: missing }, (_, i) => ({ class: 'pest', known: [i, i + 1], said: null })),
  answers: {},
  tags: {},
  mended: [],
  left: [],
  cut: null,
  failed: '',
  seconds: 1,
  cost: null
});

let answers: Record<string, (body: never, url: URL) => unknown>;
let asked: { what: string; body: Record<string, unknown>; search: string }[];
const bodies = (what: string) => asked.filter((a) => a.what === what).map((a) => a.body);

beforeEach(() => {
  asked = [];
  answers = {
    'GET prompts': () => ({ data: [{ id: 1, name: 'Find all', versions: [version(11, 2), version(10, 1)] }], task: all }),
    'GET chat-models': () => ({ data: [reader] }),
    'GET prompt-trials': () => ({ data: [] }),
    'GET runs': () => ({ data: [] }),
    'POST prompts/preview': (body: { words?: string }) => ({ words: body.words ?? 'begun {form}', filled: `told ${body.words ?? 'begun'}` })
  };
  vi.stubGlobal('fetch', async (request: Request) => {
    const url = new URL(request.url);
    const what = `${request.method} ${url.pathname.replace('/api/v1/projects/9/', '')}`;
    const text = await request.clone().text();
    const body = text === '' ? null : JSON.parse(text);
    asked.push({ what, body, search: url.search });
    const found = await (answers[what] ?? (() => ({ status: 404, title: 'x', code: 'not_found', detail: `nothing at ${what}` })))(
      body as never,
      url
    );
    const status = (found as { status?: number } | null)?.status ?? 200;
    return new Response(found === null ? null : JSON.stringify(found), {
      status: found === null ? 204 : status,
      headers: { 'Content-Type': status < 300 ? 'application/json' : 'application/problem+json' }
    });
  });
});
afterEach(() => {
  vi.unstubAllGlobals();
  localStorage.clear();
});
const loaded = async () => {
  const prompts = new Prompts(9);
  await prompts.load();
  return prompts;
};

describe('writing a prompt', () => {
  it('begins with the latest version, and with words of its own where there is none', async () => {
    const prompts = await loaded();
    expect([prompts.draft.name, prompts.draft.words, prompts.version?.number, prompts.isChanged, prompts.filled, prompts.error]).toEqual([
      'Find all',
      'words 2 {form}',
      2,
      false,
      'told words 2 {form}',
      ''
    ]);
    answers['GET prompts'] = () => ({ data: [], task: all });
    const fresh = await loaded();
    expect([fresh.draft.name, fresh.draft.words, fresh.draft.task, fresh.draft.model, fresh.canBeSaved, fresh.next]).toEqual([
      '',
      'begun {form}',
      all,
      4,
      false,
      1
    ]);
  });
  it('keeps in the browser what is not saved, and forgets it when it is', async () => {
    const prompts = await loaded();
    prompts.draft.words = 'other words {form}';
    prompts.written();
    expect(keptDraft(9)?.words).toBe('other words {form}');
    // loaded again, however often, it is there, and known as a change of the latest version
    await loaded();
    const again = await loaded();
    expect([again.draft.words, again.isChanged, again.version?.id, again.next]).toEqual(['other words {form}', true, 11, 3]);
    answers['POST prompts'] = (body: { words: string }) => version(12, 3, body.words);
    answers['GET prompts'] = () => ({
      data: [{ id: 1, name: 'Find all', versions: [version(12, 3, 'other words {form}'), version(11, 2), version(10, 1)] }],
      task: all
    });
    expect((await again.save())?.number).toBe(3);
    expect([again.isChanged, keptDraft(9)]).toEqual([false, null]);
    // opened, an older one is what it was
    again.open(version(10, 1) as never);
    expect([again.draft.words, again.isChanged]).toEqual(['words 1 {form}', false]);
  });
  it('keeps the words when they are refused, and what was written while they were on their way', async () => {
    const prompts = await loaded();
    answers['POST prompts'] = () => ({ status: 422, title: 'x', code: 'invalid', detail: 'words is too long' });
    prompts.draft.words = 'mine {form}';
    prompts.written();
    expect(await prompts.save()).toBe(null);
    expect([prompts.error, prompts.draft.words, keptDraft(9)?.words, prompts.saving]).toEqual([
      'words is too long',
      'mine {form}',
      'mine {form}',
      false
    ]);
    answers['POST prompts'] = (body: { words: string }) => {
      prompts.draft.words = 'mine and more {form}';
      prompts.written();
      return version(12, 3, body.words);
    };
    await prompts.save();
    expect([prompts.draft.words, prompts.isChanged, keptDraft(9)?.words]).toEqual(['mine and more {form}', true, 'mine and more {form}']);
  });
  it('lays aside what was being written when another version is taken, and takes it up again', async () => {
    const prompts = await loaded();
    prompts.open(version(10, 1) as never);
    expect(prompts.aside).toBe(null);
    prompts.draft.words = 'half an hour of words {form}';
    prompts.written();
    prompts.open(version(11, 2) as never);
    expect([prompts.draft.words, prompts.isChanged, prompts.aside?.words]).toEqual([
      'words 2 {form}',
      false,
      'half an hour of words {form}'
    ]);
    await prompts.begin();
    expect([prompts.draft.words, prompts.aside?.words]).toEqual(['begun {form}', 'half an hour of words {form}']);
    prompts.back();
    expect([prompts.draft.words, prompts.draft.name, prompts.aside, prompts.isChanged, keptDraft(9)?.words]).toEqual([
      'half an hour of words {form}',
      'Find all',
      null,
      true,
      'half an hour of words {form}'
    ]);
  });
  it('says at once what is wrong with it, by what was written last', async () => {
    const prompts = await loaded();
    let first: (value: unknown) => void = () => {};
    answers['POST prompts/preview'] = () => new Promise((done) => (first = done));
    prompts.draft.words = 'no place';
    const slow = prompts.fill();
    await vi.waitFor(() => expect(bodies('POST prompts/preview').length).toBe(2));
    answers['POST prompts/preview'] = () => ({ words: '', filled: 'later' });
    prompts.draft.words = 'later {form}';
    await prompts.fill();
    first({ status: 422, title: 'x', code: 'invalid', detail: 'words lacks {form}' });
    await slow;
    expect([prompts.filled, prompts.fault]).toEqual(['later', '']);
    prompts.draft.task = { classes: [], questions: [], tags: [] };
    await prompts.fill();
    expect([prompts.filled, prompts.fault]).toEqual([null, 'ask for something']);
  });
  it('a draft of another make is none, and a model that is gone is asked for', async () => {
    localStorage.setItem('skeno prompt 9', '{"words": 4}');
    expect(keptDraft(9)).toBe(null);
    localStorage.setItem(
      'skeno prompt 9',
      JSON.stringify({ name: 'Old', model: 77, task: { classes: ['gone', 'pest'], questions: [], tags: [] }, words: 'x' })
    );
    const prompts = await loaded();
    expect([prompts.draft.model, prompts.draft.task.classes, prompts.version]).toEqual([null, ['pest'], null]);
  });
});

describe('trying it', () => {
  it('saves it first, tries it on what the sentence says and shows the figures as they come', async () => {
    const prompts = await loaded();
    prompts.draft.words = 'better {form}';
    answers['POST prompts'] = (body: { words: string }) => version(12, 3, body.words);
    answers['POST prompt-trials'] = () => trial(5, 'waiting', 0);
    answers['GET prompt-trials/5'] = () => measured(5, 'waiting', 0);
    prompts.which.narrow(['set:north', 'words:aphid']);
    prompts.on.limit = 20;
    expect(await prompts.try()).toBe(true);
    expect(bodies('POST prompt-trials')).toEqual([{ version: 12, conditions: ['words:aphid', 'set:north'], limit: 20, seed: 1 }]);
    expect([prompts.shown?.id, prompts.goesOn]).toEqual([5, true]);
    answers['GET prompt-trials'] = () => ({ data: [trial(5, 'working', 2)] });
    answers['GET prompt-trials/5'] = () => measured(5, 'working', 2);
    await prompts.look();
    expect([prompts.shown?.done, prompts.shown?.texts.length]).toEqual([2, 2]);
    // nothing new: it is not asked for again
    const many = asked.filter((a) => a.what === 'GET prompt-trials/5').length;
    await prompts.look();
    expect(asked.filter((a) => a.what === 'GET prompt-trials/5').length).toBe(many);
  });
  it('is begun once, however often it is pressed', async () => {
    const prompts = await loaded();
    answers['POST prompt-trials'] = () => trial(5);
    answers['GET prompt-trials/5'] = () => measured(5);
    expect(await Promise.all([prompts.try(), prompts.try(), prompts.run()])).toEqual([true, false, false]);
    expect([bodies('POST prompt-trials').length, bodies('POST prompts/run').length, prompts.beginning]).toEqual([1, 0, false]);
  });
  it('is not tried when it was not saved', async () => {
    const prompts = await loaded();
    prompts.draft.words = 'better {form}';
    answers['POST prompts'] = () => ({ status: 422, title: 'x', code: 'invalid', detail: 'no' });
    expect(await prompts.try()).toBe(false);
    expect(bodies('POST prompt-trials')).toEqual([]);
  });
  it('on the texts of another trial is held against that one, also while it goes on', async () => {
    const prompts = await loaded();
    answers['POST prompt-trials'] = () => trial(6, 'working', 1);
    answers['GET prompt-trials/6'] = () => measured(6, 'working', 1);
    await prompts.try(5);
    expect(bodies('POST prompt-trials')).toEqual([{ version: 11, as: 5 }]);
    answers['GET prompt-trials'] = () => ({ data: [trial(6)] });
    answers['GET prompt-trials/6'] = () => measured(6);
    await prompts.look();
    expect(asked.filter((a) => a.what === 'GET prompt-trials/6').map((a) => a.search)).toEqual(['?against=5', '?against=5']);
  });
  it('shows what was asked for last, however late the first comes', async () => {
    const prompts = await loaded();
    let first: (value: unknown) => void = () => {};
    answers['GET prompt-trials/5'] = () => new Promise((done) => (first = done));
    answers['GET prompt-trials/6'] = () => measured(6);
    const slow = prompts.show({ id: 5 });
    await prompts.show({ id: 6 });
    first(measured(5));
    await slow;
    expect(prompts.shown?.id).toBe(6);
    await prompts.show(null, 4);
    expect([prompts.shown, prompts.against]).toEqual([null, null]);
  });
  it('tells what the rest may take and cost, going by a trial of the version that would be run', async () => {
    const prompts = await loaded();
    expect(prompts.expected(10)).toBe(null);
    answers['GET prompt-trials/5'] = () => measured(5, 'done', 3, { figures: { items: 2, cost: 0.02, uncounted: 0, seconds: 6 } });
    await prompts.show({ id: 5 });
    expect(prompts.expected(10)).toEqual({ cost: 0.1, seconds: 20 });
    prompts.draft.words = 'others {form}';
    expect(prompts.expected(10)).toBe(null);
    prompts.open(version(10, 1) as never);
    expect(prompts.expected(10)).toBe(null);
    prompts.open(version(11, 2) as never);
    answers['GET prompt-trials/5'] = () => measured(5, 'done', 3, { figures: { items: 3, cost: 0, uncounted: 3, seconds: 3 } });
    await prompts.show({ id: 5 });
    expect(prompts.expected(4)).toEqual({ cost: null, seconds: 4 });
  });
  it('is stopped and gone on with; the run over the rest is one of the runs', async () => {
    answers['GET prompt-trials'] = () => ({ data: [trial(5, 'working', 1)] });
    answers['GET prompt-trials/5'] = () => measured(5, 'working', 1);
    const prompts = await loaded();
    answers['POST prompt-trials/5/cancel'] = () => trial(5, 'cancelled', 1);
    answers['GET prompt-trials/5'] = () => measured(5, 'cancelled', 1);
    await prompts.act(prompts.trials[0]!, 'cancel');
    expect([prompts.trials[0]!.state, prompts.shown?.state]).toEqual(['cancelled', 'cancelled']);
    answers['POST prompt-trials/5/resume'] = () => ({ status: 409, title: 'x', code: 'x', detail: 'all were answered' });
    await prompts.act(prompts.trials[0]!, 'resume');
    expect(prompts.error).toBe('all were answered');
    answers['POST prompts/run'] = () => ({ id: 8, state: 'waiting' });
    expect(await prompts.run()).toBe(true);
    expect(bodies('POST prompts/run')).toEqual([{ version: 11, stays: 'without', conditions: [] }]);
    expect(prompts.list.runs.map((r) => r.id)).toEqual([8]);
  });
  it('says nothing any more once its page is left', async () => {
    const prompts = await loaded();
    let late: (value: unknown) => void = () => {};
    answers['GET prompt-trials/5'] = () => new Promise((done) => (late = done));
    const slow = prompts.show({ id: 5 });
    await vi.waitFor(() => expect(asked.at(-1)!.what).toBe('GET prompt-trials/5'));
    prompts.close();
    late(measured(5));
    await slow;
    expect(prompts.shown).toBe(null);
  });
});

describe('chat models', () => {
  it('are connected with a key that is not kept here, and taken away', async () => {
    const prompts = await loaded();
    answers['POST chat-models'] = () => ({ ...reader, id: 5, name: 'a slow one' });
    const of = { name: 'a slow one', address: 'http://a', remote: 'r', key: '', path: '/v1', most_tokens: 100, price: null };
    expect(await prompts.connect(of)).toBe(true);
    expect(bodies('POST chat-models')).toEqual([{ ...of, key: null }]);
    expect(prompts.models.map((m) => m.name)).toEqual(['a slow one', 'reader']);
    answers['DELETE chat-models/4'] = () => null;
    answers['GET chat-models'] = () => ({ data: [{ ...reader, id: 5 }] });
    await prompts.disconnect(reader);
    expect([prompts.draft.model, prompts.models.length, prompts.error]).toEqual([null, 1, '']);
  });
});

describe('side by side', () => {
  beforeEach(() => {
    answers['GET prompt-trials/5'] = () => measured(5);
    for (const [item, missing] of [
      [1, 2],
      [2, 0],
      [3, 1]
    ] as const)
      answers[`GET prompt-trials/5/texts/${item}`] = () => compared(item, missing);
  });
  const opened = async (item: number | null = null, against: number | null = null) => {
    const beside = new Beside(9, 5, against);
    await beside.load(item);
    return beside;
  };
  it('goes from one difference to the next through the texts that have any, and back', async () => {
    const beside = await opened();
    const way = [];
    for (let i = 0; i < 4; i++) {
      way.push([beside.item, beside.at]);
      await beside.step(1);
    }
    expect(way).toEqual([
      [1, 0],
      [1, 1],
      [3, 0],
      [3, 0]
    ]);
    await beside.step(-1);
    expect([beside.item, beside.at]).toEqual([1, 1]);
    await beside.turn(1);
    expect([beside.item, beside.at]).toEqual([3, 0]);
    // each text was asked for once
    expect(asked.filter((a) => a.what.includes('/texts/')).map((a) => a.what)).toEqual([
      'GET prompt-trials/5/texts/1',
      'GET prompt-trials/5/texts/3'
    ]);
  });
  it('opens a text it is asked for, whichever are listed, and shows others when asked', async () => {
    const beside = await opened(2);
    expect([beside.which, beside.item, beside.list.length, beside.texts.length]).toEqual(['all', 2, 0, 3]);
    beside.show('wrong');
    await vi.waitFor(() => expect(beside.now?.item).toBe(1));
  });
  it('shows the text that was asked for last, and none where it can not be read', async () => {
    const beside = await opened();
    let late: (value: unknown) => void = () => {};
    answers['GET prompt-trials/5/texts/2'] = () => new Promise((done) => (late = done));
    const slow = beside.go(2);
    await beside.go(3);
    late(compared(2, 0));
    await slow;
    expect([beside.item, beside.now?.item]).toEqual([3, 3]);
    answers['GET prompt-trials/5/texts/9'] = () => ({ status: 409, title: 'x', code: 'x', detail: 'this text is not there any more' });
    await beside.go(9);
    expect([beside.now, beside.error, beside.list]).toEqual([null, 'this text is not there any more', []]);
    answers['GET prompt-trials/5/texts/9'] = () => compared(9, 1);
    await beside.go(9);
    expect([beside.now?.item, beside.error]).toEqual([9, '']);
  });
  it('against another version goes through the texts that changed', async () => {
    answers['GET prompt-trials/5'] = () =>
      measured(5, 'done', 3, {
        against: {
          trial: trial(4),
          items: 3,
          exact: null,
          overlapping: null,
          answers: {},
          changed: [{ item: 2, path: 'b', better: 1, worse: 0 }]
        }
      });
    answers['GET prompt-trials/4/texts/2'] = () => compared(2, 1);
    const beside = await opened(null, 4);
    expect([beside.which, beside.item, beside.list.map((d) => d.of), beside.changed(2)?.better, beside.changed(1)]).toEqual([
      'changed',
      2,
      ['before'],
      1,
      null
    ]);
  });
  it('looks again while it goes on, and stays where it is', async () => {
    answers['GET prompt-trials/5'] = () => measured(5, 'working', 1);
    const beside = await opened();
    expect([beside.goesOn, beside.texts.length]).toEqual([true, 1]);
    await beside.step(1);
    answers['GET prompt-trials/5'] = () => measured(5);
    await beside.load();
    expect([beside.goesOn, beside.texts.length, beside.item, beside.at]).toEqual([false, 2, 1, 1]);
  });
});
