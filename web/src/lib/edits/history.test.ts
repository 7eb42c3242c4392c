// @vitest-environment jsdom
import { beforeEach, describe, expect, it, vi } from 'vitest';
import { mark as box } from '../../test/plane';
import type { Said } from '../words/mark';
import { same } from '$lib/words/same';
import { History, type Step } from './history';

const mark = (id: string, x: number) => box(id, [x, 1, 5, 5]);
const nothing: Said = { answers: {}, tags: [], stretches: [] };
const wet: Said = { answers: {}, tags: ['wet'], stretches: [] };
const step = (subject: string, before: Step['before'], after: Step['after']): Step => ({ subject, item: 9, before, after, words: 1 });
const steps: Step[][] = [[step('a', null, mark('a', 1))], [step('a', mark('a', 1), mark('a', 2))], [step('said:9', nothing, wet)]];
const there = (...marks: ReturnType<typeof mark>[]) => new Map(marks.map((m) => [m.id, m]));
const kept = (undo: Step[][], user = 1, turn = 9): History => {
  const history = new History(user, turn);
  history.keep(undo);
  history.close();
  return new History(user, turn);
};
beforeEach(() => sessionStorage.clear());

describe('what can be taken back over a reload', () => {
  it('is all of it when everything is as it was left, whoever counted revisions meanwhile', () => {
    expect(kept(steps).restore(there({ ...mark('a', 2), revision: 7 }), wet).steps).toEqual(steps);
  });
  it('knows the revisions of what was removed', () => {
    const history = new History(1, 9);
    history.keep([[step('a', mark('a', 2), null)]], () => new Map([['a', 5]]));
    history.close();
    expect([...new History(1, 9).restore(there(), nothing).gone]).toEqual([['a', 5]]);
    expect([...new History(1, 8).restore(there(), nothing).gone]).toEqual([]);
  });
  it('ends where something was changed elsewhere', () => {
    expect(kept(steps).restore(there(mark('a', 3)), wet).steps).toEqual(steps.slice(2));
    expect(kept(steps).restore(there(mark('a', 2)), nothing).steps).toEqual([]);
    expect(kept(steps).restore(there(), wet).steps).toEqual(steps.slice(2));
  });
  it('belongs to one person and one turn, and a broken store is none', () => {
    kept(steps);
    expect(new History(2, 9).restore(there(mark('a', 2)), wet).steps).toEqual([]);
    expect(new History(1, 8).restore(there(mark('a', 2)), wet).steps).toEqual([]);
    sessionStorage.setItem('skeno-undo-1-9', '{not json');
    expect(new History(1, 9).restore(there(mark('a', 2)), wet).steps).toEqual([]);
  });
  it('forgets the oldest steps first, and gives up on what no store holds', () => {
    const many = Array.from({ length: 100 }, (_, i) => [step('a', mark('a', i), mark('a', i + 1))]);
    expect(kept(many).restore(there(mark('a', 100)), nothing).steps).toHaveLength(60);
    kept([[step('a', null, { ...mark('a', 1), answers: { remark: { value: 'x'.repeat(2_000_000) } } })]]);
    expect(JSON.parse(sessionStorage.getItem('skeno-undo-1-9')!).steps).toEqual([]);
    // what was done before something large is not kept either: a step can't be skipped
    const huge = [[step('b', null, mark('b', 1))], Array.from({ length: 5000 }, (_, i) => step(`m${i}`, null, mark(`m${i}`, 1))), ...steps];
    expect(JSON.parse((kept(huge), sessionStorage.getItem('skeno-undo-1-9'))!).steps).toEqual(steps);
  });
  it('writes a step only once, however many follow', () => {
    const write = vi.spyOn(JSON, 'stringify');
    const history = new History(1, 9);
    const undo: Step[][] = [];
    for (let i = 0; i < 30; i++) {
      undo.push([step('a', mark('a', i), mark('a', i + 1))]);
      history.keep(undo);
      history.flush();
    }
    expect(write.mock.calls.filter(([value]) => Array.isArray(value))).toHaveLength(30);
    write.mockRestore();
    expect(new History(1, 9).restore(there(mark('a', 30)), nothing).steps).toHaveLength(30);
  });
  it('is written once a hand rests, and when the page is left', () => {
    vi.useFakeTimers();
    const write = vi.spyOn(Storage.prototype, 'setItem');
    const history = new History(1, 9);
    for (let i = 0; i < 50; i++) history.keep(steps);
    expect(write).not.toHaveBeenCalled();
    vi.advanceTimersByTime(1000);
    expect(write).toHaveBeenCalledTimes(1);
    history.keep(steps);
    dispatchEvent(new Event('pagehide'));
    expect(write).toHaveBeenCalledTimes(2);
    write.mockRestore();
    vi.useRealTimers();
  });
  it('compares values, not the order of their keys', () => {
    expect(same({ a: 1, b: [1, { c: 2 }] }, { b: [1, { c: 2 }], a: 1 })).toBe(true);
    expect(same({ a: 1 }, { a: 1, b: undefined })).toBe(false);
  });
});
