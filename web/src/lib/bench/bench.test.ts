// @vitest-environment jsdom
import 'fake-indexeddb/auto';
import { IDBFactory } from 'fake-indexeddb';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { asSent, mark, orchard, saidNothing } from '../../test/plane';
import { applied, json, offline, problem } from '../../test/server';
import { Outbox } from '../edits/outbox.svelte';
import { Bench } from './bench.svelte';
import type { Packet } from './opened.svelte';

/** A kind of items without a picture: what the bench asks of it is noted. */
const kind = vi.hoisted(() => {
  const state = { loaded: [] as number[], closed: [] as number[], drawing: false, settle: () => Promise.resolve(), begun: 0 };
  const surface = { keys: {}, pages: {}, pinning: false, isShown: true };
  const made = {
    load: (item: { id: number }) => {
      state.loaded.push(item.id);
      return { close: () => void state.closed.push(item.id) };
    },
    open: () => ({
      ...surface,
      get isDrawing() {
        return state.drawing;
      },
      settle: () => state.settle(),
      chose: () => {},
      picking: () => {},
      show: () => {},
      todo: () => [],
      close: () => {}
    }),
    take: () => {}
  };
  return { state, made };
});
vi.mock('$lib/kinds', () => ({ kindOf: () => (kind.state.begun++, Promise.resolve(kind.made)) }));

type Answer = () => Response | Promise<Response>;
type State = Packet['turn']['state'];
/** A project with a queue of turns 1 to 9, each of an item of a hundred times its number. */
class Desk {
  states = new Map<number, State>(Array.from({ length: 9 }, (_, i) => [i + 1, 'waiting']));
  version = 1;
  mode: 'label' | 'review' = 'label';
  suggested = new Map<number, Packet['suggestions']>();
  /** suggestions that become labels when an item is submitted */
  counted = 0;
  /** what came in, in order: `POST turns/1/submit` */
  asked: string[] = [];
  bodies: Record<string, unknown>[] = [];
  /** what is answered instead to the next request whose line ends like this */
  instead: { at: string; answer: Answer }[] = [];

  packet(turn: number, taken: boolean): Packet {
    const state = this.states.get(turn)!;
    return {
      turn: {
        id: turn,
        state,
        mode: taken && (state === 'open' || state === 'waiting') ? this.mode : 'look',
        round: 1,
        note: '',
        can_take_back: state === 'submitted'
      },
      item: { id: turn * 100, kind: 'picture', name: `${turn}.png` },
      marks: [asSent(mark(`M${turn}`, [1, 1, 5, 5]))],
      said: saidNothing,
      suggestions: this.suggested.get(turn) ?? [],
      fits: [],
      findings: [],
      pins: [],
      questions: [],
      decisions: [],
      people: [],
      seen: { cells: '', zoom: 1, required: false },
      slip_guard: false,
      codebook_version: this.version
    } as unknown as Packet;
  }
  next(after: number, holding: number[]): number | null {
    const free = (t: number) => this.states.get(t) === 'waiting' && !holding.includes(t);
    const all = [...this.states.keys()];
    return all.find((t) => t > after && free(t)) ?? all.find(free) ?? null;
  }
  fetch = async (input: RequestInfo | URL): Promise<Response> => {
    const request = input as Request;
    const path = new URL(request.url).pathname.replace('/api/v1/projects/3/', '').replace('/api/v1/projects/3', 'project');
    const line = `${request.method} ${path}`;
    const body = (request.method === 'GET' ? {} : ((await request.json().catch(() => ({}))) as Record<string, unknown>)) ?? {};
    this.asked.push(line);
    this.bodies.push(body);
    const i = this.instead.findIndex((t) => line.endsWith(t.at));
    if (i >= 0) return this.instead.splice(i, 1)[0]!.answer();
    return this.#answer(line, path, body);
  };
  #answer(line: string, path: string, body: Record<string, unknown>): Response {
    if (line === 'GET codebook')
      return json({ document: orchard, version: this.version, looks: orchard.classes.map((c) => ({ key: c.key, light: '#fff', marker: 'circle' })) }); // prettier-ignore
    if (line === 'GET project') return json({ id: 3, codebook_version: this.version });
    if (line === 'POST next') {
      const turn = this.next(Number(body.after ?? 0), (body.holding as number[]) ?? []);
      if (turn !== null) this.states.set(turn, 'open');
      return json({ packet: turn === null ? null : this.packet(turn, true) });
    }
    const turn = Number(/turns\/(\d+)/.exec(path)?.[1]);
    if (path.endsWith('/queue')) return json({ data: [...this.states].map(([id, state]) => ({ turn: id, state, name: `${id}.png` })) });
    if (path.endsWith('/edits')) return applied(body.edits as never, () => ({}), this.version);
    if (path.endsWith('/take')) this.states.set(turn, 'open');
    if (path.endsWith('/take-back')) this.states.set(turn, 'open');
    if (path.endsWith('/submit')) {
      if (this.states.get(turn) !== 'open') return problem(409, 'the turn is not open');
      this.states.set(turn, 'submitted');
      return json({ id: turn, state: 'submitted', counted: this.counted });
    }
    if (path.endsWith('/decision')) this.states.set(turn, body.decision === 'accept' ? 'accepted' : 'returned');
    if (path.endsWith('/park')) this.states.set(turn, 'parked');
    return json(this.packet(turn, line.startsWith('POST')));
  }
}

