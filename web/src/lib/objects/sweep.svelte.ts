import { api, ask } from '$lib/api/client';
import type { Mark } from '$lib/bench/types';
import { asked, type Answer, type Attribute } from '$lib/state/codebook';
import type { Found, ItemFound, ObjectEdits } from './edits.svelte';

/** What is swept over: objects, with one question, every question or none; or items, with a question or a group of tags. */
export type Plan = {
  over: 'objects' | 'items';
  class?: string;
  question?: string;
  /** all open questions of an object, one after the other */
  every?: boolean;
  group?: string;
  answer?: string;
  set?: string;
};
export type Subject = { id: string; object: Found; item: null } | { id: string; object: null; item: ItemFound };

const BATCH = 50;
/** how many before the end the next are asked for */
const AHEAD = 20;
const PACE = 60_000;

/** One question over many objects or items: the answer itself goes on. */
export class Sweep {
  subjects = $state.raw<Subject[]>([]);
  at = $state(0);
  total = $state<number | null>(null);
  /** answered here, in order: what, and which question */
  done = $state.raw<{ at: number; question: string | null; when: number }[]>([]);
  skipped = $state.raw<Set<string>>(new Set());
  error = $state('');
  ended = $state(false);
  #loading: Promise<void> | null = null;
  #all = false;

  constructor(
    private readonly edits: ObjectEdits,
    readonly plan: Plan
  ) {}

  get subject(): Subject | undefined {
    return this.subjects[this.at];
  }
  get mark(): Mark | null {
    const subject = this.subject;
    return subject?.object ? this.edits.now(subject.object) : null;
  }
  get answers(): Record<string, Answer> {
    const subject = this.subject;
    return subject?.item ? this.edits.saidNow(subject.item).answers : (this.mark?.answers ?? {});
  }
  get tags(): string[] {
    const subject = this.subject;
    return subject?.item ? this.edits.saidNow(subject.item).tags : [];
  }
  /** The question that is asked now; null where there is only something to look at, or tags. */
  get question(): Attribute | null {
    const { question, every } = this.plan;
    if (question !== undefined) return this.edits.document.attributes?.find((a) => a.key === question) ?? null;
    const mark = this.mark;
    if (!every || !mark) return null;
    return asked(this.edits.document, mark.class, mark.answers).find((a) => mark.answers[a.key] === undefined) ?? null;
  }
  /** Answers a minute, over the last minute. */
  pace(now: number): number {
    const recent = this.done.filter((d) => now - d.when < PACE);
    if (recent.length < 2) return 0;
    const span = Math.max(1000, now - recent[0]!.when);
    return Math.round((recent.length / span) * PACE);
  }

  /** Begins, or goes on behind what was swept last. */
  async start(after: string | null): Promise<void> {
    await this.#more(after);
    await this.#settle();
  }

