import { asAnswer, noValues, type Attribute, type Document } from '$lib/words/codebook';

/** One choice of the sentence that says which objects are meant: its name in the address, and what can be chosen. */
export type Choice = {
  name: string;
  label: string;
  value: string;
  options: readonly { value: string; word: string }[];
  /** a word before it */
  lead?: string;
};

/** Answers a question can be filtered by, each after a word that says how it is meant. */
export function answerOptions(question: Attribute, word = (answer: string): string => answer): { value: string; word: string }[] {
  return [
    ...(question.options ?? []).map((o) => ({ value: asAnswer(o.key), word: word(o.name) })),
    ...(question.type === 'yesno' ? ['yes', 'no'].map((v) => ({ value: v, word: word(v) })) : []),
    ...(question.no_value ?? []).map((n) => ({ value: `no:${n}`, word: word(noValues[n]) }))
  ];
}
/** `*` stands for all sets, since a set may have no name. */
export const setChoice = (sets: readonly string[], value: string | null, lead?: string): Choice[] =>
  sets.length > 1
    ? [
        {
          name: 'set',
          label: 'in which set',
          ...(lead !== undefined && { lead }),
          value: value ?? '*',
          options: [{ value: '*', word: 'all sets' }, ...sets.map((s) => ({ value: s, word: s || '(top)' }))]
        }
      ]
    : [];
export const classOptions = (classes: Document['classes']): { value: string; word: string }[] =>
  classes.map((c) => ({ value: c.key, word: c.name }));

/** An address with choices made anew; null, or nothing where that stands for all, is left out. */
export function narrowed(params: URLSearchParams, change: Record<string, string | null>, forget: readonly string[] = []): URLSearchParams {
  const next = new URLSearchParams(params);
  for (const name of forget) next.delete(name);
  for (const [name, value] of Object.entries(change)) {
    const all = name === 'set' ? value === '*' : name !== 'answer' && value === '';
    if (value === null || all) next.delete(name);
    else next.set(name, value);
  }
  return next;
}
