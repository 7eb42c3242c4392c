import type { Saying, Stretch } from './mark';
import { same } from './same';

/** The stretch a place lies in. */
export function stretchAt(stretches: readonly Stretch[], place: number): Stretch | null {
  return stretches.find(([first, last]) => first <= place && place <= last) ?? null;
}

/** Places with some taken in, in order and never touching. */
export function merged(stretches: readonly Stretch[]): Stretch[] {
  const all: Stretch[] = [];
  for (const [first, last] of [...stretches].sort((a, b) => a[0] - b[0] || a[1] - b[1])) {
    const open = all.at(-1);
    if (open && first <= open[1] + 1) open[1] = Math.max(open[1], last);
    else all.push([first, last]);
  }
  return all;
}
/** Places without some. */
export function without(stretches: readonly Stretch[], [from, to]: Stretch): Stretch[] {
  return stretches.flatMap(([first, last]): Stretch[] =>
    last < from || first > to
      ? [[first, last]]
      : [...(first < from ? [[first, from - 1] as Stretch] : []), ...(last > to ? [[to + 1, last] as Stretch] : [])]
  );
}

/** What a saying is about: two of one subject never lie over each other. */
export const subjectOf = (s: Saying): string => ('tag' in s ? `tag ${s.tag}` : `question ${s.question}`);

/** Something holds from here to there; null: nothing does. What was said of these places before ends or begins beside them. */
export function put(all: readonly Saying[], subject: string, [first, last]: Stretch, what: Saying | null): Saying[] {
  const rest = all.flatMap((s): Saying[] =>
    subjectOf(s) === subject ? without([[s.first, s.last]], [first, last]).map(([a, b]) => ({ ...s, first: a, last: b })) : [s]
  );
  return ordered(joined(what === null ? rest : [...rest, { ...what, first, last }]));
}

/** As they stand in what is said: by their beginning. */
export const ordered = (list: readonly Saying[]): Saying[] =>
  [...list].sort((a, b) => a.first - b.first || (subjectOf(a) < subjectOf(b) ? -1 : 1));

/** Neighbours that say the same are one. */
export function joined(list: readonly Saying[]): Saying[] {
  const out: Saying[] = [];
  for (const s of [...list].sort((a, b) => (subjectOf(a) < subjectOf(b) ? -1 : subjectOf(a) > subjectOf(b) ? 1 : a.first - b.first))) {
    const open = out.at(-1);
    const sameWords =
      open && subjectOf(open) === subjectOf(s) && same('answer' in open ? open.answer : null, 'answer' in s ? s.answer : null);
    if (open && sameWords && s.first <= open.last + 1) out[out.length - 1] = { ...open, last: Math.max(open.last, s.last) };
    else out.push(s);
  }
  return out;
}