let desk: Desk;
let bench: Bench;
let moved: number[];
const begin = async (turn = 1): Promise<Bench> => {
  moved = [];
  bench = new Bench(3, 7, () => ({}), (t) => moved.push(t)); // prettier-ignore
  await bench.start(turn);
  await quiet();
  return bench;
};
/** Until nothing more is asked, and the item that has appeared may be submitted. */
const quiet = async (): Promise<void> => {
  for (let before = -1; before !== desk.asked.length;) {
    before = desk.asked.length;
    await new Promise((done) => setTimeout(done, 15));
  }
  bench.fresh = false;
};
const here = () => bench.opened!.packet.turn.id;
const draw = () => bench.opened!.editor.change([{ subject: 'NEW', item: here() * 100, before: null, after: mark('NEW', [9, 9, 4, 4]) }]);
const posts = () => desk.asked.filter((a) => a.startsWith('POST') && !a.endsWith('next'));

beforeEach(() => {
  globalThis.indexedDB = new IDBFactory();
  sessionStorage.clear();
  desk = new Desk();
  globalThis.fetch = desk.fetch as typeof fetch;
  Object.assign(kind.state, { loaded: [], closed: [], drawing: false, settle: () => Promise.resolve(), begun: 0 });
});
afterEach(async () => {
  bench.close();
  await Outbox.of(7).flush();
  Outbox.reset();
});

describe('an item on the bench', () => {
  it('is taken, shown, and the next one loaded ahead', async () => {
    await begin(2);
    expect(desk.asked.slice(0, 3).sort()).toEqual(['GET codebook', 'GET turns/2', 'POST turns/2/take']);
    expect([here(), bench.mode, bench.chosen.active]).toEqual([2, 'label', 'apple']);
    expect(moved).toEqual([2]);
    expect(desk.bodies[desk.asked.indexOf('POST next')]).toEqual({ purpose: 'label', holding: [2], after: 2, preload: true });
    expect(kind.state.loaded).toEqual([200, 300]);
    expect(bench.queue?.data).toHaveLength(9);
  });
  it('is taken again where it is held already, so that it is held for longer', async () => {
    desk.states.set(1, 'open');
    await begin();
    expect(posts()).toContain('POST turns/1/take');
  });
  it('is only looked at when it is done, when that is asked for, or when it can not be had', async () => {
    desk.states.set(1, 'submitted');
    await begin();
    expect([bench.mode, posts()]).toEqual(['look', []]);
    bench.close();
    bench = new Bench(3, 7, () => ({}), () => {}); // prettier-ignore
    await bench.start(2, true);
    expect([bench.mode, posts()]).toEqual(['look', []]);
    bench.close();
    desk.instead = [{ at: 'turns/3/take', answer: () => problem(409, 'Mei has it') }];
    await begin(3);
    expect([bench.mode, bench.message]).toEqual(['look', 'Mei has it']);
    expect(desk.asked).not.toContain('POST next');
  });
  it('is as it was last shown when the server is away, and an error when it never was', async () => {
    await begin();
    bench.close();
    globalThis.fetch = offline;
    bench = new Bench(3, 7, () => ({}), () => {}); // prettier-ignore
    await bench.start(1);
    expect(bench.opened!.editor.marks.ids).toEqual(['M1']);
    expect(bench.message).toContain('as it was last shown here');
    await expect(new Bench(3, 7, () => ({}), () => {}).start(5)).rejects.toThrow(/does not answer/); // prettier-ignore
    // nor is what somebody else was shown
    Outbox.reset();
    await expect(new Bench(3, 8, () => ({}), () => {}).start(1)).rejects.toThrow(/does not answer/); // prettier-ignore
  });
  it('opens on a browser that keeps nothing', async () => {
    globalThis.indexedDB = { open: () => { throw new Error('no store') } } as never; // prettier-ignore
    await begin();
    expect(here()).toBe(1);
  });
  it('has its kind loaded once, however many such items come', async () => {
    await begin();
    await bench.submit(false);
    await quiet();
    expect(kind.state.begun).toBe(1);
  });
});

