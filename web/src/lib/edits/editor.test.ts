// @vitest-environment jsdom
import { beforeEach, describe, expect, it } from 'vitest';
import { asSent, mark, saidNothing, Tray, wordsOf } from '../../test/plane';
import type { Schemas } from '../api/client';
import { body, type Mark, type Said } from '../words/mark';
import { Editor, saidSubject } from './editor.svelte';
import { same } from '$lib/words/same';
import { History } from './history';

const ITEM = 9;
let tray: Tray;
let editor: Editor;
let told: { unsure: boolean; version: number }[];
const begin = (marks: Mark[] = [], said: Partial<Schemas['Said']> = {}) => {
  tray = new Tray();
  told = [];
  editor = new Editor({ project: 3, turn: 5, user: 1 }, wordsOf(), tray, (answer, _, unsure) =>
    told.push({ unsure, version: answer.codebook_version })
  );
  editor.take(
    ITEM,
    marks.map((m) => asSent(m)),
    { ...saidNothing, ...said }
  );
};
const put = (before: Mark | null, after: Mark | null) => editor.change([{ subject: (before ?? after)!.id, item: ITEM, before, after }]);
const sent = () => tray.entries.map(({ edit }) => [edit.action, edit.mark, edit.base]);
const at = (id: string) => (editor.marks.get(id)?.geometry as { x: number } | undefined)?.x;
const moved = (m: Mark, x: number): Mark => ({ ...m, geometry: { ...m.geometry, x } }) as Mark;
const a = mark('A', [10, 10, 20, 20], { revision: 4 });
beforeEach(() => begin([a]));

