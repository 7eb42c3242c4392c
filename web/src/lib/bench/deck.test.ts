// @vitest-environment jsdom
import { beforeEach, describe, expect, it } from 'vitest';
import { asSent, laid, mark, orchard } from '../../test/plane';
import { PlaneCaps } from '../plane/caps';
import { toMask } from '../plane/raster';
import type { Cap } from '../keys/caps';
import type { FlatKind } from '../words/mark';
import { BenchDeck, shellKeys, type DeckPorts } from './deck';
import { Suggestions } from './suggestions.svelte';

beforeEach(() => sessionStorage.clear());
type Setting = {
  mode?: 'label' | 'review' | 'look';
  marks?: ReturnType<typeof mark>[];
  doubts?: number;
  document?: typeof orchard;
  suggested?: number;
};

/** The deck over a real plane, with a bench that only notes what is asked of it. */
function begin({ mode = 'label', marks = [], doubts = 0, document = orchard, suggested = 0 }: Setting = {}) {
  const it = laid({ mode, marks, document, overlays: suggested > 0 ? [{ name: 'suggestions', line: 'dashed', marks: [] }] : [] });
  const packet = {
    item: { id: 9 },
    suggested_words: [],
    sure_from: null,
    suggestions: Array.from({ length: suggested }, (_, i) => asSent(mark(`S${i}`, [i, i, 9, 9]), { confidence: (i + 1) / 10 }))
  };
  const calls: string[] = [];
  const note =
    (what: string) =>
    (...args: unknown[]) =>
      void calls.push([what, ...args.map(String)].join(' '));
  const board: { page: number | null } = { page: null };
  const bench = {
    words: it.words,
    chosen: it.chosen,
    page: null as string | null,
    canTakeBack: true,
    submit: note('submit'),
    decide: note('decide'),
    neighbour: note('neighbour'),
    takeBack: note('take back')
  };
  const caps = new PlaneCaps(it.plane, (name) => (bench.page = name));
  const opened = {
    mode,
    editable: mode !== 'look',
    ...it,
    surface: {
      caps: () => ({ tools: caps.tools(), verbs: caps.verbs(), view: caps.view() }),
      ofMark: () => caps.ofMark(),
      pages: { mask: () => caps.maskPage() },
      pinning: false,
      noun: 'picture',
      picking: note('pick'),
      wholing: note('whole'),
      get isDrawing() {
        return it.plane.isDrawing;
      }
    },
    findings: { all: Array(doubts).fill({ mark: null }) },
    talk: { open: note('write'), showStory: note('story') },
    say: note('say'),
    suggestions: new Suggestions({ ...it, packet, editable: mode !== 'look' } as never, it.words, 1),
    nextFinding: note('next doubt'),
    choose: note('class')
  };
  const ports: DeckPorts = {
    get board() {
      return board.page;
    },
    setBoard: (page) => (board.page = page),
    shift: false,
    write: note('field')
  };
  const deck = new BenchDeck(bench as never, opened as never, ports);
  const on = (): Record<string, Cap> => Object.fromEntries(deck.rows.flatMap((r) => r.caps).map((c) => [c.code, c]));
  const press = (code: string) => on()[code]!.press();
  return { ...it, deck, bench, opened, calls, on, press, board, ports };
}
const apple = mark('A', [10, 10, 30, 30]);
const shapes: Record<string, ReturnType<typeof mark>> = {
  box: apple,
  polygon: mark('P', { kind: 'polygon', geometry: { rings: [[0, 0, 20, 0, 20, 20]] } }),
  mask: mark('K', { kind: 'mask', geometry: toMask([310, 320], 400, 300) }),
  points: mark('E', { kind: 'points', geometry: { points: [1, 1, 5, 5, 9, 9] } } as never, { class: 'eyes' })
};

