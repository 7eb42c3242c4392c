import { api, ask, type Schemas } from '$lib/api/client';
import { goesOn } from '$lib/help/help.svelte';
import { differences, type Difference } from './differences';

type Text = Schemas['ComparedText'];
type Row = Schemas['TriedText'];
export type Which = 'all' | 'wrong' | 'changed';

/** A text of a trial beside what is known of it, and beside what another version said: from one difference to the next. */
export class Beside {
  trial = $state.raw<Schemas['MeasuredPromptTrial'] | null>(null);
  which = $state<Which>('wrong');
  /** id of the item that is looked at */
  item = $state.raw<number | null>(null);
  now = $state.raw<Text | null>(null);
  before = $state.raw<Text | null>(null);
  /** the difference that is looked at, by its place in the text */
  at = $state(0);
  error = $state('');
  #closed = false;
  #asks = 0;
  /** texts that were read, and are being read: nobody waits for one twice */
  #read = new Map<string, Promise<Text>>();

  constructor(
    private readonly project: number,
    private readonly id: number,
    private readonly against: number | null
  ) {}
  close(): void {
    this.#closed = true;
    this.#asks++;
  }
  get goesOn(): boolean {
    return this.trial !== null && goesOn(this.trial);
  }
  readonly #changed = $derived(new Map(this.trial?.against?.changed.map((c) => [c.item, c]) ?? []));
  changed(item: number): { better: number; worse: number } | null {
    return this.#changed.get(item) ?? null;
  }
  readonly texts: Row[] = $derived(
    (this.trial?.texts ?? []).filter(
      (t) =>
        this.which === 'all' ||
        (this.which === 'changed' ? this.#changed.has(t.item) : t.failed !== '' || t.missing + t.extra + t.bounded + t.wrong > 0)
    )
  );
  readonly list: Difference[] = $derived(this.now ? differences(this.now, this.before) : []);
  get difference(): Difference | null {
    return this.list[this.at] ?? null;
  }
  get place(): number {
    return this.texts.findIndex((t) => t.item === this.item);
  }

  /** @param item to begin with; null: the first */
  async load(item: number | null = null): Promise<void> {
    const first = this.trial === null;
    try {
      const params = { path: { project: this.project, trial: this.id }, query: this.against === null ? {} : { against: this.against } };
      const trial = await ask(api.GET('/projects/{project}/prompt-trials/{trial}', { params }));
      if (this.#closed) return;
      [this.trial, this.error] = [trial, ''];
    } catch (e) {
      if (!this.#closed) this.error = (e as Error).message;
      return;
    }
    if (first && this.against !== null) this.which = 'changed';
    if (first && item !== null && !this.texts.some((t) => t.item === item)) this.which = 'all';
    if (this.item === null) await this.go(item ?? this.texts[0]?.item ?? null);
  }
  /** Goes to a text. @param last to its last difference, coming from behind */
  async go(item: number | null, last = false): Promise<void> {
    if (item === null) return;
    const mine = ++this.#asks;
    [this.item, this.error] = [item, ''];
    try {
      const [now, before] = await Promise.all([this.#text(this.id, item), this.against === null ? null : this.#text(this.against, item)]);
      if (mine !== this.#asks) return;
      [this.now, this.before] = [now, before];
      this.at = last ? Math.max(0, this.list.length - 1) : 0;
    } catch (e) {
      // the one before must not stand there as if it was this
      if (mine === this.#asks) [this.now, this.before, this.error] = [null, null, (e as Error).message];
      return;
    }
    // the next is there when it is asked for
    const next = this.texts[this.place + 1]?.item;
    if (next === undefined) return;
    void this.#text(this.id, next).catch(() => null);
    if (this.against !== null) void this.#text(this.against, next).catch(() => null);
  }
  /** From one difference to the next, through all the texts. */
  async step(by: 1 | -1): Promise<void> {
    const at = this.at + by;
    if (at >= 0 && at < this.list.length) {
      this.at = at;
      return;
    }
    await this.turn(by, by < 0);
  }
  /** From one text to the next. */
  async turn(by: 1 | -1, last = false): Promise<void> {
    const next = this.texts[this.place < 0 ? 0 : this.place + by];
    if (next) await this.go(next.item, last);
  }
  show(which: Which): void {
    this.which = which;
    if (this.place < 0) void this.go(this.texts[0]?.item ?? null);
  }

  #text(trial: number, item: number): Promise<Text> {
    const key = `${trial} ${item}`;
    const known = this.#read.get(key);
    if (known) return known;
    const params = { path: { project: this.project, trial, item } };
    const asked = ask(api.GET('/projects/{project}/prompt-trials/{trial}/texts/{item}', { params }));
    this.#read.set(key, asked);
    // what failed is asked for again, and a few texts are kept: they may be long
    asked.catch(() => this.#read.delete(key));
    for (const old of [...this.#read.keys()].slice(0, -12)) this.#read.delete(old);
    return asked;
  }
}
