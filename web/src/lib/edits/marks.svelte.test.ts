// @vitest-environment jsdom
import { flushSync } from 'svelte';
import { describe, expect, it } from 'vitest';
import { laid, mark, wordsOf } from '../../test/plane';
import type { Finding, Mark } from '../words/mark';
import { Findings } from './findings.svelte';
import { Hand } from './hand.svelte';
import { Marks, type Change } from './marks.svelte';
import { OpenQuestions } from './open-questions.svelte';

const many = (n: number) => Array.from({ length: n }, (_, i) => mark(`M${i}`, [i, 0, 5, 5], { class: i % 3 === 0 ? 'leaf' : 'apple' }));
/** Runs something that reads for each key, and says which ran again. */
function watched<K>(keys: K[], read: (key: K) => unknown): { ran: () => K[]; end: () => void } {
  let ran: K[] = [];
  const end = $effect.root(() => {
    for (const key of keys)
      $effect(() => {
        read(key);
        ran.push(key);
      });
  });
  flushSync();
  ran = [];
  return {
    ran: () => {
      flushSync();
      const now = ran;
      ran = [];
      return now;
    },
    end
  };
}

describe('marks by id', () => {
  it('tell of a change whoever reads that one mark, and nobody else', () => {
    const marks = new Marks(many(3000));
    const rows = watched([...marks.ids], (id) => marks.get(id)?.geometry);
    const lists = watched(['apple', 'leaf'], (key) => marks.of(key));
    const list = watched(['ids'], () => marks.ids);
    marks.put([{ id: 'M7', mark: mark('M7', [1, 1, 1, 1]) }]);
    expect([rows.ran(), lists.ran(), list.ran()]).toEqual([['M7'], [], []]);
    marks.put([{ id: 'M7', mark: mark('M7', [1, 1, 1, 1], { class: 'leaf' }) }]);
    expect([rows.ran(), lists.ran().sort(), list.ran()]).toEqual([['M7'], ['apple', 'leaf'], []]);
    marks.put([{ id: 'M8', mark: null }]);
    expect([rows.ran(), lists.ran(), list.ran()]).toEqual([['M8'], ['apple'], ['ids']]);
    rows.end();
    lists.end();
    list.end();
  });
  it('keep their order, by class too, whatever comes and goes', () => {
    let marks: Mark[] = many(30);
    const kept = new Marks(marks);
    let seed = 11;
    const random = (below: number) => (seed = (seed * 48271) % 2147483647) % below;
    for (let i = 0; i < 400; i++) {
      const list = Array.from({ length: 1 + random(4) }, () => {
        const what = random(3);
        const id = marks.length > 0 && what !== 0 ? marks[random(marks.length)]!.id : `N${random(60)}`;
        return { id, mark: what === 1 ? null : mark(id, [i, 0, 5, 5], { class: random(2) ? 'leaf' : 'apple' }) };
      });
      for (const { id, mark: m } of list) {
        const at = marks.findIndex((x) => x.id === id);
        // one that is taken away and drawn again in one change stays where it was
        if (m === null) marks = marks.filter((x) => x.id !== id);
        else if (at >= 0) marks = marks.with(at, m);
        else if (!list.some((l) => l.id === id && l.mark === null)) marks = [...marks, m];
        else return;
      }
      kept.put(list);
      expect(kept.all()).toEqual(marks);
      for (const key of ['apple', 'leaf']) expect(kept.of(key)).toEqual(marks.filter((m) => m.class === key).map((m) => m.id));
    }
  });
  it('tell who listens what was and what is, after it has happened', () => {
    const [a, b] = [mark('A', [0, 0, 1, 1]), mark('A', [2, 2, 1, 1])];
    const marks = new Marks([a]);
    const heard: Change[] = [];
    const end = marks.on((changes) => {
      expect(marks.get('A')).toBe(changes[0]!.after ?? undefined);
      heard.push(...changes);
    });
    marks.put([{ id: 'A', mark: b }]);
    marks.put([{ id: 'A', mark: b }]);
    marks.put([{ id: 'A', mark: null }]);
    end();
    marks.put([{ id: 'A', mark: a }]);
    expect(heard).toEqual([
      { id: 'A', before: a, after: b },
      { id: 'A', before: b, after: null }
    ]);
  });
});

