// @vitest-environment jsdom
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { Help, lasting, percent, type Thing } from './help.svelte';

const named = (classes: Record<string, string>, tags: Record<string, string> = {}) => ({ classes, nodes: {}, tags });
const finder = {
  id: 4,
  name: 'fruit-finder',
  kind: 'connected',
  version: null,
  versions: [],
  about: '',
  address: 'http://127.0.0.1:9470',
  remote: 'fruit-finder',
  classes: ['apple', 'pear'],
  nodes: [],
  tags: [],
  questions: [],
  alike: named({ apple: 'apple' }),
  card: {}
};
const other = { ...finder, id: 5, name: 'moth-poser', classes: ['moth'], alike: named({}) };
const aVersion = (number: number, state: string) => ({
  id: 70 + number,
  number,
  state,
  done: 0.3,
  accepted: 8,
  learned: {},
  figures: {},
  better: null,
  in_use: false,
  error: '',
  at: null
});
const regions = {
  ...finder,
  id: 7,
  name: 'regions',
  kind: 'regions',
  address: null,
  classes: [],
  alike: named({}),
  versions: [aVersion(1, 'working')]
};
const aTrial = (id: number, state: string, done = 0) => ({
  id,
  model: 'fruit-finder',
  model_id: 4,
  version: null,
  then: null,
  from: 0.5,
  state,
  done,
  total: 9,
  error: '',
  at: null
});
const figures = (from: number) => ({
  from,
  classes: {},
  words: {},
  worst: [],
  failed: [],
  cost: { there: 0, kept: 0, moved: 0, dropped: 0, drawn: 0, seconds: 0, by_hand: 0, an_object: 8 }
});
const aRun = (id: number, state: string) => ({
  id,
  model: 'fruit-finder',
  state,
  done: 0,
  total: 60,
  from: 0.5,
  stays: 'beside',
  report: { things: 0, said: 0, with: 0, without: 0, left: 0, failed: [], failed_count: 0 },
  error: '',
  at: null
});
const box = { x: 1, y: 2, width: 3, height: 4 };
const thing = (confidence: number): Thing => ({ class: 'apple', kind: 'box', geometry: box, answers: {}, confidence });

/** what the server answers, by method and path; what it was asked, in order */
let answers: Record<string, (body: unknown) => unknown>;
let asked: { what: string; body: unknown }[];
let queries: string[];

beforeEach(() => {
  asked = [];
  queries = [];
  answers = {
    'GET models': () => ({ data: [finder, other], addresses: [], stage: null, stage_trouble: null }),
    'GET runs': () => ({ data: [aRun(1, 'done')] }),
    'GET trials': () => ({ data: [] })
  };
  vi.stubGlobal('fetch', async (request: Request) => {
    const what = `${request.method} ${new URL(request.url).pathname.replace('/api/v1/projects/9/', '').replace('/api/v1/', '')}`;
    const text = await request.clone().text();
    const body = text === '' ? null : JSON.parse(text);
    asked.push({ what, body });
    queries.push(new URL(request.url).search);
    const found = await (answers[what] ?? (() => ({ status: 404, title: 'x', code: 'not_found', detail: `nothing at ${what}` })))(body);
    const status = (found as { status?: number } | null)?.status ?? 200;
    return new Response(found === null ? null : JSON.stringify(found), {
      status: found === null ? 204 : status,
      headers: { 'Content-Type': status < 300 ? 'application/json' : 'application/problem+json' }
    });
  });
});
afterEach(() => vi.unstubAllGlobals());

