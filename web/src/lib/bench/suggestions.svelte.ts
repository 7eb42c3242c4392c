import type { Schemas } from '$lib/api/client';
import { ulid } from '$lib/edits/ulid';
import type { Overlay } from '$lib/kinds/kind';
import { fromServer, type Mark } from '$lib/words/mark';
import type { Words } from '$lib/words/words.svelte';
import type { Opened } from './opened.svelte';

type Suggestion = Schemas['Mark'];
type Needs = Pick<Opened, 'packet' | 'editor' | 'hand' | 'editable'> & { surface?: Pick<Opened['surface'], 'show'> };

/**
 * What a model has proposed: it lies over the marks until a hand has confirmed it, changed it or found it wrong; the most doubtful comes first.
 * What nobody has looked at is left behind and never becomes a label.
 */
export class Suggestions {
  /** from this confidence on they are confirmed together */
  threshold = $state(0.8);
  /** the one that is looked at */
  #now = $state<string | null>(null);
  /** suggestions by the mark that stands for them: only what stands counts */
  readonly #confirmed: ReadonlySet<string> = $derived.by(() => {
    void this.#changes;
    return new Set(this.opened.editor.marks.all().flatMap((m) => (m.suggestion ? [m.suggestion] : [])));
  });
  #changes = $state(0);
  #end: () => void;

  constructor(
    private readonly opened: Needs,
    private readonly words: Words,
    private readonly user: number
  ) {
    this.#end = opened.editor.marks.on(() => this.#changes++);
    opened.hand.on(() => {
      if (opened.hand.selected !== null) this.#now = null;
    });
  }
  close(): void {
    this.#end();
  }

  /** What is still undecided, the most doubtful first. */
  readonly list: Suggestion[] = $derived.by(() =>
    this.opened.packet.suggestions
      .filter((s) => !this.#confirmed.has(s.id) && !this.opened.editor.isDropped(s.id))
      .sort((a, b) => (a.confidence ?? 1) - (b.confidence ?? 1) || (a.id < b.id ? -1 : 1))
  );
  readonly above: Suggestion[] = $derived(this.list.filter((s) => s.confidence !== null && s.confidence >= this.threshold));
  get now(): Suggestion | null {
    return this.list.find((s) => s.id === this.#now) ?? null;
  }
  readonly #overlay = $derived.by((): Overlay[] =>
    this.list.length === 0
      ? []
      : [
          {
            name: 'suggestions',
            line: 'dashed',
            marks: this.list.map(fromServer),
            strong: this.#now,
            filled: new Set(this.above.map((s) => s.id))
          }
        ]
  );
  get overlays(): readonly Overlay[] {
    return this.#overlay;
  }
  name(suggestion: Suggestion): string {
    return this.words.nameOf(suggestion.class);
  }

  /** Takes one to be looked at; null: none. */
  look(id: string | null): void {
    this.#now = id;
    if (id === null) return;
    this.opened.hand.select(null);
    const s = this.now;
    if (s) this.opened.surface?.show(fromServer(s));
  }
  /** Goes to the next, or the one before; round to the first. */
  step(by: 1 | -1): void {
    const { list } = this;
    const at = list.findIndex((s) => s.id === this.#now);
    const next = at < 0 ? (by > 0 ? 0 : list.length - 1) : (at + by + list.length) % list.length;
    this.look(list[next]?.id ?? null);
  }
  /** The suggestion becomes a mark of this person, of its own class or another, and the next doubtful one comes. */
  confirm(suggestion: Suggestion, key = suggestion.class): boolean {
    if (!this.#decidable([suggestion])) return false;
    const next = this.#after(suggestion);
    this.opened.editor.change([this.#made(suggestion, key)]);
    this.look(next);
    return true;
  }
  /** One that is found wrong is not offered here again, and the next doubtful one comes. */
  drop(suggestion: Suggestion): void {
    if (!this.#decidable([suggestion])) return;
    const next = this.#after(suggestion);
    this.opened.editor.drop(this.opened.packet.item.id, [suggestion.id]);
    this.look(next);
  }
  /** All from the set confidence on become marks, as one step. @returns how many */
  confirmAbove(): number {
    const { above } = this;
    if (!this.#decidable(above)) return 0;
    const left = this.list.find((s) => !above.includes(s))?.id ?? null;
    this.opened.editor.change(above.map((s) => this.#made(s, s.class)));
    this.look(left);
    return above.length;
  }
  /** The suggestion becomes a mark and is taken in hand, to be changed. @returns its id */
  edit(suggestion: Suggestion): string | null {
    if (!this.#decidable([suggestion])) return null;
    const draft = this.#made(suggestion, suggestion.class);
    this.opened.editor.change([draft]);
    this.opened.hand.select(draft.subject);
    return draft.subject;
  }

  #decidable(some: readonly Suggestion[]): boolean {
    return this.opened.editable && some.length > 0 && some.every((s) => this.list.includes(s));
  }
  /** Which one is looked at when this one is decided. */
  #after(suggestion: Suggestion): string | null {
    const at = this.list.findIndex((s) => s.id === suggestion.id);
    return (this.list[at + 1] ?? this.list.find((s) => s.id !== suggestion.id))?.id ?? null;
  }
  #made(suggestion: Suggestion, key: string) {
    const own: Mark = {
      ...fromServer(suggestion),
      id: ulid(),
      revision: 0,
      author: this.user,
      source: 'hand',
      suggestion: suggestion.id
    };
    const mark = key === own.class ? own : this.words.reclassed(own, key);
    return { subject: mark.id, item: this.opened.packet.item.id, before: null, after: mark, suggestion: suggestion.id };
  }
}