describe('the editor', () => {
  it('shows a change at once and sends it on top of the revision there will be', () => {
    put(a, moved(a, 11));
    put(editor.marks.get('A')!, moved(a, 12));
    put(null, mark('B', [0, 0, 5, 5]));
    put(editor.marks.get('B')!, null);
    expect(at('A')).toBe(12);
    expect(sent()).toEqual([
      ['change', 'A', 4],
      ['change', 'A', 5],
      ['create', 'B', 0],
      ['delete', 'B', 1]
    ]);
  });
  it('sends only what has changed; kind and geometry go together, and answers with their class', () => {
    put(a, { ...a, answers: { ripe: { value: 'red' } } });
    put(editor.marks.get('A')!, moved(editor.marks.get('A')!, 3));
    // under a later codebook the server could not tell what an answer is to without its class
    expect(tray.entries[0]!.edit.data).toEqual({ class: 'apple', answers: { ripe: { value: 'red' } } });
    expect(tray.entries[1]!.edit.data).toEqual({ kind: 'box', geometry: { x: 3, y: 10, width: 20, height: 20 } });
  });
  it('makes many changes one step, told once', () => {
    const many = Array.from({ length: 300 }, (_, i) => mark(`M${i}`, [i, 0, 5, 5]));
    begin(many);
    let calls = 0;
    editor.marks.on(() => calls++);
    editor.change(many.map((m, i) => ({ subject: m.id, item: ITEM, before: m, after: moved(m, i + 1) })));
    expect([calls, tray.entries.length]).toEqual([1, 300]);
    editor.undo();
    expect([calls, at('M7')]).toEqual([2, 7]);
    expect(editor.canUndo).toBe(false);
  });
  it('brings back what was removed, on top of its removal, also after a reload or when the item is taken in anew', () => {
    sessionStorage.clear();
    const server = () => editor.take(ITEM, [], saidNothing);
    const open = () => {
      tray = new Tray();
      editor = new Editor({ project: 3, turn: 5, user: 1 }, wordsOf(), tray, () => {}, new History(1, 5));
    };
    open();
    editor.take(ITEM, [asSent(a)], saidNothing);
    put(a, null);
    tray.entries = [];
    // another codebook: the server sends what there is, without the mark
    server();
    expect(editor.isGone('A')).toBe(true);
    editor.undo();
    expect(sent()).toEqual([['create', 'A', 5]]);
    put(editor.marks.get('A')!, null);
    expect(sent()[1]).toEqual(['delete', 'A', 6]);
    editor.close();
    for (const base of [7, 9]) {
      open();
      server();
      editor.undo();
      expect([sent(), at('A')]).toEqual([[['create', 'A', base]], 10]);
      put(editor.marks.get('A')!, null);
      editor.close();
    }
  });
  it('changes nothing while it is locked, and says why', () => {
    put(a, moved(a, 11));
    let said = 0;
    editor.locked = () => said++;
    expect([put(moved(a, 11), null), editor.undo(), editor.redo(), editor.takeBack('A')]).toEqual([0, [], [], false]);
    expect([said, at('A'), tray.entries.length, editor.canUndo]).toEqual([3, 11, 1, true]);
    editor.locked = null;
    editor.undo();
    expect(at('A')).toBe(10);
  });
  it('takes back and does again, a removal too, and what is said of the item', () => {
    const wet: Said = { answers: {}, tags: ['wet'], stretches: [] };
    put(a, null);
    editor.change([{ subject: saidSubject(ITEM), item: ITEM, before: editor.saidOf(ITEM)!, after: wet }]);
    editor.undo();
    editor.undo();
    expect([at('A'), editor.saidOf(ITEM)]).toEqual([10, { answers: {}, tags: [], stretches: [] }]);
    expect(sent().map((s) => s[0])).toEqual(['delete', 'create', 'change', 'create']);
    editor.redo();
    expect(editor.isGone('A')).toBe(true);
    put(null, mark('C', [1, 1, 2, 2]));
    expect(editor.canRedo).toBe(false);
  });
  it('takes back the last change of one subject, whatever was done to others since', () => {
    const b = mark('B', [50, 0, 5, 5]);
    begin([a, b]);
    put(a, moved(a, 11));
    editor.change([
      { subject: 'A', item: ITEM, before: editor.marks.get('A')!, after: moved(a, 12) },
      { subject: 'B', item: ITEM, before: b, after: moved(b, 51) }
    ]);
    put(editor.marks.get('B')!, moved(b, 52));
    expect(editor.takeBack('A')).toBe(true);
    expect([at('A'), at('B')]).toEqual([11, 52]);
    expect(editor.takeBack('A')).toBe(true);
    expect(editor.takeBack('A')).toBe(false);
    expect([at('A'), at('B')]).toEqual([10, 52]);
    editor.undo();
    editor.undo();
    expect(at('B')).toBe(50);
  });
});

