import { api, ask, type Schemas } from '$lib/api/client';

export type Thing = { class: string; kind: string; geometry: Schemas['Geometry']; confidence: number };
export type Tried = { item: Schemas['Item']; things: Thing[]; found: number };
type Model = Schemas['Model'];
type Run = Schemas['Run'];

/** Items a model is tried on before it is run over many. */
export const PREVIEWED = 4;

export const goesOn = (run: Run): boolean => run.state === 'waiting' || run.state === 'working';

/** The models of a project, what they would suggest, and their runs. */
export class Help {
  models = $state.raw<Model[]>([]);
  addresses = $state.raw<Schemas['Endpoint'][]>([]);
  runs = $state.raw<Run[]>([]);
  error = $state('');
  /** what is about to be run */
  wish = $state({
    model: null as number | null,
    set: null as string | null,
    from: 0.5,
    stays: 'beside' as 'beside' | 'replace' | 'without'
  });
  /** keys of the project's classes by the model's names; what is not there is left out */
  classes = $state.raw<Record<string, string>>({});
  tried = $state.raw<Tried[]>([]);
  trying = $state(false);
  #tries = 0;
  #closed = false;

  constructor(private readonly project: number) {}
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
  get conditions(): string[] {
    return this.wish.set === null ? [] : [`set:${this.wish.set}`];
  }
  /** What would be suggested from the confidence that is set, of what was tried. */
  sure(tried: Tried): Thing[] {
    return tried.things.filter((t) => t.confidence >= this.wish.from);
  }

  async load(): Promise<void> {
    await this.#attempt(async () => {
      const [models, runs] = await Promise.all([
        ask(api.GET('/projects/{project}/models', { params: this.#path })),
        ask(api.GET('/projects/{project}/runs', { params: this.#path }))
      ]);
      if (this.#closed) return;
      [this.models, this.addresses, this.runs] = [models.data, models.addresses, runs.data];
      if (!this.model && this.models[0]) this.choose(this.models[0].id);
    });
  }
  /** Looks how far runs are. @returns whether any goes on */
  async look(): Promise<boolean> {
    // a look that fails is followed by another
    const found = await ask(api.GET('/projects/{project}/runs', { params: this.#path })).catch(() => null);
    if (found && !this.#closed) this.runs = found.data;
    return this.runs.some(goesOn);
  }
  choose(model: number): void {
    this.wish.model = model;
    this.classes = this.model?.alike ?? {};
    this.tried = [];
  }
  /** Says which class of the project one of the model is; '' leaves it out. */
  map(theirs: string, key: string): void {
    const others = Object.entries(this.classes).filter(([name]) => name !== theirs);
    this.classes = Object.fromEntries(key === '' ? others : [...others, [theirs, key]]);
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
        const found = await ask(api.POST('/projects/{project}/models/{model}/try', { params, body: { item, classes: this.classes } }));
        if (mine !== this.#tries) return;
        this.tried = [...this.tried, found as Tried];
      }
    });
    if (mine === this.#tries) this.trying = false;
  }
  async run(): Promise<boolean> {
    const { model, wish, classes, conditions } = this;
    if (!model) return false;
    return this.#attempt(async () => {
      const body = { model: model.id, classes, from: wish.from, stays: wish.stays, conditions };
      const run = await ask(api.POST('/projects/{project}/runs', { params: this.#path, body }));
      if (!this.#closed) this.runs = [run, ...this.runs];
    });
  }
  /** Pauses, goes on, stops or takes back. */
  async act(run: Run, what: 'pause' | 'resume' | 'cancel' | 'take-back'): Promise<void> {
    await this.#attempt(async () => {
      const params = { path: { project: this.project, run: run.id } };
      const now = await ask(api.POST(`/projects/{project}/runs/{run}/${what}` as '/projects/{project}/runs/{run}/pause', { params }));
      if (!this.#closed) this.runs = this.runs.map((r) => (r.id === now.id ? now : r));
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
      this.models = [...this.models.filter((m) => m.id !== model.id), model];
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
      if (this.wish.model === model.id) {
        this.wish.model = null;
        if (this.models[0]) this.choose(this.models[0].id);
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