describe('the deck of the bench', () => {
  /** Every way the deck can lie: whatever is in hand, whichever tool or page is open. */
  function* ways(mode: 'label' | 'review') {
    for (const one of [null, ...Object.values(shapes)])
      for (const page of [null, 'mark', 'flags', 'item', 'mask'])
        for (const tool of ['pick', 'hand', 'box', 'polygon', 'mask'] as const) {
          const it = begin({ mode, marks: one ? [one] : [], doubts: 1 });
          if (one) it.hand.select(one.id);
          it.bench.page = page;
          it.drawing.mode = tool === 'pick' || tool === 'hand' ? tool : 'draw';
          if (it.drawing.mode === 'draw') it.drawing.shape = tool as FlatKind;
          yield { it, where: `${mode}, ${one?.kind ?? 'nothing'} in hand, page ${page}, ${tool}` };
        }
  }
  it('keeps done, back and on where they are, and in review return, whatever is open', () => {
    let seen = 0;
    for (const mode of ['label', 'review'] as const)
      for (const { it, where } of ways(mode)) {
        const caps = it.on();
        expect([caps.KeyS!.word, caps.KeyC!.word, caps.KeyV!.word], where).toEqual([mode === 'label' ? 'submit' : 'accept', 'back', 'on']);
        if (mode === 'review') expect(caps.KeyG!.word, where).toBe('return');
        seen++;
      }
    expect(seen).toBe(250);
  });
  it('never has two caps on one key, nor a cap without a word', () => {
    for (const mode of ['label', 'review'] as const)
      for (const { it, where } of ways(mode)) {
        const caps = it.deck.rows.flatMap((r) => r.caps);
        expect(new Set(caps.map((c) => c.code)).size, where).toBe(caps.length);
        for (const cap of caps) expect(cap.word, where).not.toBe('');
      }
  });
  it('goes through what is suggested: right, wrong, all that is sure, on to be changed', () => {
    const it = begin({ suggested: 6 });
    expect(it.on().KeyA!.word).toBe('suggested: 6');
    it.press('KeyA');
    expect([it.bench.page, it.opened.suggestions.now?.id]).toEqual(['suggestions', 'S0']);
    it.press('KeyA');
    it.press('KeyD');
    expect([it.all().length, it.opened.suggestions.now?.id]).toEqual([1, 'S2']);
    it.press('KeyW');
    it.press('KeyQ');
    expect(it.opened.suggestions.now?.id).toBe('S2');
    // from which confidence on all go together is set by keys, and how many they are stands on the cap
    expect(it.on().KeyF).toMatchObject({ word: 'all 0', off: 'none is as sure as that' });
    for (let i = 0; i < 6; i++) it.press('KeyZ');
    expect(it.on().KeyF!.word).toBe('all 2');
    it.press('KeyF');
    expect([it.all().length, it.calls.at(-1)]).toEqual([3, 'say 2 confirmed from 0.50 on']);
    it.press('KeyE');
    expect([it.bench.page, it.hand.size, it.calls.at(-1)]).toEqual([null, 1, 'pick']);
    it.hand.select(null);
    it.press('KeyA');
    expect(it.on().KeyA!.off).toBeUndefined();
    it.press('KeyA');
    expect(it.on().KeyA!.off).toBe('all are decided');
    it.press('KeyB');
    expect(it.bench.page).toBeNull();
    // what is drawn or only looked at is not interrupted by it
    expect(begin({ suggested: 2, mode: 'look' }).on().KeyA?.word).not.toBe('right');
  });
  it('does what it says', () => {
    const it = begin();
    for (const code of ['KeyS', 'KeyC', 'KeyV', 'KeyB', 'KeyG']) it.press(code);
    expect(it.calls).toEqual(['submit false', 'neighbour -1', 'neighbour 1', 'neighbour 1 true', 'take back']);
    const review = begin({ mode: 'review', doubts: 2 });
    for (const code of ['KeyS', 'KeyG', 'KeyA']) review.press(code);
    expect(review.calls).toEqual(['decide accept ', 'write return', 'next doubt']);
    expect(review.opened.surface.pinning).toBe(false);
    review.press('KeyF');
    expect(review.opened.surface.pinning).toBe(true);
  });
  it('says nothing is here only where nothing is', () => {
    expect(begin().on().KeyF).toMatchObject({ word: 'nothing here', off: undefined });
    expect(begin({ marks: [apple] }).on().KeyF).toMatchObject({ word: 'nothing here', off: 'there are marks on this item' });
    const it = begin({ marks: [apple] });
    it.hand.select('A');
    expect(it.on().KeyF!.word).toBe('mark…');
    it.press('KeyF');
    expect(it.bench.page).toBe('mark');
  });
  it('refuses to be done while something is half drawn', () => {
    for (const mode of ['label', 'review'] as const) {
      const it = begin({ mode });
      it.drawing.mode = 'draw';
      it.drawing.shape = 'polygon';
      it.press('KeyW');
      it.drawing.mode = 'draw';
      it.plane.tool.down({ x: 5, y: 5 });
      it.plane.tool.up({ x: 5, y: 5 });
      expect(it.plane.isDrawing, mode).toBe(true);
      expect(it.on().KeyS!.off, mode).toMatch(/half drawn/);
    }
  });
  it('only looks where one may only look', () => {
    const it = begin({ mode: 'look', marks: [apple] });
    it.hand.select('A');
    const caps = it.on();
    expect(caps.KeyS).toMatchObject({ word: 'submit', off: 'this item is only looked at' });
    expect(caps.KeyD!.off).toBe('this item is only looked at');
    expect([caps.KeyC!.off, caps.KeyV!.off, caps.KeyZ!.off, caps.KeyX!.off]).toEqual([undefined, undefined, undefined, undefined]);
    it.bench.page = 'item';
    expect(it.on().KeyT!.word).toBe('hide');
  });
});

