import type { Schemas } from '$lib/api/client';

/** Small moves on a codebook document that several of its forms make. */

export const markers = ['circle', 'ring', 'square', 'frame', 'triangle', 'diamond', 'cross', 'bar'] as const;
export const palette = [
  '#c2452d',
  '#2f7f9a',
  '#8a7a1f',
  '#1e6150',
  '#4a5fb0',
  '#0f766e',
  '#6d5a8f',
  '#a63d6e',
  '#7d5a3a',
  '#5b7f1c',
  '#b3261e',
  '#6b6f72'
];

/** A key made of a name, unlike those taken. */
export const keyOf = (name: string, taken: string[]) => {
  const base =
    name
      .toLowerCase()
      .normalize('NFD')
      .replace(/[^a-z0-9]+/g, '_')
      .replace(/^[^a-z]+|_+$/g, '')
      .slice(0, 50) || 'entry';
  let key = base;
  for (let n = 2; taken.includes(key); n++) key = `${base}_${n}`;
  return key;
};
/** Moves an entry of a list up or down. */
export const move = <T>(list: T[], at: number, by: number) => {
  const to = at + by;
  if (to < 0 || to >= list.length) return;
  list.splice(to, 0, ...list.splice(at, 1));
};
export const toggle = <T>(list: T[] | undefined, entry: T): T[] =>
  (list ?? []).includes(entry) ? (list ?? []).filter((e) => e !== entry) : [...(list ?? []), entry];
/** Sets a member, or takes it away where it would say nothing. */
export const setOrDrop = (of: object, key: string, value: unknown) => {
  const target = of as Record<string, unknown>;
  if (value === '' || value === undefined || value === false || (typeof value === 'number' && Number.isNaN(value))) delete target[key];
  else target[key] = value;
};
/** A question's key, with all that refer to it. */
export function rekey(doc: Schemas['CodebookDocument'], a: Schemas['CodebookAttribute'], key: string): void {
  const old = a.key;
  a.key = key;
  for (const c of doc.classes) if (c.attributes) c.attributes = c.attributes.map((k) => (k === old ? key : k));
  for (const b of doc.attributes ?? []) for (const w of b.when ?? []) if (w.attribute === old) w.attribute = key;
}
export function setType(a: Schemas['CodebookAttribute'], type: Schemas['CodebookAttribute']['type']) {
  a.type = type;
  delete a.default;
  if (type === 'one' || type === 'many') a.options ??= [{ key: 'a', name: 'A' }];
  else delete a.options;
  if (type === 'number') Object.assign(a, { min: a.min ?? 0, max: a.max ?? 100, step: a.step ?? 1, control: 'slider' });
  else for (const k of ['min', 'max', 'step', 'unit', 'control'] as const) delete a[k];
}

/** Takes a class of another codebook over, with the questions it asks and its skeleton; gives its key here. */
export function adopt(
  doc: Schemas['CodebookDocument'],
  c: Schemas['CodebookClass'],
  from: Schemas['CodebookDocument'],
  shortcut: string | undefined
): string {
  const copy = structuredClone(c);
  copy.key = keyOf(
    copy.key,
    doc.classes.map((d) => d.key)
  );
  setOrDrop(copy, 'shortcut', shortcut);
  setOrDrop(
    copy,
    'part_of',
    copy.part_of?.filter((k) => doc.classes.some((d) => d.key === k))
  );
  for (const key of copy.attributes ?? []) bring(doc, key, from);
  if (copy.skeleton !== undefined && !doc.skeletons?.some((s) => s.key === copy.skeleton)) {
    const skeleton = from.skeletons?.find((s) => s.key === copy.skeleton);
    if (skeleton) (doc.skeletons ??= []).push(structuredClone(skeleton));
  }
  doc.classes.push(copy);
  return copy.key;
}
/** A question, after those its conditions are about. One of the same key is here already: it is the one asked. */
function bring(doc: Schemas['CodebookDocument'], key: string, from: Schemas['CodebookDocument']): void {
  const question = from.attributes?.find((a) => a.key === key);
  if (!question || doc.attributes?.some((a) => a.key === key)) return;
  for (const w of question.when ?? []) bring(doc, w.attribute, from);
  (doc.attributes ??= []).push(structuredClone(question));
}