describe('another hand', () => {
  const theirs = asSent(moved(a, 99), { revision: 7 });
  const conflict = () => ({ outcome: 'conflict' as const, mark: theirs });

  it('is never written over: theirs is shown, mine is kept, and what waits of it is not sent', () => {
    put(a, moved(a, 11));
    put(editor.marks.get('A')!, moved(a, 12));
    tray.answer((edit) => (edit.base === 4 ? conflict() : { outcome: 'conflict', mark: theirs }));
    expect(at('A')).toBe(99);
    expect(editor.conflicts).toHaveLength(1);
    expect((editor.conflicts[0]!.mine as Mark).geometry).toMatchObject({ x: 12 });
    expect(editor.unsettled).toBe(1);
  });
  it('can not be undone by an undo of mine', () => {
    const b = mark('B', [50, 0, 5, 5]);
    begin([a, b]);
    editor.change([
      { subject: 'A', item: ITEM, before: a, after: moved(a, 11) },
      { subject: 'B', item: ITEM, before: b, after: moved(b, 51) }
    ]);
    tray.answer((edit) => (edit.mark === 'A' ? conflict() : {}));
    editor.undo();
    expect([at('A'), at('B')]).toEqual([99, 50]);
  });
  it('is settled by mine, on top of theirs, or by theirs', () => {
    put(a, moved(a, 11));
    tray.answer(conflict);
    editor.settle(editor.conflicts[0]!, true);
    expect(at('A')).toBe(11);
    expect(sent()).toEqual([['change', 'A', 7]]);
    tray.answer(conflict);
    editor.settle(editor.conflicts[0]!, false);
    expect([at('A'), tray.entries.length, editor.unsettled]).toEqual([99, 0, 0]);
  });
  it('that removed the mark: mine is drawn again', () => {
    put(a, moved(a, 11));
    tray.answer(() => ({ outcome: 'conflict', mark: { ...theirs, deleted: true } }));
    expect(at('A')).toBeUndefined();
    editor.settle(editor.conflicts[0]!, true);
    expect(at('A')).toBe(11);
    expect(sent()).toEqual([['create', 'A', 7]]);
  });
  it('that said something of the item: mine can be brought back, and is', () => {
    const wet: Said = { answers: {}, tags: ['wet'], stretches: [] };
    editor.change([{ subject: saidSubject(ITEM), item: ITEM, before: editor.saidOf(ITEM)!, after: wet }]);
    tray.answer(() => ({ outcome: 'conflict', said: { ...saidNothing, tags: ['dry'], revision: 3 } }));
    expect(editor.saidOf(ITEM)!.tags).toEqual(['dry']);
    editor.settle(editor.conflicts[0]!, true);
    expect(editor.saidOf(ITEM)!.tags).toEqual(['wet']);
    expect(tray.entries[0]!.edit).toMatchObject({ mark: null, base: 3, action: 'change', data: { kind: 'item', tags: ['wet'] } });
  });
  it('that did the very same is no conflict', () => {
    put(a, moved(a, 99));
    tray.answer(conflict);
    expect(editor.conflicts).toEqual([]);
  });
  it('and a refusal: it is said why, what is there is asked for, and mine can be tried again', () => {
    put(a, moved(a, 11));
    tray.answer(() => ({ outcome: 'refused', reason: 'outside the picture' }));
    expect(editor.conflicts[0]).toMatchObject({ refused: 'outside the picture' });
    expect(told).toEqual([{ unsure: true, version: 1 }]);
    editor.take(ITEM, [asSent(a)], saidNothing);
    expect(at('A')).toBe(10);
    editor.settle(editor.conflicts[0]!, true);
    expect(sent()).toEqual([['change', 'A', 4]]);
  });
});

describe('an item taken in', () => {
  it('has what is on its way laid over it', () => {
    put(a, moved(a, 11));
    put(null, mark('B', [1, 2, 3, 4]));
    editor.take(ITEM, [asSent(a)], saidNothing);
    expect([at('A'), at('B')]).toEqual([11, 1]);
    put(editor.marks.get('A')!, null);
    editor.take(ITEM, [asSent(a)], saidNothing);
    expect(at('A')).toBeUndefined();
  });
  it('keeps what was acknowledged while it was asked for, unless it is in it already', () => {
    put(a, moved(a, 11));
    const since = tray.pending();
    tray.answer((edit) => ({ mark: asSent(moved(a, 11), { revision: edit.base + 1 }) }));
    // the answer was on its way before the edit arrived
    editor.take(ITEM, [asSent(a)], saidNothing, since);
    expect(at('A')).toBe(11);
    put(editor.marks.get('A')!, moved(a, 12));
    expect(sent()).toEqual([['change', 'A', 5]]);
    // or it came after it, and somebody has gone on since
    editor.take(ITEM, [asSent(moved(a, 40), { revision: 8 })], saidNothing, since);
    expect(at('A')).toBe(12);
    tray.entries = [];
    editor.take(ITEM, [asSent(moved(a, 40), { revision: 8 })], saidNothing, since);
    expect(at('A')).toBe(40);
  });
  it('is left alone by what comes late', () => {
    put(a, moved(a, 11));
    editor.close();
    expect(tray.isHeard).toBe(false);
  });
});

