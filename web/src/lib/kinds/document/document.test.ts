// @vitest-environment jsdom
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import type { Schemas } from '$lib/api/client';
import { pageSize } from '$lib/words/pages';
import { Late, on, opened } from '../../../test/document';
import { json } from '../../../test/server';
import { GAP, Sheets } from './sheets';

beforeEach(() => {
  Late.all = [];
  vi.stubGlobal('Image', Late);
  sessionStorage.clear();
  localStorage.clear();
});
afterEach(() => vi.unstubAllGlobals());
const context = () => {
  const drawn: string[] = [];
  const c = new Proxy({ drawImage: (image: Late) => drawn.push(image.src) } as Record<string, unknown>, {
    get: (target, name) => target[name as string] ?? (() => {}),
    set: () => true
  });
  return { c: c as unknown as CanvasRenderingContext2D, drawn };
};

describe('pages on the table', () => {
  const runs = [
    [400, 600, 2],
    [800, 300, 1],
    [400, 600, 297]
  ];
  it('lie under each other and centred, and are found by where one looks', () => {
    const sheets = new Sheets(runs);
    expect([sheets.count, sheets.width, sheets.height]).toEqual([300, 800, 299 * (600 + GAP) + 300]);
    let top = 0;
    for (let page = 0; page < sheets.count; page++) {
      const { width, height } = sheets.size(page);
      expect(sheets.place(page)).toEqual({ x: (800 - width) / 2, y: top, width, height });
      expect([sheets.at(top), sheets.at(top + height / 2), sheets.at(top + height)]).toEqual([page, page, page]);
      expect(pageSize(runs, page)).toEqual({ width, height });
      top += height + GAP;
    }
    expect([sheets.at(-5000), sheets.at(1e9)]).toEqual([0, 299]);
    expect(pageSize(runs, 300)).toEqual({ width: 1, height: 1 });
  });
  it('of which something shows are those between two heights, and no more', () => {
    const sheets = new Sheets(runs);
    for (const [from, to] of [
      [0, 10],
      [590, 640],
      [599, 1300],
      [5000, 5600],
      [-100, -1]
    ] as const) {
      const brute = Array.from({ length: 300 }, (_, p) => p).filter((p) => {
        const { y, height } = sheets.place(p);
        return y <= to && y + height + GAP / 2 >= from;
      });
      expect(sheets.within(from, to).filter((p) => brute.includes(p))).toEqual(brute.filter((p) => p >= sheets.at(from)));
      expect(sheets.within(from, to).length).toBeLessThanOrEqual(brute.length + 1);
    }
  });
});

describe('a document of three hundred pages', () => {
  it('loads what is in sight and its neighbours, keeps few, and lets go of what is far', () => {
    const { book, surface } = opened({ runs: [[400, 600, 300]] });
    expect(Late.all.map((image) => image.src)).toEqual(['/page?v=1&place=0&size=screen']);
    const part = { x: 0, y: 0, width: 800, height: 600 };
    book.paint(context().c, { scale: 1, x: 0, y: 0 }, part);
    expect(book.held).toBe(3);
    for (let page = 1; page < 200; page++) {
      surface.turn(page);
      book.paint(context().c, { scale: 1, x: 0, y: 0 }, part);
    }
    expect(book.held).toBeLessThanOrEqual(12);
    // what was on its way is given up
    expect(Late.of(3)).toBeUndefined();
    // far out many pages are in sight at once: still not more are held
    book.paint(context().c, { scale: 0.02, x: 0, y: 0 }, { x: 0, y: -60_000, width: 40_000, height: 120_000 });
    expect(book.held).toBeLessThanOrEqual(13);
  });
  it('shows a page as soon as it is there, says of one that can not be drawn, and paints neighbours where they lie', () => {
    const { book } = opened();
    const { c, drawn } = context();
    const part = { x: 0, y: 0, width: 800, height: 1300 };
    book.paint(c, { scale: 1, x: 0, y: 0 }, part);
    expect([drawn, book.ready]).toEqual([[], false]);
    Late.of(0)!.onload!();
    Late.of(1)!.onload!();
    book.paint(c, { scale: 1, x: 0, y: 0 }, part);
    expect(book.ready).toBe(true);
    expect(drawn.map((src) => /place=(\d)/.exec(src)![1])).toEqual(['0', '1']);
    book.page = 2;
    Late.of(2)!.onerror!();
    expect([book.failed, book.ready]).toEqual([true, false]);
    book.close();
    expect(book.held).toBe(0);
  });
});

