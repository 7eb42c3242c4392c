import type { Schemas } from '$lib/api/client';
import type { Answer } from './codebook';

/** Geometry by kind, as the API has it: picture px, (0,0) the top-left corner; angles in degrees, clockwise on the screen. */
export type Box = { x: number; y: number; width: number; height: number };
export type TurnedBox = { cx: number; cy: number; width: number; height: number; angle: number };
export type Ellipse = { cx: number; cy: number; rx: number; ry: number; angle: number };
/** flat x, y, x, y … */
export type Ring = number[];
export type Polygon = { rings: Ring[] };
export type Points = { points: Ring };
export type Node = { x: number; y: number; state: 'visible' | 'hidden' };
export type Pose = { nodes: Record<string, Node> };
/** COCO compressed run lengths; size is height, width */
export type Mask = { size: number[]; counts: string };
export type Faces = { front: Box; back: Box };
/** in a cloud: metres in its axes (x ahead, y to the left, z up), degrees counter-clockwise as seen from above; size is length, width, height */
export type Cuboid = { center: number[]; size: number[]; heading: number };
/** words of a text, in code points, end excluded */
export type Span = { start: number; end: number };
/** the marks a relation leads from and to */
export type Join = { from: string; to: string };

/** What lies on a plane. */
export type FlatShape =
  | { kind: 'box'; geometry: Box }
  | { kind: 'turned_box'; geometry: TurnedBox }
  | { kind: 'ellipse'; geometry: Ellipse }
  | { kind: 'polygon'; geometry: Polygon }
  | { kind: 'polyline'; geometry: Points }
  | { kind: 'points'; geometry: Points }
  | { kind: 'skeleton'; geometry: Pose }
  | { kind: 'mask'; geometry: Mask }
  | { kind: 'cuboid_2d'; geometry: Faces };
export type Shape =
  FlatShape | { kind: 'cuboid'; geometry: Cuboid } | { kind: 'span'; geometry: Span } | { kind: 'relation'; geometry: Join };
export type Kind = Shape['kind'];
export type FlatKind = FlatShape['kind'];
export type Flag = Schemas['Mark']['flags'][number];
export type Mark = Shape & {
  readonly id: string;
  class: string;
  answers: Record<string, Answer>;
  stack: number | null;
  part_of: string | null;
  flags: Flag[];
  /** of a track: where it is there, first and last included; null: no track */
  stretches: Stretch[] | null;
  /** of a track: where the geometry is of; of a mark on a page: which */
  place: number | null;
  /** it is not there at the place that is shown */
  away?: boolean;
  /** of a track: it is hidden at the place that is shown */
  veiled?: boolean;
  revision: number;
  author: number | null;
  source: string;
  /** the suggestion a hand has confirmed by it */
  suggestion?: string | null;
};

/** A mark that is on no item yet: nothing has been said of it but its class. @param source what it was done with */
export const begun = (id: string, shape: Shape, key: string, author: Mark['author'], source: Mark['source'] = 'hand'): Mark => ({
  ...shape,
  id,
  class: key,
  answers: {},
  stack: null,
  part_of: null,
  flags: [],
  stretches: null,
  place: null,
  revision: 0,
  author,
  source
});
export type CuboidMark = Extract<Mark, { kind: 'cuboid' }>;
export type SpanMark = Extract<Mark, { kind: 'span' }>;
export type RelationMark = Extract<Mark, { kind: 'relation' }>;
export type Stretch = [first: number, last: number];
/** What holds of an object from one place of its track on. */
export type TrackKey = {
  readonly mark: string;
  place: number;
  /** null: only an answer switches here */
  geometry: Shape['geometry'] | null;
  answers: Record<string, Answer>;
  hidden: boolean;
  source: 'hand' | 'copied' | 'followed' | 'cutout' | 'model';
  confidence: number | null;
};
/** A suggestion that was found wrong. */
export type Dropped = { dropped: true };
/** What is said of the item as a whole. */
export type Said = { answers: Record<string, Answer>; tags: string[]; stretches: Saying[] };
/** What is said of some places of the axis: a tag, or the answer to a question of scope `frame`. */
export type Saying = { first: number; last: number } & ({ tag: string } | { question: string; answer: Answer });
export type Finding = Schemas['Finding'];
export type Point = { x: number; y: number };

export const flatKinds: FlatKind[] = ['box', 'turned_box', 'polygon', 'polyline', 'ellipse', 'points', 'skeleton', 'mask', 'cuboid_2d'];
/** Kinds a class can be drawn as. */
export const kinds: Exclude<Kind, 'relation'>[] = [...flatKinds, 'cuboid', 'span'];

export const fromServer = (m: Schemas['Mark']): Mark =>
  ({
    id: m.id,
    class: m.class,
    kind: m.kind,
    geometry: m.geometry,
    answers: { ...m.answers },
    stack: m.stack,
    part_of: m.part_of,
    flags: m.flags,
    stretches: m.stretches,
    place: m.place,
    revision: m.revision,
    author: m.author_id,
    source: m.source,
    suggestion: m.suggestion
  }) as Mark;

export const saidFromServer = (s: Pick<Schemas['Said'], 'answers' | 'tags'> & Partial<Schemas['Said']>): Said => ({
  answers: s.answers,
  tags: s.tags,
  stretches: (s.stretches ?? []) as Saying[]
});

export const keyFromServer = (k: Schemas['Key']): TrackKey =>
  ({
    mark: k.mark,
    place: k.place,
    geometry: k.geometry,
    answers: { ...k.answers },
    hidden: k.hidden,
    source: k.source,
    confidence: k.confidence
  }) as TrackKey;

/** What makes up a mark apart from who drew it and when; where a track is at a place is said by its keys. */
export const body = (m: Mark) => ({
  class: m.class,
  kind: m.kind,
  // (on a page of a document where it lies is said by that page too)
  ...(m.stretches ? { stretches: m.stretches } : { geometry: m.geometry, ...(m.place !== null && { place: m.place }) }),
  answers: m.answers,
  stack: m.stack,
  part_of: m.part_of,
  flags: m.flags
});
/** A mark with what is said of all of it alone, without what its keys say. */
export function constant(mark: Mark, varies: (question: string) => boolean): Mark {
  const all = Object.entries(mark.answers);
  const own = all.filter(([question]) => !varies(question));
  return own.length === all.length ? mark : ({ ...mark, answers: Object.fromEntries(own) } as Mark);
}
/** What makes up a key apart from where it is. */
export const keyBody = (k: TrackKey) => ({
  ...(k.geometry && { geometry: k.geometry }),
  ...(Object.keys(k.answers).length > 0 && { answers: k.answers }),
  ...(k.hidden && { hidden: true }),
  ...(k.source !== 'hand' && { source: k.source }),
  ...(k.confidence !== null && { confidence: k.confidence })
});
