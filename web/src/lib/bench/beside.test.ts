// @vitest-environment jsdom
import { beforeEach, describe, expect, it, vi } from 'vitest';
import { asSent, laid, mark } from '../../test/plane';
import { json, offline, problem } from '../../test/server';
import { Earlier } from './earlier.svelte';
import { Suggestions, type Suggestion } from './suggestions.svelte';
import { Talk } from './talk.svelte';

beforeEach(() => sessionStorage.clear());
const path = { params: { path: { project: 3, turn: 5 } } };
let asked: { line: string; body: unknown }[];
const serve = (answer: (line: string) => Response | Promise<Response>) => {
  asked = [];
  globalThis.fetch = async (input) => {
    const request = input as Request;
    const line = `${request.method} ${new URL(request.url).pathname.replace('/api/v1/projects/3/', '')}`;
    asked.push({ line, body: request.method === 'GET' ? null : await request.json().catch(() => null) });
    return answer(line);
  };
};
const packet = (more: object = {}) => ({ turn: { id: 5, mode: 'label', round: 1 }, item: { id: 9 }, pins: [], questions: [], decisions: [], suggestions: [], suggested_words: [], sure_from: null, ...more }); // prettier-ignore

describe('what is written about an item', () => {
  const begin = (more: object = {}) => {
    const it = laid({ marks: [mark('A', [1, 1, 5, 5])] });
    const said: string[] = [];
    const opened = { ...it, packet: packet(more), path, closed: false };
    const make = () => new Talk(opened as never, 3, (m) => said.push(m));
    return { ...it, opened, said, talk: make(), make };
  };
  const nowhere = () => Promise.resolve(true);

  it('stays until it has arrived', async () => {
    const { talk, said, opened } = begin();
    serve(offline);
    talk.pin({ x: 12.3456, y: 7, mark: 'A' });
    talk.text = 'arm is too low';
    await talk.send(nowhere);
    expect([talk.writing, talk.text, said]).toEqual(['pin', 'arm is too low', [expect.stringContaining('still there')]]);
    serve(() => json({ id: 3, x: 12.35, y: 7, text: 'arm is too low', mark: 'A' }, 201));
    await talk.send(nowhere);
    expect([talk.writing, talk.text, opened.packet.pins.length]).toEqual([null, '', 1]);
    expect(asked[0]).toEqual({ line: 'POST turns/5/pins', body: { x: 12.35, y: 7, mark: 'A', text: 'arm is too low' } });
    talk.open('pin');
    expect(talk.text).toBe('');
  });
  it('survives a reload, with the place it is about', () => {
    const { talk, make } = begin();
    talk.pin({ x: 4, y: 5, mark: null });
    talk.text = 'half a wo';
    talk.keep();
    const again = make();
    expect([again.writing, again.text, again.at]).toEqual(['pin', 'half a wo', { x: 4, y: 5, mark: null }]);
    again.close();
    expect(make().writing).toBeNull();
    // closed, not forgotten
    again.open('pin');
    expect(again.text).toBe('half a wo');
  });
  it('is of one form, and another form has its own', () => {
    const { talk } = begin();
    talk.open('ask');
    talk.text = 'scab or dirt?';
    talk.open('park');
    expect(talk.text).toBe('');
    talk.text = 'too dark';
    talk.open('ask');
    expect(talk.text).toBe('scab or dirt?');
    talk.open('park');
    expect(talk.text).toBe('too dark');
  });
  it('opens by itself only where something may be written', () => {
    const { talk, opened, make } = begin();
    talk.open('ask');
    opened.packet = packet({ turn: { id: 5, mode: 'look', round: 1 } });
    expect(make().writing).toBeNull();
  });
  it('that is nothing is not sent, but a return needs no word', async () => {
    const { talk } = begin();
    serve(() => problem(500, 'nobody should ask'));
    talk.open('ask');
    talk.text = '   ';
    await talk.send(nowhere);
    expect([asked, talk.writing]).toEqual([[], 'ask']);
    const steps: string[] = [];
    talk.open('return');
    await talk.send((what, text) => (steps.push(`${what}:${text}`), Promise.resolve(true)));
    expect([steps, talk.writing]).toEqual([['return:'], null]);
  });
  it('goes with a step of the workflow, and stays when that is not done', async () => {
    const { talk } = begin();
    talk.open('park');
    talk.text = 'ask Ines';
    await talk.send(() => Promise.resolve(false));
    expect([talk.writing, talk.text, talk.sending]).toEqual(['park', 'ask Ines', false]);
  });
  it('is sent once, however often Enter is pressed, and what is written meanwhile stays', async () => {
    const { talk, opened } = begin();
    let give: (r: Response) => void = () => {};
    serve(() => new Promise((done) => (give = done)));
    talk.open('ask');
    talk.text = 'which?';
    const sent = talk.send(nowhere);
    await talk.send(nowhere);
    expect(talk.sending).toBe(true);
    talk.open('park');
    talk.text = 'no light';
    await vi.waitFor(() => expect(asked).toHaveLength(1));
    give(json({ id: 8, text: 'which?' }, 201));
    await sent;
    expect([asked.length, talk.writing, talk.text, opened.packet.questions.length]).toEqual([1, 'park', 'no light', 1]);
  });
  it('a pin is taken off, and one that is not says so', async () => {
    const { talk, opened, said } = begin({ pins: [{ id: 3 }, { id: 4 }] });
    serve(() => problem(403, 'not yours'));
    await talk.unpin({ id: 3 } as never);
    expect([opened.packet.pins.length, said]).toEqual([2, ['not yours']]);
    serve(() => new Response(null, { status: 204 }));
    await talk.unpin({ id: 3 } as never);
    expect(opened.packet.pins).toEqual([{ id: 4 }]);
  });
  it('the story of a mark is shown as long as it is in hand', async () => {
    const { talk, hand } = begin();
    const story = { data: [{ action: 'create', by: null, at: 'x', revision: 1 }] };
    serve(() => json(story));
    hand.select('A');
    await talk.showStory('A');
    expect(talk.story).toEqual([{ action: 'create', by: 'import', at: 'x', revision: 1 }]);
    talk.story = null;
    const late = talk.showStory('A');
    hand.select(null);
    await late;
    expect(talk.story).toBeNull();
  });
});

