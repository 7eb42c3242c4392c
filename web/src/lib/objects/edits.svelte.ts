import { api, ask, type Schemas } from '$lib/api/client';
import { BESIDE, Outbox, type Outcome } from '$lib/bench/outbox.svelte';
import { body, fromServer, kinds, type Kind, type Mark, type Said } from '$lib/bench/types';
import { ulid } from '$lib/bench/ulid';
import type { Answer, Attribute, Document } from '$lib/state/codebook';
import { asked } from '$lib/state/codebook';
import { SvelteMap } from 'svelte/reactivity';

export type Found = Schemas['ProjectObject'];
export type ItemFound = Schemas['ItemSaid'];
type Change = { before: Mark | null; after: Mark | null } | { before: Said; after: Said };
/** `id` is the mark, or what is said of the item; `revision` is the one it was listed with. */
type Step = { id: string; item: number; revision: number; change: Change; words: number };

/** In place of a mark's id: what is said of an item. */
const saidOf = (item: number): string => `said:${item}`;
const isSaid = (value: Mark | Said | null): value is Said => value !== null && 'tags' in value;

const MAX_IDLE = 30;

/**
 * Changes of marks on many items, beside the turns: each is shown at once, kept until the server has it, and can be taken back. What
 * the server knew of an object when it was listed stays as it is; what was made of it since is here.
 */
export class ObjectEdits {
  document = $state.raw<Document>({ skeno: 'codebook/1', classes: [] });
  version = $state(0);
  looks = $state.raw<Map<string, { color: string; light: string; marker: string }>>(new Map());
  message = $state('');
  outbox: Outbox;
  /** marks as they are now, where they are not as they were listed; null: deleted */
  #now = new SvelteMap<string, Mark | Said | null>();
  #revisions = new Map<string, number>();
  #undo = $state.raw<Step[][]>([]);
  #redo = $state.raw<Step[][]>([]);
  #lastActive = Date.now();

  constructor(
    readonly project: number,
    user: number,
    private readonly refused: () => void = () => {}
  ) {
    this.outbox = new Outbox(user, (outcomes, answer) => this.#heard(outcomes, answer));
  }

  async start(): Promise<void> {
    await this.loadCodebook();
    await this.outbox.restore();
    // what a crash left unsent is on its way before anything is listed
    await Promise.race([this.outbox.flush(), new Promise((done) => setTimeout(done, 3000))]);
  }
  async loadCodebook(): Promise<void> {
    const codebook = await ask(api.GET('/projects/{project}/codebook', { params: { path: { project: this.project } } }));
    this.document = codebook.document;
    this.version = codebook.version;
    this.looks = new Map(codebook.looks.map((l) => [l.key, l]));
  }
  close(): void {
    this.outbox.close();
  }

  light = (key: string): string => this.looks.get(key)?.light ?? '#d5d8da';
  marker = (key: string): string => this.looks.get(key)?.marker ?? 'circle';
  classOf = (key: string) => this.document.classes.find((c) => c.key === key);
  nameOf = (key: string): string => this.classOf(key)?.name ?? key;
  bones = (key: string): [string, string][] =>
    (this.document.skeletons?.find((k) => k.key === this.classOf(key)?.skeleton)?.edges ?? []) as [string, string][];
  kindsOf = (key: string): Kind[] => (this.classOf(key)?.shapes ?? []).filter((s): s is Kind => kinds.includes(s as Kind));

  /** The mark as it is now; null when it has been deleted. */
  now(object: Found): Mark | null {
    const now = this.#now.get(object.mark.id);
    return now === undefined || isSaid(now) ? fromServer(object.mark) : now;
  }
  /** What is said of an item now. */
  saidNow({ item, said }: ItemFound): Said {
    const now = this.#now.get(saidOf(item.id));
    return now !== undefined && isSaid(now) ? now : { answers: said.answers, tags: said.tags };
  }
  get canUndo(): boolean {
    return this.#undo.length > 0;
  }
  get canRedo(): boolean {
    return this.#redo.length > 0;
  }

  /** Answers the mark would still be asked for, when it has these. */
  answered(mark: Mark, question: Attribute, answer: Answer | null): Mark {
    const answers = { ...mark.answers };
    if (answer === null) delete answers[question.key];
    else answers[question.key] = answer;
    // an answer to a question that is no longer asked does not stay behind unseen
    const still = new Set(asked(this.document, mark.class, answers).map((a) => a.key));
    const was = new Set(asked(this.document, mark.class, mark.answers).map((a) => a.key));
    for (const key of Object.keys(answers)) if (!still.has(key) && was.has(key)) delete answers[key];
    return { ...mark, answers };
  }
  /** The mark as one of another class; answers that class does not ask are dropped. */
  reclassed(mark: Mark, key: string): Mark {
    const asks = this.classOf(key)?.attributes ?? [];
    return { ...mark, class: key, answers: Object.fromEntries(Object.entries(mark.answers).filter(([k]) => asks.includes(k))) };
  }

  /** Makes each object something else; null takes it away. @returns how many changed */
  change(objects: Found[], become: (mark: Mark) => Mark | null): number {
    const steps: Step[] = [];
    for (const object of objects) {
      const before = this.now(object);
      const after = before && become(before);
      if (before !== null && after !== before)
        steps.push({
          id: object.mark.id,
          item: object.item.id,
          revision: object.mark.revision,
          change: { before, after },
          words: this.version
        });
    }
    return this.#do(steps);
  }
  /** Says something else of an item. */
  say(found: ItemFound, after: Said): number {
    const change = { before: this.saidNow(found), after };
    return this.#do([{ id: saidOf(found.item.id), item: found.item.id, revision: found.said.revision, change, words: this.version }]);
  }
  #do(steps: Step[]): number {
    if (steps.length === 0) return 0;
    for (const step of steps) this.#send(step);
    this.#undo = [...this.#undo, steps];
    this.#redo = [];
    return steps.length;
  }
  /** Takes the last change back. @returns the marks it was of */
  undo(): string[] {
    const steps = this.#undo.at(-1) ?? [];
    this.#undo = this.#undo.slice(0, -1);
    for (const step of [...steps].reverse())
      this.#send({ ...step, change: { before: step.change.after, after: step.change.before } as Change });
    if (steps.length > 0) this.#redo = [...this.#redo, steps];
    return steps.map((s) => s.id);
  }
  redo(): string[] {
    const steps = this.#redo.at(-1) ?? [];
    this.#redo = this.#redo.slice(0, -1);
    for (const step of steps) this.#send(step);
    if (steps.length > 0) this.#undo = [...this.#undo, steps];
    return steps.map((s) => s.id);
  }

