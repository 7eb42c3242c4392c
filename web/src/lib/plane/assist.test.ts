// @vitest-environment jsdom
import { beforeEach, describe, expect, it } from 'vitest';
import { laid, mark } from '../../test/plane';
import type { Schemas } from '../api/client';
import type { Mark } from '../words/mark';

type Computed = Schemas['Computed'];

const a = mark('a', [100, 100, 50, 40]);
const b = mark('b', [200, 100, 50, 40]);
const found = { kind: 'box', geometry: { x: 102, y: 101, width: 44, height: 37 }, changed: 3 } as unknown as Computed;
let answers: ((answer: Computed | Error) => void)[];
/** The core answers when it is told to. */
const asked = () => {
  answers = [];
  const bench = laid({
    marks: [a, b],
    slipGuard: true,
    compute: () => new Promise((done, no) => answers.push((answer) => (answer instanceof Error ? no(answer) : done(answer))))
  });
  bench.hand.select('a');
  return bench;
};
const move = ({ editor }: ReturnType<typeof laid>, id: string, x: number) => {
  const before = editor.marks.get(id)!;
  editor.change([{ subject: id, item: 9, before, after: { ...before, geometry: { ...before.geometry, x } } as Mark }]);
};
beforeEach(() => sessionStorage.clear());

describe('what the core has worked out', () => {
  it('is shown, and taken in place of the shape', async () => {
    const bench = asked();
    const wait = bench.plane.assist.ask('outline', 2, 'outline');
    answers[0]!(found);
    await wait;
    expect([bench.plane.assist.proposal?.shape.geometry, bench.tray.entries]).toEqual([found.geometry, []]);
    expect([bench.plane.assist.take(), bench.editor.marks.get('a')!.geometry]).toEqual([true, found.geometry]);
    expect([bench.plane.assist.proposal, bench.plane.assist.take()]).toEqual([null, false]);
  });
  it('is dropped when it comes late: for an old shape, another mark, or after a second question', async () => {
    const bench = asked();
    const { assist } = bench.plane;
    const late = async (meanwhile: () => void) => {
      const n = answers.length;
      const wait = assist.ask('outline', 2, 'outline');
      meanwhile();
      answers[n]!(found);
      await wait;
      return assist.proposal;
    };
    expect(await late(() => move(bench, 'a', 90))).toBeNull();
    expect(await late(() => bench.hand.select('b'))).toBeNull();
    bench.hand.select('a');
    expect(await late(() => void assist.ask('fill', 2, 'fill'))).toBeNull();
    // nor is what went wrong with a question that is asked no more said
    const wait = assist.ask('outline', 2, 'outline');
    bench.hand.select('b');
    answers.at(-1)!(new Error('too late'));
    await wait;
    expect(bench.messages).toEqual([]);
  });
  it('is no more once the mark changes, however it was changed', async () => {
    const bench = asked();
    const wait = bench.plane.assist.ask('outline', 2, 'outline');
    answers[0]!(found);
    await wait;
    move(bench, 'a', 90);
    expect([bench.plane.assist.proposal, bench.plane.assist.take()]).toEqual([null, false]);
    expect((bench.editor.marks.get('a')!.geometry as { x: number }).x).toBe(90);
  });
  it('and a doubt is of the mark as it was drawn', async () => {
    const bench = asked();
    const doubt = { doubt: { class: 'leaf' } } as unknown as Computed;
    let wait = bench.plane.assist.guard(bench.editor.marks.get('a')!);
    answers[0]!(doubt);
    await wait;
    expect(bench.plane.assist.doubt).toEqual({ mark: 'a', class: 'leaf' });
    wait = bench.plane.assist.guard(bench.editor.marks.get('a')!);
    move(bench, 'a', 90);
    answers[1]!(doubt);
    await wait;
    expect(bench.plane.assist.doubt).toBeNull();
  });
});
