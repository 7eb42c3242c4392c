import { api, ask, type Schemas } from '$lib/api/client';
import type { Words } from '$lib/words/words.svelte';
import { Names } from './names.svelte';
import { RunList } from './runs.svelte';
import { Which } from './which.svelte';

export type Thing = {
  class: string;
  kind: string;
  geometry: Schemas['Geometry'];
  answers: Record<string, Schemas['Answer']>;
  confidence: number;
};
/** What would be said of the item as a whole: a tag, or an answer to a question. */
export type Word = { key: string; answer: Schemas['Answer'] | null; confidence: number };
export type Tried = { item: Schemas['Item']; things: Thing[]; words: Word[]; found: number };
type Model = Schemas['Model'];
type Trial = Schemas['Trial'];
export type LearnedKind = 'looks' | 'regions' | 'skeletons';

/** Items a model is tried on before it is run over many. */
export const PREVIEWED = 4;

export const goesOn = (work: { state: string }): boolean => work.state === 'waiting' || work.state === 'working';

/** A figure with where it lies nineteen times in twenty, in per cent. */
export const percent = (of: Schemas['Interval'] | null | undefined): string =>
  of ? `${(100 * of.value).toFixed(0)} % (${(100 * of.low).toFixed(0)}–${(100 * of.high).toFixed(0)})` : '–';
/** What a word of the whole is called: `tag:KEY`, `question:KEY`, or as learned versions have it. */
export function nameOfWord(words: Words, name: string): string {
  const [about, key = ''] = name.split(':');
  if (about === 'tag') return words.itemTags.find((t) => t.key === key)?.name ?? key;
  if (key === '#tags') return 'tags';
  return words.document.attributes?.find((a) => a.key === key)?.name ?? `${key} (${about})`;
}
/** Seconds in words. */
export const lasting = (seconds: number): string =>
  seconds < 5
    ? `${seconds.toFixed(1)} s`
    : seconds < 90
      ? `${Math.round(seconds)} s`
      : seconds < 5400
        ? `${Math.round(seconds / 60)} min`
        : `${(seconds / 3600).toFixed(1)} h`;

/** The models of a project, what they would suggest, and their runs. */
export class Help {
  models = $state.raw<Model[]>([]);
  addresses = $state.raw<Schemas['Endpoint'][]>([]);
  /** what new pictures are asked of before a labeller sees them */
  stage = $state.raw<Schemas['ModelStage'] | null>(null);
  /** why that can't work any more */
  trouble = $state<string | null>(null);
  readonly list: RunList;
  trials = $state.raw<Trial[]>([]);
  /** the trial that is looked at, with its figures for a confidence */
  shown = $state.raw<Schemas['MeasuredTrial'] | null>(null);
  /** the confidence it is wanted for, which may be ahead of what is shown: a look at how far it is must not set it back */
  wanted = $state<number | null>(null);
  error = $state('');
  /** what is about to be run */
  wish = $state({
    model: null as number | null,
    from: 0.5,
    /** what is done with each thing that was found: nothing more, its outline, or what a learned model does */
    then: null as number | 'outline' | null,
    stays: 'beside' as 'beside' | 'replace' | 'without'
  });
  readonly names = new Names();
  readonly which = new Which();
  /** confidence by class, where it is not the common one */
  own = $state.raw<Record<string, number>>({});
  tried = $state.raw<Tried[]>([]);
  trying = $state(false);
  #tries = 0;
  #shows = 0;
  #closed = false;