describe('the page in hand', () => {
  it('has the marks that lie on it; what is drawn lies on it too, and on it alone', () => {
    const { surface, editor, draw } = opened({ marks: [on('A', 0), on('B', 1)] });
    const near = () => surface.plane.nearby.find({ x: 0, y: 0, width: 400, height: 600 }).map((m) => m.id);
    expect(near()).toEqual(['A']);
    surface.turn(1);
    expect(near()).toEqual(['B']);
    draw({ x: 50, y: 60, width: 10, height: 10 });
    const made = editor.marks.all().find((m) => m.id !== 'A' && m.id !== 'B')!;
    expect([made.place, surface.count(0), surface.count(1), surface.count(2)]).toEqual([1, 1, 2, 0]);
    surface.turn(2);
    expect(near()).toEqual([]);
    // taken back and on again it is on its own page, whichever is in hand
    editor.undo();
    expect(surface.count(1)).toBe(1);
    editor.redo();
    expect([editor.marks.get(made.id)!.place, editor.marks.get(made.id)!.away]).toEqual([1, true]);
  });
  it('turns without anything moving, and its size is what marks are held to', () => {
    const { surface } = opened({
      runs: [
        [400, 600, 1],
        [800, 300, 1]
      ]
    });
    const { sight } = surface.plane;
    sight.view = { scale: 0.5, x: 100, y: 20 };
    surface.turn(1);
    // the second page lies 200 px further left, 636 px further down
    expect(sight.view).toEqual({ scale: 0.5, x: 100 - 100, y: 20 + (600 + GAP) / 2 });
    expect([sight.picture, surface.plane.ports.item.width]).toEqual([{ width: 800, height: 300 }, 800]);
    surface.turn(0);
    expect(sight.view).toEqual({ scale: 0.5, x: 100, y: 20 });
    surface.turn(-4);
    expect(surface.page).toBe(0);
    surface.turn(99);
    expect(surface.page).toBe(1);
  });
  it('is the one under the middle of the stage, and the one that is pressed; not while a mark is in hand or half drawn', () => {
    const { surface, hand, drawing } = opened({ marks: [on('A', 0)] });
    const { sight, pointer } = surface.plane;
    drawing.mode = 'pick';
    sight.pan(0, -700);
    surface.moved();
    expect(surface.page).toBe(1);
    // a press on the first page, which is above
    pointer.down({ x: 20, y: -200 }, { x: 20, y: 0 }, 0, false);
    pointer.up({ x: 20, y: -200 }, 0);
    expect(surface.page).toBe(0);
    hand.select('A');
    sight.pan(0, -1200);
    surface.moved();
    expect(surface.page).toBe(0);
    hand.select(null);
    surface.moved();
    expect(surface.page).toBe(surface.book.sheets.at((300 - sight.view.y) / sight.view.scale + surface.book.sheets.place(surface.page).y));
    // the table never leaves the stage
    sight.pan(0, 90_000);
    surface.moved();
    surface.moved();
    expect(sight.view.y - surface.book.sheets.place(surface.page).y * sight.view.scale).toBeLessThanOrEqual(300);
  });
  it('is the one of a mark that is taken from the list, and is come back to after a reload', () => {
    const { surface, hand, kept } = opened({ marks: [on('A', 0), on('B', 2)] });
    hand.select('B');
    expect(surface.page).toBe(2);
    expect(opened({ marks: [on('A', 0)], kept }).surface.page).toBe(2);
    // a finding or a pin leads to its page
    surface.show({ x: 10, y: 10, mark: null, place: 1 });
    expect([surface.page, surface.place]).toEqual([1, 1]);
  });
  it('is turned by keys, and the next one that lacks an answer by one', () => {
    const { surface, caps, asking } = opened({ runs: [[400, 600, 30]] });
    const press = (code: string, init: KeyboardEventInit = {}) => surface.keys.press!(new KeyboardEvent('keydown', { code, ...init }));
    caps()['KeyX']!.press();
    expect(surface.page).toBe(1);
    expect(press('KeyX', { shiftKey: true })).toBe(true);
    expect(surface.page).toBe(11);
    press('KeyZ', { shiftKey: true });
    press('KeyZ', { shiftKey: true });
    expect([surface.page, caps()['KeyZ']!.off]).toEqual([0, 'this is the first']);
    asking.answer(asking.about[0]!, { value: 'front' });
    caps()['KeyB']!.press();
    expect([surface.page, asking.question]).toEqual([1, 'kind']);
    const before = surface.plane.sight.view.y;
    press('PageDown');
    expect(surface.plane.sight.view.y).toBe(before - 510);
  });
});

