import type { Asking } from '$lib/edits/asking.svelte';
import type { Answer, Attribute, Tag } from '$lib/words/codebook';
import type { Saying } from '$lib/words/mark';
import { same } from '$lib/words/same';
import { put } from '$lib/words/stretches';
import type { Words } from '$lib/words/words.svelte';

/** What is said of the pages of a document, each by itself: answers and tags. */
export class PageSaid {
  constructor(
    private readonly words: Words,
    private readonly asking: Asking,
    private readonly pages: number
  ) {}

  get tags(): Tag[] {
    return (this.words.document.tags ?? []).filter((t) => t.scope === 'page');
  }
  answers(page: number): Record<string, Answer> {
    return Object.fromEntries(
      this.asking.said.stretches.flatMap((s) => ('answer' in s && s.first <= page && page <= s.last ? [[s.question, s.answer]] : []))
    );
  }
  questions(page: number): Attribute[] {
    return this.words.questionsOfPage(this.answers(page));
  }
  isTagged(key: string, page: number): boolean {
    return this.asking.said.stretches.some((s) => 'tag' in s && s.tag === key && s.first <= page && page <= s.last);
  }
  /** An answer of one page; one to a question that is no longer asked there goes with it. */
  give(question: string, answer: Answer | null, page: number): void {
    const before = this.answers(page);
    const after = this.words.pageAnswered(before, question, answer);
    let stretches: readonly Saying[] = this.asking.said.stretches;
    for (const key of new Set([...Object.keys(before), ...Object.keys(after)])) {
      if (same(before[key], after[key])) continue;
      const now = after[key];
      stretches = put(stretches, `question ${key}`, [page, page], now ? { question: key, answer: now, first: page, last: page } : null);
    }
    this.#write(stretches);
  }
  /** Puts a tag on a page or takes it off; of a group only one stays. */
  tag(key: string, page: number): void {
    const own = this.tags.find((t) => t.key === key);
    let stretches: readonly Saying[] = this.asking.said.stretches;
    const on = this.isTagged(key, page);
    for (const other of this.tags)
      if (other.key !== key && !on && own?.group !== undefined && other.group === own.group)
        stretches = put(stretches, `tag ${other.key}`, [page, page], null);
    this.#write(put(stretches, `tag ${key}`, [page, page], on ? null : { tag: key, first: page, last: page }));
  }
  /** For each question that is required, the pages that lack an answer. */
  missing(): { question: Attribute; pages: number[] }[] {
    const required = (this.words.document.attributes ?? []).filter((a) => a.scope === 'page' && a.required);
    if (required.length === 0) return [];
    const given = new Map<number, Record<string, Answer>>();
    for (const s of this.asking.said.stretches)
      if ('answer' in s)
        for (let page = s.first; page <= Math.min(s.last, this.pages - 1); page++) {
          const answers = given.get(page) ?? {};
          answers[s.question] = s.answer;
          given.set(page, answers);
        }
    const none = this.words.questionsOfPage({});
    const lacking = new Map(required.map((q) => [q.key, [] as number[]]));
    for (let page = 0; page < this.pages; page++) {
      const answers = given.get(page);
      for (const q of answers ? this.words.questionsOfPage(answers) : none)
        if (q.required && answers?.[q.key] === undefined) lacking.get(q.key)?.push(page);
    }
    return required.flatMap((question) => {
      const pages = lacking.get(question.key)!;
      return pages.length > 0 ? [{ question, pages }] : [];
    });
  }
  /** The next page something is missing on, behind one, else from the first; null: on none. */
  nextOpen(page: number): number | null {
    const open = [...new Set(this.missing().flatMap((m) => m.pages))].sort((a, b) => a - b);
    return open.find((p) => p > page) ?? open[0] ?? null;
  }
  #write(stretches: readonly Saying[]): void {
    if (!same(stretches, this.asking.said.stretches)) this.asking.say({ ...this.asking.said, stretches: [...stretches] });
  }
}
