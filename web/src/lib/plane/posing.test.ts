// @vitest-environment jsdom
import type { Mark, Pose } from '$lib/words/mark';
import { describe, expect, it, vi } from 'vitest';
import { laid, mark } from '../../test/plane';
import { Posing, type AskPose, type Posed } from './posing.svelte';

const A = '01AAAAAAAAAAAAAAAAAAAAAAAA';
const at = (x: number, y: number, state: 'visible' | 'hidden' = 'visible') => ({ x, y, state });
const pose = (dx = 0): Pose => ({ nodes: { head: at(10 + dx, 0), tail: at(10 + dx, 40) } });
const moth = (geometry = pose()): Mark => mark(A, { kind: 'skeleton', geometry }, { class: 'moth' });

function posed(ask: AskPose, classes = ['moth']) {
  let now: Mark | null = moth();
  const fitted: Pose[] = [];
  const said: string[] = [];
  const posing = new Posing(ask, classes, {
    now: () => now,
    fit: (m, geometry) => {
      fitted.push(geometry);
      now = { ...m, geometry } as Mark;
    },
    say: (m) => said.push(m)
  });
  return { posing, fitted, said, get: () => now, set: (m: Mark | null) => (now = m) };
}
const found = (sure: Record<string, number> = { head: 0.9, tail: 0.2 }): Posed => ({ geometry: pose(3), sure });

describe('a skeleton that is fitted', () => {
  it('asks with what was laid, takes what comes, and doubts what it is not sure of until a hand moves it', async () => {
    const asked: unknown[] = [];
    const { posing, fitted, get, set } = posed((wish) => {
      asked.push(wish);
      return Promise.resolve(found());
    });
    await posing.start(get());
    expect(asked).toEqual([{ class: 'moth', nodes: { head: { x: 10, y: 0 }, tail: { x: 10, y: 40 } } }]);
    expect([fitted, posing.mark]).toEqual([[pose(3)], null]);
    expect(posing.doubtful(get())).toEqual(['tail']);
    set(moth({ nodes: { head: at(13, 0), tail: at(14, 41) } }));
    expect(posing.doubtful(get())).toEqual([]);
    // said to be hidden, it is decided as well
    set(moth({ nodes: { head: at(13, 0), tail: at(13, 40, 'hidden') } }));
    expect(posing.doubtful(get())).toEqual([]);
    expect(posing.doubtful(null)).toEqual([]);
  });

  it('never moves what a hand has changed meanwhile, or what is gone', async () => {
    for (const meanwhile of [moth(pose(1)), null]) {
      let go: (posed: Posed) => void = () => {};
      const { posing, fitted, get, set } = posed(() => new Promise((done) => (go = done)));
      const fitting = posing.start(get());
      set(meanwhile);
      go(found());
      await fitting;
      expect([fitted, posing.mark, posing.doubtful(get())]).toEqual([[], null, []]);
    }
  });

  it('stays as it was laid when nobody answers, and says why', async () => {
    const { posing, fitted, said, get } = posed(() => Promise.reject(new Error('the server does not answer')));
    await posing.start(get());
    expect([fitted, said, posing.mark]).toEqual([[], ['not fitted: the server does not answer; it stays as you have laid it'], null]);
  });

  it('says that it takes long, and can be left', async () => {
    vi.useFakeTimers();
    let signal: AbortSignal | null = null;
    let go: (posed: Posed) => void = () => {};
    const { posing, fitted, said, get } = posed((_, s) => {
      signal = s;
      return new Promise((done) => (go = done));
    });
    const fitting = posing.start(get());
    expect([posing.mark, posing.slow]).toEqual([A, false]);
    vi.advanceTimersByTime(3000);
    expect(posing.slow).toBe(true);
    expect([posing.leave(), posing.mark, posing.slow, signal!.aborted]).toEqual([true, null, false, true]);
    go(found());
    await fitting;
    expect([fitted, said, posing.leave()]).toEqual([[], [], false]);
    vi.useRealTimers();
  });

  it('does nothing where nothing was learned', async () => {
    const ask = vi.fn();
    const { posing, get } = posed(ask, ['beetle']);
    await posing.start(get());
    await posing.start(null);
    expect(ask).not.toHaveBeenCalled();
  });
});

describe('on the stage', () => {
  it('two presses lay it, it is fitted, and two steps back undo both', async () => {
    const ask: AskPose = ({ nodes }) =>
      Promise.resolve({
        geometry: { nodes: Object.fromEntries(Object.entries(nodes).map(([key, n]) => [key, at(n.x + 2, n.y + 1)])) },
        sure: {}
      });
    const { plane, editor, press } = laid({ pose: ask, fits: ['moth'], active: 'moth' });
    plane.drawing.fit();
    press(100, 40);
    press(100, 140);
    const drawn = editor.marks.all()[0]!;
    expect([drawn.kind, drawn.source]).toEqual(['skeleton', 'hand']);
    await vi.waitFor(() => expect(editor.marks.all()[0]!.source).toBe('fitted'));
    const nodes = (m: Mark) => Object.values((m.geometry as Pose).nodes);
    const [before, after] = [nodes(drawn), nodes(editor.marks.all()[0]!)];
    expect(after.map((n) => n.x)).toEqual(before.map((n) => n.x + 2));
    editor.undo();
    expect(nodes(editor.marks.all()[0]!)).toEqual(before);
    editor.undo();
    expect(editor.marks.all()).toEqual([]);
  });
});
