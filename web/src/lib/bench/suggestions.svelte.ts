import type { Schemas } from '$lib/api/client';
import { saidSubject, type Draft } from '$lib/edits/editor.svelte';
import { ulid } from '$lib/edits/ulid';
import type { Overlay } from '$lib/kinds/kind';
import { say } from '$lib/words/codebook';
import { fromServer, type Mark, type Said } from '$lib/words/mark';
import type { Words } from '$lib/words/words.svelte';
import type { Opened } from './opened.svelte';

/** An object, or something to be said of the item as a whole. */
export type Suggestion = { id: string; confidence: number | null } & ({ mark: Schemas['Mark'] } | { word: Schemas['SuggestedWord'] });
/** Where it begins in a text; what is said of the whole comes last. */
function along(s: Suggestion): number {
  if ('word' in s) return Number.MAX_SAFE_INTEGER;
  return 'start' in s.mark.geometry ? Number(s.mark.geometry.start) : 0;
}
export const isWord = (s: Suggestion): s is Suggestion & { word: Schemas['SuggestedWord'] } => 'word' in s;
type Needs = Pick<Opened, 'packet' | 'editor' | 'hand' | 'asking' | 'editable'> & { surface?: Pick<Opened['surface'], 'show' | 'lead'> };

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
    private readonly user: number,
    /** one was pressed on the stage */
    private readonly pressed: () => void = () => {}
  ) {
    // the lot says from where on nobody has to look twice
    this.threshold = opened.packet.sure_from ?? this.threshold;
    this.#end = opened.editor.marks.on(() => this.#changes++);
    opened.hand.on(() => {
      if (opened.hand.selected !== null) this.#now = null;
    });
  }
  close(): void {
    this.#end();
  }

  /** What is still undecided, the most doubtful first. */
  readonly list: Suggestion[] = $derived.by(() => {
    const { packet, editor } = this.opened;
    const objects = packet.suggestions
      .filter((mark) => !this.#confirmed.has(mark.id))
      .map((mark): Suggestion => ({ id: mark.id, confidence: mark.confidence, mark }));
    // a packet that was kept by an earlier version has none
    const words = (packet.suggested_words ?? [])
      .filter((word) => this.#isOpen(word))
      .map((word): Suggestion => ({ id: word.id, confidence: word.confidence, word }));
    return [...words, ...objects]
      .filter((s) => !editor.isDropped(s.id))
      .sort((a, b) => (a.confidence ?? 1) - (b.confidence ?? 1) || along(a) - along(b) || (a.id < b.id ? -1 : 1));
  });
  /** Whether nothing is said yet where this word would be: the question is asked and open, no tag of the group is on. */
  #isOpen(word: Schemas['SuggestedWord']): boolean {
    const { said } = this.opened.asking;
    if (word.answer)
      return said.answers[word.key] === undefined && this.words.questionsOfItem(said.answers).some((a) => a.key === word.key);
    const tag = this.words.itemTags.find((t) => t.key === word.key);
    if (!tag || said.tags.includes(word.key)) return false;
    return !tag.group || !this.words.itemTags.some((t) => t.group === tag.group && said.tags.includes(t.key));
  }
  /** Whether nobody has said of anything that was suggested here how sure it is. */
  readonly unsaid: boolean = $derived.by(() => {
    const { suggestions, suggested_words: words } = this.opened.packet;
    return [...suggestions, ...(words ?? [])].every((s) => s.confidence === null);
  });
  /** What is confirmed together: from a confidence on, or all where none is said. */
  readonly above: Suggestion[] = $derived(
    this.unsaid ? this.list : this.list.filter((s) => s.confidence !== null && s.confidence >= this.threshold)
  );
  get now(): Suggestion | null {
    return this.list.find((s) => s.id === this.#now) ?? null;
  }
  readonly #marks: Mark[] = $derived(this.list.flatMap((s) => (isWord(s) ? [] : [fromServer(s.mark)])));
  readonly #overlay = $derived.by((): Overlay[] =>
    // also where only words are left: whose keys they are goes by it
    this.list.length === 0
      ? []
      : [
          {
            name: 'suggestions',
            line: 'dashed',
            marks: this.#marks,
            strong: this.#now,
            filled: new Set(this.above.map((s) => s.id)),
            pick: (id) => this.#pick(id)
          }
        ]
  );
  get overlays(): readonly Overlay[] {
    return this.#overlay;
  }
  name(suggestion: Suggestion): string {
    if (!isWord(suggestion)) {
      const lead = this.opened.surface?.lead?.(fromServer(suggestion.mark));
      return `${this.words.nameOf(suggestion.mark.class)}${lead ? ` ${lead}` : ''}`;
    }
    const { key, answer } = suggestion.word;
    if (!answer) return this.words.itemTags.find((t) => t.key === key)?.name ?? key;
    const question = this.words.questionsOfItem(this.opened.asking.said.answers).find((a) => a.key === key);
    return question ? `${question.name}: ${say(question, answer)}` : key;
  }

  /** Takes one to be looked at, close up, or the whole where it is about that; null: none, and what nobody has suggested is looked for in the whole. */
  look(id: string | null): void {
    const was = this.#now;
    this.#now = id;
    if (id !== null) this.opened.hand.select(null);
    const s = this.now;
    if (s) this.opened.surface?.show(isWord(s) ? null : fromServer(s.mark));
    else if (was !== null) this.opened.surface?.show(null);
  }
  /** One is pressed on the stage: it is in sight already. */
  #pick(id: string): void {
    this.opened.hand.select(null);
    this.#now = id;
    this.pressed();
  }
  /** Goes to the next, or the one before; round to the first. */
  step(by: 1 | -1): void {
    const { list } = this;
    const at = list.findIndex((s) => s.id === this.#now);
    const next = at < 0 ? (by > 0 ? 0 : list.length - 1) : (at + by + list.length) % list.length;
    this.look(list[next]?.id ?? null);
  }
  /** The suggestion becomes a mark of this person, of its own class or another, or is said of the item; and the next doubtful one comes. */
  confirm(suggestion: Suggestion, key?: string): boolean {
    if (!this.#decidable([suggestion])) return false;
    const next = this.#after(suggestion);
    this.opened.editor.change(this.#taken([suggestion], key));
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
    this.opened.editor.change(this.#taken(above));
    this.look(left);
    return above.length;
  }
  /** The suggestion becomes a mark and is taken in hand, to be changed; of an answer its question is opened. @returns whether there is something to change */
  edit(suggestion: Suggestion): boolean {
    if (!this.#decidable([suggestion])) return false;
    if (isWord(suggestion)) {
      this.look(null);
      this.opened.hand.select(null);
      // another tag is put on by itself
      this.opened.asking.question = suggestion.word.answer ? suggestion.word.key : null;
      return true;
    }
    const draft = this.#made(suggestion.mark, suggestion.mark.class);
    this.opened.editor.change([draft]);
    this.opened.hand.select(draft.subject);
    return true;
  }

  #decidable(some: readonly Suggestion[]): boolean {
    return this.opened.editable && some.length > 0 && some.every((s) => this.list.includes(s));
  }
  /** Which one is looked at when this one is decided. */
  #after(suggestion: Suggestion): string | null {
    const at = this.list.findIndex((s) => s.id === suggestion.id);
    return (this.list[at + 1] ?? this.list.find((s) => s.id !== suggestion.id))?.id ?? null;
  }
  /** What changes when these are taken: a mark for each object, and once what is said of the item. */
  #taken(some: readonly Suggestion[], key?: string): Draft[] {
    const { asking, packet } = this.opened;
    const words = some.filter(isWord);
    const drafts: Draft[] = some.flatMap((s) => (isWord(s) ? [] : [this.#made(s.mark, key ?? s.mark.class)]));
    if (words.length > 0) {
      // the surest last: of tags that exclude each other it is the one that stays
      const after = words
        .toSorted((a, b) => (a.confidence ?? 1) - (b.confidence ?? 1))
        .reduce(
          (said: Said, { word }) =>
            word.answer ? this.words.itemAnswered(said, word.key, word.answer) : this.words.tagged(said, word.key, false),
          asking.said
        );
      drafts.push({ subject: saidSubject(packet.item.id), item: packet.item.id, before: asking.said, after });
    }
    return drafts;
  }
  #made(suggestion: Schemas['Mark'], key: string) {
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
