import { Editor } from '$lib/edits/editor.svelte';
import { Tray, wordsOf } from '../../test/plane';
import type { Mark } from '$lib/words/mark';
import { beforeEach, describe, expect, it, vi } from 'vitest';
import { TrackActs } from './acts';
import { Tracks } from './tracks.svelte';

const FRAMES = 100;
const box = (x: number, y = 0) => ({ x, y, width: 10, height: 10 });

/** A clip with an editor, without bench or server. */
function clip() {
  const tray = new Tray();
  const editor = new Editor({ project: 1, turn: 2, user: 3 }, wordsOf(), tray);
  editor.take(7, [], { answers: {}, tags: [], stretches: [], revision: 0, author_id: null, source: 'hand' }, [], []);
  const said: string[] = [];
  const ask = vi.fn((_mark: Mark, _keys: unknown, first: number, last: number) =>
    Promise.resolve(Array.from({ length: last - first + 1 }, (_, i) => ({ rings: [[first + i, 0, 50, 0, 50, 50]] })))
  );
  const tracks = new Tracks(
    editor,
    7,
    FRAMES,
    (m) => said.push(m),
    ask,
    (q) => q === 'ripe'
  );
  /** classes that are absent where they can't be seen */
  const absent = new Set<string>();
  const acts = new TrackActs(
    editor,
    tracks,
    7,
    (m) => said.push(m),
    (key) => absent.has(key)
  );
  /** What a tool draws at the frame that is shown. */
  const draw = (id: string, geometry: Mark['geometry'] = box(0), kind: Mark['kind'] = 'box'): Mark => {
    const mark = {
      id,
      class: 'apple',
      kind,
      geometry,
      answers: {},
      stack: null,
      part_of: null,
      flags: [],
      stretches: null,
      place: null,
      revision: 0,
      author: 3,
      source: 'hand'
    } as unknown as Mark;
    editor.change([{ subject: id, item: 7, before: null, after: mark }]);
    return editor.marks.get(id)!;
  };
  /** What a tool makes of a mark at the frame that is shown. */
  const shape = (id: string, geometry: Mark['geometry']) => {
    const before = editor.marks.get(id)!;
    editor.change([{ subject: id, item: 7, before, after: { ...before, geometry } as Mark }]);
  };
  const keys = (id: string) => editor.keys.of(id).map((k) => k.place);
  const live = (id: string) => tracks.of(id)!.keys.map((k) => k.place);
  const x = (id: string) => {
    const mark = editor.marks.get(id)!;
    return mark.away ? null : (mark.geometry as { x: number }).x;
  };
  const at = (place: number, id: string) => {
    tracks.show(place);
    return x(id);
  };
  const mark = (id: string) => editor.marks.get(id)!;
  return { tray, editor, tracks, acts, absent, draw, shape, keys, live, x, at, mark, said, ask };
}
let c: ReturnType<typeof clip>;
beforeEach(() => (c = clip()));
const A = '01AAAAAAAAAAAAAAAAAAAAAAAA';
const B = '01BBBBBBBBBBBBBBBBBBBBBBBB';

