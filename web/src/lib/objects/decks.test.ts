import { describe, expect, it, vi } from 'vitest';
import type { Cap, Row } from '$lib/keys/caps';
import type { Attribute, Document } from '$lib/words/codebook';
import { Words } from '$lib/words/words.svelte';
import { Asked } from './asked';
import type { Found, ObjectEdits } from './edits.svelte';
import { Listed } from './listed';
import type { Sheet } from './sheet.svelte';
import { SheetDeck, type SheetPorts } from './sheet-deck';
import { SweepDeck } from './sweep-deck';
import type { Sweep } from './sweep.svelte';

const many = (n: number) => Array.from({ length: n }, (_, i) => ({ key: `o${i}`, name: `Option ${i}` }));
const question = (n: number): Attribute =>
  ({ key: 'kind', name: 'Kind', type: 'one', scope: 'object', no_value: ['unsure'], options: many(n) }) as never;
const document = {
  skeno: 'codebook/1',
  classes: [
    { key: 'apple', name: 'Apple', shapes: ['box'], attributes: ['kind'] },
    { key: 'moth', name: 'Moth', shapes: ['polygon'] },
    { key: 'crate', name: 'Crate', shapes: ['box'] }
  ],
  attributes: [question(3)],
  tags: [
    { key: 'dull', name: 'Dull', group: 'light' },
    { key: 'bright', name: 'Bright', group: 'light' },
    { key: 'wet', name: 'Wet' },
    ...Array.from({ length: 13 }, (_, i) => ({ key: `t${i}`, name: `Tree ${i}`, group: 'tree' }))
  ]
} as unknown as Document;
const words = new Words(3);
words.take({ document, version: 1, looks: [] });
const on = (rows: Row[]) => Object.fromEntries(rows.flatMap((r) => r.caps).map((c): [string, Cap] => [c.code, c]));
const wordsOf = (rows: Row[]) => Object.fromEntries(rows.flatMap((r) => r.caps).map((c) => [c.code, c.word]));

describe('the deck of a sweep', () => {
  const deck = (search: string, more: Partial<Record<keyof Sweep, unknown>> = {}, bench: (() => void) | null = null) => {
    const calls = { answer: vi.fn(), tag: vi.fn(), untag: vi.fn(), back: vi.fn(), skip: vi.fn(), remove: vi.fn(), become: vi.fn() };
    const sweep = {
      subject: { id: 'A' },
      question: null,
      answers: {},
      tags: [],
      at: 1,
      done: [],
      mark: { class: 'apple', kind: 'box' },
      ...calls,
      ...more
    } as unknown as Sweep;
    return {
      ...calls,
      deck: new SweepDeck(sweep, { words, asked: new Asked(words, new URLSearchParams(search)), write: () => {}, bench })
    };
  };

  it('has back and on where the bench has them, whatever is asked', () => {
    for (const [search, more] of [
      ['ask=look', {}],
      ['ask=g:light', {}],
      ['ask=t:wet', {}],
      ['ask=q:kind', { question: question(3) }]
    ] as const) {
      const { deck: d, back, skip } = deck(search, more);
      const caps = on(d.rows);
      expect([caps.KeyC!.word, caps.KeyV!.word]).toEqual(['back', 'skip']);
      caps.KeyC!.press();
      caps.KeyV!.press();
      expect([back, skip].map((f) => f.mock.calls.length)).toEqual([1, 1]);
    }
  });
  it('gives way to answers, on another key of the last row, and two never share a key', () => {
    for (let n = 1; n <= 14; n++) {
      const { deck: d } = deck('ask=q:kind', { question: question(n) });
      const codes = d.rows.flatMap((r) => r.caps.map((c) => c.code));
      expect(new Set(codes).size, `${n} options`).toBe(codes.length);
      // three options and “unsure” fill a row of five between them; where all fifteen places hold answers, the arrows are left
      const named = Object.values(wordsOf(d.rows));
      if (n + 1 <= 13) expect(named, `${n} options`).toEqual(expect.arrayContaining(['back', 'skip']));
    }
  });
  it('says that there is nothing to go back to', () => {
    expect(on(deck('ask=look', { at: 0 }).deck.rows).KeyC!.off).toBe('this is the first');
    expect(on(deck('ask=look', { at: 0, done: [{}] }).deck.rows).KeyC!.off).toBeUndefined();
  });
  it('puts tags of a group on the letters, and one alone on or off', () => {
    const group = deck('ask=g:light', { tags: ['bright'] });
    const caps = on(group.deck.rows);
    expect([caps.KeyQ!.word, caps.KeyW!.word, caps.KeyW!.lit]).toEqual(['Dull', 'Bright', true]);
    caps.KeyQ!.press();
    expect(group.tag).toHaveBeenCalledWith('dull');
    // a large group fills the keys down to those of back and on, which keep their own
    const large = deck('ask=g:tree');
    const all = on(large.deck.rows);
    expect([Object.keys(all).length, all.KeyC!.word, all.KeyV!.word, all.KeyB!.word]).toEqual([15, 'back', 'skip', 'Tree 12']);
    all.KeyB!.press();
    expect(large.tag).toHaveBeenCalledWith('t12');
    const single = deck('ask=t:wet');
    on(single.deck.rows).KeyQ!.press();
    on(single.deck.rows).KeyW!.press();
    expect([single.tag.mock.calls, single.untag.mock.calls]).toEqual([[['wet']], [['wet']]]);
    expect(single.deck.digits.caps).toEqual([]);
  });
  it('offers the classes the mark in sight can be of', () => {
    const { deck: d, become } = deck('ask=look');
    expect(d.digits.caps.map((c) => [c.word, c.lit])).toEqual([
      ['Apple', true],
      ['Crate', false]
    ]);
    d.digits.caps[1]!.press();
    expect(become).toHaveBeenCalledWith('crate');
  });
  it('opens the bench where somebody has been given the item, and says so where nobody has', () => {
    expect(on(deck('ask=look').deck.rows).KeyE!.off).toBe('nobody has been given this item');
    const open = vi.fn();
    on(deck('ask=look', {}, open).deck.rows).KeyE!.press();
    expect(open).toHaveBeenCalledOnce();
  });
  it('is empty at the end', () => expect(deck('ask=look', { subject: undefined }).deck.rows).toEqual([]));
});