describe('two hands that do whatever they like in any order', () => {
  /** A server that counts revisions as the real one does, and of a batch takes nothing that was built on what it did not take. */
  class Server {
    rows = new Map<string, { mark: Mark | null; revision: number }>();
    take(tray: Tray) {
      const stale = new Set<string>();
      tray.answer((edit) => {
        const row = this.rows.get(edit.mark!) ?? { mark: null, revision: 0 };
        if (stale.has(edit.mark!) || edit.base !== row.revision) {
          stale.add(edit.mark!);
          const mark = row.mark ?? mark0;
          return { outcome: 'conflict', mark: asSent(mark, { revision: row.revision, deleted: row.mark === null, id: edit.mark! }) };
        }
        const next = edit.action === 'delete' ? null : ({ ...(row.mark ?? { id: edit.mark }), ...edit.data } as Mark);
        this.rows.set(edit.mark!, { mark: next, revision: row.revision + 1 });
        return { mark: asSent(next ?? mark0, { revision: row.revision + 1, deleted: next === null, id: edit.mark! }) };
      });
    }
  }
  const mark0 = mark('X', [0, 0, 1, 1]);
  const hand = (marks: Mark[]) => {
    const own = new Tray();
    const one = new Editor({ project: 3, turn: 5, user: 1 }, wordsOf(), own);
    one.take(
      ITEM,
      marks.map((m) => asSent(m)),
      saidNothing
    );
    return { tray: own, editor: one };
  };
  it.each([1, 2, 3, 4, 5, 6, 7, 8])('see the same in the end, seed %i', (seed) => {
    let n = seed * 7919;
    const random = (below: number) => (n = (n * 48271) % 2147483647) % below;
    const start = Array.from({ length: 4 }, (_, i) => mark(`M${i}`, [i, 0, 5, 5], { revision: 1 }));
    const server = new Server();
    for (const m of start) server.rows.set(m.id, { mark: m, revision: 1 });
    const hands = [hand(start), hand(start)];
    for (let i = 0; i < 120; i++) {
      const { editor: e, tray: t } = hands[random(2)]!;
      const ids = e.marks.ids;
      const target = ids.length > 0 ? e.marks.get(ids[random(ids.length)]!)! : null;
      const what = random(8);
      if (what < 3 && target) e.change([{ subject: target.id, item: ITEM, before: target, after: moved(target, random(300)) }]);
      else if (what === 3 && target) e.change([{ subject: target.id, item: ITEM, before: target, after: null }]);
      else if (what === 4) e.undo();
      else if (what === 5) e.redo();
      else if (what === 6) server.take(t);
      else for (const c of e.conflicts) e.settle(c, random(2) === 0);
    }
    // everything arrives, and each settles what is left by what is there
    for (let i = 0; i < 20; i++)
      for (const { editor: e, tray: t } of hands) {
        server.take(t);
        for (const c of e.conflicts) e.settle(c, false);
      }
    for (const { editor: e, tray: t } of hands) {
      expect([t.entries.length, e.conflicts.length]).toEqual([0, 0]);
      // what a hand has not touched since it may not know of; what it has, it knows as it is
      const sent = [...server.rows].map(([id, r]) => asSent(r.mark ?? mark0, { id, revision: r.revision, deleted: r.mark === null }));
      const known = new Map(e.marks.all().map((m) => [m.id, m]));
      e.take(
        ITEM,
        sent.filter((m) => !m.deleted),
        saidNothing
      );
      for (const m of e.marks.all()) {
        const row = server.rows.get(m.id)!;
        expect(same(body(m), body(row.mark!))).toBe(true);
        expect(known.has(m.id) || row.revision > 0).toBe(true);
      }
      expect(e.marks.size).toBe([...server.rows.values()].filter((r) => r.mark !== null).length);
    }
  });
});
