import type { Schemas } from '$lib/api/client';

type Named = Schemas['ModelNames'];
type Pairs = Record<string, string>;
const paired = (pairs: Pairs, theirs: string, key: string): Pairs => {
  const others = Object.entries(pairs).filter(([name]) => name !== theirs);
  return Object.fromEntries(key === '' ? others : [...others, [theirs, key]]);
};

/** Which of a model's names is which of the project: what is called alike, until a hand says otherwise. What is not here is left out. */
export class Names {
  /** keys of the project's classes by the model's names */
  classes = $state.raw<Pairs>({});
  /** keys of tags likewise */
  tags = $state.raw<Pairs>({});
  /** by the key of a class what a hand has said of its nodes; of others they go by name */
  #nodes = $state.raw<Record<string, Pairs>>({});
  #alike = $state.raw<Named | null>(null);

  /** Begins with what is called alike. */
  take(alike: Named | null): void {
    this.#alike = alike;
    this.classes = alike?.classes ?? {};
    this.tags = alike?.tags ?? {};
    this.#nodes = {};
  }
  /** Says which class of the project one of the model is; '' leaves it out. */
  map(theirs: string, key: string): void {
    this.classes = paired(this.classes, theirs, key);
  }
  tag(theirs: string, key: string): void {
    this.tags = paired(this.tags, theirs, key);
  }
  /** Says which node of a class one of the model is; a node of the class is one of the model's only. */
  node(of: string, theirs: string, key: string, also: Named | null = null): void {
    const others = Object.fromEntries(Object.entries(this.nodes(of, also)).filter(([, node]) => node !== key));
    this.#nodes = { ...this.#nodes, [of]: paired(others, theirs, key) };
  }
  /** Nodes of a class by the model's names. @param also what comes then knows nodes too */
  nodes(of: string, also: Named | null = null): Pairs {
    return this.#nodes[of] ?? { ...also?.nodes[of], ...this.#alike?.nodes[of] };
  }
  /** What comes then is another: what a hand has said of nodes was of the one before. */
  forgetNodes(): void {
    this.#nodes = {};
  }
  /** As it is sent; nodes only of classes that are wanted. */
  get body(): { classes: Pairs; nodes: Record<string, Pairs>; tags: Pairs } {
    const wanted = new Set(Object.values(this.classes));
    return {
      classes: this.classes,
      nodes: Object.fromEntries(Object.entries(this.#nodes).filter(([key]) => wanted.has(key))),
      tags: this.tags
    };
  }
}