describe('a hand on a clip', () => {
  it('draws a track from here to the end, and each change elsewhere is a key there', () => {
    c.tracks.show(10);
    c.draw(A);
    c.tracks.show(30);
    c.shape(A, box(200));
    expect([c.mark(A).stretches, c.keys(A)]).toEqual([[[10, FRAMES - 1]], [10, 30]]);
    expect([c.at(9, A), c.at(10, A), c.at(20, A), c.at(30, A), c.at(99, A)]).toEqual([null, 0, 100, 200, 200]);
    const sent = c.tray.entries.map((e) => [e.edit.action, e.edit.base, e.edit.data?.place]);
    expect(sent).toEqual([
      ['create', 0, 10],
      ['key', 0, 30]
    ]);
    // a change of a key of its own goes on top of it
    c.tracks.show(10);
    c.shape(A, box(4));
    expect(c.tray.entries.at(-1)!.edit).toMatchObject({ action: 'key', base: 1, data: { place: 10, key: { geometry: box(4) } } });
  });
  it('takes back and does again what it did to a key, and nothing else', () => {
    c.draw(A);
    c.tracks.show(50);
    c.shape(A, box(100));
    c.tracks.show(20);
    expect(c.x(A)).toBe(40);
    c.editor.undo();
    expect([c.x(A), c.keys(A)]).toEqual([0, [0]]);
    c.editor.redo();
    expect([c.x(A), c.keys(A)]).toEqual([40, [0, 50]]);
    // brought back on top of its removal
    expect(c.tray.entries.slice(-2).map((e) => [e.edit.base, e.edit.data?.key === null])).toEqual([
      [1, true],
      [2, false]
    ]);
    c.editor.undo();
    c.editor.undo();
    expect(c.editor.marks.size).toBe(0);
    c.editor.redo();
    expect([c.at(0, A), c.mark(A).stretches]).toEqual([0, [[0, FRAMES - 1]]]);
  });
  it('changes what is said of the whole track without touching a key', () => {
    c.draw(A);
    c.tracks.show(5);
    const before = c.mark(A);
    c.editor.change([{ subject: A, item: 7, before, after: { ...before, flags: ['hard'] } as Mark }]);
    const edit = c.tray.entries.at(-1)!.edit;
    expect([edit.action, edit.base, edit.data]).toEqual(['change', 1, { flags: ['hard'] }]);
    expect(c.x(A)).toBe(0);
  });
  it('says what varies from a frame on, and what does not of the whole', () => {
    c.draw(A);
    const answer = (answers: Mark['answers']) => {
      const before = c.mark(A);
      c.editor.change([{ subject: A, item: 7, before, after: { ...before, answers: { ...before.answers, ...answers } } as Mark }]);
    };
    c.tracks.show(10);
    answer({ ripe: { value: 'green' } });
    c.tracks.show(30);
    answer({ ripe: { value: 'red' }, scab: { value: true } });
    const at = (place: number) => (
      c.tracks.show(place),
      Object.fromEntries(Object.entries(c.mark(A).answers).map(([k, v]) => [k, (v as { value: unknown }).value]))
    );
    expect([at(5), at(10), at(29), at(30), at(99)]).toEqual([
      { scab: true },
      { scab: true, ripe: 'green' },
      { scab: true, ripe: 'green' },
      { scab: true, ripe: 'red' },
      { scab: true, ripe: 'red' }
    ]);
    const sent = c.tray.entries.slice(1).map((e) => [e.edit.action, e.edit.data]);
    expect(sent[0]).toEqual(['key', { place: 10, class: 'apple', key: { answers: { ripe: { value: 'green' } } } }]);
    expect(sent[2]).toEqual(['change', { answers: { scab: { value: true } }, class: 'apple' }]);
    // it moves as before: a key that says nothing of where it is is none of its places
    c.tracks.show(40);
    c.shape(A, box(40));
    expect([c.at(20, A), c.live(A)]).toEqual([20, [0, 40]]);
    c.editor.undo();
    c.editor.undo();
    expect(at(35)).toEqual({ ripe: 'green' });
  });
  it('can not move what is not there, nor make another kind of it', () => {
    c.tracks.show(10);
    c.draw(A);
    c.tracks.show(5);
    c.shape(A, box(9));
    expect(c.said.at(-1)).toMatch(/not there/);
    c.tracks.show(10);
    const before = c.mark(A);
    c.editor.change([
      { subject: A, item: 7, before, after: { ...before, kind: 'polygon', geometry: { rings: [[0, 0, 5, 0, 5, 5]] } } as Mark }
    ]);
    expect([c.said.at(-1), c.tray.entries.length]).toEqual([expect.stringMatching(/keeps its shape/), 1]);
  });
  it('sees another hand at a key as a conflict of that key alone', () => {
    c.draw(A);
    c.tracks.show(40);
    c.shape(A, box(40));
    const theirs = {
      mark: A,
      place: 40,
      revision: 3,
      deleted: false,
      geometry: box(80),
      answers: {},
      hidden: false,
      source: 'hand' as const,
      confidence: null,
      author_id: 9
    };
    c.tray.answer((edit) => (edit.action === 'key' ? { outcome: 'conflict', key: theirs } : {}));
    expect(c.editor.conflicts.map((x) => x.subject)).toEqual([`${A}@40`]);
    expect(c.x(A)).toBe(80);
    c.editor.settle(c.editor.conflicts[0]!, true);
    expect([c.x(A), c.tray.entries.at(-1)!.edit.base]).toEqual([40, 3]);
  });
  it('asks once for what lies between two outlines, and again when a key has moved', async () => {
    const ring = (n: number) => ({ rings: [[n, 0, 50, 0, 50, 50]] });
    c.draw(A, ring(0), 'polygon');
    c.tracks.show(60);
    c.shape(A, ring(60));
    c.tracks.show(20);
    c.tracks.show(21);
    await Promise.resolve();
    await Promise.resolve();
    expect(c.ask).toHaveBeenCalledTimes(1);
    expect((c.mark(A).geometry as { rings: number[][] }).rings[0]![0]).toBe(21);
    c.tracks.show(55);
    expect(c.ask).toHaveBeenCalledTimes(2);
    c.tracks.show(60);
    c.shape(A, ring(90));
    c.tracks.show(22);
    expect(c.ask).toHaveBeenCalledTimes(3);
  });
});