describe('models and what they are asked', () => {
  it('begins with the first model and what is called alike', async () => {
    const help = new Help(9);
    await help.load();
    expect([help.model?.name, help.names.classes, help.list.runs.length, help.error]).toEqual(['fruit-finder', { apple: 'apple' }, 1, '']);
    help.choose(5);
    expect(help.names.classes).toEqual({});
  });

  it('maps a class and leaves it out again, and forgets what was tried with another', async () => {
    const help = new Help(9);
    await help.load();
    help.tried = [{ item: {} as never, things: [], words: [], found: 0 }];
    help.map('pear', 'apple');
    expect([help.names.classes, help.tried]).toEqual([{ apple: 'apple', pear: 'apple' }, []]);
    help.map('apple', '');
    expect(help.names.classes).toEqual({ pear: 'apple' });
  });

  it('shows each item as it was tried; the slider acts on what came, without asking again', async () => {
    answers['POST models/4/try'] = (body) => ({
      item: { id: (body as { item: number }).item },
      things: [thing(0.9), thing(0.4)],
      words: [{ key: 'wet', answer: null, confidence: 0.7 }],
      found: 2
    });
    const help = new Help(9);
    await help.load();
    await help.try([11, 12]);
    expect(help.tried.map((t) => t.item.id)).toEqual([11, 12]);
    expect(help.trying).toBe(false);
    const before = asked.length;
    expect(help.sure(help.tried[0]!)).toHaveLength(1);
    help.wish.from = 0.3;
    expect(help.sure(help.tried[0]!)).toHaveLength(2);
    help.wish.from = 0.95;
    expect(help.sure(help.tried[0]!)).toHaveLength(0);
    expect(asked).toHaveLength(before);
  });

  it('gives a class a confidence of its own, which goes with the run', async () => {
    answers['POST runs'] = () => aRun(2, 'waiting');
    const help = new Help(9);
    await help.load();
    const tried = { item: {} as never, things: [thing(0.6), { ...thing(0.6), class: 'leaf' }], words: [], found: 2 };
    help.from('leaf', 0.8);
    expect(help.sure(tried).map((t) => t.class)).toEqual(['apple']);
    await help.run();
    expect((asked.at(-1)?.body as { own: unknown }).own).toEqual({ leaf: 0.8 });
    help.from('leaf', null);
    expect(help.sure(tried)).toHaveLength(2);
    help.from('leaf', 0.9);
    help.choose(5);
    expect(help.own).toEqual({});
  });

  it('lets the owner allow an address', async () => {
    answers['POST endpoints'] = () => ({ data: [{ id: 1, address: 'https://models.example', private: false }] });
    const help = new Help(9);
    await help.load();
    expect(await help.allow('https://models.example', false)).toBe(true);
    expect([asked.at(-1)?.body, help.addresses.map((a) => a.address)]).toEqual([
      { address: 'https://models.example', private: false },
      ['https://models.example']
    ]);
  });

  it('drops what comes of a trial that another one has followed, or whose page was left', async () => {
    let go = (): void => {};
    answers['POST models/4/try'] = (body) => {
      const found = { item: { id: (body as { item: number }).item }, things: [], words: [], found: 0 };
      return found.item.id === 11 ? new Promise((done) => (go = () => done(found))) : found;
    };
    const help = new Help(9);
    await help.load();
    const first = help.try([11]);
    await vi.waitFor(() => expect(asked.at(-1)?.what).toBe('POST models/4/try'));
    await help.try([12]);
    go();
    await first;
    expect(help.tried.map((t) => t.item.id)).toEqual([12]);
    const left = help.try([11]);
    await vi.waitFor(() => expect(asked.filter((a) => a.what === 'POST models/4/try')).toHaveLength(3));
    help.close();
    go();
    await left;
    expect(help.tried).toEqual([]);
  });

  it('says why a trial failed and keeps what had come', async () => {
    answers['POST models/4/try'] = (body) =>
      (body as { item: number }).item === 11
        ? { item: { id: 11 }, things: [], words: [], found: 0 }
        : { status: 409, title: 'x', code: 'model_not_reached', detail: 'http://127.0.0.1:9470 does not answer' };
    const help = new Help(9);
    await help.load();
    await help.try([11, 12, 13]);
    expect([help.tried.map((t) => t.item.id), help.trying, help.error]).toEqual([[11], false, 'http://127.0.0.1:9470 does not answer']);
    expect(asked.filter((a) => a.what === 'POST models/4/try')).toHaveLength(2);
  });
});