describe('what is in hand', () => {
  it('tells the rows that come into hand or leave it, and no others', () => {
    const marks = new Marks(many(3000));
    const hand = new Hand(marks);
    const rows = watched([...marks.ids], (id) => [hand.has(id), hand.isOver(id)]);
    hand.select('M5');
    expect(rows.ran()).toEqual(['M5']);
    hand.select('M9');
    expect(rows.ran().sort()).toEqual(['M5', 'M9']);
    hand.also('M10');
    hand.hover('M11');
    expect(rows.ran().sort()).toEqual(['M10', 'M11']);
    rows.end();
  });
  it('lets go of what is gone, and walks round', () => {
    const marks = new Marks(many(4));
    const hand = new Hand(marks);
    hand.take(marks.all().slice(0, 3));
    marks.put([{ id: 'M0', mark: null }]);
    expect([hand.selected, hand.others]).toEqual(['M1', ['M2']]);
    hand.select('M3');
    hand.walk(1);
    expect(hand.selected).toBe('M1');
    hand.walk(-1);
    expect(hand.selected).toBe('M3');
    hand.select('nobody');
    expect(hand.selected).toBeNull();
    hand.walk(-1);
    expect(hand.selected).toBe('M3');
  });
  it('keeps locks over a reload', () => {
    sessionStorage.clear();
    const one = laid({ marks: [mark('A', [0, 0, 5, 5]), mark('B', [9, 9, 5, 5])] });
    one.hand.select('A');
    one.hand.toggleLock();
    const two = laid({ marks: [mark('A', [0, 0, 5, 5]), mark('B', [9, 9, 5, 5])], kept: one.kept });
    expect([...two.hand.locked]).toEqual(['A']);
    two.hand.take(two.all());
    expect(two.hand.free.map((m) => m.id)).toEqual(['B']);
    two.plane.forms.remove();
    expect(two.all().map((m) => m.id)).toEqual(['A']);
    expect(two.messages[0]).toContain('locked');
  });
});

describe('what is still asked and found', () => {
  it('counts open questions as marks change, like a count from nothing', () => {
    const words = wordsOf();
    const marks = new Marks(many(30));
    const open = new OpenQuestions(words, marks);
    const anew = () => [marks.all().filter((m) => m.class === 'apple' && !m.answers.ripe).length, open.first('ripe')];
    const counted = () => [open.list.find((q) => q.key === 'ripe')?.count ?? 0, open.first('ripe')];
    expect(counted()).toEqual([20, 'M1']);
    let seed = 5;
    const random = (below: number) => (seed = (seed * 48271) % 2147483647) % below;
    for (let i = 0; i < 200; i++) {
      const id = `M${random(40)}`;
      const there = marks.get(id);
      const what = random(4);
      const next =
        what === 0
          ? null
          : mark(id, [i, 0, 5, 5], { class: random(2) ? 'apple' : 'leaf', answers: what === 1 ? { ripe: { value: 'red' } } : {} });
      if (there || next) marks.put([{ id, mark: next }]);
      expect(counted()).toEqual(anew());
    }
    open.close();
  });
  it('tells a row when its own findings change', () => {
    const marks = new Marks(many(100));
    const findings = new Findings(marks);
    const finding = (id: string | null): Finding => ({ code: 'x', message: 'y', stops: false, mark: id, attribute: null, place: null });
    const rows = watched([...marks.ids], (id) => findings.of(id));
    const heard: string[] = [];
    findings.on((ids) => heard.push(...ids));
    findings.take([finding('M3'), finding('M4'), finding(null)]);
    expect(rows.ran()).toEqual(['M3', 'M4']);
    findings.take([finding('M4'), finding(null)]);
    expect(rows.ran()).toEqual(['M3']);
    findings.take([finding('M4'), finding(null)]);
    expect([rows.ran(), heard]).toEqual([[], ['M3', 'M4', 'M3']]);
    expect(findings.ofItem).toHaveLength(1);
    rows.end();
  });
});