  constructor(private readonly project: number) {
    this.list = new RunList(
      project,
      (work) => this.#attempt(work),
      () => this.#closed
    );
  }
  close(): void {
    this.#closed = true;
    this.#tries++;
  }
  get #path() {
    return { path: { project: this.project } };
  }
  get model(): Model | null {
    return this.models.find((m) => m.id === this.wish.model) ?? null;
  }
  /** Models that are asked by themselves: what only answers about objects comes then. */
  get finders(): Model[] {
    const knows = (m: Model) => m.classes.length + m.tags.length + m.questions.length > 0;
    return this.models.filter((m) => (m.kind === 'connected' || m.version !== null) && knows(m));
  }
  /** The model that comes then. */
  get then(): Model | null {
    return this.models.find((m) => m.id === this.wish.then) ?? null;
  }
  /** Nodes that are known by name, with those of what comes then. */
  get nodes(): string[] {
    return [...new Set([...(this.model?.nodes ?? []), ...(this.then?.nodes ?? [])])];
  }
  /** Keys of questions about the whole that are answered. */
  get questions(): string[] {
    return [...new Set([...(this.model?.questions ?? []), ...(this.then?.questions ?? [])])];
  }
  /** Tags by the names of who knows them. */
  get tags(): string[] {
    return [...new Set([...(this.model?.tags ?? []), ...(this.then?.tags ?? [])])];
  }
  /** Whether anything is wanted. */
  get isWanted(): boolean {
    return Object.keys(this.names.classes).length + Object.keys(this.names.tags).length + this.questions.length > 0;
  }
  /** Learned models that can come then. */
  get followers(): Model[] {
    return this.models.filter((m) => (m.kind === 'looks' || m.kind === 'skeletons') && m.version !== null && m.id !== this.wish.model);
  }
  get goesOn(): boolean {
    return this.list.runs.some(goesOn) || this.trials.some(goesOn) || this.models.some((m) => m.versions.some(goesOn));
  }
  /** From which confidence on a class is suggested. */
  least(key: string): number {
    return this.own[key] ?? this.wish.from;
  }
  /** Gives a class a confidence of its own; null: the common one again. */
  from(key: string, least: number | null): void {
    const others = Object.entries(this.own).filter(([k]) => k !== key);
    this.own = Object.fromEntries(least === null ? others : [...others, [key, least]]);
  }
  /** Words that would be suggested, of what was tried. */
  sureWords(tried: Tried): Word[] {
    return tried.words.filter((w) => w.confidence >= this.wish.from);
  }
  /** What would be suggested from the confidence that is set, of what was tried. */
  sure(tried: Tried): Thing[] {
    return tried.things.filter((t) => t.confidence >= this.least(t.class));
  }

  async load(): Promise<void> {
    await this.#attempt(async () => {
      await this.#read();
      if (!this.#closed && !this.model && this.finders[0]) this.choose(this.finders[0].id);
    });
  }
  async #read(): Promise<void> {
    const [models, runs, trials] = await Promise.all([
      ask(api.GET('/projects/{project}/models', { params: this.#path })),
      this.list.read(),
      ask(api.GET('/projects/{project}/trials', { params: this.#path }))
    ]);
    if (this.#closed) return;
    [this.models, this.addresses, this.list.runs, this.trials] = [models.data, models.addresses, runs, trials.data];
    [this.stage, this.trouble] = [models.stage, models.stage_trouble];
    // a model that has just learned something can be asked
    if (!this.model && this.finders[0]) this.choose(this.finders[0].id);
  }
  /** Looks how far all is. @returns whether anything goes on */
  async look(): Promise<boolean> {
    const open = this.shown;
    // a look that fails is followed by another
    await this.#read().catch(() => null);
    const now = this.trials.find((t) => t.id === open?.id);
    if (open && this.shown === open && now && (now.done !== open.done || now.state !== open.state))
      await this.show(now, this.wanted ?? open.figures.from);
    return this.goesOn;
  }
  choose(model: number): void {
    this.wish.model = model;
    if (this.wish.then === model) this.wish.then = null;
    this.names.take(this.model?.alike ?? null);
    this.own = {};
    this.tried = [];
  }
  /** Says which class, tag or node of the project one of the model is; '' leaves it out. */
  map(theirs: string, key: string): void {
    this.names.map(theirs, key);
    this.tried = [];
  }
  tag(theirs: string, key: string): void {
    this.names.tag(theirs, key);
    this.tried = [];
  }
  node(of: string, theirs: string, key: string): void {
    this.names.node(of, theirs, key, this.then?.alike ?? null);
    this.tried = [];
  }
  /** Says what comes then; tags it knows are taken up by name. */
  follow(then: number | 'outline' | null): void {
    this.wish.then = then;
    this.names.forgetNodes();
    const known = new Set(this.tags);
    this.names.tags = Object.fromEntries(Object.entries({ ...this.then?.alike.tags, ...this.names.tags }).filter(([t]) => known.has(t)));
    this.tried = [];
  }

  /** What the model would suggest on some items, one after the other; each shows as it comes. */
  async try(items: readonly number[]): Promise<void> {
    const { model } = this;
    if (!model) return;
    const mine = ++this.#tries;
    this.tried = [];
    this.trying = true;
    await this.#attempt(async () => {
      for (const item of items) {
        const params = { path: { project: this.project, model: model.id } };
        const found = await ask(
          api.POST('/projects/{project}/models/{model}/try', { params, body: { item, ...this.names.body, then: this.wish.then } })
        );
        if (mine !== this.#tries) return;
        this.tried = [...this.tried, found as Tried];
      }
    });
    if (mine === this.#tries) this.trying = false;
  }
  async run(): Promise<boolean> {
    const { model, wish, names, own } = this;
    const { conditions } = this.which;
    if (!model) return false;
    return this.#attempt(async () => {
      const body = { model: model.id, ...names.body, from: wish.from, own, stays: wish.stays, conditions, then: wish.then };
      this.list.add(await ask(api.POST('/projects/{project}/runs', { params: this.#path, body })));
    });
  }
  /** Measures the model on accepted items. */
  async measure(): Promise<boolean> {
    const { model, wish, names } = this;
    const { conditions } = this.which;
    if (!model) return false;
    return this.#attempt(async () => {
      const body = { model: model.id, ...names.body, from: wish.from, conditions, then: wish.then };
      const trial = await ask(api.POST('/projects/{project}/trials', { params: this.#path, body }));
      if (this.#closed) return;
      this.trials = [trial, ...this.trials];
      await this.show(trial);
    });
  }
  /** Shows a trial, at its own confidence or another; null: none any more. */
  async show(trial: Pick<Trial, 'id'> | null, from?: number): Promise<void> {
    const mine = ++this.#shows;
    this.wanted = from ?? null;
    if (!trial) {
      this.shown = null;
      return;
    }
    await this.#attempt(async () => {
      const params = { path: { project: this.project, trial: trial.id }, query: from === undefined ? {} : { from } };
      const shown = await ask(api.GET('/projects/{project}/trials/{trial}', { params }));
      if (!this.#closed && mine === this.#shows) this.shown = shown;
    });
  }
  async stopTrial(trial: Trial): Promise<void> {
    await this.#attempt(async () => {
      const params = { path: { project: this.project, trial: trial.id } };
      const now = await ask(api.POST('/projects/{project}/trials/{trial}/cancel', { params }));
      if (!this.#closed) this.trials = this.trials.map((t) => (t.id === now.id ? now : t));
    });
  }
  /** What the sentence says is asked about every new picture first; false: work begins with people again. */
  async first(on: boolean): Promise<boolean> {
    const { model, wish, names } = this;
    return this.#attempt(async () => {
      if (on && model) {
        const body = { model: model.id, ...names.body, from: wish.from, then: wish.then };
        const { stage } = await ask(api.PUT('/projects/{project}/model-stage', { params: this.#path, body }));
        if (!this.#closed) this.stage = stage;
      } else {
        await ask(api.DELETE('/projects/{project}/model-stage', { params: this.#path }));
        if (!this.#closed) this.stage = null;
      }
      await this.#read();
    });
  }
  /** Begins to learn a version from what is accepted. */
  async learn(kind: LearnedKind): Promise<boolean> {
    return this.#attempt(async () => this.#put(await ask(api.POST('/projects/{project}/learn', { params: this.#path, body: { kind } }))));
  }
  /** Stops a version that is being learned, or takes one that is done into use. */
  async version(model: Model, version: number, what: 'cancel' | 'use'): Promise<void> {
    await this.#attempt(async () => {
      const params = { path: { project: this.project, model: model.id, version } };
      this.#put(
        await ask(
          what === 'cancel'
            ? api.POST('/projects/{project}/models/{model}/versions/{version}/cancel', { params })
            : api.POST('/projects/{project}/models/{model}/versions/{version}/use', { params })
        )
      );
    });
  }
  #put(model: Model): void {
    if (this.#closed) return;
    this.models = [...this.models.filter((m) => m.id !== model.id), model].sort((a, b) => a.name.localeCompare(b.name));
  }
  /** What people have made of what a version of a model has suggested. */
  async outcome(model: number, version: number): Promise<Schemas['Outcome'] | null> {
    let found: Schemas['Outcome'] | null = null;
    await this.#attempt(async () => {
      const params = { path: { project: this.project, model, version } };
      found = await ask(api.GET('/projects/{project}/models/{model}/versions/{version}/outcome', { params }));
    });
    return this.#closed ? null : found;
  }
  /** Lets models be asked at an address; only the owner of the installation may. */
  async allow(address: string, inHouse: boolean): Promise<boolean> {
    return this.#attempt(async () => {
      const { data } = await ask(api.POST('/endpoints', { body: { address, private: inHouse } }));
      if (!this.#closed) this.addresses = data;
    });
  }
  async connect(address: string, remote: string, card: string): Promise<boolean> {
    return this.#attempt(async () => {
      let read: Record<string, unknown>;
      try {
        read = JSON.parse(card);
      } catch {
        throw new Error('the card is no JSON');
      }
      const model = await ask(api.POST('/projects/{project}/models', { params: this.#path, body: { address, remote, card: read } }));
      if (this.#closed) return;
      this.#put(model);
      this.choose(model.id);
    });
  }
  /** What a model says of itself, in words. */
  async check(model: Model): Promise<string> {
    try {
      const said = await ask(
        api.POST('/projects/{project}/models/{model}/check', { params: { path: { project: this.project, model: model.id } } })
      );
      if (said.lacks.length > 0) return `it has no output ${said.lacks.join(', ')}`;
      return said.ready ? 'it is ready' : 'it is there, but not ready';
    } catch (e) {
      return (e as Error).message;
    }
  }
  async disconnect(model: Model): Promise<void> {
    await this.#attempt(async () => {
      await ask(api.DELETE('/projects/{project}/models/{model}', { params: { path: { project: this.project, model: model.id } } }));
      if (this.#closed) return;
      this.models = this.models.filter((m) => m.id !== model.id);
      if (this.wish.then === model.id) this.wish.then = null;
      if (this.wish.model === model.id) {
        this.wish.model = null;
        if (this.finders[0]) this.choose(this.finders[0].id);
      }
    });
  }

  async #attempt(work: () => Promise<void>): Promise<boolean> {
    this.error = '';
    try {
      await work();
      return true;
    } catch (e) {
      if (!this.#closed) this.error = (e as Error).message;
      return false;
    }
  }
}
