// @vitest-environment jsdom
import { describe, expect, it } from 'vitest';
import { Marks } from '../edits/marks.svelte';
import { join, running, sent, span, wordsOfScouts } from '../../test/text';
import { Alike, Phrases } from './alike.svelte';
import { blockAt, blocksOf, readable } from './blocks';
import { Cursor } from './cursor.svelte';
import { layersOf } from './layers';
import { stripsOf } from './lines';
import { Offsets } from './offsets';
import { Relating } from './relating.svelte';
import { Spans } from './spans.svelte';
import { Tokens } from './tokens';

const MIXED = 'Wöolly 👩‍🌾 aphids 𝒙𝒚, e\u0301t 虫\r\nשלום';

describe('words anywhere', () => {
  it('name what can not be seen, and what turns the direction of the rest', () => {
    expect(readable('a\u202eb\u0000c\td\n')).toBe('a⟨RLO⟩b⟨U+0000⟩c\td\n');
    expect(readable(MIXED)).toBe(MIXED);
  });
});

describe('places', () => {
  it('are code points, against counting them one by one', () => {
    const offsets = new Offsets(MIXED);
    const points = [...MIXED];
    expect(offsets.length).toBe(points.length);
    let unit = 0;
    points.forEach((point, at) => {
      expect(offsets.unit(at)).toBe(unit);
      for (let u = 0; u < point.length; u++) expect(offsets.offset(unit + u)).toBe(at);
      expect(offsets.words(at, at + 3)).toBe(points.slice(at, at + 3).join(''));
      unit += point.length;
    });
    expect(offsets.unit(points.length)).toBe(MIXED.length);
  });

  it('snap to tokens, and not to the space round them', () => {
    const { words } = sent('  12 woolly aphids, ok');
    const tokens = new Tokens(words);
    expect([...tokens.starts]).toEqual([2, 5, 12, 18, 20]);
    expect(tokens.snapped({ start: 7, end: 14 })).toEqual({ start: 5, end: 18 });
    expect(tokens.snapped({ start: 0, end: 2 })).toBeNull();
    expect(tokens.snapped({ start: 4, end: 5 })).toBeNull();
    expect(tokens.snapped({ start: 0, end: 99 })).toEqual({ start: 2, end: 22 });
    expect(tokens.at(18)).toBe(3);
    expect(tokens.at(22)).toBeNull();
  });
});

describe('blocks', () => {
  it('hold all of the text, a line each', () => {
    const body = 'one\r\n\r\ntwo 👩‍🌾\nthree';
    const offsets = new Offsets(body);
    const blocks = blocksOf(offsets);
    expect(blocks.map((b) => b.pieces.map((p) => p.text).join(''))).toEqual(['one', '', 'two 👩‍🌾', 'three']);
    expect(blocks[0]!.start).toBe(0);
    blocks.forEach((b, i) => expect(b.end).toBe(blocks[i + 1]?.start ?? offsets.length));
    for (const at of [0, 3, 4, 6, 7, 12]) expect(blocks[blockAt(blocks, at)]!.start).toBeLessThanOrEqual(at);
  });
  it('part a long line behind sentences, and hold no block that is too long', () => {
    const body = 'A sentence of some words stands here. '.repeat(300) + 'x'.repeat(4000);
    const blocks = blocksOf(new Offsets(body));
    expect(blocks.length).toBeGreaterThan(8);
    expect(Math.max(...blocks.map((b) => b.end - b.start))).toBeLessThanOrEqual(1500);
    expect(blocks.map((b) => b.pieces.map((p) => p.text).join('')).join('')).toBe(body);
    expect(blocks[0]!.pieces[0]!.text.endsWith('here. ')).toBe(true);
    expect(blocks.slice(1).every((b) => b.goesOn)).toBe(true);
  });
  it('show what can not be seen, and what turns the writing', () => {
    const [block] = blocksOf(new Offsets('a\u202Eb\u0007c\td'));
    expect(block!.pieces.map((p) => [p.at, p.text, p.sign])).toEqual([
      [0, 'a', false],
      [1, 'RLO', true],
      [2, 'b', false],
      [3, 'U+0007', true],
      [4, 'c\td', false]
    ]);
  });
});