describe('runs', () => {
  it('begins one with what the sentence says, and it comes first in the list', async () => {
    answers['POST runs'] = () => aRun(2, 'waiting');
    const help = new Help(9);
    await help.load();
    help.which.set = 'north';
    help.wish.from = 0.7;
    help.wish.stays = 'without';
    expect(await help.run()).toBe(true);
    expect(asked.at(-1)?.body).toEqual({
      model: 4,
      classes: { apple: 'apple' },
      nodes: {},
      tags: {},
      from: 0.7,
      own: {},
      stays: 'without',
      conditions: ['set:north'],
      then: null
    });
    expect(help.list.runs.map((r) => r.id)).toEqual([2, 1]);
  });

  it('pauses, goes on and takes back that run only', async () => {
    answers['GET runs'] = () => ({ data: [aRun(2, 'working'), aRun(1, 'done')] });
    answers['POST runs/2/pause'] = () => aRun(2, 'paused');
    answers['POST runs/1/take-back'] = () => ({ ...aRun(1, 'taken_back'), gone: 3 });
    const help = new Help(9);
    await help.load();
    await help.list.act(help.list.runs[0]!, 'pause');
    await help.list.act(help.list.runs[1]!, 'take-back');
    expect(help.list.runs.map((r) => [r.id, r.state])).toEqual([
      [2, 'paused'],
      [1, 'taken_back']
    ]);
    expect(await help.look()).toBe(true);
    answers['GET runs'] = () => ({ status: 503, title: 'x', code: 'busy', detail: 'busy' });
    // a look that fails changes nothing and says nothing
    expect(await help.look()).toBe(true);
    expect(help.error).toBe('');
  });
});

describe('connecting', () => {
  it('refuses a card that is no JSON before it asks, and shows what the server refuses', async () => {
    const help = new Help(9);
    await help.load();
    const before = asked.length;
    expect(await help.connect('http://127.0.0.1:9470', 'x', '{')).toBe(false);
    expect([help.error, asked.length]).toEqual(['the card is no JSON', before]);
    answers['POST models'] = () => ({ status: 422, title: 'x', code: 'invalid_value', detail: 'card.classes: names' });
    expect(await help.connect('http://127.0.0.1:9470', 'x', '{}')).toBe(false);
    expect(help.error).toBe('card.classes: names');
  });

  it('chooses what was connected, and another when it is taken away', async () => {
    answers['POST models'] = () => ({ ...other, id: 6, name: 'region-model' });
    answers['DELETE models/6'] = () => null;
    const help = new Help(9);
    await help.load();
    expect(await help.connect('http://127.0.0.1:9470', 'region-model', '{}')).toBe(true);
    expect(help.model?.name).toBe('region-model');
    await help.disconnect(help.model!);
    expect([help.models.map((m) => m.id), help.model?.name]).toEqual([[4, 5], 'fruit-finder']);
  });

  it('says in words what a model says of itself', async () => {
    const help = new Help(9);
    await help.load();
    answers['POST models/4/check'] = () => ({ ready: true, inputs: [], outputs: [], lacks: [] });
    expect(await help.check(finder as never)).toBe('it is ready');
    answers['POST models/4/check'] = () => ({ ready: true, inputs: [], outputs: [], lacks: ['boxes', 'scores'] });
    expect(await help.check(finder as never)).toBe('it has no output boxes, scores');
    answers['POST models/4/check'] = () => ({ ready: false, inputs: [], outputs: [], lacks: [] });
    expect(await help.check(finder as never)).toBe('it is there, but not ready');
    answers['POST models/4/check'] = () => ({ status: 409, title: 'x', code: 'model_not_reached', detail: 'does not answer' });
    expect(await help.check(finder as never)).toBe('does not answer');
  });
});

