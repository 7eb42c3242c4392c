import { api, ask, type Schemas } from '$lib/api/client';

/** ms between two looks at how far the reading is. */
const EVERY = 4000;

/** How far the words of a document have been read behind; a manager stops that, or has it gone on with. */
export class Behind {
  now = $state.raw<Schemas['Reading']>(null);
  /** whether this person may stop it */
  manages = $state(false);
  #timer: ReturnType<typeof setTimeout> | undefined;
  #closed = false;

  constructor(
    private readonly project: number,
    private readonly item: number,
    private readonly say: (message: string) => void
  ) {}
  get #path() {
    return { params: { path: { project: this.project, item: this.item } } };
  }
  async look(): Promise<void> {
    clearTimeout(this.#timer);
    try {
      const { data, manages } = await ask(api.GET('/projects/{project}/items/{item}/reading', this.#path));
      if (this.#closed) return;
      this.now = data;
      this.manages = manages;
    } catch {
      // what is read behind keeps nobody from working: it is looked at again later
    }
    if (!this.#closed && (this.now === null || this.now.state === 'waiting' || this.now.state === 'working'))
      this.#timer = setTimeout(() => void this.look(), EVERY);
  }
  async #ask(what: 'cancel' | 'retry'): Promise<void> {
    try {
      const { data } = await ask(
        what === 'cancel'
          ? api.POST('/projects/{project}/items/{item}/reading/cancel', this.#path)
          : api.POST('/projects/{project}/items/{item}/reading/retry', this.#path)
      );
      if (!this.#closed) this.now = data;
    } catch (e) {
      if (!this.#closed) this.say((e as Error).message);
    }
    if (!this.#closed) await this.look();
  }
  stop(): Promise<void> {
    return this.#ask('cancel');
  }
  goOn(): Promise<void> {
    return this.#ask('retry');
  }
  close(): void {
    this.#closed = true;
    clearTimeout(this.#timer);
  }
}
