// @vitest-environment jsdom
import { beforeEach, describe, expect, it } from 'vitest';
import { join, read, span } from '../../../test/text';
import { Phrases } from '../../text/alike.svelte';

beforeEach(() => sessionStorage.clear());
const NOTE = '12 woolly aphids on the old wall, aphids too';

describe('spans by keys', () => {
  it('a digit makes the words that are looked at a span of its class; the next one in hand is another class', async () => {
    const { surface, key, said, at, hand, acts } = await read(NOTE);
    expect(at()).toBe('12');
    expect(surface.take('count')).toBe(true);
    expect(said()).toEqual(['count: 12']);
    // with a span in hand the class is its own
    acts.choose('pest');
    expect(said()).toEqual(['pest: 12']);
    key('KeyW');
    expect(hand.size).toBe(0);
    expect(at()).toBe('woolly');
    key('KeyE');
    key('KeyW');
    up('KeyE');
    expect(at()).toBe('woolly aphids');
    surface.take('pest');
    expect(said()).toEqual(['pest: 12', 'pest: woolly aphids']);
    function up(code: string) {
      surface.keys.release!(new KeyboardEvent('keyup', { code }));
    }
  });
  it('the same words as the same are one span', async () => {
    const { surface, said, hand } = await read(NOTE);
    surface.take('count');
    const first = hand.selected;
    hand.select(null);
    surface.take('count');
    expect([said().length, hand.selected]).toEqual([1, first]);
    hand.select(null);
    surface.take('pest');
    expect(said()).toEqual(['count: 12', 'pest: 12']);
    // a class that is not drawn on texts is for nothing here
    expect(surface.take('leaf')).toBe(false);
  });
  it('moves the edges of the span in hand, by words and by letters, each a step that is taken back', async () => {
    const { surface, key, up, said, hand, editor } = await read(NOTE, [span('A', 'pest', 3, 16)]);
    hand.select('A');
    key('KeyT');
    key('KeyQ');
    expect(said()).toEqual(['pest: aphids']);
    up('KeyT');
    key('KeyE', { shiftKey: true });
    key('KeyQ', { shiftKey: true });
    expect(said()).toEqual(['pest:  aphids']);
    up('KeyE');
    editor.undo();
    editor.undo();
    expect(said()).toEqual(['pest: woolly aphids']);
    hand.toggleLock();
    surface.edge('end', 1);
    expect(said()).toEqual(['pest: woolly aphids']);
  });
  it('only looks where it may only look', async () => {
    const { surface, key, said, hand } = await read(NOTE, [span('A', 'pest', 3, 16)], { mode: 'look' });
    surface.draw({ start: 0, end: 2 });
    hand.select('A');
    key('Delete');
    surface.edge('end', 1);
    expect(said()).toEqual(['pest: woolly aphids']);
  });
  it('splits where two are joined, and joins what was split, relations with it', async () => {
    const { surface, said, hand } = await read('mites and moths, 12 of them', [
      span('A', 'pest', 0, 15),
      span('C', 'count', 17, 19),
      join('J', 'counted', 'C', 'A')
    ]);
    hand.select('A');
    surface.split();
    expect(said()).toEqual(['pest: mites', 'count: 12', 'counted 12 → mites', 'pest: moths']);
    hand.select('A');
    surface.joinSpans();
    expect(said()).toEqual(['pest: mites and moths', 'count: 12', 'counted 12 → mites and moths']);
  });
});

describe('the same words', () => {
  it('are one key each, also in the next text', async () => {
    const phrases = new Phrases();
    const first = await read('aphids here', [], { phrases });
    first.surface.take('pest');
    const { key, said, caps, hand } = await read('Aphids, and aphids', [], { phrases });
    expect(caps()['KeyA']?.word).toBe('Pest: Aphids');
    key('KeyA');
    expect([said(), hand.size]).toEqual([['pest: Aphids'], 0]);
    key('KeyD');
    expect(caps()['KeyA']).toBeUndefined();
    expect(said()).toEqual(['pest: Aphids']);
  });
});

describe('relations', () => {
  it('are drawn by keys, go with their ends, and are drawn once', async () => {
    const { surface, key, said, hand, editor, acts, pages, messages } = await read(NOTE, [
      span('A', 'count', 0, 2),
      span('B', 'pest', 3, 16),
      span('C', 'pest', 34, 40)
    ]);
    hand.select('A');
    key('KeyG');
    expect(pages).toEqual(['join']);
    surface.pages['join']!()[0]!.caps[0]!.press();
    expect([surface.relating.target, surface.isDrawing]).toEqual(['B', true]);
    key('KeyW');
    expect(surface.relating.target).toBe('C');
    key('Enter');
    expect(said().at(-1)).toBe('counted 12 → aphids');
    expect([surface.isDrawing, hand.selected]).toEqual([false, 'A']);
    surface.drawJoin('A', 'C');
    expect(messages).toEqual(['they are joined so already']);
    surface.drawJoin('C', 'A');
    expect(messages.at(-1)).toBe('no relation leads from Pest to Count');
    hand.select('C');
    acts.remove();
    expect(said()).toEqual(['count: 12', 'pest: woolly aphids']);
    editor.undo();
    expect(said()).toContain('counted 12 → aphids');
  });
  it('Esc leaves one that is half drawn', async () => {
    const { surface, hand } = await read(NOTE, [span('A', 'count', 0, 2), span('B', 'pest', 3, 16)]);
    hand.select('A');
    surface.relate('counted');
    expect(surface.keys.escape!()).toBe(true);
    expect(surface.isDrawing).toBe(false);
  });
});

describe('a press', () => {
  it('goes through the spans that lie there, the shortest first', async () => {
    const { surface, hand, at } = await read(NOTE, [span('A', 'pest', 3, 16), span('B', 'block', 10, 16)]);
    surface.press(11);
    expect(hand.selected).toBe('B');
    surface.press(11);
    expect(hand.selected).toBe('A');
    surface.press(11);
    expect(hand.selected).toBe('B');
    surface.press(20);
    expect([hand.selected, at()]).toEqual([null, 'the']);
  });
  it('sets a pin on a word, with the span that lies there', async () => {
    const { surface, pins } = await read(NOTE, [span('A', 'pest', 3, 16)], { mode: 'review' });
    surface.pinning = true;
    surface.press(11);
    expect(pins).toEqual([{ x: null, y: null, offset: 11, mark: 'A' }]);
    expect(surface.pinning).toBe(false);
  });
});

it('no key has two meanings at once, whatever is in hand', async () => {
  const { surface, hand } = await read(NOTE, [span('A', 'count', 0, 2), span('B', 'pest', 3, 16)]);
  for (const selected of [null, 'A', 'B'])
    for (const held of [null, 'widen', 'narrow'] as const)
      for (const relating of [false, true]) {
        hand.select(selected);
        surface.held = held;
        if (relating && selected === 'A') surface.relating.begin('counted', 'A');
        const { tools, verbs, view } = surface.caps();
        const codes = [...tools, ...verbs.caps, ...view.caps].map((c) => c.code);
        expect(new Set(codes).size).toBe(codes.length);
        // submit, back and on, answers and returning stay the shell's
        for (const fixed of ['KeyS', 'KeyC', 'KeyV', 'KeyR']) expect(codes).not.toContain(fixed);
        surface.relating.leave();
      }
});
