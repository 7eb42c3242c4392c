import type { Schemas } from '$lib/api/client';

export type Document = Schemas['CodebookDocument'];
export type LabelClass = Schemas['CodebookClass'];
export type Attribute = Schemas['CodebookAttribute'];
export type Answer = Schemas['Answer'];

export const shapes: Record<Schemas['Shape'], string> = {
  box: 'box',
  turned_box: 'turned box',
  polygon: 'polygon',
  polyline: 'polyline',
  ellipse: 'ellipse',
  points: 'points',
  skeleton: 'skeleton',
  mask: 'mask',
  cuboid_2d: 'cuboid on a picture',
  cuboid: 'cuboid in a cloud',
  span: 'text span'
};
export const types: Record<Attribute['type'], string> = {
  one: 'one choice',
  many: 'several choices',
  yesno: 'yes or no',
  number: 'number with slider',
  text: 'text',
  date: 'date',
  time: 'time',
  datetime: 'date and time'
};
export const noValues = { none: 'none of these', not_visible: 'not visible', unsure: "can't tell" } as const;

const given = (answer: Answer | undefined): unknown[] =>
  answer && 'value' in answer ? (Array.isArray(answer.value) ? answer.value : [answer.value]) : [];

/**
 * The questions open for a mark with these answers, so that the ledger can show them at once. What counts is the core's check
 * (Codebook::asked); both pass the cases in core/tests/vectors/asked.json.
 */
export function asked(document: Document, key: string, answers: Record<string, Answer>): Attribute[] {
  const labelClass = document.classes.find((c) => c.key === key);
  const all = new Map((document.attributes ?? []).map((a) => [a.key, a]));
  const own = labelClass?.attributes ?? [];
  const applies = (attribute: Attribute, depth: number): boolean =>
    (attribute.when ?? []).every((condition) => {
      const needed = all.get(condition.attribute);
      const holds = given(answers[condition.attribute]).some((value) => condition.any.some((wanted) => wanted === value));
      return holds && (needed === undefined || depth > all.size || !own.includes(needed.key) || applies(needed, depth + 1));
    });
  return own
    .map((k) => all.get(k))
    .filter((a): a is Attribute => a !== undefined && ['one', 'many', 'yesno', 'number'].includes(a.type) && applies(a, 0));
}

/** An answer in a word or two. */
export function say(attribute: Attribute, answer: Answer | undefined): string {
  if (!answer) return '';
  if ('no_value' in answer) return noValues[answer.no_value];
  const value = answer.value;
  const name = (key: unknown) => attribute.options?.find((o) => o.key === key)?.name ?? String(key);
  if (Array.isArray(value)) return value.map(name).join(', ');
  if (typeof value === 'boolean') return value ? 'yes' : 'no';
  return attribute.type === 'number' ? `${value}${attribute.unit ? ` ${attribute.unit}` : ''}` : name(value);
}