describe('learning and trials', () => {
  it('learns a version, follows it, and asks the model as soon as it can be asked', async () => {
    answers['GET models'] = () => ({ data: [], addresses: [] });
    answers['POST learn'] = () => regions;
    const help = new Help(9);
    await help.load();
    expect(help.model).toBe(null);
    expect(await help.learn('regions')).toBe(true);
    expect(asked.at(-1)).toEqual({ what: 'POST learn', body: { kind: 'regions' } });
    expect([help.goesOn, help.finders]).toEqual([true, []]);
    answers['GET models'] = () => ({
      data: [{ ...regions, version: 71, classes: ['apple'], alike: named({ apple: 'apple' }), versions: [aVersion(1, 'done')] }],
      addresses: []
    });
    answers['GET runs'] = () => ({ data: [] });
    expect(await help.look()).toBe(false);
    expect([help.model?.name, help.names.classes]).toEqual(['regions', { apple: 'apple' }]);
  });

  it('says why nothing can be learned', async () => {
    answers['POST learn'] = () => ({
      status: 422,
      title: 'x',
      code: 'invalid_value',
      detail: 'accepted is 3; expected at least 4 accepted pictures'
    });
    const help = new Help(9);
    await help.load();
    expect(await help.learn('skeletons')).toBe(false);
    expect(help.error).toContain('at least 4 accepted pictures');
  });

  it('stops a version and takes another into use', async () => {
    answers['GET models'] = () => ({ data: [regions], addresses: [] });
    answers['POST models/7/versions/71/cancel'] = () => ({ ...regions, versions: [aVersion(1, 'cancelled')] });
    answers['POST models/7/versions/70/use'] = () => ({ ...regions, version: 70 });
    const help = new Help(9);
    await help.load();
    await help.version(help.models[0]!, 71, 'cancel');
    expect(help.models[0]!.versions[0]!.state).toBe('cancelled');
    await help.version(help.models[0]!, 70, 'use');
    expect(help.models[0]!.version).toBe(70);
  });

  it('shows a trial as it grows, at the confidence it is looked at', async () => {
    let done = 2;
    answers['POST trials'] = () => aTrial(3, 'waiting');
    answers['GET trials'] = () => ({ data: [aTrial(3, done < 9 ? 'working' : 'done', done)] });
    answers['GET trials/3'] = () => ({ ...aTrial(3, 'working', done), figures: figures(0.5) });
    const help = new Help(9);
    await help.load();
    help.wish.then = 'outline';
    expect(await help.measure()).toBe(true);
    expect(asked.find((a) => a.what === 'POST trials')?.body).toEqual({
      model: 4,
      classes: { apple: 'apple' },
      nodes: {},
      tags: {},
      from: 0.5,
      conditions: [],
      then: 'outline'
    });
    expect([help.shown?.id, help.shown?.done]).toEqual([3, 2]);
    done = 9;
    answers['GET trials/3'] = () => ({ ...aTrial(3, 'done', 9), figures: figures(0.8) });
    await help.show({ id: 3 }, 0.8);
    await help.look();
    expect([help.shown?.state, help.shown?.figures.from, help.goesOn]).toEqual(['done', 0.8, false]);
    // nothing has changed: it is not asked for again
    const before = asked.length;
    await help.look();
    expect(asked.slice(before).map((a) => a.what)).not.toContain('GET trials/3');
    await help.show(null);
    expect(help.shown).toBe(null);
  });

  it('looks how far a trial is at the confidence that is wanted, not at the one that is shown', async () => {
    answers['GET trials'] = () => ({ data: [aTrial(3, 'done', 9)] });
    answers['GET trials/3'] = () => ({ ...aTrial(3, 'working', 5), figures: figures(0.5) });
    const help = new Help(9);
    await help.load();
    await help.show({ id: 3 }, 0.5);
    // the slider has been moved, and what it asks for has not come yet
    help.wanted = 0.95;
    await help.look();
    expect(help.wanted).toBe(0.95);
    expect([asked.at(-1)?.what, queries.at(-1)]).toEqual(['GET trials/3', '?from=0.95']);
    await help.show({ id: 3 });
    expect(help.wanted).toBe(null);
  });

  it('shows the last confidence the slider stood at, whichever answer comes last', async () => {
    const waits: (() => void)[] = [];
    let n = 0;
    answers['GET trials/3'] = () => {
      const found = { ...aTrial(3, 'done', 9), figures: figures(n++ === 0 ? 0.1 : 0.9) };
      return new Promise((settle) => waits.push(() => settle(found)));
    };
    const help = new Help(9);
    const first = help.show({ id: 3 }, 0.1);
    const second = help.show({ id: 3 }, 0.9);
    await vi.waitFor(() => expect(waits).toHaveLength(2));
    waits[1]!();
    await second;
    waits[0]!();
    await first;
    expect(help.shown?.figures.from).toBe(0.9);
  });

  it('lets what finds come first and what answers come then', async () => {
    const looks = { ...regions, id: 8, name: 'looks', kind: 'looks', version: 80, versions: [] };
    const skeletons = { ...regions, id: 9, name: 'skeletons', kind: 'skeletons', classes: ['moth'], version: 90, versions: [] };
    answers['GET models'] = () => ({ data: [finder, looks, regions, skeletons], addresses: [] });
    const help = new Help(9);
    await help.load();
    expect(help.finders.map((m) => m.name)).toEqual(['fruit-finder', 'skeletons']);
    expect(help.followers.map((m) => m.name)).toEqual(['looks', 'skeletons']);
    help.wish.then = 9;
    help.choose(9);
    expect([help.wish.then, help.followers.map((m) => m.name)]).toEqual([null, ['looks']]);
  });

  it('makes what the sentence says the first stage, and lets people begin again', async () => {
    const stage = { model: 4, classes: { apple: 'apple' }, nodes: {}, tags: {}, from: 0.6, then: null };
    answers['PUT model-stage'] = () => ({ stage });
    answers['DELETE model-stage'] = () => null;
    const help = new Help(9);
    await help.load();
    expect(help.stage).toBe(null);
    help.wish.from = 0.6;
    answers['GET models'] = () => ({ data: [finder, other], addresses: [], stage, stage_trouble: null });
    expect(await help.first(true)).toBe(true);
    expect(asked.find((a) => a.what === 'PUT model-stage')?.body).toEqual(stage);
    expect(help.stage).toEqual(stage);
    answers['GET models'] = () => ({ data: [finder, other], addresses: [], stage: null, stage_trouble: null });
    expect(await help.first(false)).toBe(true);
    expect(help.stage).toBe(null);
  });

  it('tells what people have made of a run or a version', async () => {
    const made = { suggested: 3, untouched: 1 };
    answers['GET runs/1/outcome'] = () => made;
    answers['GET models/7/versions/71/outcome'] = () => made;
    const help = new Help(9);
    await help.load();
    expect(await help.list.outcome(1)).toEqual(made);
    expect(await help.outcome(7, 71)).toEqual(made);
    expect(await help.list.outcome(2)).toBe(null);
    expect(help.error).toContain('nothing at');
  });

  it('writes figures and times as people read them', () => {
    expect(percent({ value: 0.913, low: 0.84, high: 0.96 })).toBe('91 % (84–96)');
    expect(percent(null)).toBe('–');
    expect([lasting(42), lasting(600), lasting(9000)]).toEqual(['42 s', '10 min', '2.5 h']);
  });
});