  async #more(after: string | null): Promise<void> {
    if (this.#all) return;
    const { over, question, group, answer, set } = this.plan;
    const path = { project: this.edits.project };
    const last = after ?? this.subjects.at(-1)?.id ?? null;
    const common = {
      ...(answer ? { answer } : {}),
      ...(set !== undefined ? { set } : {}),
      ...(question ? { question } : {}),
      limit: BATCH
    };
    try {
      if (over === 'objects') {
        const found = await ask(
          api.GET('/projects/{project}/objects', {
            params: {
              path,
              query: { ...common, sort: 'item', ...(this.plan.class ? { class: this.plan.class } : {}), ...(last ? { after: last } : {}) }
            }
          })
        );
        this.subjects = [...this.subjects, ...found.data.map((object) => ({ id: object.mark.id, object, item: null }))];
        this.#counted(found.total, found.data.length);
      } else {
        const item = after ?? (this.subjects.at(-1)?.item ? String(this.subjects.at(-1)!.item!.item.id) : null);
        const found = await ask(
          api.GET('/projects/{project}/said', {
            params: { path, query: { ...common, ...(group ? { group } : {}), ...(item ? { after: item } : {}) } }
          })
        );
        this.subjects = [...this.subjects, ...found.data.map((one) => ({ id: String(one.item.id), object: null, item: one }))];
        this.#counted(found.total, found.data.length);
      }
      this.error = '';
    } catch (e) {
      this.error = `${(e as Error).message}; what you answered is kept`;
    }
  }
  #counted(total: number, got: number): void {
    this.total ??= total;
    this.#all = got < BATCH;
  }

  /** Goes on to the next that has something to ask, and fetches more in good time. */
  async #settle(): Promise<void> {
    for (;;) {
      if (this.subjects.length - this.at <= AHEAD && !this.#all) this.#loading ??= this.#more(null).finally(() => (this.#loading = null));
      if (this.at >= this.subjects.length) {
        if (this.#loading) {
          await this.#loading;
          if (this.error !== '') return;
          continue;
        }
        if (this.#all) this.ended = true;
        return;
      }
      // removed meanwhile, or every question of it has an answer
      const subject = this.subject!;
      if (subject.object && (this.mark === null || (this.plan.every && this.question === null))) this.at++;
      else return;
    }
  }
  /** Asks again after the server did not answer. */
  retry(): Promise<void> {
    return this.#settle();
  }

  /** Takes an answer; unless there is more to say to the same question, it goes on by itself. */
  answer(answer: Answer | null, stay = false): void {
    const question = this.question;
    const subject = this.subject;
    if (!question || !subject) return;
    if (subject.object) this.edits.change([subject.object], (mark) => this.edits.answered(mark, question, answer));
    else {
      const said = this.edits.saidNow(subject.item);
      const answers = { ...said.answers };
      if (answer === null) delete answers[question.key];
      else answers[question.key] = answer;
      this.edits.say(subject.item, { ...said, answers });
    }
    this.done = [...this.done, { at: this.at, question: question.key, when: Date.now() }];
    if (!stay) this.next();
  }
  /** Puts a tag on the item, alone of its group, and goes on. */
  tag(key: string): void {
    const subject = this.subject;
    if (!subject?.item) return;
    const all = this.edits.document.tags ?? [];
    const group = all.find((t) => t.key === key)?.group;
    const said = this.edits.saidNow(subject.item);
    const others = said.tags.filter((t) => t !== key && (group === undefined || all.find((a) => a.key === t)?.group !== group));
    this.edits.say(subject.item, { ...said, tags: [...others, key] });
    this.done = [...this.done, { at: this.at, question: null, when: Date.now() }];
    this.next();
  }
  /** Of another class; where that is not asked the same, it goes on. */
  become(key: string): void {
    const subject = this.subject;
    if (!subject?.object) return;
    if (this.mark?.class === key) return;
    this.edits.change([subject.object], (mark) => this.edits.reclassed(mark, key));
    this.done = [...this.done, { at: this.at, question: null, when: Date.now() }];
    const question = this.plan.question;
    if (question === undefined ? !this.plan.every : !this.edits.classOf(key)?.attributes?.includes(question)) this.next();
  }
  remove(): void {
    const subject = this.subject;
    if (!subject?.object) return;
    this.edits.change([subject.object], () => null);
    this.done = [...this.done, { at: this.at, question: null, when: Date.now() }];
    this.next();
  }

  next(): void {
    // the other questions of this object first
    if (!this.plan.every || this.question === null) this.at++;
    void this.#settle();
  }
  /** Leaves it open and goes on. */
  skip(): void {
    const subject = this.subject;
    if (!subject) return;
    this.skipped = new Set([...this.skipped, subject.id]);
    this.at++;
    void this.#settle();
  }
  /** Back to the one before; what was answered there last is taken back. */
  back(): void {
    const last = this.done.at(-1);
    // skipped ones lie between: first back to those, then to the answer
    const before = this.at - 1;
    if (last && last.at >= before) {
      this.edits.undo();
      this.done = this.done.slice(0, -1);
      this.at = last.at;
    } else if (before >= 0) this.at = before;
    this.ended = false;
    const subject = this.subject;
    if (subject) this.skipped = new Set([...this.skipped].filter((id) => id !== subject.id));
  }
}
