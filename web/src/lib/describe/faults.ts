import type { Schemas } from '$lib/api/client';

type Document = Schemas['CodebookDocument'];
type Fault = { path: string; message: string };
export type Part = 'classes' | 'attributes' | 'tags' | 'skeletons' | 'relations';
/** A fault of a codebook in words, and where it is: an entry of a list, or nowhere in particular. */
export type Placed = { part: Part | null; index: number | null; words: string };

const fields: Record<string, string> = {
  name: 'its name',
  key: 'its key in files',
  color: 'its colour',
  shapes: 'how it is drawn',
  skeleton: 'its skeleton',
  points: 'its number of points',
  point_names: 'the names of its points',
  attributes: 'the questions it asks',
  part_of: 'what it may be a part of',
  shortcut: 'its key on the keyboard',
  rules: 'its rules',
  options: 'its choices',
  when: 'when it is asked',
  default: 'what is shown first',
  min: 'its least value',
  max: 'its largest value',
  step: 'its step',
  look_at: 'where it is looked at',
  group: 'its group',
  from: 'what it leads from',
  to: 'what it leads to',
  nodes: 'its nodes',
  edges: 'its bones',
  description: 'its description'
};

/** Messages of the core that are about something missing, said as a need. */
function need(field: string | undefined, message: string, name: string): string | null {
  if (field === undefined && message === '"options" is missing') return `${name} needs choices`;
  if (field === 'skeleton' && message.includes('must name one')) return `${name} needs a skeleton`;
  if (field === 'shapes' && message.includes('at least 1')) return `${name} needs a shape it is drawn as`;
  if ((field === 'from' || field === 'to') && message.includes('at least 1')) return `${name} needs a class it leads ${field}`;
  if (field === 'nodes' && message.includes('at least 1')) return `${name} needs a node: press on the board to place one`;
  if (field === 'options' && message.includes('at least 1')) return `${name} needs choices`;
  if (field === 'name' && message.includes('empty')) return 'it needs a name';
  return null;
}

/** What is wrong with a codebook, by the name of what it is wrong with instead of its path in the document. */
export function placed(document: Document, faults: readonly Fault[]): Placed[] {
  return faults.map(({ path, message }) => {
    const found = /^(classes|attributes|tags|skeletons|relations)\[(\d+)\](?:\.([a-z_]+))?(.*)$/.exec(path);
    if (!found) return { part: null, index: null, words: path === '' ? message : `${path}: ${message}` };
    const [, part, at, field, rest] = found as unknown as [string, Part, string, string | undefined, string];
    const index = Number(at);
    const entry = document[part]?.[index];
    const name = entry?.name || `entry ${index + 1}`;
    const said = need(field, message, name);
    if (said !== null) return { part, index, words: said };
    const nth = /\[(\d+)\]/.exec(rest);
    const where = field === undefined ? '' : `${fields[field] ?? field}${nth ? ` (${Number(nth[1]) + 1}.)` : ''}: `;
    return { part, index, words: `${name}: ${where}${message}` };
  });
}

/** Questions about objects that no class asks: nobody would ever see them. */
export const unasked = (document: Document): Set<string> => {
  const asked = new Set(document.classes.flatMap((c) => c.attributes ?? []));
  return new Set((document.attributes ?? []).filter((a) => a.scope === 'object' && !asked.has(a.key)).map((a) => a.key));
};
