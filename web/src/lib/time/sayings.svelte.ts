import type { Asking } from '$lib/edits/asking.svelte';
import type { Kept } from '$lib/edits/kept';
import type { Answer, Attribute } from '$lib/words/codebook';
import type { Said, Saying, Stretch } from '$lib/words/mark';
import { same } from '$lib/words/same';
import { joined, merged, ordered, put, subjectOf, without } from '$lib/words/stretches';
import type { Words } from '$lib/words/words.svelte';

/** A row of the timeline for what is said along it. */
export type SayingLane = { subject: string; name: string; required: boolean; list: Saying[] };

/** What is said along the axis: answers that switch, and tags from here to there. */
export class Sayings {
  /** a tag that was begun and waits for its end */
  begun = $state.raw<{ tag: string; first: number } | null>(null);
  /** frames marked on the lane of a question: the next answer to it is for those */
  marked = $state.raw<{ question: string; first: number; last: number } | null>(null);
  /** the stretch that was taken in its lane */
  chosen = $state.raw<{ subject: string; first: number } | null>(null);

  constructor(
    private readonly words: Words,
    private readonly asking: Asking,
    readonly places: number,
    private readonly kept: Kept,
    private readonly say: (message: string) => void
  ) {
    const kept_ = kept.get<{ tag: string; first: number }>('begun');
    this.begun = kept_ !== null && kept_.first < places ? kept_ : null;
  }

  get questions(): Attribute[] {
    return (this.words.document.attributes ?? []).filter((a) => a.scope === 'frame');
  }
  get tags(): { key: string; name: string; group?: string }[] {
    return (this.words.document.tags ?? []).filter((t) => t.scope === 'stretch');
  }
  get said(): Said {
    return this.asking.said;
  }
  of(subject: string): Saying[] {
    return this.said.stretches.filter((s) => subjectOf(s) === subject).sort((a, b) => a.first - b.first);
  }
  get lanes(): SayingLane[] {
    const known = [
      ...this.questions.map((q) => ({ subject: `question ${q.key}`, name: q.name, required: q.required ?? false })),
      ...this.tags.map((t) => ({ subject: `tag ${t.key}`, name: t.name, required: false }))
    ];
    // what the codebook no longer has is still there to be seen
    const others = [...new Set(this.said.stretches.map(subjectOf))].filter((s) => !known.some((k) => k.subject === s));
    return [...known, ...others.map((subject) => ({ subject, name: subject.replace(/^\w+ /, ''), required: false }))].map((k) => ({
      ...k,
      list: this.of(k.subject)
    }));
  }
  at(subject: string, place: number): Saying | undefined {
    return this.said.stretches.find((s) => subjectOf(s) === subject && s.first <= place && place <= s.last);
  }
  /** Places without an answer to a question. */
  gaps(question: string): Stretch[] {
    let gaps: Stretch[] = [[0, this.places - 1]];
    for (const s of this.of(`question ${question}`)) gaps = gaps.flatMap((g) => without([g], [s.first, s.last]));
    return gaps;
  }

  #write(stretches: Saying[]): void {
    const sorted = ordered(stretches);
    if (!same(sorted, this.said.stretches)) this.asking.say({ ...this.said, stretches: sorted });
  }
  /** Something holds from here to there; null: nothing does. What was said of these places before ends or begins beside them. */
  put(subject: string, [first, last]: Stretch, what: Saying | null): void {
    this.#write(put(this.said.stretches, subject, [first, last], what));
  }
  /** An answer from here on: the one that holds here ends before, and the new one goes on to where that would have ended. */
  switch(question: string, answer: Answer | null, place: number): void {
    const subject = `question ${question}`;
    const here = this.at(subject, place);
    const next = this.of(subject).find((s) => s.first > place);
    const last = here ? here.last : next ? next.first - 1 : this.places - 1;
    this.put(subject, [place, last], answer === null ? null : { question, answer, first: place, last });
  }
  /** Frames marked on a lane: a tag is put on them; a question's wait for the answer. @returns the question that is to be asked */
  mark(subject: string, from: number, to: number): string | null {
    const [first, last] = [Math.min(from, to), Math.max(from, to)];
    const tag = this.tags.find((t) => subject === `tag ${t.key}`);
    if (tag) {
      const [a, b] = this.#with(subject, [first, last]);
      this.put(subject, [a, b], { tag: tag.key, first: a, last: b });
      this.chosen = { subject, first: a };
      return null;
    }
    const question = this.questions.find((q) => subject === `question ${q.key}`);
    this.marked = question ? { question: question.key, first, last } : null;
    return question?.key ?? null;
  }
  /** An answer: of the frames that were marked for it, else from here on. */
  give(question: string, answer: Answer | null, place: number): void {
    const { marked } = this;
    this.marked = null;
    if (marked?.question !== question) return this.switch(question, answer, place);
    const { first, last } = marked;
    this.put(`question ${question}`, [first, last], answer === null ? null : { question, answer, first, last });
  }
  /** A press begins a tag, the next one ends it, wherever it is made; within one there it ends that there. */
  tag(key: string, place: number): void {
    const subject = `tag ${key}`;
    const { begun } = this;
    if (begun?.tag === key) {
      this.leave();
      const [first, last] = [Math.min(begun.first, place), Math.max(begun.first, place)];
      return this.put(subject, this.#with(subject, [first, last]), { tag: key, first, last });
    }
    const here = this.at(subject, place);
    if (here) {
      if (place === here.last) return this.say('it ends here already');
      return this.put(subject, [place + 1, here.last], null);
    }
    if (begun) this.say('the one that was begun has been left');
    this.begun = { tag: key, first: place };
    this.kept.set('begun', this.begun);
  }
  /** Of one tag two that lie over each other are one. */
  #with(subject: string, stretch: Stretch): Stretch {
    const there = this.of(subject).map((s): Stretch => [s.first, s.last]);
    return merged([...there, stretch]).find(([a, b]) => a <= stretch[0] && stretch[1] <= b)!;
  }
  /** Lets go of what was begun. */
  leave(): boolean {
    if (this.marked !== null) {
      this.marked = null;
      return true;
    }
    if (this.begun === null) return false;
    this.begun = null;
    this.kept.set('begun', null);
    return true;
  }
  get inHand(): Saying | null {
    const { chosen } = this;
    return chosen === null ? null : (this.of(chosen.subject).find((s) => s.first === chosen.first) ?? null);
  }
  remove(): boolean {
    const s = this.inHand;
    if (!s) return false;
    this.chosen = null;
    this.put(subjectOf(s), [s.first, s.last], null);
    return true;
  }
  /** The stretch in hand begins, or ends, at another place. */
  bound(end: 'first' | 'last', place: number): void {
    const s = this.inHand;
    if (!s) return;
    const next: Stretch = end === 'first' ? [Math.min(place, s.last), s.last] : [s.first, Math.max(place, s.first)];
    const subject = subjectOf(s);
    const rest = this.said.stretches.filter((o) => !(subjectOf(o) === subject && o.first === s.first));
    const cut = rest.flatMap((o): Saying[] =>
      subjectOf(o) === subject ? without([[o.first, o.last]], next).map(([a, b]) => ({ ...o, first: a, last: b })) : [o]
    );
    this.#write(joined([...cut, { ...s, first: next[0], last: next[1] }]));
    this.chosen = { subject, first: this.at(subject, next[0])?.first ?? next[0] };
  }
}
