import { asAnswer, noValues, type Document } from '$lib/words/codebook';
import { states } from '$lib/state/project.svelte';

/** What a condition of a filter can be about, in words. */
export const kinds = {
  name: 'name has',
  re: 'name matches',
  words: 'text says',
  're-words': 'text matches',
  state: 'state is',
  set: 'set is',
  class: 'has a mark of',
  answer: 'answer is',
  tag: 'tag is',
  labelled: 'is',
  part: 'came as',
  fact: 'fact is',
  duration: 'lasts, in seconds',
  tracks: 'has tracks',
  answered: 'per cent answered'
} as const;
export type Kind = keyof typeof kinds;
export type Choice = { value: string; word: string };

export const read = (f: string): { not: boolean; kind: Kind; value: string } => {
  const not = f.startsWith('-');
  const text = not ? f.slice(1) : f;
  const colon = text.indexOf(':');
  return { not, kind: text.slice(0, colon) as Kind, value: text.slice(colon + 1) };
};
export const written = (kind: Kind, value: string, not: boolean): string => `${not ? '-' : ''}${kind}:${value}`;

const labelled: Record<string, string> = { objects: 'labelled', nothing: 'empty: nothing there', unlabelled: 'not labelled' };

/** What is typed where nothing can be chosen. */
export const examples: Partial<Record<Kind, string>> = {
  name: 'a part of the name',
  re: 'a regular expression',
  words: 'words of a text',
  're-words': 'a regular expression',
  fact: 'weather=rain, or height>=2.5',
  duration: '>=10, <=10 or =10',
  tracks: '>=3, <=3 or =3',
  answered: '<=99 of what is required'
};

/** What can be chosen for a kind of condition; null where something is typed. */
export function choices(kind: Kind, document: Document, sets: string[]): Choice[] | null {
  const same = (values: readonly string[]) => values.map((value) => ({ value, word: value }));
  switch (kind) {
    case 'name':
    case 're':
    case 'words':
    case 're-words':
    case 'fact':
    case 'duration':
    case 'tracks':
    case 'answered':
      return null;
    case 'state':
      return same(states);
    case 'set':
      return sets.map((value) => ({ value, word: value || '(top)' }));
    case 'part':
      return same(['train', 'val', 'test']);
    case 'labelled':
      return Object.entries(labelled).map(([value, word]) => ({ value, word }));
    case 'tag':
      return (document.tags ?? []).map((t) => ({ value: t.key, word: t.name }));
    case 'class':
      return document.classes.map((c) => ({ value: c.key, word: c.name }));
    case 'answer':
      return (document.attributes ?? []).flatMap((a) =>
        [
          ...(a.options ?? []).map((o) => [asAnswer(o.key), o.name]),
          ...(a.type === 'yesno'
            ? [
                ['yes', 'yes'],
                ['no', 'no']
              ]
            : []),
          ...(a.no_value ?? []).map((n) => [`no:${n}`, noValues[n]]),
          ['open', 'not answered']
        ].map(([value, word]) => ({ value: `${a.key}=${value}`, word: `${a.name}: ${word}` }))
      );
  }
}

/** A condition in words. */
export function say(f: string, document: Document): string {
  const { not, kind, value } = read(f);
  const word = kinds[kind] === undefined ? f : (choices(kind, document, [value])?.find((c) => c.value === value)?.word ?? `“${value}”`);
  return `${not ? 'not: ' : ''}${kinds[kind] ?? ''} ${word}`;
}
