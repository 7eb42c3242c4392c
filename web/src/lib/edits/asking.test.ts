// @vitest-environment jsdom
import { beforeEach, describe, expect, it } from 'vitest';
import { laid, mark } from '../../test/plane';

beforeEach(() => sessionStorage.clear());
const apples = [mark('A', [0, 0, 5, 5]), mark('B', [9, 9, 5, 5]), mark('L', [20, 20, 5, 5], { class: 'leaf', kind: 'box' } as never)];

describe('the question that is open', () => {
  it('goes on to the next without an answer, once round, and closes', () => {
    const { asking, hand, words } = laid({ marks: apples });
    hand.select('A');
    asking.openNext(true);
    expect(asking.question).toBe('ripe');
    const q = (key: string) => words.document.attributes!.find((a) => a.key === key)!;
    asking.answer(q('ripe'), { value: 'red' });
    expect(asking.question).toBe('scab');
    asking.answer(q('scab'), { value: true });
    // a condition has opened the next
    expect(asking.question).toBe('spots');
    asking.answer(q('spots'), { value: 3 }, true);
    expect(asking.question).toBe('spots');
    asking.openNext(false);
    expect(asking.question).toBe('note');
    asking.openNext(false);
    expect(asking.question).toBeNull();
    asking.openNext(true);
    expect(asking.question).toBeNull();
  });
  it('is of all that is in hand and asked the same, and one step', () => {
    const { asking, hand, editor, words } = laid({ marks: apples });
    hand.take(editor.marks.all());
    asking.answer(words.document.attributes![0]!, { value: 'green' });
    expect(['A', 'B', 'L'].map((id) => editor.marks.get(id)!.answers.ripe)).toEqual([{ value: 'green' }, { value: 'green' }, undefined]);
    editor.undo();
    expect(editor.marks.get('B')!.answers).toEqual({});
  });
  it('drops an answer to what is no longer asked', () => {
    const { asking, hand, editor, words } = laid({
      marks: [mark('A', [0, 0, 5, 5], { answers: { scab: { value: true }, spots: { value: 2 } } })]
    });
    hand.select('A');
    asking.answer(words.document.attributes![1]!, { value: false }, true);
    expect(editor.marks.get('A')!.answers).toEqual({ scab: { value: false } });
  });
  it('is of the item where nothing is in hand; a tag takes the place of the other of its group', () => {
    const { asking, hand, tray, words } = laid();
    asking.openNext(true);
    expect(asking.question).toBe('light');
    asking.answer(words.document.attributes![4]!, { value: 'sun' });
    asking.tag('wet');
    asking.tag('blurred');
    asking.tag('dry');
    expect(asking.said).toEqual({ answers: { light: { value: 'sun' } }, tags: ['blurred', 'dry'], stretches: [] });
    asking.tag('dry');
    expect(asking.said.tags).toEqual(['blurred']);
    expect(tray.entries.every((e) => e.edit.mark === null)).toBe(true);
    hand.select(null);
    expect(asking.question).toBeNull();
  });
  it('closes when something else comes into hand', () => {
    const { asking, hand } = laid({ marks: apples });
    hand.select('A');
    asking.openNext(true);
    hand.select('B');
    expect(asking.question).toBeNull();
  });
});

describe('acts on what is in hand', () => {
  it('another class keeps the answers it asks too; what is not drawn so stays', () => {
    const box = mark('A', [0, 0, 5, 5], { answers: { ripe: { value: 'red' }, scab: { value: true } } });
    const ring = mark(
      'P',
      { kind: 'polygon', geometry: { rings: [[0, 0, 9, 0, 9, 9]] } },
      { answers: { ripe: { value: 'red' }, scab: { value: true } } }
    );
    const { acts, hand, editor, chosen, messages } = laid({ marks: [box, ring] });
    hand.take(editor.marks.all());
    acts.choose('leaf');
    expect([editor.marks.get('A')!.class, editor.marks.get('P')!.class, chosen.active]).toEqual(['apple', 'leaf', 'leaf']);
    expect(editor.marks.get('P')!.answers).toEqual({ scab: { value: true } });
    expect(messages[0]).toContain('1 of the marks in hand is of a shape Leaf is not drawn as');
    editor.undo();
    expect(editor.marks.get('P')!.answers).toEqual(ring.answers);
  });
  it('a class that fits nothing in hand is taken for what comes next', () => {
    const { acts, hand, chosen, tray } = laid({ marks: [mark('A', [0, 0, 5, 5])] });
    hand.select('A');
    acts.choose('moth');
    expect([hand.selected, chosen.active, tray.entries.length]).toEqual([null, 'moth', 0]);
  });
  it('flags go on all and off all; the stack goes over or under all others', () => {
    const { acts, hand, editor } = laid({
      marks: [mark('A', [0, 0, 5, 5], { flags: ['hard'] }), mark('B', [0, 0, 5, 5], { stack: 4 }), mark('C', [0, 0, 5, 5])]
    });
    hand.take([editor.marks.get('A')!, editor.marks.get('C')!]);
    acts.toggleFlag('hard');
    expect([editor.marks.get('A')!.flags, editor.marks.get('C')!.flags]).toEqual([['hard'], ['hard']]);
    acts.toggleFlag('hard');
    expect(editor.marks.get('A')!.flags).toEqual([]);
    hand.select('C');
    acts.restack(true);
    expect(editor.marks.get('C')!.stack).toBe(5);
    acts.restack(false);
    expect(editor.marks.get('C')!.stack).toBe(-1);
    acts.partOf('B');
    acts.partOf('C');
    expect(editor.marks.get('C')!.part_of).toBeNull();
    expect(acts.label(editor.marks.get('C')!)).toBe('Apple 3');
  });
});