describe('lines', () => {
  it('lie below each other, what is within nearer to the words', () => {
    const spans = [
      { start: 0, end: 20 },
      { start: 5, end: 10 },
      { start: 6, end: 8 },
      { start: 30, end: 34 },
      { start: 9, end: 22 }
    ];
    const layers = layersOf(spans);
    expect(layers).toEqual([3, 1, 0, 0, 2]);
    spans.forEach((a, i) =>
      spans.forEach((b, j) => {
        if (i !== j && a.start < b.end && b.start < a.end) expect(layers[i]).not.toBe(layers[j]);
      })
    );
  });
  it('are one strip where letters touch, and several where they do not', () => {
    const r = (x: number, y: number, width: number) => ({ x, y, width, height: 20 });
    expect(stripsOf([r(0, 0, 10), r(10, 0, 5), r(0, 30, 8), r(40, 30, 4), r(50, 0, 0)])).toEqual([r(0, 0, 15), r(0, 30, 8), r(40, 30, 4)]);
  });
});

describe('the cursor', () => {
  it('goes from word to word, widens and narrows at either edge, by letters too', () => {
    const text = running('12 woolly aphids, e\u0301t');
    const cursor = new Cursor(text);
    const words = () => text.words(cursor.range!.start, cursor.range!.end);
    cursor.to(4);
    expect(words()).toBe('woolly');
    cursor.edge('end', 1);
    expect(words()).toBe('woolly aphids');
    cursor.edge('start', -1);
    expect(words()).toBe('12 woolly aphids');
    cursor.edge('start', 1);
    cursor.edge('end', -1);
    expect(words()).toBe('woolly');
    // it never becomes empty
    cursor.edge('end', -1);
    expect(words()).toBe('woolly');
    cursor.edge('end', -1, true);
    expect(words()).toBe('wooll');
    cursor.by(1);
    expect(words()).toBe('aphids');
    cursor.by(1);
    cursor.by(1);
    cursor.by(1);
    expect(words()).toBe('e\u0301t');
    // a letter is what a reader takes for one
    cursor.edge('start', 1, true);
    expect(words()).toBe('t');
    for (let i = 0; i < 9; i++) cursor.by(-1);
    expect(words()).toBe('12');
  });
  it('has nowhere to go in a text without words', () => {
    const cursor = new Cursor(running(' \n '));
    cursor.to(0);
    cursor.by(1);
    expect(cursor.range).toBeNull();
  });
});

