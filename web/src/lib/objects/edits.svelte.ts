import type { Schemas } from '$lib/api/client';
import { Editor, saidSubject, type Draft } from '$lib/edits/editor.svelte';
import { BESIDE, Outbox } from '$lib/edits/outbox.svelte';
import { keySubject } from '$lib/edits/keys.svelte';
import type { Answer } from '$lib/words/codebook';
import { constant, fromServer, keyFromServer, saidFromServer, type Mark, type Said, type TrackKey } from '$lib/words/mark';
import { same } from '$lib/words/same';
import { put } from '$lib/words/stretches';
import { Words } from '$lib/words/words.svelte';

export type Found = Schemas['ProjectObject'];
export type ItemFound = Schemas['ItemSaid'];
export type StretchFound = Schemas['ProjectStretch'];

/**
 * Changes of marks on many items, beside the turns, on the bench's own editor and outbox. What the server knew of an object when it was listed
 * stays as it is; what was made of it since is here.
 */
export class ObjectEdits {
  message = $state('');
  readonly words: Words;
  readonly outbox: Outbox;
  readonly editor: Editor;

  /** @param refused something was not taken and it is not known what is there: it has to be listed again */
  constructor(
    readonly project: number,
    user: number,
    private readonly refused: () => void = () => {}
  ) {
    this.words = new Words(project);
    this.outbox = Outbox.of(user);
    this.editor = new Editor({ project, turn: BESIDE, user }, this.words, this.outbox, (answer, _, unsure) => {
      if (unsure) this.refused();
      if (answer.codebook_version !== this.words.version) void this.words.load().catch((e: Error) => (this.message = e.message));
    });
  }
  async start(): Promise<void> {
    await Promise.all([this.words.load(), this.outbox.adopt()]);
    // what a crash left unsent is on its way before anything is listed; without a network the list is asked for all the same
    await this.outbox.arrived(this.project, BESIDE, 3000).catch(() => {});
  }
  close(): void {
    this.editor.close();
  }

  /** The mark as it is now, where it is shown; null when it, or the key it is listed by, has been taken away. */
  now(object: Found): Mark | null {
    const { id } = object.mark;
    if (this.editor.isGone(id) || this.editor.isGone(object.id)) return null;
    const mark = this.editor.marks.get(id) ?? fromServer(object.mark);
    if (!mark.stretches || object.mark.place === null) return mark;
    // another key of it may be listed beside this one
    const answers = { ...mark.answers, ...object.varying, ...this.editor.keys.at(id, object.mark.place)?.answers };
    return { ...mark, answers, geometry: object.mark.geometry, place: object.mark.place } as Mark;
  }
  /** Whether it stands for one key of a track. */
  static byKey = (object: Found): boolean => object.id !== object.mark.id;
  /** What is said of an item now. */
  saidNow({ item, said }: ItemFound): Said {
    return this.editor.saidOf(item.id) ?? saidFromServer(said);
  }

