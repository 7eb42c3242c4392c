import type { Schemas } from '$lib/api/client';

export type Document = Schemas['CodebookDocument'];
export type LabelClass = Schemas['CodebookClass'];
export type Attribute = Schemas['CodebookAttribute'];
export type Tag = NonNullable<Document['tags']>[number];
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
/** An option or tag as an answer to be asked for: `open` alone means that nothing has been said. */
export const asAnswer = (key: string): string => (key === 'open' ? 'is:open' : key);
export const noValues = { none: 'none of these', not_visible: 'not visible', unsure: "can't tell" } as const;

const given = (answer: Answer | undefined): unknown[] =>
  answer && 'value' in answer ? (Array.isArray(answer.value) ? answer.value : [answer.value]) : [];

/**
 * The questions open for a mark with these answers, so that the ledger can show them at once. What counts is the core's check
 * (Codebook::asked); both pass the cases in core/tests/vectors/asked.json.
 */
export function asked(document: Document, key: string, answers: Record<string, Answer>): Attribute[] {
  const all = new Map((document.attributes ?? []).map((a) => [a.key, a]));
  const own = document.classes.find((c) => c.key === key)?.attributes ?? [];
  return isAsked(
    own.map((k) => all.get(k)).filter((a) => a !== undefined),
    answers
  );
}

/** The questions open for an item with these answers about it. */
export const askedOfItem = (document: Document, answers: Record<string, Answer>): Attribute[] =>
  isAsked(
    (document.attributes ?? []).filter((a) => a.scope === 'item'),
    answers
  );

/** Of questions that are asked together those that these answers open. */
export function isAsked(together: Attribute[], answers: Record<string, Answer>): Attribute[] {
  const applies = (attribute: Attribute): boolean =>
    (attribute.when ?? []).every((condition) => {
      const holds = given(answers[condition.attribute]).some((value) => condition.any.some((wanted) => wanted === value));
      const needed = together.find((a) => a.key === condition.attribute);
      // an answer to a question that is itself hidden does not open another
      return holds && (needed === undefined || applies(needed));
    });
  return together.filter(applies);
}

/** An answer in a word or two. */
export function say(attribute: Attribute, answer: Answer | undefined): string {
  if (!answer) return '';
  if ('no_value' in answer) return noValues[answer.no_value];
  const value = answer.value;
  if (attribute.control === 'paragraphs' && typeof value === 'string')
    return value.length > 40 ? `${value.slice(0, 38).trimEnd()}…` : value;
  const name = (key: unknown) => attribute.options?.find((o) => o.key === key)?.name ?? String(key);
  if (Array.isArray(value)) return value.map(name).join(', ');
  if (typeof value === 'boolean') return value ? 'yes' : 'no';
  return attribute.type === 'number' ? `${value}${attribute.unit ? ` ${attribute.unit}` : ''}` : name(value);
}
/** Whether its classes are drawn on words alone. */
export const isDrawnOnWordsAlone = ({ classes }: Document): boolean =>
  classes.some((c) => c.shapes?.includes('span')) && classes.every((c) => c.shapes?.every((s) => s === 'span') ?? true);
