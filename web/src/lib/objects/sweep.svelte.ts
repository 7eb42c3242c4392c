import { api, ask } from '$lib/api/client';
import { saidSubject } from '$lib/edits/editor.svelte';
import type { Answer, Attribute } from '$lib/words/codebook';
import { fromServer, type Mark } from '$lib/words/mark';
import type { Found, ItemFound, ObjectEdits, StretchFound } from './edits.svelte';

/**
 * What is swept over: objects, with one question, every question or none; items, with a question, a group of tags or a single tag; or stretches of
 * clips, with a question whose answers switch or a tag.
 */
export type Plan = {
  over: 'objects' | 'items' | 'stretches';
  class?: string;
  question?: string;
  /** all open questions of an object, one after the other */
  every?: boolean;
  group?: string;
  /** a tag that is in no group: put on, or left off */
  tag?: string;
  answer?: string;
  set?: string;
};
export type Subject =
  | { id: string; object: Found; item: null; stretch: null }
  | { id: string; object: null; item: ItemFound; stretch: null }
  | { id: string; object: null; item: null; stretch: StretchFound };
/** What was done here, in order. */
type Done = { at: number; subject: string; changed: boolean; what: 'answer' | 'class' | 'tag' | 'removed'; when: number };

const BATCH = 50;
/** how many before the end the next are asked for */
const AHEAD = 20;
const PACE = 60_000;

/** One question over many objects or items: the answer itself goes on. */
export class Sweep {
  subjects = $state.raw<Subject[]>([]);
  at = $state(0);
  total = $state<number | null>(null);
  done = $state.raw<Done[]>([]);
  skipped = $state.raw<Set<string>>(new Set());
  error = $state('');
  ended = $state(false);
  #loading: Promise<void> | null = null;
  #all = false;
  /** behind which it began */
  #after: string | null = null;

  constructor(
    private readonly edits: ObjectEdits,
    readonly plan: Plan
  ) {}

  get subject(): Subject | undefined {
    return this.subjects[this.at];
  }
  get mark(): Mark | null {
    const subject = this.subject;
    if (subject?.stretch) return subject.stretch.mark && fromServer(subject.stretch.mark);
    return subject?.object ? this.edits.now(subject.object) : null;
  }
  get answers(): Record<string, Answer> {
    const subject = this.subject;
    const { question } = this.plan;
    if (subject?.stretch) {
      const said = question === undefined ? null : this.edits.ofStretch(subject.stretch, { question });
      return said === null || said === true ? {} : { [question!]: said };
    }
    return subject?.item ? this.edits.saidNow(subject.item).answers : (this.mark?.answers ?? {});
  }
  get tags(): string[] {
    const subject = this.subject;
    const { tag } = this.plan;
    if (subject?.stretch) return tag !== undefined && this.edits.ofStretch(subject.stretch, { tag }) !== null ? [tag] : [];
    return subject?.item ? this.edits.saidNow(subject.item).tags : [];
  }
  /** The question that is asked now; null where there is only something to look at, or tags. */
  get question(): Attribute | null {
    const { question, every } = this.plan;
    const { words } = this.edits;
    if (question !== undefined) return words.document.attributes?.find((a) => a.key === question) ?? null;
    const mark = this.mark;
    if (!every || !mark) return null;
    // what varies of a track is asked stretch by stretch
    const asked = words.questionsOf(mark).filter((a) => !mark.stretches || !words.varies(a.key));
    return asked.find((a) => mark.answers[a.key] === undefined) ?? null;
  }
  /** Answers a minute, over the last minute. */
  pace(now: number): number {
    const recent = this.done.filter((d) => now - d.when < PACE);
    if (recent.length < 2) return 0;
    const span = Math.max(1000, now - recent[0]!.when);
    return Math.round((recent.length / span) * PACE);
  }
  /** What this sweep has done, in words. */
  get sum(): string {
    const count = (what: Done['what']) => this.done.filter((d) => d.what === what && d.changed).length;
    const parts = [
      [count('answer'), 'answer', 'answers'],
      [count('tag'), 'tag', 'tags'],
      [count('class'), 'put into another class', 'put into another class'],
      [count('removed'), 'removed', 'removed']
    ] as const;
    const said = parts.filter(([n]) => n > 0).map(([n, one, many]) => `${n} ${n === 1 ? one : many}`);
    const looked = this.at;
    return said.length > 0 ? said.join(', ') : `${looked} looked at, nothing changed`;
  }

  /** Begins, or goes on behind what was swept last. */
  async start(after: string | null): Promise<void> {
    this.#after = after;
    await this.#more();
    await this.#settle();
  }

