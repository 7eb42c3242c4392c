import { Asking } from '$lib/edits/asking.svelte';
import { Editor } from '$lib/edits/editor.svelte';
import { Hand } from '$lib/edits/hand.svelte';
import { Kept } from '$lib/edits/kept';
import { saidNothing, Tray, wordsOf } from '../../test/plane';
import { beforeEach, describe, expect, it } from 'vitest';
import { Sayings } from './sayings.svelte';

const words = wordsOf({
  skeno: 'codebook/1',
  classes: [{ key: 'bin', name: 'Bin', shapes: ['box'] }],
  attributes: [
    {
      key: 'light',
      name: 'Light',
      type: 'one',
      scope: 'frame',
      required: true,
      options: [
        { key: 'sun', name: 'Sun' },
        { key: 'shade', name: 'Shade' }
      ]
    }
  ],
  tags: [
    { key: 'gust', name: 'Gust', scope: 'stretch' },
    { key: 'wet', name: 'Wet' }
  ]
});
function clip(kept = new Kept(3, 2)) {
  const tray = new Tray();
  const editor = new Editor({ project: 1, turn: 2, user: 3 }, words, tray);
  editor.take(7, [], saidNothing);
  const asking = new Asking(words, editor, new Hand(editor.marks), 7);
  const said: string[] = [];
  const sayings = new Sayings(words, asking, 100, kept, (m) => said.push(m));
  const list = (subject: string) =>
    sayings
      .of(subject)
      .map((s) => [s.first, s.last, 'answer' in s && 'value' in s.answer ? s.answer.value : null].filter((v) => v !== null));
  return { tray, editor, asking, sayings, said, list };
}
let c: ReturnType<typeof clip>;
beforeEach(() => {
  globalThis.sessionStorage?.clear();
  c = clip();
});
const [sun, shade] = [{ value: 'sun' }, { value: 'shade' }];
const LIGHT = 'question light';
const GUST = 'tag gust';

describe('an answer that switches', () => {
  it('holds from its frame to the next answer, or to the end', () => {
    c.sayings.switch('light', sun, 0);
    c.sayings.switch('light', shade, 40);
    c.sayings.switch('light', sun, 60);
    expect(c.list(LIGHT)).toEqual([
      [0, 39, 'sun'],
      [40, 59, 'shade'],
      [60, 99, 'sun']
    ]);
    // in the middle of one only the rest of that is another
    c.sayings.switch('light', shade, 50);
    c.sayings.switch('light', sun, 50);
    expect(c.list(LIGHT)).toEqual([
      [0, 39, 'sun'],
      [40, 49, 'shade'],
      [50, 99, 'sun']
    ]);
    expect(c.sayings.gaps('light')).toEqual([]);
  });
  it('leaves a gap where it is taken away, which is found', () => {
    c.sayings.switch('light', sun, 10);
    c.sayings.put(LIGHT, [30, 39], null);
    expect(c.list(LIGHT)).toEqual([
      [10, 29, 'sun'],
      [40, 99, 'sun']
    ]);
    expect(c.sayings.gaps('light')).toEqual([
      [0, 9],
      [30, 39]
    ]);
    // before the next one begins it fills the gap alone
    c.sayings.switch('light', shade, 35);
    expect(c.list(LIGHT)[1]).toEqual([35, 39, 'shade']);
    c.editor.undo();
    expect(c.sayings.gaps('light')).toHaveLength(2);
  });
  it('is sent with all that is said of the item', () => {
    c.asking.tag('wet');
    c.sayings.switch('light', sun, 3);
    expect(c.tray.entries.at(-1)!.edit.data).toEqual({
      kind: 'item',
      answers: {},
      tags: ['wet'],
      stretches: [{ question: 'light', answer: sun, first: 3, last: 99 }]
    });
  });
});

describe('a tag from here to there', () => {
  it('is begun by one press and ended by the next, also backwards', () => {
    c.sayings.tag('gust', 20);
    expect([c.sayings.begun, c.list(GUST)]).toEqual([{ tag: 'gust', first: 20 }, []]);
    c.sayings.tag('gust', 35);
    expect([c.sayings.begun, c.list(GUST)]).toEqual([null, [[20, 35]]]);
    c.sayings.tag('gust', 60);
    c.sayings.tag('gust', 50);
    expect(c.list(GUST)).toEqual([
      [20, 35],
      [50, 60]
    ]);
    // two that meet are one
    c.sayings.tag('gust', 40);
    c.sayings.tag('gust', 49);
    expect(c.list(GUST)).toEqual([
      [20, 35],
      [40, 60]
    ]);
  });
  it('ends where it is pressed within it, and is left by Esc', () => {
    c.sayings.tag('gust', 20);
    c.sayings.tag('gust', 35);
    c.sayings.tag('gust', 30);
    expect(c.list(GUST)).toEqual([[20, 30]]);
    c.sayings.tag('gust', 50);
    expect([c.sayings.leave(), c.sayings.leave(), c.list(GUST)]).toEqual([true, false, [[20, 30]]]);
  });
  it('is put on frames that are marked on its lane', () => {
    expect(c.sayings.mark(GUST, 35, 20)).toBeNull();
    expect([c.list(GUST), c.sayings.chosen]).toEqual([[[20, 35]], { subject: GUST, first: 20 }]);
    c.sayings.mark(GUST, 36, 40);
    expect(c.list(GUST)).toEqual([[20, 40]]);
  });
  it('is taken in hand, moved at its ends, and removed', () => {
    c.sayings.put(GUST, [10, 20], { tag: 'gust', first: 10, last: 20 });
    c.sayings.put(GUST, [40, 50], { tag: 'gust', first: 40, last: 50 });
    c.sayings.chosen = { subject: GUST, first: 40 };
    c.sayings.bound('last', 70);
    c.sayings.bound('first', 30);
    expect(c.list(GUST)).toEqual([
      [10, 20],
      [30, 70]
    ]);
    // an end does not pass the other one
    c.sayings.bound('first', 99);
    expect(c.list(GUST)[1]).toEqual([70, 70]);
    expect([c.sayings.remove(), c.list(GUST), c.sayings.remove()]).toEqual([true, [[10, 20]], false]);
  });
});

describe('frames marked on the lane of a question', () => {
  const LIGHT = 'question light';
  it('are what the next answer is for, and no more', () => {
    c.sayings.switch('light', { value: 'sun' }, 0);
    expect(c.sayings.mark(LIGHT, 20, 29)).toBe('light');
    expect(c.sayings.marked).toEqual({ question: 'light', first: 20, last: 29 });
    c.sayings.give('light', { value: 'shade' }, 70);
    expect([c.list(LIGHT), c.sayings.marked]).toEqual([
      [
        [0, 19, 'sun'],
        [20, 29, 'shade'],
        [30, 99, 'sun']
      ],
      null
    ]);
    // the next one is from its frame on again
    c.sayings.give('light', { value: 'shade' }, 70);
    expect(c.list(LIGHT).at(-1)).toEqual([70, 99, 'shade']);
  });
  it('are let go by Esc, and by an answer to another question', () => {
    c.sayings.mark(LIGHT, 20, 29);
    expect([c.sayings.leave(), c.sayings.marked, c.sayings.leave()]).toEqual([true, null, false]);
    expect([c.sayings.mark('question gone', 1, 2), c.sayings.marked]).toEqual([null, null]);
    expect(c.list(LIGHT)).toEqual([]);
  });
});
