import type { Mark, Said } from './types';

/**
 * One change of one mark, or of what is said of the item, with both sides, so that it can be taken back. `words` is the version of
 * the codebook its classes and answers are from; the server translates older ones.
 */
export type Step = {
  id: string;
  before: Mark | null;
  after: Mark | null;
  said?: { before: Said; after: Said };
  words?: number;
  suggestion?: string;
};

/** Steps kept over a reload: more than anybody takes back, little enough for the browser's store. */
const KEPT = 60;
const LARGEST = 1_500_000;

const key = (user: number, turn: number) => `skeno-undo-${user}-${turn}`;

/** Keeps what can be taken back until the item is left or the tab closed. */
export function keep(user: number, turn: number, undo: Step[][]): void {
  const json = JSON.stringify(undo.slice(-KEPT));
  try {
    if (json.length > LARGEST) sessionStorage.removeItem(key(user, turn));
    else sessionStorage.setItem(key(user, turn), json);
  } catch {
    // the store is full: the steps stay for this visit, only a reload forgets them
    sessionStorage.removeItem(key(user, turn));
  }
}

/** The steps kept, as far back as they still fit what is there: from one that does not on, nothing may be taken back. */
export function restore(user: number, turn: number, marks: Mark[], said: Said): Step[][] {
  let kept: Step[][];
  try {
    kept = JSON.parse(sessionStorage.getItem(key(user, turn)) ?? '[]') as Step[][];
  } catch {
    return [];
  }
  const now = new Map(marks.map((m) => [m.id, m]));
  let saidNow = said;
  const fitting: Step[][] = [];
  for (const steps of [...kept].reverse()) {
    for (const step of [...steps].reverse()) {
      if (step.said) {
        if (!same(step.said.after, saidNow)) return fitting.reverse();
        saidNow = step.said.before;
      } else {
        if (!same(plain(step.after), plain(now.get(step.id) ?? null))) return fitting.reverse();
        if (step.before) now.set(step.id, step.before);
        else now.delete(step.id);
      }
    }
    fitting.push(steps);
  }
  return fitting.reverse();
}

const plain = (m: Mark | null) =>
  m && { class: m.class, kind: m.kind, geometry: m.geometry, answers: m.answers, stack: m.stack, part_of: m.part_of, flags: m.flags };
/** Whether two values say the same, whatever the order of their keys. */
export function same(a: unknown, b: unknown): boolean {
  if (a === b) return true;
  if (typeof a !== 'object' || typeof b !== 'object' || a === null || b === null) return false;
  const [p, q] = [a as Record<string, unknown>, b as Record<string, unknown>];
  const keys = Object.keys(p);
  return keys.length === Object.keys(q).length && keys.every((k) => k in q && same(p[k], q[k]));
}
