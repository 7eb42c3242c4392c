import type { Schemas } from '$lib/api/client';
import { layersOf } from '$lib/text/layers';
import type { Offsets } from '$lib/text/offsets';
import type { Range } from '$lib/text/tokens';

type Compared = Schemas['ComparedText'];
type Answer = Schemas['Answer'];
export type Way = 'missing' | 'extra' | 'bounded';

/** Something said that is not as it is known. Where two versions are held against each other: which of them says it. */
export type Difference = {
  /** the same for the same thing, whoever says it */
  id: string;
  of: 'both' | 'now' | 'before';
} & (
  | { about: 'span'; way: Way; class: string; known: Range | null; said: Range | null }
  | { about: 'question'; key: string; known: Answer | null; said: Answer | null }
  | { about: 'tag'; key: string; known: boolean; said: boolean }
);
export type Line = { id: string; class: string; range: Range; way: 'right' | Way };

const range = (ends: number[] | null): Range | null => (ends === null ? null : { start: ends[0]!, end: ends[1]! });
const same = (a: Range | null, b: Range | null): boolean => a?.start === b?.start && a?.end === b?.end;
const wayOf = (known: Range | null, said: Range | null): Way | 'right' =>
  known === null ? 'extra' : said === null ? 'missing' : same(known, said) ? 'right' : 'bounded';
const begin = (d: Difference): number =>
  d.about === 'span' ? Math.min(d.known?.start ?? Infinity, d.said?.start ?? Infinity) : Number.MAX_SAFE_INTEGER;

function wrongIn(text: Compared, of: 'now' | 'before'): Difference[] {
  const spans = text.pairs.flatMap((pair): Difference[] => {
    const [known, said] = [range(pair.known), range(pair.said)];
    const way = wayOf(known, said);
    const id = `${pair.class} ${known ? `${known.start}-${known.end}` : ''} ${said ? `${said.start}-${said.end}` : ''}`;
    return way === 'right' ? [] : [{ id, of, about: 'span', way, class: pair.class, known, said }];
  });
  const questions = Object.entries(text.answers).flatMap(([key, a]): Difference[] =>
    a.agreed === false ? [{ id: `question:${key}`, of, about: 'question', key, known: a.known, said: a.said }] : []
  );
  const tags = Object.entries(text.tags).flatMap(([key, t]): Difference[] =>
    t.known === t.said ? [] : [{ id: `tag:${key}`, of, about: 'tag', key, known: t.known, said: t.said }]
  );
  return [...spans, ...questions, ...tags];
}

/** What is wrong in a text, in its order; with what another version had wrong there. */
export function differences(now: Compared, before: Compared | null = null): Difference[] {
  const found = new Map(wrongIn(now, 'now').map((d) => [d.id, d]));
  for (const d of before ? wrongIn(before, 'before') : []) {
    const other = found.get(d.id);
    found.set(d.id, other ? { ...other, of: 'both' } : d);
  }
  return [...found.values()].sort((a, b) => begin(a) - begin(b) || a.id.localeCompare(b.id));
}

/** The spans of a column: what is known, or what was said, and how each stands to the other side. */
export function linesOf(text: Compared, side: 'known' | 'said'): Line[] {
  return text.pairs.flatMap((pair): Line[] => {
    const here = range(pair[side]);
    const way = wayOf(range(pair.known), range(pair.said));
    return here === null ? [] : [{ id: `${pair.class} ${here.start}-${here.end}`, class: pair.class, range: here, way }];
  });
}
/** The id of the line a difference has in a column. */
export const lineOf = (d: Difference | null, side: 'known' | 'said'): string | null => {
  const here = d?.about === 'span' ? d[side] : null;
  return d?.about === 'span' && here ? `${d.class} ${here.start}-${here.end}` : null;
};

/** How many lines lie under each other at most. */
export const depthOf = (lines: readonly Line[]): number =>
  layersOf(lines.map((l) => l.range)).reduce((most, l) => Math.max(most, l + 1), 0);

/** A run of letters under which the same lines lie. */
export type Piece = { text: string; lines: { line: Line; layer: number }[]; begins: Line[] };

/**
 * A part of a text cut where lines begin and end.
 *
 * @param part code points, [start, end)
 */
export function pieces(offsets: Offsets, lines: readonly Line[], part: Range): Piece[] {
  const layers = layersOf(lines.map((l) => l.range));
  const inside = lines
    .map((line, i) => ({ line, layer: layers[i]! }))
    .filter(({ line: { range: r } }) => r.start < part.end && part.start < r.end);
  const cuts = new Set([part.start, part.end]);
  for (const { line } of inside) for (const at of [line.range.start, line.range.end]) if (at > part.start && at < part.end) cuts.add(at);
  const places = [...cuts].sort((a, b) => a - b);
  // a line is open from the piece it begins in to the one it ends before: each piece is looked at with those alone
  const open = [...inside].sort((a, b) => a.line.range.start - b.line.range.start);
  let waiting = 0;
  let here: typeof open = [];
  return places.slice(1).map((end, i) => {
    const start = places[i]!;
    here = here.filter(({ line }) => line.range.end > start);
    const begins: Line[] = [];
    for (; waiting < open.length && open[waiting]!.line.range.start <= start; waiting++) {
      here.push(open[waiting]!);
      if (open[waiting]!.line.range.start === start) begins.push(open[waiting]!.line);
    }
    return { text: offsets.words(start, end), lines: [...here], begins };
  });
}
