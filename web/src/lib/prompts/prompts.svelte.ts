import { api, ask, type Schemas } from '$lib/api/client';
import { goesOn } from '$lib/help/help.svelte';
import { RunList } from '$lib/help/runs.svelte';
import { Which } from '$lib/help/which.svelte';
import { isEmpty, keepDraft, keptDraft, sameTask, within, type Draft } from './draft';

type Version = Schemas['PromptVersion'];
type Trial = Schemas['PromptTrial'];
export type Task = Schemas['PromptTask'];
/** What is entered to connect a chat model. */
export type Connection = {
  name: string;
  address: string;
  remote: string;
  key: string;
  path: string;
  most_tokens: number;
  price: { in: number; out: number } | null;
};

/** The prompts of a project: written, tried on accepted texts, held against each other, run over the rest. */
export class Prompts {
  prompts = $state.raw<Schemas['Prompt'][]>([]);
  models = $state.raw<Schemas['ChatModel'][]>([]);
  /** all a prompt can ask for here */
  all = $state.raw<Task>({ classes: [], questions: [], tags: [] });
  trials = $state.raw<Trial[]>([]);
  readonly list: RunList;
  /** the trial that is looked at */
  shown = $state.raw<Schemas['MeasuredPromptTrial'] | null>(null);
  /** the trial it is held against */
  against = $state.raw<number | null>(null);
  error = $state('');
  draft = $state<Draft>({ name: '', model: null, task: { classes: [], questions: [], tags: [] }, words: '' });
  /** the version the draft came from; null: it is a new prompt */
  version = $state.raw<Version | null>(null);
  /** a draft that was laid aside for another */
  aside = $state.raw<Draft | null>(null);
  /** whether a hand has written what the draft says */
  hasWritten = $state(false);
  /** what the model is told, as the draft stands; null: not known */
  filled = $state.raw<string | null>(null);
  /** why the draft can't be saved as it stands */
  fault = $state('');
  /** what it is tried on and run over */
  on = $state({ limit: 100, seed: 1, stays: 'without' as 'beside' | 'replace' | 'without' });
  readonly which = new Which();
  saving = $state(false);
  /** a trial or a run is being begun: a second press would begin another */
  beginning = $state(false);
  #shows = 0;
  #fills = 0;
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
    this.#shows++;
    this.#fills++;
  }
  get #path() {
    return { path: { project: this.project } };
  }
  get goesOn(): boolean {
    return this.trials.some(goesOn) || this.list.runs.some(goesOn);
  }
  /** Whether the draft says other things than the version it came from. */
  get isChanged(): boolean {
    const { version, draft } = this;
    return (
      version === null ||
      draft.words !== version.words ||
      draft.model !== version.model ||
      draft.name !== this.nameOf(version) ||
      !sameTask(draft.task, within(version.task, this.all))
    );
  }
  get canBeSaved(): boolean {
    return this.draft.name.trim() !== '' && this.draft.model !== null && this.draft.words.trim() !== '' && !isEmpty(this.draft.task);
  }
  nameOf(version: Pick<Version, 'prompt'>): string {
    return this.prompts.find((p) => p.id === version.prompt)?.name ?? '';
  }
  /** The number its version would have when it is saved now. */
  get next(): number {
    return (this.prompts.find((p) => p.name === this.draft.name.trim())?.versions[0]?.number ?? 0) + 1;
  }

  async load(): Promise<void> {
    await this.#attempt(async () => {
      await this.#read();
      if (this.#closed) return;
      const latest = this.prompts
        .flatMap((p) => p.versions)
        .sort((a, b) => b.id - a.id)
        .at(0);
      const kept = keptDraft(this.project);
      if (kept) this.#take(kept);
      else if (latest) this.#show(latest);
      else await this.begin();
      await this.fill();
      if (this.trials[0]) await this.show(this.trials[0]);
    });
  }
  async #read(): Promise<void> {
    const params = this.#path;
    const [prompts, models] = await Promise.all([
      ask(api.GET('/projects/{project}/prompts', { params })),
      ask(api.GET('/projects/{project}/chat-models', { params })),
      this.#readWork()
    ]);
    if (!this.#closed) [this.prompts, this.all, this.models] = [prompts.data, prompts.task, models.data];
  }
  /** What changes by itself. */
  async #readWork(): Promise<void> {
    const [trials, runs] = await Promise.all([ask(api.GET('/projects/{project}/prompt-trials', { params: this.#path })), this.list.read()]);
    if (!this.#closed) [this.trials, this.list.runs] = [trials.data, runs];
  }
  /** Looks how far all is; of what is looked at the figures so far. */
  async look(): Promise<void> {
    const open = this.shown;
    // a look that fails is followed by another
    await this.#readWork().catch(() => null);
    const now = this.trials.find((t) => t.id === open?.id);
    if (open && this.shown === open && now && (now.done !== open.done || now.state !== open.state)) await this.show(now, this.against);
  }

  /** A new prompt, with words one might begin with. */
  async begin(): Promise<void> {
    this.#lay();
    this.version = null;
    const model = this.models.some((m) => m.id === this.draft.model) ? this.draft.model : (this.models[0]?.id ?? null);
    this.draft = { name: '', model, task: this.all, words: '' };
    if (isEmpty(this.all)) return;
    await this.#attempt(async () => {
      const mine = this.draft;
      const begun = await ask(api.POST('/projects/{project}/prompts/preview', { params: this.#path, body: { task: this.all } }));
      // only into what is still empty
      if (!this.#closed && this.draft === mine && mine.words === '') [this.draft.words, this.filled] = [begun.words, begun.filled];
    });
  }
  /** Takes a version to be tried, or written on. */
  open(version: Version): void {
    this.#lay();
    this.#show(version);
    keepDraft(this.project, null);
  }
  #show(version: Version): void {
    this.version = version;
    this.draft = { name: this.nameOf(version), model: version.model, task: within(version.task, this.all), words: version.words };
  }
  /** What was being written is laid aside before something else is taken. */
  #lay(): void {
    if (this.isChanged && this.hasWritten) this.aside = $state.snapshot(this.draft);
    this.hasWritten = false;
  }
  /** Takes up again what was laid aside. */
  back(): void {
    const { aside } = this;
    if (!aside) return;
    this.aside = null;
    this.#lay();
    this.#take(aside);
    this.written();
  }
  #take(draft: Draft): void {
    // the version it came from, if that is there
    this.version = this.prompts.find((p) => p.name === draft.name)?.versions[0] ?? null;
    this.draft = {
      ...draft,
      model: this.models.some((m) => m.id === draft.model) ? draft.model : null,
      task: within(draft.task, this.all)
    };
    this.hasWritten = true;
  }
  /** Something was written: it is kept in this browser until it is saved. */
  written(): void {
    this.hasWritten = this.isChanged;
    if (!keepDraft(this.project, this.isChanged ? $state.snapshot(this.draft) : null))
      this.error = 'this browser keeps nothing: save the prompt before you leave the page';
  }
  /** What the model is told, as the draft stands. */
  async fill(): Promise<void> {
    const mine = ++this.#fills;
    const { task, words } = $state.snapshot(this.draft);
    if (words.trim() === '' || isEmpty(task)) {
      [this.filled, this.fault] = [null, isEmpty(task) ? 'ask for something' : ''];
      return;
    }
    try {
      const { filled } = await ask(api.POST('/projects/{project}/prompts/preview', { params: this.#path, body: { task, words } }));
      if (mine === this.#fills) [this.filled, this.fault] = [filled, ''];
    } catch (e) {
      if (mine === this.#fills) [this.filled, this.fault] = [null, (e as Error).message];
    }
  }
  /** Saves the draft as a version, where it is none yet. @returns it; null: it was refused */
  async save(): Promise<Version | null> {
    if (!this.isChanged) return this.version;
    const { model, ...rest } = $state.snapshot(this.draft);
    if (!this.canBeSaved || model === null || this.saving) return null;
    this.saving = true;
    let saved: Version | null = null;
    await this.#attempt(async () => {
      saved = await ask(api.POST('/projects/{project}/prompts', { params: this.#path, body: { ...rest, name: rest.name.trim(), model } }));
      const prompts = await ask(api.GET('/projects/{project}/prompts', { params: this.#path }));
      if (this.#closed) return;
      [this.prompts, this.all] = [prompts.data, prompts.task];
      this.version = saved;
      // what was written meanwhile is not saved, and stays
      if (this.draft.name.trim() === rest.name.trim()) this.draft.name = rest.name.trim();
      this.written();
    });
    this.saving = false;
    return saved;
  }

  /** Tries the draft, saved first: on accepted texts drawn by the seed, or on those of a trial. */
  async try(as: number | null = null): Promise<boolean> {
    return this.#begin(async (version) => {
      const { limit, seed } = this.on;
      const body = { version: version.id, ...(as === null ? { conditions: this.which.conditions, limit, seed } : { as }) };
      const trial = await ask(api.POST('/projects/{project}/prompt-trials', { params: this.#path, body }));
      if (this.#closed) return;
      this.trials = [trial, ...this.trials];
      await this.show(trial, as);
    });
  }
  /** Shows a trial, perhaps held against another; null: none any more. */
  async show(trial: Pick<Trial, 'id'> | null, against: number | null = null): Promise<void> {
    const mine = ++this.#shows;
    this.against = trial === null ? null : against;
    if (!trial) {
      this.shown = null;
      return;
    }
    await this.#attempt(async () => {
      const params = { path: { project: this.project, trial: trial.id }, query: against === null ? {} : { against } };
      const shown = await ask(api.GET('/projects/{project}/prompt-trials/{trial}', { params }));
      if (!this.#closed && mine === this.#shows) this.shown = shown;
    });
  }
  /** Stops a trial, or goes on with it. */
  async act(trial: Pick<Trial, 'id'>, what: 'cancel' | 'resume'): Promise<void> {
    await this.#attempt(async () => {
      const params = { path: { project: this.project, trial: trial.id } };
      const now = await ask(
        what === 'cancel'
          ? api.POST('/projects/{project}/prompt-trials/{trial}/cancel', { params })
          : api.POST('/projects/{project}/prompt-trials/{trial}/resume', { params })
      );
      if (this.#closed) return;
      this.trials = this.trials.map((t) => (t.id === now.id ? now : t));
      if (this.shown?.id === now.id) await this.show(now, this.against);
    });
  }
  /** What the rest may cost and take, going by the trial that is looked at; null: it was another version, or nobody counts. */
  expected(rest: number): { cost: number | null; seconds: number } | null {
    const { shown, version } = this;
    if (!shown || !version || this.isChanged || shown.version !== version.id || shown.figures.items === 0) return null;
    const { cost, items, uncounted, seconds } = shown.figures;
    const counted = items - uncounted;
    return { cost: cost === null || counted === 0 ? null : (cost / counted) * rest, seconds: (seconds / shown.done) * rest };
  }
  /** Runs the draft, saved first, over texts that are not accepted. */
  async run(): Promise<boolean> {
    return this.#begin(async (version) => {
      const body = { version: version.id, stays: this.on.stays, conditions: this.which.conditions };
      this.list.add(await ask(api.POST('/projects/{project}/prompts/run', { params: this.#path, body })));
    });
  }

  /** Connects a chat model, or changes the one of its name; its key goes to the server and is forgotten here. */
  async connect(of: Connection): Promise<boolean> {
    return this.#attempt(async () => {
      const body = { ...of, key: of.key === '' ? null : of.key };
      const model = await ask(api.POST('/projects/{project}/chat-models', { params: this.#path, body }));
      if (this.#closed) return;
      this.models = [...this.models.filter((m) => m.id !== model.id), model].sort((a, b) => a.name.localeCompare(b.name));
      this.draft.model ??= model.id;
    });
  }
  async disconnect(model: Schemas['ChatModel']): Promise<void> {
    await this.#attempt(async () => {
      await ask(api.DELETE('/projects/{project}/chat-models/{model}', { params: { path: { project: this.project, model: model.id } } }));
      if (this.#closed) return;
      if (this.draft.model === model.id) this.draft.model = null;
      await this.#read();
    });
  }

  async #begin(work: (version: Version) => Promise<void>): Promise<boolean> {
    if (this.beginning) return false;
    this.beginning = true;
    const version = await this.save();
    const begun = version !== null && (await this.#attempt(() => work(version)));
    this.beginning = false;
    return begun;
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