  #seconds(): number {
    const now = Date.now();
    const seconds = Math.min(MAX_IDLE, Math.round((now - this.#lastActive) / 1000));
    this.#lastActive = now;
    return seconds;
  }
  #send({ id, item, revision, change, words }: Step): void {
    const base = this.#revisions.get(id) ?? revision;
    this.#revisions.set(id, base + 1);
    const { before, after } = change;
    this.#now.set(id, after);
    const edit = { id: ulid(), mark: isSaid(after) ? null : id, base, seconds: this.#seconds(), codebook: words };
    if (isSaid(after))
      return this.outbox.add(
        this.project,
        BESIDE,
        { ...edit, action: base === 0 ? 'create' : 'change', data: { kind: 'item', ...after } },
        item
      );
    this.outbox.add(
      this.project,
      BESIDE,
      after === null
        ? { ...edit, action: 'delete' }
        : before === null
          ? { ...edit, action: 'create', data: body(after) }
          : { ...edit, action: 'change', data: { class: after.class, answers: after.answers } },
      item
    );
  }

  #heard(outcomes: Outcome[], answer: Schemas['EditResults']): void {
    let lost = false;
    for (const { edit, item, result } of outcomes) {
      if (result.outcome !== 'conflict' && result.outcome !== 'refused') continue;
      lost = true;
      this.message =
        result.outcome === 'refused'
          ? `not taken: ${result.reason ?? 'the server refused it'}`
          : 'somebody else has changed this object meanwhile; it is shown as it is there';
      const id = edit.mark ?? saidOf(item ?? 0);
      const there = result.said ?? result.mark;
      if (there) {
        this.#revisions.set(id, there.revision);
        this.#now.set(
          id,
          result.said
            ? { answers: result.said.answers, tags: result.said.tags }
            : result.mark && !result.mark.deleted
              ? fromServer(result.mark)
              : null
        );
      } else {
        this.#revisions.delete(id);
        this.#now.delete(id);
      }
      // what was done to it before can no longer be taken back by itself
      this.#undo = this.#undo.map((steps) => steps.filter((s) => s.id !== id)).filter((steps) => steps.length > 0);
      this.#redo = [];
    }
    if (lost) this.refused();
    if (answer.codebook_version !== this.version) void this.loadCodebook().catch((e: Error) => (this.message = e.message));
  }
}