describe('what is said of pages', () => {
  it('is each page by itself; a question that is asked no more takes its answer along', () => {
    const { surface, asking } = opened();
    const keys = () => asking.about.map((a) => a.key);
    expect(keys()).toEqual(['kind']);
    asking.answer(asking.about[0]!, { value: 'lines' });
    expect(keys()).toEqual(['kind', 'count']);
    // the next question is open
    expect(asking.question).toBe('count');
    asking.answer(asking.open!, { value: 12 });
    surface.turn(1);
    expect([keys(), asking.answersAbout]).toEqual([['kind'], {}]);
    asking.answer(asking.about[0]!, { value: 'lines' });
    surface.turn(0);
    expect(asking.answersAbout).toEqual({ kind: { value: 'lines' }, count: { value: 12 } });
    asking.answer(asking.about[0]!, { value: 'front' });
    expect(asking.said.stretches).toEqual([
      { question: 'kind', answer: { value: 'front' }, first: 0, last: 0 },
      { question: 'kind', answer: { value: 'lines' }, first: 1, last: 1 }
    ]);
  });
  it('is missing where a required question has no answer, and that is to do', () => {
    const { surface, asking } = opened({ runs: [[400, 600, 5]] });
    expect(surface.todo().map((t) => [t.word, t.count])).toEqual([['Kind of page: pages', 5]]);
    for (const [page, kind] of [
      [0, 'front'],
      [2, 'lines'],
      [4, 'front']
    ] as const) {
      surface.turn(page);
      surface.said.give('kind', { value: kind }, page);
    }
    expect(surface.todo().map((t) => [t.word, t.count])).toEqual([
      ['Kind of page: pages', 2],
      ['Lines: page', 1]
    ]);
    expect([...surface.open].sort()).toEqual([1, 2, 3]);
    expect([surface.said.nextOpen(1), surface.said.nextOpen(3), surface.said.nextOpen(4)]).toEqual([2, 1, 1]);
    surface.turn(4);
    surface.todo()[1]!.lead();
    expect([surface.page, asking.question]).toEqual([2, 'count']);
  });
  it('tags of one group take each other off, on that page alone', () => {
    const { surface, asking } = opened();
    surface.said.tag('wet', 0);
    surface.said.tag('wet', 1);
    surface.said.tag('dry', 1);
    expect(asking.said.stretches).toEqual([
      { tag: 'wet', first: 0, last: 0 },
      { tag: 'dry', first: 1, last: 1 }
    ]);
    surface.said.tag('wet', 0);
    expect(surface.said.isTagged('wet', 0)).toBe(false);
  });
});

describe('words that are read behind', () => {
  it('are looked at until all are there, stopped and gone on with by who may, and nothing comes after the item was left', async () => {
    vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout'] });
    try {
      const asked: string[] = [];
      let reading = { state: 'working', done: 2, total: 9, error: '' };
      globalThis.fetch = async (input) => {
        const { method, url } = input as Request;
        asked.push(`${method} ${/reading.*$/.exec(url)![0]}`);
        if (url.endsWith('cancel')) reading = { ...reading, state: 'cancelled' };
        if (url.endsWith('retry')) reading = { ...reading, state: 'working' };
        return json({ data: reading, manages: true });
      };
      const { surface } = opened();
      const { behind } = surface;
      await vi.waitFor(() => expect(behind.now).toMatchObject({ state: 'working', done: 2 }));
      expect(behind.manages).toBe(true);
      await behind.stop();
      expect(behind.now!.state).toBe('cancelled');
      const before = asked.length;
      vi.advanceTimersByTime(60_000);
      expect(asked.length).toBe(before);
      await behind.goOn();
      expect(behind.now!.state).toBe('working');
      reading = { ...reading, state: 'done', done: 9 };
      vi.advanceTimersByTime(5000);
      await vi.waitFor(() => expect(behind.now!.state).toBe('done'));
      const ended = asked.length;
      vi.advanceTimersByTime(60_000);
      surface.close();
      await behind.look();
      expect(asked.length).toBe(ended + 1);
    } finally {
      vi.useRealTimers();
    }
  });
});