describe('the same words', () => {
  const at = (body: string, marks: ReturnType<typeof span>[] = [], about = 0) => {
    const text = running(body);
    const all = new Marks(marks);
    const spans = new Spans(all, text);
    const phrases = new Phrases();
    return {
      text,
      all,
      phrases,
      alike: new Alike(
        text,
        spans,
        phrases,
        (key) => key !== 'leaf',
        () => about
      )
    };
  };
  it('are offered where they stand wholly and nothing of their class lies', () => {
    const { alike, phrases, all } = at('Aphids, more aphids. Aphidsy aphids', [span('A', 'pest', 0, 6)]);
    phrases.learn('aphids', 'pest');
    expect(alike.offers.map((o) => [o.start, o.words])).toEqual([
      [13, 'aphids'],
      [29, 'aphids']
    ]);
    alike.leave(alike.now!);
    expect(alike.offers.map((o) => o.start)).toEqual([29]);
    all.put([{ id: 'B', mark: span('B', 'pest', 29, 35) }]);
    expect(alike.now).toBeNull();
  });
  it('wait while something else is to be decided', () => {
    const { text, all, phrases } = at('Aphids, more aphids.');
    phrases.learn('aphids', 'pest');
    let waits = true;
    const made = () =>
      new Alike(
        text,
        new Spans(all, text),
        phrases,
        () => true,
        () => 0,
        () => waits
      );
    expect([made().offers, made().now]).toEqual([[], null]);
    waits = false;
    expect(made().offers).toHaveLength(2);
  });
  it('go by the class they were marked as most often, and the longer words', () => {
    const { alike, phrases } = at('old wall and wall');
    phrases.load([
      { words: 'wall', class: 'block', count: 2 },
      { words: 'wall', class: 'pest', count: 1 },
      { words: 'Old wall', class: 'block', count: 1 },
      { words: 'and', class: 'leaf', count: 9 }
    ]);
    expect(alike.offers.map((o) => `${o.class} ${o.words}`)).toEqual(['block old wall', 'block wall']);
    // what was loaded once counts once
    phrases.load([{ words: 'wall', class: 'pest', count: 1 }]);
    expect(phrases.classOf('WALL')).toBe('block');
  });
  it('of words within others only the longer, two dozen at a time, as a look at all pairs says', () => {
    const words = ['old', 'wall', 'old wall', 'wall old wall', 'mites', 'old mites', 'wall mites old'];
    let seed = 7;
    const chance = (n: number) => (seed = (seed * 48271) % 2147483647) % n;
    for (let round = 0; round < 40; round++) {
      const body = Array.from({ length: 60 }, () => ['old', 'wall', 'mites', 'and'][chance(4)]).join(' ');
      const { alike, phrases } = at(body);
      const known = words.filter(() => chance(2) === 0);
      phrases.load(known.map((w) => ({ words: w, class: 'block', count: 1 })));
      const all = known.flatMap((w) => alike.find(w));
      const within = (o: (typeof all)[number]) =>
        all.some((p) => p.start <= o.start && o.end <= p.end && p.end - p.start > o.end - o.start);
      const left = all.filter((o) => !within(o)).sort((a, b) => a.start - b.start);
      expect(alike.offers.map(({ start, end }) => ({ start, end }))).toEqual(left.slice(0, 24));
      expect(alike.told).toBe(left.length < 24 ? String(left.length) : '24 or more');
    }
  });
  it('are looked for about the cursor in a long text', () => {
    const body = 'mites and the old wall. '.repeat(3000);
    const at36 = at(body, [], 36_000);
    at36.phrases.learn('mites', 'pest');
    const starts = at36.alike.offers.map((o) => o.start);
    expect([starts.length, starts[0], starts.every((s) => s % 24 === 0)]).toEqual([24, 32_016, true]);
    const end = at(body, [], body.length - 1);
    end.phrases.learn('wall', 'pest');
    expect(end.alike.offers[0]!.start).toBeGreaterThan(body.length - 12_000);
    expect(end.alike.find('wall', body.length - 30, body.length).at(-1)).toEqual({ start: body.length - 6, end: body.length - 2 });
  });
  it('of the project are asked for once, and again when there was no answer', async () => {
    const phrases = new Phrases();
    let asked = 0;
    phrases.ask(() => (asked++, Promise.reject(new Error('offline'))));
    await new Promise((done) => setTimeout(done));
    phrases.ask(() => (asked++, Promise.resolve([{ words: 'mites', class: 'pest', count: 1 }])));
    await new Promise((done) => setTimeout(done));
    phrases.ask(() => (asked++, Promise.resolve([])));
    expect([asked, phrases.classOf('mites')]).toEqual([2, 'pest']);
  });
});

describe('relations', () => {
  it('lead to the nearest span they may lead to, and on through the text', () => {
    const text = running('12 mites, 3 moths, 4 mites');
    const marks = new Marks([
      span('A', 'count', 0, 2),
      span('B', 'pest', 3, 8),
      span('C', 'count', 10, 11),
      span('D', 'pest', 12, 17),
      join('J', 'counted', 'A', 'B')
    ]);
    const spans = new Spans(marks, text);
    const relating = new Relating(wordsOfScouts(), spans);
    expect(relating.possible('count').map((r) => r.key)).toEqual(['counted']);
    expect(relating.begin('counted', 'C')).toBe(true);
    expect(relating.target).toBe('D');
    relating.step(1);
    expect(relating.target).toBe('B');
    relating.step(1);
    expect(relating.target).toBe('D');
    expect(relating.leave()).toBe(true);
    expect(relating.begin('near', 'A')).toBe(true);
    expect(spans.joinsOf('B').map((j) => j.id)).toEqual(['J']);
  });
  it('tell a block of its own spans alone', () => {
    const text = running('one mite\ntwo mites\nthree');
    const marks = new Marks([span('A', 'pest', 4, 8), span('B', 'pest', 4, 18)]);
    const spans = new Spans(marks, text);
    expect([spans.in(0), spans.in(1), spans.in(2)]).toEqual([['A', 'B'], ['B'], []]);
    marks.put([{ id: 'B', mark: span('B', 'pest', 13, 18) }]);
    expect([spans.in(0), spans.in(1)]).toEqual([['A'], ['B']]);
    marks.put([{ id: 'A', mark: null }]);
    expect(spans.in(0)).toEqual([]);
    expect(spans.over({ start: 0, end: 24 }).map((m) => m.id)).toEqual(['B']);
  });
});