describe('what changed since it was returned', () => {
  const begin = (more: object = {}) => {
    const it = laid({ marks: [mark('A', [1, 1, 5, 5]), mark('B', [2, 2, 5, 5]), mark('NEW', [8, 8, 5, 5])], mode: 'review' });
    const opened = {
      ...it,
      packet: packet({ turn: { id: 5, mode: 'review', round: 2 }, decisions: [{ decision: 'return' }], ...more }),
      path,
      closed: false
    };
    return { ...it, opened, earlier: new Earlier(opened as never, 3) };
  };
  const before = [mark('A', [1, 1, 5, 5]), mark('B', [2, 2, 9, 9]), mark('GONE', [3, 3, 5, 5])].map((m) => asSent(m, { revision: 7 }));
  it('is what has come, what is otherwise, and what is gone', async () => {
    const { earlier, editor } = begin();
    serve(() => json({ at: 'x', marks: before, keys: [] }));
    await earlier.load();
    const ids = () =>
      [earlier.changes!.come, earlier.changes!.changed.map((c) => c.after), earlier.changes!.gone].map((l) => l.map((m) => m.id));
    expect(ids()).toEqual([['NEW'], ['B'], ['GONE']]);
    // as they were, over the marks of now
    expect(earlier.overlays.map((o) => [o.name, o.line, o.marks.map((m) => m.id)])).toEqual([['before', 'dotted', ['B', 'GONE']]]);
    editor.change([{ subject: 'A', item: 9, before: editor.marks.get('A')!, after: null }]);
    expect(ids()[2]).toEqual(['A', 'GONE']);
  });
  it('of a track is also its keys, wherever it is looked at', async () => {
    const key = (place: number, x: number, more = {}) => ({ mark: 'B', place, revision: 1, deleted: false, geometry: { x, y: 0, width: 5, height: 5 }, answers: {}, hidden: false, source: 'hand', confidence: null, author_id: null, ...more }); // prettier-ignore
    const track = { stretches: [[0, 39]], place: 0 };
    const it = laid({ marks: [mark('A', [1, 1, 5, 5]), mark('B', [2, 2, 5, 5], track as never)], mode: 'review' });
    it.editor.keys.replace([key(0, 2), key(10, 9), key(20, 5)] as never);
    const opened = { ...it, packet: packet({ turn: { id: 5, mode: 'review', round: 2 }, decisions: [{ decision: 'return' }] }), path, closed: false }; // prettier-ignore
    const earlier = new Earlier(opened as never, 3, (q) => q === 'load');
    const was = [mark('A', [1, 1, 5, 5]), mark('B', [90, 90, 5, 5], track as never)].map((m) => asSent(m, { revision: 7 }));
    serve(() => json({ at: 'x', marks: was, keys: [key(0, 2), key(10, 8), key(30, 5)] }));
    await earlier.load();
    expect(earlier.changes!.changed.map((c) => [c.after.id, c.places])).toEqual([['B', [10, 20, 30]]]);
    expect(earlier.overlays[0]!.keys!.map((k) => k.place)).toEqual([0, 10, 30]);
    // where it is shown, and what is said there, is no change of it
    it.editor.keys.replace([key(0, 2), key(10, 8), key(30, 5)] as never);
    it.editor.marks.put([{ id: 'B', mark: { ...it.editor.marks.get('B')!, geometry: { x: 50, y: 0, width: 5, height: 5 }, answers: { load: { value: 'x' } } } as never }]); // prettier-ignore
    expect(earlier.changes!.changed).toEqual([]);
  });
  it('is not asked for where there was no return, nor by who does the work', async () => {
    serve(() => problem(500, 'nobody should ask'));
    for (const more of [
      { decisions: [] },
      { turn: { id: 5, mode: 'review', round: 1 } },
      { turn: { id: 5, mode: 'label', round: 2 } },
      { decisions: [{ decision: 'accept' }] }
    ]) {
      const { earlier } = begin(more);
      await earlier.load();
      expect([earlier.changes, earlier.overlays]).toEqual([null, []]);
    }
    expect(asked).toEqual([]);
  });
  it('says when it could not be had, and is not shown on another item', async () => {
    const { earlier, opened } = begin();
    serve(() => problem(500, 'a fault'));
    await earlier.load();
    expect(earlier.error).toContain('a fault');
    serve(() => json({ at: 'x', marks: before, keys: [] }));
    opened.closed = true;
    await earlier.load();
    expect(earlier.changes).toBeNull();
  });
});

