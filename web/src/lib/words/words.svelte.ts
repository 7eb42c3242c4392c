import { api, ask, type Schemas } from '$lib/api/client';
import { kinds, type FlatKind, type Kind, type Mark, type Said } from '$lib/words/mark';
import { isAsked, type Answer, type Attribute, type Document, type LabelClass } from './codebook';

type Skeleton = NonNullable<Document['skeletons']>[number];
type DrawnKind = (typeof kinds)[number];
type Tag = NonNullable<Document['tags']>[number];
export type Relation = NonNullable<Document['relations']>[number];
export type Look = { color: string; light: string; marker: string };

/** What is looked up in a codebook, by key, made once for each version of it. */
type Index = {
  classes: Map<string, LabelClass>;
  skeletons: Map<string, Skeleton>;
  relations: Map<string, Relation>;
  /** questions about an object of a class, in the order of the class */
  ofClass: Map<string, Attribute[]>;
  ofItem: Attribute[];
  ofPage: Attribute[];
  varying: Set<string>;
  kinds: Map<string, DrawnKind[]>;
  tags: Tag[];
};

/** A codebook in use: what its keys mean, what is asked of what, and what an answer, a tag or another class changes. */
export class Words {
  document = $state.raw<Document>({ skeno: 'codebook/1', classes: [] });
  /** version of the codebook the document is; 0 before it is here */
  version = $state(0);
  looks = $state.raw<Map<string, Look>>(new Map());
  /** what is drawn on the item that is worked on; null: anything */
  drawnAs = $state.raw<readonly Kind[] | null>(null);
  readonly #index = $derived(indexed(this.document, this.drawnAs));

  constructor(readonly project: number) {}

  async load(): Promise<void> {
    this.take(await ask(api.GET('/projects/{project}/codebook', { params: { path: { project: this.project } } })));
  }
  take(codebook: Pick<Schemas['Codebook'], 'document' | 'version' | 'looks'>): void {
    this.document = codebook.document;
    this.version = codebook.version;
    this.looks = new Map(codebook.looks.map((l) => [l.key, l]));
  }

  light = (key: string): string => this.looks.get(key)?.light ?? '#d5d8da';
  marker = (key: string): string => this.looks.get(key)?.marker ?? (this.relationOf(key) ? 'bar' : 'circle');
  classOf = (key: string): LabelClass | undefined => this.#index.classes.get(key);
  nameOf = (key: string): string => this.classOf(key)?.name ?? this.relationOf(key)?.name ?? key;
  relationOf = (key: string): Relation | undefined => this.#index.relations.get(key);
  get relations(): readonly Relation[] {
    return this.document.relations ?? [];
  }
  skeletonOf = (key: string): Skeleton | undefined => this.#index.skeletons.get(this.classOf(key)?.skeleton ?? '');
  bones = (key: string): [string, string][] => (this.skeletonOf(key)?.edges ?? []) as [string, string][];
  /** Whether objects of a class are not there where they can't be seen, instead of hidden. */
  isAbsentUnseen = (key: string): boolean => this.classOf(key)?.out_of_sight === 'absent';
  isUpright = (key: string): boolean => this.classOf(key)?.orientation === 'upright';
  /** Kinds a class is drawn as, in the codebook's order. */
  kindsOf = (key: string): Kind[] => this.#index.kinds.get(key) ?? [];
  /** Those of them that lie on a plane. */
  flatKindsOf = (key: string): FlatKind[] =>
    this.kindsOf(key).filter((k): k is FlatKind => k !== 'cuboid' && k !== 'span' && k !== 'relation');
  /** Number of points a shape of a class has; of outlines only where the class is not drawn as points. */
  pointsOf = (key: string, kind: Kind = 'points'): number | null =>
    kind === 'points' || !this.kindsOf(key).includes('points') ? (this.classOf(key)?.points ?? null) : null;
  /** What the codebook calls a point of a class that has a number of them; its number where it has no name. */
  pointName = (key: string, i: number): string => this.classOf(key)?.point_names?.[i] ?? String(i + 1);
  /** The place of a mark in the stack: its own, or else its class's. */
  stackOf = (mark: Mark): number => mark.stack ?? this.classOf(mark.class)?.stack ?? 0;
  /** Classes that are drawn as anything of this kind of item. */
  get drawable(): LabelClass[] {
    return this.document.classes.filter((c) => this.kindsOf(c.key).length > 0);
  }
  get itemTags(): Tag[] {
    return this.#index.tags;
  }