  /** Makes each object something else; null takes it away. @returns how many changed */
  change(objects: Found[], become: (mark: Mark) => Mark | null): number {
    const going = new Map<string, number>();
    const whole = new Set<string>();
    const drafts = objects.flatMap((object): Draft[] => {
      const before = this.now(object);
      const after = before && become(before);
      if (before === null || after === before) return [];
      const made = this.#made(object, before, after);
      if (after === null && ObjectEdits.byKey(object)) {
        const gone = (going.get(object.mark.id) ?? this.editor.goneKeys(object.mark.id)) + 1;
        if (gone >= (object.keys ?? 0)) {
          this.message = 'a track keeps one key at least';
          return [];
        }
        going.set(object.mark.id, gone);
      }
      // several keys of one track say the same of all of it once
      return made.filter((d) => d.subject !== object.mark.id || (!whole.has(d.subject) && whole.add(d.subject)));
    });
    return this.editor.change(drafts);
  }
  /** What a change of an object means: of a track, what varies is said by the key it is shown by, all else by the whole track. */
  #made(object: Found, before: Mark, after: Mark | null): Draft[] {
    const { item, mark, key } = object;
    const common = { item: item.id };
    if (!before.stretches || mark.place === null) return [{ ...common, subject: mark.id, revision: mark.revision, before, after }];
    const subject = keySubject(mark.id, mark.place);
    const ofKey = { ...common, subject, revision: key?.revision ?? 0, class: before.class };
    const keyed = this.editor.keys.get(subject) ?? (key && keyFromServer(key));
    if (after === null)
      return ObjectEdits.byKey(object)
        ? [{ ...ofKey, before: keyed, after: null }]
        : [{ ...common, subject: mark.id, revision: mark.revision, before: constant(before, this.words.varies), after: null }];
    const [was, is] = [constant(before, this.words.varies), constant(after, this.words.varies)];
    const answers = { ...keyed?.answers };
    for (const q of new Set([...Object.keys(before.answers), ...Object.keys(after.answers)])) {
      if (!this.words.varies(q) || same(before.answers[q], after.answers[q])) continue;
      if (after.answers[q]) answers[q] = after.answers[q];
      else delete answers[q];
    }
    return [
      ...(same(answers, keyed?.answers ?? {}) ? [] : [{ ...ofKey, before: keyed, after: keyed && { ...keyed, answers } }]),
      ...(same(was, is) ? [] : [{ ...common, subject: mark.id, revision: mark.revision, before: was, after: is }])
    ];
  }

  /** What is said of a stretch now: its answer, or the tag; null where nothing is. */
  ofStretch(found: StretchFound, asked: { question: string } | { tag: string }): Answer | true | null {
    const { mark, item, said, first } = found;
    if (mark && 'question' in asked) {
      if (this.editor.isGone(mark.id)) return null;
      const here = this.editor.keys.at(mark.id, first);
      if (here?.answers[asked.question]) return here.answers[asked.question]!;
      return here ? null : (found.answer ?? null);
    }
    if (!said) return null;
    const now = this.saidNow({ item, said }).stretches.find(
      (s) =>
        s.first <= first &&
        first <= s.last &&
        ('tag' in s ? 'tag' in asked && s.tag === asked.tag : 'question' in asked && s.question === asked.question)
    );
    return now === undefined ? null : 'answer' in now ? now.answer : true;
  }
  /** Says something else of all of a stretch; null: nothing. @returns how many changed */
  sayStretch(found: StretchFound, asked: { question: string } | { tag: string }, answer: Answer | true | null): number {
    const { item, said, mark, first, last } = found;
    if (mark && 'question' in asked) return this.#answerFrom(found, asked.question, answer === true ? null : answer);
    if (!said) return 0;
    const one = { item, said };
    const what =
      answer === null
        ? null
        : 'tag' in asked
          ? { tag: asked.tag, first, last }
          : { question: asked.question, answer: answer as Answer, first, last };
    const before = this.saidNow(one);
    const stretches = put(before.stretches, 'tag' in asked ? `tag ${asked.tag}` : `question ${asked.question}`, [first, last], what);
    return same(stretches, before.stretches) ? 0 : this.say(one, { ...before, stretches });
  }
  /** An answer of an object from the first place of a stretch on: its key there says it, with one made where there is none. */
  #answerFrom(found: StretchFound, question: string, answer: Answer | null): number {
    const { item, mark, key, first } = found;
    if (!mark || this.editor.isGone(mark.id)) return 0;
    const subject = keySubject(mark.id, first);
    const before = this.editor.keys.get(subject) ?? (key && !key.deleted ? keyFromServer(key) : null);
    const answers = { ...before?.answers };
    if (answer === null) delete answers[question];
    else answers[question] = answer;
    if (same(answers, before?.answers ?? {})) return 0;
    const blank: TrackKey = { mark: mark.id, place: first, geometry: null, answers: {}, hidden: false, source: 'hand', confidence: null };
    const after = { ...(before ?? blank), answers };
    const empty = after.geometry === null && Object.keys(answers).length === 0;
    return this.editor.change([
      { subject, item: item.id, class: mark.class, revision: key?.revision ?? 0, before, after: empty ? null : after }
    ]);
  }

  /** Says something else of an item. */
  say(found: ItemFound, after: Said): number {
    const { item, said } = found;
    return this.editor.change([
      { subject: saidSubject(item.id), item: item.id, revision: said.revision, before: this.saidNow(found), after }
    ]);
  }
  get canUndo(): boolean {
    return this.editor.canUndo;
  }
  /** Takes the last change back. @returns the marks it was of */
  undo(): string[] {
    return this.editor.undo().map((s) => s.subject);
  }
  redo(): string[] {
    return this.editor.redo().map((s) => s.subject);
  }
}
