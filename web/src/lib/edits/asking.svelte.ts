import type { Answer, Attribute } from '$lib/words/codebook';
import type { Said } from '$lib/words/mark';
import { SvelteMap } from 'svelte/reactivity';
import type { Words } from '$lib/words/words.svelte';
import { saidSubject, type Editor } from './editor.svelte';
import type { Hand } from './hand.svelte';

/** Questions asked of places of an axis: of frames, of pages. */
export type Along = {
  questions: () => Attribute[];
  answers: () => Record<string, Answer>;
  give: (question: string, answer: Answer | null) => void;
};

/** A written answer that is offered until a hand takes it as it is, or writes another. */
export type Proposal = { text: string; how: string; doubtful: boolean };

/** The question that is open, of what is in hand or of the item as a whole, and what an answer to it does. */
export class Asking {
  question = $state<string | null>(null);
  /** on an item with an axis: questions whose answers switch along it, as they stand at the place that is shown */
  along: Along | null = null;

  constructor(
    private readonly words: Words,
    private readonly editor: Editor,
    private readonly hand: Hand,
    private readonly item: number
  ) {
    hand.on(() => (this.question = null));
  }

  #proposals = new SvelteMap<string, Proposal>();
  /** Offers a written answer to a question about a mark. */
  propose(mark: string, question: string, proposal: Proposal): void {
    this.#proposals.set(`${mark} ${question}`, proposal);
  }
  /** What is offered as the answer to a question about what is in hand. */
  proposalFor(question: string): Proposal | undefined {
    const mark = this.hand.mark;
    return mark ? this.#proposals.get(`${mark.id} ${question}`) : undefined;
  }

  get said(): Said {
    return this.editor.saidOf(this.item) ?? { answers: {}, tags: [], stretches: [] };
  }
  get ofItem(): Attribute[] {
    return this.words.questionsOfItem(this.said.answers);
  }
  /** Questions about the item, whatever is in hand: those of the place that is shown, then those of the whole. */
  get about(): Attribute[] {
    return [...(this.along?.questions() ?? []), ...this.ofItem];
  }
  get answersAbout(): Record<string, Answer> {
    return { ...this.said.answers, ...this.along?.answers() };
  }
  /** Questions about what is in hand: the mark, or the item where none is. */
  get questions(): Attribute[] {
    const mark = this.hand.mark;
    return mark ? this.words.questionsOf(mark) : this.about;
  }
  get answers(): Record<string, Answer> {
    return this.hand.mark?.answers ?? this.answersAbout;
  }
  get open(): Attribute | null {
    return this.question === null ? null : (this.questions.find((a) => a.key === this.question) ?? null);
  }

  /** Gives an answer to all that is in hand and asked the same, or takes it away by null; then opens the next question unless it stays. */
  answer(attribute: Attribute, answer: Answer | null, stay = false): void {
    const marks = this.hand.all;
    if (attribute.scope === 'page') {
      this.along?.give(attribute.key, answer);
      // those of this page, then the page is done: what is asked of the whole is asked once, not after each
      if (!stay) this.openNext(false, 'page');
      return;
    }
    // it stays open: the next switch is one key at another place
    if (attribute.scope === 'frame') return this.along?.give(attribute.key, answer);
    if (marks.length === 0) this.say(this.words.itemAnswered(this.said, attribute.key, answer));
    else
      this.editor.change(
        marks
          .filter((m) => this.words.questionsOf(m).some((a) => a.key === attribute.key))
          .map((m) => ({ subject: m.id, item: this.item, before: m, after: this.words.answered(m, attribute.key, answer) }))
      );
    if (!stay) this.openNext(false);
  }
  say(said: Said): void {
    this.editor.change([{ subject: saidSubject(this.item), item: this.item, before: this.said, after: said }]);
  }
  /** Puts a tag on or takes it off; of a group only one stays. */
  tag(key: string): void {
    this.say(this.words.tagged(this.said, key));
  }

  /** Opens the next question without an answer, of a scope where that is said, once round; only required ones when a mark has just been drawn. */
  openNext(requiredOnly: boolean, scope?: Attribute['scope']): void {
    const questions = this.questions.filter((a) => a.scope !== 'frame' && (scope === undefined || a.scope === scope));
    const from = questions.findIndex((a) => a.key === this.question) + 1;
    const open = (a: Attribute) => this.answers[a.key] === undefined && (a.required || !requiredOnly);
    // behind the one that was open any; before it only what has to be answered
    const next = questions.slice(from).find(open) ?? questions.slice(0, from).find((a) => open(a) && a.required);
    this.question = next?.key ?? null;
  }
}