  /** The questions open for an object with these answers. */
  questionsOf = (mark: { class: string; answers: Record<string, Answer> }): Attribute[] =>
    isAsked(this.#index.ofClass.get(mark.class) ?? [], mark.answers);
  /** Whether the answer of an object may change along a clip. */
  varies = (question: string): boolean => this.#index.varying.has(question);
  /** The questions open for an item with these answers about it. */
  questionsOfItem = (answers: Record<string, Answer>): Attribute[] => isAsked(this.#index.ofItem, answers);

  /** The questions open for a page with these answers about it. */
  questionsOfPage = (answers: Record<string, Answer>): Attribute[] => isAsked(this.#index.ofPage, answers);

  /** Answers with one given, or taken away by null; an answer to a question that is no longer asked does not stay behind unseen. */
  #given(before: Record<string, Answer>, key: string, answer: Answer | null, together: Attribute[]): Record<string, Answer> {
    const answers = { ...before };
    if (answer === null) delete answers[key];
    else answers[key] = answer;
    const still = new Set(isAsked(together, answers).map((a) => a.key));
    const was = new Set(isAsked(together, before).map((a) => a.key));
    for (const other of Object.keys(answers)) if (!still.has(other) && was.has(other)) delete answers[other];
    return answers;
  }
  answered(mark: Mark, key: string, answer: Answer | null): Mark {
    return { ...mark, answers: this.#given(mark.answers, key, answer, this.#index.ofClass.get(mark.class) ?? []) };
  }
  itemAnswered(said: Said, key: string, answer: Answer | null): Said {
    return { ...said, answers: this.#given(said.answers, key, answer, this.#index.ofItem) };
  }
  /** The same of a page. */
  pageAnswered(answers: Record<string, Answer>, key: string, answer: Answer | null): Record<string, Answer> {
    return this.#given(answers, key, answer, this.#index.ofPage);
  }
  /** The mark as one of another class; answers that class does not ask are dropped, and come back with undo. */
  reclassed(mark: Mark, key: string): Mark {
    const asks = this.classOf(key)?.attributes ?? [];
    return { ...mark, class: key, answers: Object.fromEntries(Object.entries(mark.answers).filter(([k]) => asks.includes(k))) };
  }
  /** With a tag put on, alone of its group; `off`: or taken off where it is on. */
  tagged(said: Said, key: string, off = true): Said {
    const all = this.document.tags ?? [];
    const group = all.find((t) => t.key === key)?.group;
    const excluded = (other: string) => group !== undefined && all.find((t) => t.key === other)?.group === group;
    if (said.tags.includes(key)) return off ? { ...said, tags: said.tags.filter((t) => t !== key) } : said;
    return { ...said, tags: [...said.tags.filter((t) => !excluded(t)), key] };
  }
}

function indexed(document: Document, drawnAs: readonly Kind[] | null): Index {
  const attributes = new Map((document.attributes ?? []).map((a) => [a.key, a]));
  const known = new Set<string>(drawnAs ?? kinds);
  return {
    classes: new Map(document.classes.map((c) => [c.key, c])),
    skeletons: new Map((document.skeletons ?? []).map((s) => [s.key, s])),
    relations: new Map((document.relations ?? []).map((r) => [r.key, r])),
    ofClass: new Map(document.classes.map((c) => [c.key, (c.attributes ?? []).flatMap((k) => attributes.get(k) ?? [])])),
    ofItem: (document.attributes ?? []).filter((a) => a.scope === 'item'),
    ofPage: (document.attributes ?? []).filter((a) => a.scope === 'page'),
    varying: new Set((document.attributes ?? []).filter((a) => a.scope === 'object' && a.varies).map((a) => a.key)),
    kinds: new Map(document.classes.map((c) => [c.key, (c.shapes ?? []).filter((s): s is DrawnKind => known.has(s))])),
    tags: (document.tags ?? []).filter((t) => (t.scope ?? 'item') === 'item')
  };
}