describe('its pages', () => {
  it('ask what is open, and lead from one question to the next', () => {
    const it = begin({ marks: [apple] });
    it.hand.select('A');
    it.press('KeyR');
    expect(Object.values(it.on()).map((c) => c.word)).toEqual(['Green', 'Red']);
    it.press('KeyW');
    expect(it.editor.marks.get('A')!.answers).toEqual({ ripe: { value: 'red' } });
    expect(Object.values(it.on()).map((c) => c.word)).toEqual(['yes', 'no']);
  });
  it('say what there is to say of the picture, tags on keys of their own', () => {
    const it = begin();
    it.press('KeyR');
    const words = Object.fromEntries(Object.entries(it.on()).map(([code, c]) => [code, c.word]));
    expect(words).toMatchObject({ KeyQ: 'Light', KeyT: 'ask', KeyA: 'Wet', KeyD: 'Dry', KeyF: 'Blurred', KeyB: 'park' });
    it.press('KeyA');
    it.press('KeyD');
    it.press('KeyF');
    expect(it.asking.said.tags).toEqual(['dry', 'blurred']);
    expect(it.on().KeyD!.lit).toBe(true);
    it.press('KeyT');
    it.press('KeyB');
    expect(it.calls).toEqual(['write ask', 'write park']);
    const review = begin({ mode: 'review' });
    review.bench.page = 'item';
    expect(review.on().KeyB).toMatchObject({ word: 'park', off: 'only your own work' });
  });
  it('change the mark in hand: lock, stack, part, flags, history', () => {
    const leaf = mark('L', { kind: 'polygon', geometry: { rings: [[0, 0, 9, 0, 9, 9]] } }, { class: 'leaf' });
    const tree = mark('T', { kind: 'ellipse', geometry: { cx: 9, cy: 9, rx: 4, ry: 4, angle: 0 } } as never, { class: 'tree' });
    const it = begin({ marks: [leaf, tree] });
    it.hand.select('T');
    it.bench.page = 'mark';
    expect(it.on().KeyE!.word).toBe('lock');
    it.press('KeyE');
    expect([it.hand.locked.has('T'), it.bench.page]).toEqual([true, null]);
    it.bench.page = 'mark';
    expect(it.on().KeyE!.word).toBe('unlock');
    it.press('KeyE');
    it.bench.page = 'mark';
    it.press('KeyR');
    it.bench.page = 'mark';
    it.press('KeyZ');
    expect(it.calls).toEqual(['whole', 'story T']);
    it.bench.page = 'mark';
    it.press('KeyX');
    it.press('KeyW');
    expect([it.bench.page, it.editor.marks.get('T')!.flags, it.on().KeyW!.lit]).toEqual(['flags', ['hidden'], true]);
    // a leaf is a part of nothing, and nothing in hand has no page
    it.hand.select('L');
    it.bench.page = 'mark';
    expect(it.on().KeyR!.off).toBe('its class is a part of nothing');
    it.hand.select(null);
    expect(it.on().KeyT!.word).toBe('ask');
  });
});

describe('classes', () => {
  it('lie on the digits, the one in hand lit', () => {
    const it = begin();
    expect(it.deck.digits.caps.map((c) => [c.code, c.word, c.lit]).slice(0, 2)).toEqual([
      ['Digit1', 'Apple', true],
      ['Digit2', 'Leaf', false]
    ]);
    it.deck.digits.caps[1]!.press();
    expect(it.calls).toEqual(['class leaf']);
  });
  it('too many for the digits lie on a board, twenty a page, the next page under Shift', () => {
    const classes = Array.from({ length: 45 }, (_, i) => ({ key: `c${i}`, name: `Class ${i}`, shapes: ['box' as const] }));
    const it = begin({ document: { skeno: 'codebook/1', classes } });
    expect(it.deck.digits.caps[0]).toMatchObject({ code: 'Backquote', word: 'board' });
    it.deck.digits.caps[0]!.press();
    expect(it.board.page).toBe(0);
    const shown = () => [...it.deck.digits.caps.slice(1), ...it.deck.rows.flatMap((r) => r.caps)].map((c) => c.word);
    expect([shown().length, shown()[0], shown()[19]]).toEqual([20, 'Class 0', 'Class 19']);
    Object.assign(it.ports, { shift: true });
    expect(shown()[0]).toBe('Class 20');
    Object.assign(it.ports, { shift: false });
    it.deck.digits.caps[0]!.press();
    expect([it.board.page, shown()]).toEqual([2, ['Class 40', 'Class 41', 'Class 42', 'Class 43', 'Class 44']]);
    it.deck.digits.caps[0]!.press();
    expect(it.board.page).toBeNull();
    it.deck.digits.caps[0]!.press();
    it.on().KeyQ!.press();
    expect([it.calls.at(-1), it.board.page]).toEqual(['class c5', null]);
  });
});

it('the key map says what no cap says', () =>
  expect(shellKeys.map((k) => k.keys)).toEqual(expect.arrayContaining(['Enter', 'Esc', 'Tab', '/', '?'])));