describe('a step of the workflow', () => {
  it('waits for what was drawn, then opens the item that is loaded already, and loads another', async () => {
    await begin();
    let settled = false;
    kind.state.settle = async () => void (settled = true);
    draw();
    desk.asked.length = 0;
    expect(await bench.submit(false)).toBe(true);
    expect(settled).toBe(true);
    const order = posts();
    expect(order.indexOf('POST turns/1/edits')).toBeGreaterThanOrEqual(0);
    expect(order.indexOf('POST turns/1/edits')).toBeLessThan(order.indexOf('POST turns/1/submit'));
    expect([here(), bench.lastSubmitted, bench.mode]).toEqual([2, 1, 'label']);
    await quiet();
    // its lease is renewed behind the picture
    expect(posts()).toContain('POST turns/2/take');
    expect(kind.state.loaded).toEqual([100, 200, 300]);
    expect(moved).toEqual([1, 2]);
  });
  it('goes on from here, not back to what was skipped', async () => {
    await begin(5);
    await bench.submit(false);
    expect(here()).toBe(6);
  });
  it('says when nothing is left', async () => {
    for (const t of desk.states.keys()) if (t > 1) desk.states.set(t, 'accepted');
    await begin();
    expect(await bench.submit(true)).toBe(true);
    expect([bench.nothingLeft, here()]).toEqual([true, 1]);
    expect(desk.bodies[desk.asked.indexOf('POST turns/1/submit')]).toEqual({ nothing: true, anyway: false });
  });
  it('shows doubts, and goes on with the second press', async () => {
    await begin();
    const findings = [{ mark: 'M1', attribute: 'ripe', message: 'not answered', kind: 'doubt' }];
    desk.instead = [
      {
        at: '1/submit',
        answer: () => new Response(JSON.stringify({ status: 422, code: 'doubts', title: 'x', detail: 'one doubt', type: 'x', findings }), { status: 422, headers: { 'Content-Type': 'application/problem+json' } }) // prettier-ignore
      }
    ];
    expect(await bench.submit(false)).toBe(false);
    expect([bench.message, bench.opened!.hand.selected, bench.opened!.asking.question]).toEqual(['one doubt', 'M1', 'ripe']);
    expect(await bench.submit(false)).toBe(true);
    expect(desk.bodies[desk.asked.lastIndexOf('POST turns/1/submit')]).toEqual({ nothing: false, anyway: true });
  });
  it('says how many became labels since the whole was seen', async () => {
    const suggestion = (id: string) => asSent(mark(id, [2, 2, 4, 4], { source: 'model' }));
    desk.suggested.set(1, [suggestion('S1'), suggestion('S2')]);
    desk.counted = 1;
    await begin();
    await bench.submit(false);
    expect(bench.message).toBe(
      'the whole was seen, so one sure suggestion is a label; one suggestion was left behind there: no label; take it back to decide'
    );
  });
  it('says how many suggestions were left behind, which are no labels', async () => {
    const suggestion = (id: string) => asSent(mark(id, [2, 2, 4, 4], { source: 'model' }));
    desk.suggested.set(1, [suggestion('S1'), suggestion('S2')]);
    await begin();
    expect(await bench.submit(false)).toBe(true);
    expect(bench.message).toBe('2 suggestions were left behind there: no labels; take it back to decide');
    bench.fresh = false;
    expect(await bench.submit(false)).toBe(true);
    expect(bench.message).toBe('');
  });
  it('takes no change while it is on its way, which would come too late, and takes them again when it did not go', async () => {
    await begin();
    let give: (answer: Response) => void = () => {};
    desk.instead = [{ at: '1/submit', answer: () => new Promise<Response>((done) => (give = done)) }];
    const submitted = bench.submit(false);
    await vi.waitFor(() => expect(desk.asked).toContain('POST turns/1/submit'));
    expect([draw(), bench.message]).toEqual([0, 'this item is on its way: wait a moment']);
    give(problem(422, 'not yet'));
    expect(await submitted).toBe(false);
    expect(draw()).toBe(1);
    // what was drawn before goes first
    expect(await bench.submit(false)).toBe(true);
    expect(desk.asked.filter((line) => /turns\/1\/(edits|submit)/.test(line))).toEqual([
      'POST turns/1/submit',
      'POST turns/1/edits',
      'POST turns/1/submit'
    ]);
  });
  it('leads to what stops before what is only doubted', async () => {
    await begin();
    const findings = [
      { mark: 'M1', attribute: null, message: 'small', stops: false },
      { mark: 'M2', attribute: 'ripe', message: 'not answered', stops: true }
    ];
    desk.instead = [
      {
        at: '1/submit',
        answer: () => new Response(JSON.stringify({ status: 422, code: 'findings', title: 'x', detail: 'not answered', type: 'x', findings }), { status: 422, headers: { 'Content-Type': 'application/problem+json' } }) // prettier-ignore
      }
    ];
    expect(await bench.submit(false)).toBe(false);
    expect([bench.message, bench.opened!.asking.question]).toEqual(['not answered', 'ripe']);
  });
  it('is not done with something half drawn, or with changes that were not taken', async () => {
    await begin();
    kind.state.drawing = true;
    expect(await bench.submit(false)).toBe(false);
    expect(bench.message).toContain('half drawn');
    kind.state.drawing = false;
    desk.instead = [{ at: '1/edits', answer: () => json({ results: [{ id: 'x', outcome: 'refused', reason: 'no such class', mark: null, said: null }], findings: [], codebook_version: 1, seconds: 0 }) }]; // prettier-ignore
    draw();
    expect(await bench.submit(false)).toBe(false);
    expect(bench.message).toContain('one change of this item was not taken');
    expect(desk.asked).not.toContain('POST turns/1/submit');
  });
  it('is done once: not by the second half of a double press, nor while one runs', async () => {
    await begin();
    bench.fresh = true;
    expect(await bench.submit(false)).toBe(false);
    bench.fresh = false;
    const both = await Promise.all([bench.submit(false), Promise.resolve().then(() => bench.submit(false))]);
    expect(both).toEqual([true, false]);
    expect([bench.fresh, posts().filter((p) => p.endsWith('submit'))]).toEqual([true, ['POST turns/1/submit']]);
  });
  it('that was done without an answer is not done again', async () => {
    await begin();
    desk.instead = [
      {
        at: '1/submit',
        answer: () => {
          desk.states.set(1, 'submitted');
          return offline();
        }
      }
    ];
    expect(await bench.submit(false)).toBe(false);
    expect([here(), bench.message]).toEqual([1, expect.stringContaining('does not answer')]);
    expect(await bench.submit(false)).toBe(true);
    expect([here(), bench.lastSubmitted]).toEqual([2, 1]);
    // a conflict that nothing was lost before is one
    await quiet();
    desk.states.set(2, 'waiting');
    expect(await bench.submit(false)).toBe(false);
    expect(bench.message).toBe('the turn is not open');
  });
  it('sets aside, accepts and returns; an accept can be taken back', async () => {
    await begin();
    expect(await bench.park('too dark')).toBe(true);
    expect([desk.states.get(1), here()]).toEqual(['parked', 2]);
    await quiet();
    desk.mode = 'review';
    bench.close();
    await begin(4);
    expect(await bench.decide('accept', '')).toBe(true);
    expect([bench.lastSubmitted, bench.canTakeBack]).toEqual([4, true]);
    await quiet();
    expect(await bench.decide('return', 'more air')).toBe(true);
    expect(bench.lastSubmitted).toBeNull();
    await quiet();
    expect(await bench.takeBack()).toBe(false);
    expect(bench.message).toBe('there is nothing to take back');
  });
  it('is taken back', async () => {
    await begin();
    await bench.submit(false);
    await quiet();
    expect(await bench.takeBack()).toBe(true);
    expect([here(), bench.lastSubmitted, desk.states.get(1)]).toEqual([1, null, 'open']);
  });
});