describe('suggestions', () => {
  const begin = (editable = true) => {
    const it = laid({ marks: [mark('A', [1, 1, 5, 5])] });
    const suggestion = (id: string, x: number, confidence: number | null, more = {}) =>
      asSent(mark(id, [x, x, 5, 5], { author: null, source: 'model', ...more } as never), { confidence });
    const suggestions = [suggestion('S', 4, 0.9), suggestion('T', 5, 0.3), suggestion('U', 6, 0.85), suggestion('V', 7, null)];
    const shown: (string | null)[] = [];
    const pressed: number[] = [];
    const opened = {
      ...it,
      packet: packet({ suggestions }),
      editable,
      surface: { show: (m: { id: string } | null) => void shown.push(m?.id ?? null) }
    };
    const list = new Suggestions(opened as never, it.words, 1, () => void pressed.push(1));
    const gone = (id: string): Suggestion => ({ id, confidence: null, mark: suggestions.find((s) => s.id === id)! });
    return {
      ...it,
      opened,
      shown,
      pressed,
      list,
      of: (id: string) => list.list.find((s) => s.id === id) ?? gone(id)
    };
  };
  const ids = (list: Suggestions) => list.list.map((s) => s.id);
  it('lie over the marks, the most doubtful first, and become marks of the hand that confirms them', () => {
    const { list, editor, tray, of, shown } = begin();
    expect(list.overlays.map((o) => [o.line, o.marks.length])).toEqual([['dashed', 4]]);
    expect(ids(list)).toEqual(['T', 'U', 'S', 'V']);
    list.step(1);
    expect([list.now?.id, shown]).toEqual(['T', ['T']]);
    expect(list.confirm(of('T'))).toBe(true);
    // and on to the next
    expect([ids(list), list.now?.id]).toEqual([['U', 'S', 'V'], 'U']);
    const made = editor.marks.all().find((m) => m.suggestion === 'T')!;
    expect([made.source, made.author, made.id === 'T', made.geometry]).toEqual(['hand', 1, false, { x: 5, y: 5, width: 5, height: 5 }]);
    expect(tray.entries[0]!.edit).toMatchObject({ action: 'create', base: 0, suggestion: 'T' });
    // a second press is a slip
    expect(list.confirm(of('T'))).toBe(false);
    expect(editor.marks.size).toBe(2);
    // undone, it is offered again
    editor.undo();
    expect(ids(list)).toEqual(['T', 'U', 'S', 'V']);
  });
  it('that are wrong go, and come back with undo', () => {
    const { list, editor, tray, of } = begin();
    list.look('U');
    list.drop(of('U'));
    expect([ids(list), list.now?.id]).toEqual([['T', 'S', 'V'], 'S']);
    expect(tray.entries.map((e) => [e.edit.action, e.edit.mark, e.edit.data])).toEqual([['drop', 'U', { dropped: true }]]);
    editor.undo();
    expect(ids(list)).toEqual(['T', 'U', 'S', 'V']);
    expect(tray.entries.at(-1)!.edit.data).toEqual({ dropped: false });
    editor.redo();
    tray.answer();
    expect([ids(list), editor.conflicts]).toEqual([['T', 'S', 'V'], []]);
  });
  it('pressed on the stage, is looked at where it is', () => {
    const { list, shown, hand, pressed } = begin();
    hand.select('A');
    list.overlays[0]!.pick!('U');
    expect([list.now?.id, hand.selected, shown, pressed]).toEqual(['U', null, [], [1]]);
    // left, all is seen again, once
    list.look(null);
    list.look(null);
    expect(shown).toEqual([null]);
  });
  it('are confirmed as another class, or to be changed by hand', () => {
    const { list, editor, hand, of } = begin();
    list.confirm(of('S'), 'tree');
    expect(editor.marks.all().find((m) => m.suggestion === 'S')!.class).toBe('tree');
    expect(list.edit(of('U'))).toBe(true);
    expect(list.now).toBeNull();
    expect(hand.mark!.suggestion).toBe('U');
    expect(editor.marks.get(hand.selected)!.suggestion).toBe('U');
  });
  it('above a confidence are confirmed at once, as one step; what has none is not among them', () => {
    const { list, editor } = begin();
    expect(list.above.map((s) => s.id)).toEqual(['U', 'S']);
    list.threshold = 0.2;
    expect(list.overlays[0]!.filled).toEqual(new Set(['T', 'U', 'S']));
    list.threshold = 0.86;
    expect(list.confirmAbove()).toBe(1);
    expect([ids(list), list.now?.id]).toEqual([['T', 'U', 'V'], 'T']);
    list.threshold = 0;
    expect(list.confirmAbove()).toBe(2);
    editor.undo();
    expect(ids(list)).toEqual(['T', 'U', 'V']);
    list.threshold = 1;
    expect(list.confirmAbove()).toBe(0);
  });
  it('all are confirmed at once where nobody has said how sure any is; those of a text come in its order', () => {
    const { list, editor, opened } = begin();
    // (on this plane spans are boxes that also say where they begin)
    const at = (id: string, start: number) => {
      const box = asSent(mark(id, [1, 1, 5, 5]));
      return { ...box, geometry: { ...box.geometry, start }, confidence: null };
    };
    const unsure = new Suggestions(
      { ...opened, packet: { ...opened.packet, suggestions: [at('X', 9), at('Y', 2), at('Z', 5)] }, surface: { show: () => {}, lead: (m: { id: string }) => `“${m.id}”` } } as never, // prettier-ignore
      list['words'],
      1
    );
    expect([ids(unsure), unsure.unsaid, list.unsaid]).toEqual([['Y', 'Z', 'X'], true, false]);
    expect(unsure.name(unsure.list[0]!)).toMatch(/ “Y”$/);
    expect(unsure.confirmAbove()).toBe(3);
    expect([ids(unsure), editor.marks.size]).toEqual([[], 4]);
    editor.undo();
    expect(ids(unsure)).toEqual(['Y', 'Z', 'X']);
  });
  describe('of what is said of the whole', () => {
    const word = (id: string, key: string, confidence: number | null, answer: object | null = null) => ({ id, key, answer, confidence });
    const begin = (words: object[], more: object = {}) => {
      const it = laid({ marks: [] });
      it.words.take({
        version: 2,
        looks: [],
        document: {
          ...it.words.document,
          attributes: [
            { key: 'usable', name: 'Usable', type: 'yesno', scope: 'item' },
            { key: 'why', name: 'Why not', type: 'text', scope: 'item', when: [{ attribute: 'usable', any: [false] }] }
          ],
          tags: [
            { key: 'wet', name: 'Wet leaves', group: 'ground' },
            { key: 'frost', name: 'Frost', group: 'ground' },
            { key: 'dusk', name: 'Dusk' }
          ]
        } as never
      });
      const suggestions = [asSent(mark('S', [4, 4, 5, 5], { author: null, source: 'model' } as never), { confidence: 0.7 })];
      const opened = { ...it, packet: packet({ suggestions, suggested_words: words, ...more }), editable: true };
      return { ...it, list: new Suggestions(opened as never, it.words, 1) };
    };
    const at = (list: Suggestions, id: string) => list.list.find((s) => s.id === id)!;

    it('they come among the others by how doubtful they are, and are said when they are right', () => {
      const { list, asking, editor, tray } = begin([word('A', 'usable', 0.9, { value: true }), word('B', 'dusk', 0.5)]);
      expect(list.list.map((s) => [s.id, list.name(s)])).toEqual([['B', 'Dusk'], ['S', expect.any(String)], ['A', 'Usable: yes']]); // prettier-ignore
      expect(list.overlays[0]!.marks).toHaveLength(1);
      list.confirm(at(list, 'B'));
      list.confirm(at(list, 'A'));
      expect([asking.said.tags, asking.said.answers, ids(list)]).toEqual([['dusk'], { usable: { value: true } }, ['S']]);
      expect(tray.entries.map((e) => [e.edit.action, e.edit.mark])).toEqual([['create', null], ['change', null]]); // prettier-ignore
      editor.undo();
      expect([asking.said.answers, ids(list)]).toEqual([{}, ['S', 'A']]);
    });
    it('what is said already, is not asked now, or would be beside another of its group is not offered', () => {
      const { list, asking } = begin([word('A', 'why', 0.9, { value: 'fog' }), word('B', 'wet', 0.8), word('C', 'gone', 0.8)]);
      expect(ids(list)).toEqual(['S', 'B']);
      asking.tag('frost');
      expect(ids(list)).toEqual(['S']);
      asking.tag('frost');
      asking.say({ ...asking.said, answers: { usable: { value: false } } });
      expect(ids(list)).toEqual(['S', 'B', 'A']);
    });
    it('all above a confidence are said with the marks as one step', () => {
      const { list, editor, asking } = begin([word('A', 'usable', 0.9, { value: true }), word('B', 'dusk', 0.75), word('C', 'frost', 0.4), word('D', 'wet', null)]); // prettier-ignore
      list.threshold = 0.6;
      expect(list.confirmAbove()).toBe(3);
      expect([editor.marks.size, asking.said.tags, asking.said.answers]).toEqual([1, ['dusk'], { usable: { value: true } }]);
      editor.undo();
      expect([editor.marks.size, asking.said.tags, ids(list)]).toEqual([0, [], ['C', 'S', 'B', 'A', 'D']]);
    });
    it('of tags that exclude each other the surest stays', () => {
      const { list, asking } = begin([word('A', 'wet', 0.95), word('B', 'frost', 0.9)]);
      list.confirmAbove();
      expect(asking.said.tags).toEqual(['wet']);
    });
    it('one that is wrong is not offered again; one to be changed opens its question', () => {
      const { list, tray, asking, hand } = begin([word('A', 'usable', 0.3, { value: true }), word('B', 'dusk', 0.2)]);
      list.drop(at(list, 'B'));
      expect([tray.entries.map((e) => [e.edit.action, e.edit.mark]), ids(list)]).toEqual([[['drop', 'B']], ['A', 'S']]);
      expect(list.edit(at(list, 'A'))).toBe(true);
      expect([asking.question, hand.selected, list.now]).toEqual(['usable', null, null]);
    });
    it('begins with the confidence the lot asks for, and does without words in what was kept by an earlier version', () => {
      expect(begin([], { sure_from: 0.65 }).list.above).toHaveLength(1);
      const { list } = begin([], { suggested_words: undefined });
      expect([list.threshold, ids(list)]).toEqual([0.8, ['S']]);
    });
  });
  it('one that was confirmed and then removed has been found wrong', () => {
    const { list, editor, acts, tray, of } = begin();
    list.edit(of('S'));
    acts.remove();
    expect(ids(list)).toEqual(['T', 'U', 'V']);
    expect(tray.entries.map((e) => e.edit.action)).toEqual(['create', 'delete', 'drop']);
    editor.undo();
    expect([ids(list), editor.marks.size]).toEqual([['T', 'U', 'V'], 2]);
    editor.undo();
    expect(ids(list)).toEqual(['T', 'U', 'S', 'V']);
  });
  it('go round, and are let go of when a mark is taken in hand', () => {
    const { list, hand } = begin();
    list.step(-1);
    expect(list.now?.id).toBe('V');
    list.step(1);
    expect(list.now?.id).toBe('T');
    hand.select('A');
    expect(list.now).toBeNull();
  });
  it('are not for who only looks', () => {
    const { list, editor, of } = begin(false);
    list.confirm(of('S'));
    list.drop(of('S'));
    expect([list.edit(of('S')), list.confirmAbove()]).toEqual([false, 0]);
    expect([editor.marks.size, list.list.length]).toEqual([1, 4]);
  });
  it('that were decided before a reload while the server was away are decided still', () => {
    const { list, editor, opened, of, tray } = begin();
    list.drop(of('T'));
    editor.take(opened.packet.item.id, [asSent(mark('A', [1, 1, 5, 5]))], {
      answers: {},
      tags: [],
      stretches: [],
      revision: 0,
      author_id: null,
      source: 'hand'
    });
    expect([ids(list), tray.entries.length]).toEqual([['U', 'S', 'V'], 1]);
  });
});