describe('names', () => {
  const poser = {
    ...finder,
    id: 8,
    name: 'poser',
    classes: ['bug'],
    nodes: ['head', 'abdomen', 'wing'],
    tags: ['wet_leaves', 'fog'],
    questions: [],
    alike: { classes: {}, nodes: { moth: { head: 'head' } }, tags: { wet_leaves: 'wet' } }
  };
  const looks = {
    ...finder,
    id: 9,
    name: 'looks',
    kind: 'looks',
    version: 3,
    classes: [],
    tags: ['dusk'],
    questions: ['weather'],
    alike: named({}, { dusk: 'dusk' })
  };
  const begin = async () => {
    answers['GET models'] = () => ({ data: [finder, poser, looks], addresses: [], stage: null, stage_trouble: null });
    const help = new Help(9);
    await help.load();
    help.choose(8);
    return help;
  };
  const sent = async (help: Help) => {
    answers['POST runs'] = () => aRun(5, 'waiting');
    await help.run();
    const { classes, nodes, tags } = asked.at(-1)!.body as ReturnType<typeof named>;
    return { classes, nodes, tags };
  };

  it('of nodes go by name until a hand says otherwise; each node is one of the model’s only', async () => {
    const help = await begin();
    help.map('bug', 'moth');
    expect(help.names.nodes('moth')).toEqual({ head: 'head' });
    expect(await sent(help)).toEqual({ classes: { bug: 'moth' }, nodes: {}, tags: { wet_leaves: 'wet' } });
    help.node('moth', 'abdomen', 'tail');
    help.node('moth', 'wing', 'head');
    expect(await sent(help)).toEqual({ classes: { bug: 'moth' }, nodes: { moth: { abdomen: 'tail', wing: 'head' } }, tags: { wet_leaves: 'wet' } }); // prettier-ignore
    help.node('moth', 'abdomen', '');
    // of a class that is wanted no more nothing is sent
    help.map('bug', '');
    expect(await sent(help)).toEqual({ classes: {}, nodes: {}, tags: { wet_leaves: 'wet' } });
  });
  it('of tags are corrected, left out, and taken up from what comes then', async () => {
    const help = await begin();
    help.tag('fog', 'dusk');
    expect(help.names.tags).toEqual({ wet_leaves: 'wet', fog: 'dusk' });
    help.tag('wet_leaves', '');
    expect([help.names.tags, help.isWanted]).toEqual([{ fog: 'dusk' }, true]);
    help.tag('fog', '');
    expect(help.isWanted).toBe(false);
    help.follow(9);
    expect([help.names.tags, help.tags, help.questions, help.isWanted]).toEqual([{ dusk: 'dusk' }, ['wet_leaves', 'fog', 'dusk'], ['weather'], true]); // prettier-ignore
    help.follow(null);
    expect([help.names.tags, help.questions]).toEqual([{}, []]);
  });
  it('what only says something of the whole is asked by itself; what knows nothing is not', async () => {
    const help = await begin();
    expect(help.finders.map((m) => m.name)).toEqual(['fruit-finder', 'poser', 'looks']);
    help.choose(9);
    expect([help.names.classes, help.questions, help.isWanted]).toEqual([{}, ['weather'], true]);
    help.models = [{ ...looks, tags: [], questions: [] } as never];
    expect([help.finders, help.followers]).toEqual([[], []]);
  });
  it('words are as sure as the slider says', async () => {
    const help = await begin();
    const tried = { item: {} as never, things: [], words: [{ key: 'wet', answer: null, confidence: 0.6 }], found: 0 };
    expect(help.sureWords(tried)).toHaveLength(1);
    help.wish.from = 0.61;
    expect(help.sureWords(tried)).toHaveLength(0);
  });
  it('of which items are taken from Items: a set is the set of the sentence', async () => {
    const help = await begin();
    help.which.narrow(['state:new', 'set:slope']);
    expect([help.which.set, help.which.narrowed, help.which.conditions]).toEqual(['slope', ['state:new'], ['state:new', 'set:slope']]);
    help.which.narrow(['set:slope', 'set:old']);
    expect([help.which.set, help.which.conditions]).toEqual([null, ['set:slope', 'set:old']]);
    help.which.narrow(['-set:slope', 'set:']);
    expect([help.which.set, help.which.conditions]).toEqual(['', ['-set:slope', 'set:']]);
  });
});