describe('going elsewhere', () => {
  it('takes what waits, and only looks at what is done', async () => {
    desk.states.set(4, 'submitted');
    await begin();
    await bench.goTo(3);
    expect([here(), bench.mode]).toEqual([3, 'label']);
    await bench.goTo(4);
    expect([here(), bench.mode]).toEqual([4, 'look']);
    expect(posts()).not.toContain('POST turns/4/take');
    // on the way back the address follows too
    await bench.goTo(1);
    expect(moved).toEqual([1, 3, 4, 1]);
  });
  it('goes as many on as was pressed', async () => {
    await begin();
    bench.neighbour(1);
    bench.neighbour(1);
    bench.neighbour(1);
    await vi.waitFor(() => expect(here()).toBe(4));
    await quiet();
    bench.neighbour(-1);
    await vi.waitFor(() => expect(here()).toBe(3));
    await quiet();
    await bench.goTo(9);
    await quiet();
    bench.neighbour(1);
    expect(bench.message).toBe('there is no item on that side');
    bench.neighbour(1, true);
    expect(bench.message).toBe('no unlabelled item after this one');
  });
  it('asks again for the items around, when they could not be had', async () => {
    desk.instead = [
      { at: '1/queue', answer: () => problem(500, 'a fault') },
      { at: '1/queue', answer: offline }
    ];
    await begin();
    bench.neighbour(1);
    await vi.waitFor(() => expect(bench.message).toMatch(/could not be loaded: .*does not answer/));
    expect(here()).toBe(1);
    bench.neighbour(1);
    await vi.waitFor(() => expect(here()).toBe(2));
  });
  it('keeps what comes late from the item it was for', async () => {
    await begin();
    let give: (r: Response) => void = () => {};
    desk.instead = [{ at: '2/queue', answer: () => new Promise<Response>((done) => (give = done)) }];
    await bench.goTo(2);
    const of2 = bench.opened!;
    await bench.goTo(3);
    await quiet();
    give(json({ data: [] }));
    await quiet();
    expect(bench.queue?.data).toHaveLength(9);
    of2.say('late');
    expect(bench.message).toBe('');
    expect(of2.closed).toBe(true);
  });
  it('lets go of what was loaded ahead', async () => {
    await begin();
    expect(kind.state.loaded).toEqual([100, 200]);
    await bench.goTo(7);
    await quiet();
    expect(kind.state.closed).toContain(200);
    bench.close();
    expect(kind.state.closed).toContain(kind.state.loaded.at(-1));
  });
  it('says why it did not, and stays', async () => {
    await begin();
    desk.instead = [{ at: '5/take', answer: () => problem(409, 'Aoife has it') }];
    expect(await bench.goTo(5)).toBe(false);
    expect([here(), bench.message, bench.busy]).toEqual([1, 'Aoife has it', false]);
  });
});

describe('another codebook', () => {
  it('is taken up after what is on its way has arrived', async () => {
    await begin();
    desk.version = 2;
    draw();
    await Outbox.of(7).flush();
    await quiet();
    expect(bench.words.version).toBe(2);
    expect(bench.message).toBe('the codebook has changed; your work is kept');
    const after = desk.asked.slice(desk.asked.indexOf('POST turns/1/edits'));
    expect(after.indexOf('GET codebook')).toBeGreaterThan(0);
    expect(after).toContain('GET turns/1');
  });
  it('is noticed by a bench on which nothing happens, once', async () => {
    await begin();
    await bench.look();
    expect(bench.message).toBe('');
    desk.version = 5;
    await Promise.all([bench.look(), bench.look()]);
    expect(bench.words.version).toBe(5);
    expect(desk.asked.filter((a) => a === 'GET codebook')).toHaveLength(2);
  });
  it('that could not be had is asked for again', async () => {
    await begin();
    desk.version = 2;
    desk.instead = [{ at: 'GET codebook', answer: () => problem(500, 'a fault') }];
    await bench.look();
    expect(bench.message).toContain('could not be loaded yet');
    await bench.look();
    expect(bench.words.version).toBe(2);
  });
});