describe('what is written under a box', () => {
  type Words = NonNullable<Schemas['Computed']['words']>;
  const found = (words: Partial<Words> = {}, geometry = { x: 52, y: 62, width: 70, height: 14 }): Schemas['Computed'] => ({
    kind: 'box',
    geometry: geometry as never,
    changed: 0,
    air: null,
    doubt: null,
    words: { text: 'Weight\n412 kg', confidence: 0.62, source: 'read', reason: '', ...words }
  });
  const box = { x: 40, y: 50, width: 100, height: 40 };
  const settle = () => new Promise((done) => setTimeout(done));

  it('is offered as the answer, and the box goes close around it; both are steps that are taken back', async () => {
    const asked: unknown[] = [];
    const { draw, editor, asking, hand } = opened({
      compute: async (m, what) => {
        asked.push([m.class, what]);
        return found();
      }
    });
    draw(box);
    await settle();
    expect(asked).toEqual([['weight', { op: 'words', n: 0, place: 0 }]]);
    const made = hand.mark!;
    expect([made.geometry, made.answers]).toEqual([{ x: 52, y: 62, width: 70, height: 14 }, {}]);
    // it stands in a field of one line, and is nobody's answer yet
    expect(asking.question).toBe('written');
    expect(asking.proposalFor('written')).toEqual({ text: 'Weight 412 kg', how: 'read, 62 % sure', doubtful: true });
    editor.undo();
    expect(editor.marks.get(made.id)!.geometry).toEqual(box);
    editor.undo();
    expect(editor.marks.all()).toEqual([]);
  });
  it('is not asked of a class without such a question, and nothing is made up where nothing is written', async () => {
    const compute = vi.fn(async () => found({ text: '', confidence: null }, { ...box, width: 99 }));
    const { draw, chosen, hand, asking, messages } = opened({ compute });
    chosen.active = 'signature';
    draw(box);
    expect(compute).not.toHaveBeenCalled();
    chosen.active = 'weight';
    draw(box);
    await settle();
    expect([hand.mark!.geometry, asking.proposalFor('written'), messages]).toEqual([box, undefined, []]);
  });
  it('that comes late, for a box that was redrawn or an item that was left, is nothing', async () => {
    let answer: (found: Schemas['Computed']) => void = () => {};
    const late = opened({ compute: () => new Promise((done) => (answer = done)) });
    late.draw(box);
    late.surface.plane.forms.reshape(late.hand.mark!, { kind: 'box', geometry: { ...box, x: 200 } });
    answer(found());
    await settle();
    expect([late.hand.mark!.geometry, late.asking.proposalFor('written')]).toEqual([{ ...box, x: 200 }, undefined]);

    const left = opened({ compute: () => new Promise((done) => (answer = done)) });
    left.draw(box);
    const id = left.hand.mark!.id;
    left.surface.close();
    answer(found());
    await settle();
    expect(left.editor.marks.get(id)!.geometry).toEqual(box);
  });
  it('that could not be read is said; asked again by its key a hand decides', async () => {
    let words: Partial<Words> = { source: 'failed', reason: 'Tesseract lacks that language', text: '' };
    const { draw, messages, caps, asking, hand } = opened({ compute: async () => found(words) });
    draw(box);
    await settle();
    expect(messages.at(-1)).toContain('Tesseract lacks that language');
    words = { source: 'layer', confidence: null, text: 'Net' };
    caps()['KeyG']!.press();
    await settle();
    // the box stays as the hand has it
    expect(hand.mark!.geometry).toEqual(box);
    expect(asking.proposalFor('written')).toEqual({ text: 'Net', how: 'as the file has it', doubtful: false });
  });
});