describe('what is done to a track', () => {
  beforeEach(() => {
    c.draw(A);
    c.tracks.show(40);
    c.shape(A, box(400));
  });
  it('ends and begins where it is told, and nothing inside moves', () => {
    c.tracks.show(20);
    c.acts.endHere(c.mark(A));
    expect([c.at(10, A), c.at(20, A), c.at(21, A), c.live(A)]).toEqual([100, 200, null, [0, 20]]);
    c.editor.undo();
    c.tracks.show(10);
    c.acts.startHere(c.mark(A));
    expect([c.at(9, A), c.at(10, A), c.at(30, A), c.live(A)]).toEqual([null, 100, 300, [10, 40]]);
    // the key before its beginning is kept, and says so again when it is there again
    c.editor.undo();
    expect([c.at(5, A), c.keys(A)]).toEqual([50, [0, 40]]);
  });
  it('goes on from its end to here, or to the end', () => {
    c.tracks.show(50);
    c.acts.endHere(c.mark(A));
    c.tracks.show(70);
    c.acts.endHere(c.mark(A));
    expect(c.mark(A).stretches).toEqual([[0, 70]]);
    c.acts.toTheEnd(c.mark(A));
    expect(c.mark(A).stretches).toEqual([[0, FRAMES - 1]]);
  });
  it('is hidden from here until it is seen again', () => {
    c.tracks.show(10);
    c.acts.veil(c.mark(A));
    c.tracks.show(30);
    expect(c.mark(A).veiled).toBe(true);
    c.acts.veil(c.mark(A));
    expect([5, 10, 29, 30, 60].map((p) => (c.tracks.show(p), c.mark(A).veiled))).toEqual([false, true, true, false, false]);
    expect(c.at(20, A)).toBe(200);
  });
  it('is absent from here until it is seen again, where its class has it so', () => {
    c.absent.add('apple');
    c.tracks.show(60);
    c.acts.endHere(c.mark(A));
    c.tracks.show(10);
    c.acts.veil(c.mark(A));
    expect([c.at(9, A), c.at(10, A), c.at(30, A), c.mark(A).stretches]).toEqual([90, null, null, [[0, 9]]]);
    c.tracks.show(30);
    c.acts.veil(c.mark(A));
    // to where it would have ended, and where it was before it can be moved from
    expect(c.mark(A).stretches).toEqual([
      [0, 9],
      [30, 60]
    ]);
    expect([c.at(9, A), c.at(29, A), c.at(30, A), c.live(A)]).toEqual([90, null, 90, [0, 9, 30, 40]]);
    expect(c.editor.keys.of(A).some((k) => k.hidden)).toBe(false);
    c.tracks.show(0);
    c.acts.veil(c.mark(A));
    expect([c.said.at(-1), c.mark(A).stretches?.length]).toEqual(['it begins at this frame: let it begin later', 2]);
    c.editor.undo();
    c.editor.undo();
    expect([c.at(30, A), c.mark(A).stretches]).toEqual([300, [[0, 60]]]);
  });
  it('gets a key where it is, and loses it again', () => {
    c.tracks.show(10);
    c.acts.toggleKey(c.mark(A));
    expect(c.keys(A)).toEqual([0, 10, 40]);
    c.acts.toggleKey(c.mark(A));
    expect(c.keys(A)).toEqual([0, 40]);
    expect(c.acts.moveKey(c.mark(A), 40, 50)).toBe(true);
    expect([c.keys(A), c.at(50, A)]).toEqual([[0, 50], 400]);
  });
  it('stands still for so many frames, or to its end', () => {
    c.tracks.show(10);
    c.acts.carry(c.mark(A), 10);
    expect([c.at(15, A), c.at(20, A), c.at(30, A), c.at(40, A), c.live(A)]).toEqual([100, 100, 250, 400, [0, 10, 20, 40]]);
    c.tracks.show(15);
    c.acts.carry(c.mark(A), null);
    expect([c.at(99, A), c.live(A)]).toEqual([100, [0, 10, 15]]);
  });
  it('is cut in two that are where it was, and joined again', () => {
    const before = [5, 19, 20, 30, 60].map((p) => c.at(p, A));
    c.tracks.show(20);
    const id = c.acts.split(c.mark(A))!;
    expect([c.mark(A).stretches, c.mark(id).stretches]).toEqual([[[0, 19]], [[20, 99]]]);
    const seen = [5, 19, 20, 30, 60].map((p) => c.at(p, A) ?? c.at(p, id));
    expect(seen).toEqual(before);
    expect(c.acts.join(c.mark(A), c.mark(id))).toBe(true);
    expect([c.mark(A).stretches, c.editor.marks.get(id)]).toEqual([[[0, 99]], undefined]);
    expect([5, 19, 20, 30, 60].map((p) => c.at(p, A))).toEqual(before);
    // each is one step
    c.editor.undo();
    c.editor.undo();
    expect([c.editor.marks.ids, c.keys(A)]).toEqual([[A], [0, 40]]);
  });
  it('is exchanged with another from here on', () => {
    c.tracks.show(0);
    c.draw(B, box(1000));
    c.tracks.show(40);
    c.shape(B, box(600));
    const was = (p: number) => [c.at(p, A), c.at(p, B)];
    const [early, late] = [was(10), was(35)];
    c.tracks.show(20);
    expect(c.acts.swap(c.mark(A), c.mark(B))).toBe(true);
    expect(was(10)).toEqual(early);
    expect(was(35)).toEqual(late.toReversed());
    c.editor.undo();
    expect([was(10), was(35)]).toEqual([early, late]);
  });
  it('does not join two that are there at once, nor exchange them where they do not meet', () => {
    c.tracks.show(0);
    c.draw(B, box(1000));
    expect([c.acts.join(c.mark(A), c.mark(B)), c.acts.swap(c.mark(A), c.mark(B)), c.acts.split(c.mark(A))]).toEqual([false, false, null]);
    expect(c.said).toHaveLength(3);
  });
  it('keeps its keys over a reload with edits on their way', () => {
    const pending = c.tray.entries.map((e) => e.edit);
    const again = clip();
    again.tray.entries = c.tray.entries;
    again.editor.take(7, [], { answers: {}, tags: [], stretches: [], revision: 0, author_id: null, source: 'hand' }, pending, []);
    expect([again.keys(A), again.at(20, A)]).toEqual([[0, 40], 200]);
    again.shape(A, box(7));
    expect(again.tray.entries.at(-1)!.edit).toMatchObject({ base: 0, data: { place: 20 } });
    again.tracks.show(40);
    again.shape(A, box(8));
    expect(again.tray.entries.at(-1)!.edit.base).toBe(1);
  });
});