  async #more(): Promise<void> {
    if (this.#all) return;
    const { over, question, group, tag, answer, set } = this.plan;
    const path = { project: this.edits.project };
    const last = this.subjects.at(-1)?.id ?? this.#after;
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
        this.subjects = [...this.subjects, ...found.data.map((object) => ({ id: object.mark.id, object, item: null, stretch: null }))];
        this.#counted(found.total, found.data.length);
      } else if (over === 'stretches') {
        const found = await ask(
          api.GET('/projects/{project}/stretches', {
            params: {
              path,
              query: {
                ...common,
                ...(tag ? { tag } : {}),
                ...(this.plan.class ? { class: this.plan.class } : {}),
                ...(last ? { after: last } : {})
              }
            }
          })
        );
        this.subjects = [...this.subjects, ...found.data.map((one) => ({ id: one.id, object: null, item: null, stretch: one }))];
        this.#counted(found.total, found.data.length);
      } else {
        const found = await ask(
          api.GET('/projects/{project}/said', {
            params: {
              path,
              query: { ...common, ...(group ? { group } : {}), ...(tag ? { tag } : {}), ...(last ? { after: last } : {}) }
            }
          })
        );
        this.subjects = [
          ...this.subjects,
          ...found.data.map((one) => ({ id: String(one.item.id), object: null, item: one, stretch: null }))
        ];
        this.#counted(found.total, found.data.length);
      }
      this.error = '';
    } catch (e) {
      this.error = (e as Error).message;
    }
  }
  #counted(total: number | null, got: number): void {
    this.total ??= total;
    this.#all = got < BATCH;
  }

  /** Goes on to the next that has something to ask, and fetches more in good time. */
  async #settle(): Promise<void> {
    for (;;) {
      if (this.subjects.length - this.at <= AHEAD && !this.#all) this.#loading ??= this.#more().finally(() => (this.#loading = null));
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

  #did(what: Done['what'], changed: number): void {
    const subject = this.subject!;
    // of an object in a stretch it is the key it begins with, which goes by the same name
    const ofItem = subject.item?.item ?? (subject.stretch && !subject.stretch.mark ? subject.stretch.item : null);
    const id = ofItem ? saidSubject(ofItem.id) : subject.id;
    this.done = [...this.done, { at: this.at, subject: id, changed: changed > 0, what, when: Date.now() }];
  }
  /** Takes an answer; unless there is more to say to the same question, it goes on by itself. */
  answer(answer: Answer | null, stay = false): void {
    const question = this.question;
    const subject = this.subject;
    if (!question || !subject) return;
    const { words } = this.edits;
    const changed = subject.stretch
      ? this.edits.sayStretch(subject.stretch, { question: question.key }, answer)
      : subject.object
        ? this.edits.change([subject.object], (mark) => words.answered(mark, question.key, answer))
        : this.edits.say(subject.item, words.itemAnswered(this.edits.saidNow(subject.item), question.key, answer));
    this.#did('answer', changed);
    if (!stay) this.next();
  }
  /** Puts a tag on the item, alone of its group, and goes on. */
  tag(key: string): void {
    const subject = this.subject;
    if (subject?.stretch) {
      this.#did('tag', this.edits.sayStretch(subject.stretch, { tag: key }, true));
      return this.next();
    }
    if (!subject?.item) return;
    const said = this.edits.saidNow(subject.item);
    const after = this.edits.words.tagged(said, key, false);
    this.#did('tag', after === said ? 0 : this.edits.say(subject.item, after));
    this.next();
  }
  /** Leaves a single tag off, or takes it off, and goes on. */
  untag(key: string): void {
    const subject = this.subject;
    if (subject?.stretch) {
      this.#did('tag', this.edits.sayStretch(subject.stretch, { tag: key }, null));
      return this.next();
    }
    if (!subject?.item) return;
    const said = this.edits.saidNow(subject.item);
    const changed = said.tags.includes(key) ? this.edits.say(subject.item, { ...said, tags: said.tags.filter((t) => t !== key) }) : 0;
    this.#did('tag', changed);
    this.next();
  }
  /** Of another class; where that is not asked the same, it goes on. */
  become(key: string): void {
    const subject = this.subject;
    if (!subject?.object || this.mark?.class === key) return;
    const { words } = this.edits;
    this.#did(
      'class',
      this.edits.change([subject.object], (mark) => words.reclassed(mark, key))
    );
    const question = this.plan.question;
    if (question === undefined ? !this.plan.every : !words.classOf(key)?.attributes?.includes(question)) this.next();
  }
  remove(): void {
    const subject = this.subject;
    if (!subject?.object) return;
    this.#did(
      'removed',
      this.edits.change([subject.object], () => null)
    );
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
  /** Back to the one before; what was answered there last is taken back: of that very object, whatever was done to others meanwhile. */
  back(): void {
    const last = this.done.at(-1);
    // skipped ones lie between: first back to those, then to the answer
    const before = this.at - 1;
    if (last && last.at >= before) {
      if (last.changed) this.edits.editor.takeBack(last.subject);
      this.done = this.done.slice(0, -1);
      this.at = last.at;
    } else if (before >= 0) this.at = before;
    this.ended = false;
    const subject = this.subject;
    if (subject) this.skipped = new Set([...this.skipped].filter((id) => id !== subject.id));
  }
}
