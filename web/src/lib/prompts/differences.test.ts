import { Offsets } from '$lib/text/offsets';
import { describe, expect, it } from 'vitest';
import { differences, lineOf, linesOf, pieces, type Line } from './differences';

const text = (pairs: [string, [number, number] | null, [number, number] | null][], more: object = {}) => ({
  item: 1,
  path: 'a',
  text: 'Ten aphids on row 4.',
  pairs: pairs.map(([key, known, said]) => ({ class: key, known, said })),
  answers: {},
  tags: {},
  mended: [],
  left: [],
  cut: null,
  failed: '',
  seconds: 1,
  cost: null,
  ...more
});
const now = text(
  [
    ['count', [0, 3], [0, 3]],
    ['pest', [4, 10], [0, 10]],
    ['count', null, [18, 19]],
    ['block', [14, 17], null]
  ],
  {
    answers: {
      urgency: { known: { value: 'soon' }, said: { value: 'routine' }, agreed: false },
      advice: { known: null, said: { value: 'go' }, agreed: null }
    },
    tags: { wet: { known: true, said: false }, late: { known: true, said: true } }
  }
);

describe('differences', () => {
  it('are what is not as accepted, in the order of the text, then answers and tags', () => {
    expect(differences(now).map((d) => (d.about === 'span' ? [d.way, d.class] : [d.about, d.key]))).toEqual([
      ['bounded', 'pest'],
      ['missing', 'block'],
      ['extra', 'count'],
      ['question', 'urgency'],
      ['tag', 'wet']
    ]);
  });
  it('say of two versions which of them has it wrong', () => {
    const before = text([
      ['count', [0, 3], [0, 3]],
      ['pest', [4, 10], [4, 10]],
      ['count', null, [18, 19]],
      ['block', [14, 17], [14, 19]]
    ]);
    expect(differences(now, before).map((d) => [d.id, d.of])).toEqual([
      ['pest 4-10 0-10', 'now'],
      ['block 14-17 ', 'now'],
      ['block 14-17 14-19', 'before'],
      ['count  18-19', 'both'],
      ['question:urgency', 'now'],
      ['tag:wet', 'now']
    ]);
    expect(differences(now, now).every((d) => d.of === 'both')).toBe(true);
  });
  it('point at a line in each column, where there is one', () => {
    const [bounded, missing, extra, answer] = differences(now);
    expect([lineOf(bounded!, 'known'), lineOf(bounded!, 'said')]).toEqual(['pest 4-10', 'pest 0-10']);
    expect([lineOf(missing!, 'known'), lineOf(missing!, 'said')]).toEqual(['block 14-17', null]);
    expect([lineOf(extra!, 'known'), lineOf(extra!, 'said')]).toEqual([null, 'count 18-19']);
    expect([lineOf(answer!, 'said'), lineOf(null, 'said')]).toEqual([null, null]);
    expect(linesOf(now, 'known').map((l) => [l.id, l.way])).toEqual([
      ['count 0-3', 'right'],
      ['pest 4-10', 'bounded'],
      ['block 14-17', 'missing']
    ]);
    expect(linesOf(now, 'said').map((l) => l.way)).toEqual(['right', 'bounded', 'extra']);
  });
});

describe('pieces', () => {
  const line = (id: string, start: number, end: number): Line => ({ id, class: id, range: { start, end }, way: 'right' });
  it('cut a text where lines begin and end, counted in code points', () => {
    const cut = pieces(new Offsets('👩 ab cd'), [line('x', 0, 4), line('y', 3, 7)], { start: 0, end: 7 });
    expect(cut.map((p) => [p.text, p.lines.map((l) => l.line.id).join(''), p.begins.map((l) => l.id).join('')])).toEqual([
      ['👩 a', 'x', 'x'],
      ['b', 'xy', 'y'],
      [' cd', 'y', '']
    ]);
  });
  it('are those of a part, with lines that reach into it', () => {
    const cut = pieces(new Offsets('0123456789'), [line('x', 0, 5), line('y', 6, 8), line('z', 9, 10)], { start: 4, end: 8 });
    expect(cut.map((p) => [p.text, p.lines.map((l) => l.line.id).join('')])).toEqual([
      ['4', 'x'],
      ['5', ''],
      ['67', 'y']
    ]);
  });
  it('put together are the text, and a letter has just the lines over it, on anything', () => {
    let seed = 5;
    const chance = (n: number) => (seed = (seed * 1103515245 + 12345) % 2147483648) % n;
    for (let round = 0; round < 200; round++) {
      const body = [...'a🍏bcdé漢fgh𝄞ijk'].slice(0, 3 + chance(12)).join('');
      const offsets = new Offsets(body);
      const lines = Array.from({ length: chance(7) }, (_, i) => {
        const start = chance(offsets.length);
        return line(`l${i}`, start, start + 1 + chance(offsets.length - start));
      });
      const cut = pieces(offsets, lines, { start: 0, end: offsets.length });
      expect(cut.map((p) => p.text).join('')).toBe(body);
      let at = 0;
      for (const piece of cut) {
        const letters = [...piece.text].length;
        for (let k = at; k < at + letters; k++)
          expect(piece.lines.map((l) => l.line.id).sort()).toEqual(
            lines
              .filter((l) => l.range.start <= k && k < l.range.end)
              .map((l) => l.id)
              .sort()
          );
        // no two lines lie on each other
        expect(new Set(piece.lines.map((l) => l.layer)).size).toBe(piece.lines.length);
        at += letters;
      }
      expect(cut.flatMap((p) => p.begins)).toHaveLength(lines.length);
    }
  });
});
