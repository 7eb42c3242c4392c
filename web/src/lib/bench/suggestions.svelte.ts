import type { Schemas } from '$lib/api/client';
import { ulid } from '$lib/edits/ulid';
import type { Overlay } from '$lib/kinds/kind';
import { fromServer } from '$lib/words/mark';
import type { Words } from '$lib/words/words.svelte';
import type { Opened } from './opened.svelte';

/** What a model has proposed: it lies over the marks until a hand has confirmed it. */
export class Suggestions {
  #confirmed = $state.raw<ReadonlySet<string>>(new Set());

  constructor(
    private readonly opened: Pick<Opened, 'packet' | 'editor' | 'hand' | 'editable'>,
    private readonly words: Words,
    private readonly user: number
  ) {}

  get list(): Schemas['Mark'][] {
    return this.opened.packet.suggestions.filter((s) => !this.#confirmed.has(s.id));
  }
  readonly #overlay = $derived.by((): Overlay[] =>
    this.list.length === 0 ? [] : [{ name: 'suggestions', line: 'dashed', marks: this.list.map(fromServer) }]
  );
  get overlays(): readonly Overlay[] {
    return this.#overlay;
  }
  /** A suggestion becomes a mark of this person. */
  confirm(suggestion: Schemas['Mark']): void {
    if (!this.opened.editable || this.#confirmed.has(suggestion.id)) return;
    const mark = { ...fromServer(suggestion), id: ulid(), revision: 0, author: this.user, source: 'hand' };
    this.opened.editor.change([
      { subject: mark.id, item: this.opened.packet.item.id, before: null, after: mark, suggestion: suggestion.id }
    ]);
    this.#confirmed = new Set([...this.#confirmed, suggestion.id]);
    this.opened.hand.select(mark.id);
  }
  name(suggestion: Schemas['Mark']): string {
    return this.words.nameOf(suggestion.class);
  }
}