describe('the deck of a sheet', () => {
  const object = (id: string, turn: number | null = 7) => ({ mark: { id, class: 'apple' }, turn, looks_like: null }) as unknown as Found;
  const deck = (more: Partial<SheetPorts> = {}, here: Found | undefined = object('A'), canUndo = false) => {
    const sheet = {
      at: 0,
      inHand: here ? [here] : [],
      chosen: new Set<string>(),
      get: () => here,
      nextDoubt: () => null
    } as unknown as Sheet;
    const edits = { now: () => ({ class: 'apple', kind: 'box', answers: {} }), canUndo } as unknown as ObjectEdits;
    const shown: object[] = [];
    const ports: SheetPorts = {
      widen: () => {},
      words,
      listed: new Listed(words, new URLSearchParams()),
      mayChange: true,
      looks: { side: 116, margin: 0.2, outline: true },
      show: (change) => shown.push(change),
      question: null,
      ask: vi.fn(),
      answer: vi.fn(),
      write: vi.fn(),
      go: vi.fn(),
      choose: vi.fn(),
      open: vi.fn(),
      become: vi.fn(),
      remove: vi.fn(),
      takeBack: vi.fn(),
      ...more
    };
    return { deck: new SheetDeck(sheet, edits, ports), ports, shown };
  };
  it('says why a key does nothing', () => {
    const off = (d: SheetDeck) => Object.fromEntries(d.rows.flatMap((r) => r.caps).map((c) => [c.word, c.off]));
    expect(off(deck().deck)).toMatchObject({
      choose: undefined,
      'let go': 'nothing is chosen',
      'looks like': 'no other here looks like another class',
      'take back': 'nothing was changed',
      remove: undefined
    });
    expect(off(deck({ mayChange: false }).deck)).toMatchObject({ remove: 'you may only look', answer: 'you may only look' });
    expect(deck({ mayChange: false }).deck.digits.caps.every((c) => c.off === 'you may only look')).toBe(true);
    expect(off(deck({ listed: new Listed(words, new URLSearchParams('class=crate')) }).deck)).toMatchObject({
      answer: 'this class asks nothing'
    });
    expect(off(deck({}, object('A', null)).deck)['on the bench']).toBe('nobody has been given this item');
    const none = new SheetDeck(
      { at: 0, inHand: [], chosen: new Set(), get: () => undefined, nextDoubt: () => null } as unknown as Sheet,
      { now: () => null, canUndo: false } as unknown as ObjectEdits,
      deck().ports
    );
    expect(off(none)).toMatchObject({ choose: 'there is no object', remove: 'there is no object', 'on the bench': 'there is no object' });
  });
  it('becomes the answers of the question that is open', () => {
    const { deck: d, ports } = deck({ question: question(3) });
    expect(Object.values(wordsOf(d.rows))).toEqual(expect.arrayContaining(['Option 0', 'Option 2']));
    on(d.rows).KeyQ!.press();
    expect((ports.answer as ReturnType<typeof vi.fn>).mock.calls[0]![0]).toEqual({ value: 'o0' });
  });
  it('shows larger and with more round it by steps that end', () => {
    const { deck: d, shown } = deck();
    for (const code of ['KeyZ', 'KeyX', 'KeyC', 'KeyV', 'KeyT']) on(d.rows)[code]!.press();
    expect(shown).toEqual([{ side: 100 }, { side: 132 }, { margin: 0.1 }, { margin: 0.3 }, { outline: false }]);
    const ends = on(deck({ looks: { side: 64, margin: 0, outline: false } }).deck.rows);
    expect([ends.KeyZ!.off, ends.KeyC!.off, ends.KeyT!.word]).toEqual(['as small as it goes', 'nothing round it', 'outline']);
    const far = on(deck({ looks: { side: 240, margin: 0.6, outline: true } }).deck.rows);
    expect([far.KeyX!.off, far.KeyV!.off]).toEqual(['as large as it goes', 'all there is']);
  });
  it('hands what is pressed on, with what it is pressed for', () => {
    const { deck: d, ports } = deck();
    for (const code of ['KeyQ', 'KeyE', 'KeyR', 'KeyD', 'KeyG']) on(d.rows)[code]!.press();
    d.digits.caps[1]!.press();
    const called = (name: 'choose' | 'open' | 'ask' | 'become') => (ports[name] as ReturnType<typeof vi.fn>).mock.calls[0]![0];
    expect(called('choose')).toBe(0);
    expect(called('open').mark.id).toBe('A');
    expect(called('ask').key).toBe('kind');
    expect(called('become')).toBe('moth');
    expect(ports.remove).toHaveBeenCalledOnce();
    expect(ports.takeBack).toHaveBeenCalledOnce();
  });
});
