import { api, ask, type Schemas } from '$lib/api/client';
import type { Anchor } from '$lib/kinds/kind';
import type { Opened } from './opened.svelte';

/** What is being written: a question, why the item is set aside or returned, what is wrong at a spot. */
export type Writing = 'ask' | 'park' | 'return' | 'pin';
type Story = { action: string; by: string; at: string; revision: number };

/** What people say to each other about an item: pins, questions, and what is being written. A text is kept until it has arrived. */
export class Talk {
  writing = $state<Writing | null>(null);
  text = $state('');
  /** where the pin sits that is being written */
  at = $state.raw<Anchor | null>(null);
  sending = $state(false);
  /** what became of a mark, newest first */
  story = $state.raw<Story[] | null>(null);

  constructor(
    private readonly opened: Pick<Opened, 'packet' | 'path' | 'kept' | 'hand' | 'closed'>,
    private readonly project: number,
    private readonly say: (message: string) => void
  ) {
    const begun = opened.kept.get<{ writing: Writing; at: Anchor | null }>('writing');
    if (begun === null || opened.packet.turn.mode === 'look') return;
    this.at = begun.at;
    this.open(begun.writing);
  }

  /** Opens the form; what was written there before is still in it. */
  open(what: Writing): void {
    this.keep();
    this.writing = what;
    this.text = this.opened.kept.get<string>(`text-${what}`) ?? '';
    this.opened.kept.set('writing', { writing: what, at: this.at });
  }
  /** Closes it and keeps what is written. */
  close(): void {
    this.keep();
    this.writing = null;
    this.at = null;
    this.opened.kept.set('writing', null);
  }
  keep(): void {
    if (this.writing) this.opened.kept.set(`text-${this.writing}`, this.text === '' ? null : this.text);
  }
  /** A pin is to be written at a place; null: not any more. */
  pin(at: Anchor | null): void {
    if (at === null) return this.close();
    this.at = at;
    this.open('pin');
  }

  /**
   * Sends what is written. Only when it has arrived the form is emptied and closed.
   *
   * @param elsewhere sends what belongs to a step of the workflow: park, return
   */
  async send(elsewhere: (what: 'park' | 'return', text: string) => Promise<boolean>): Promise<void> {
    const [what, text, at] = [this.writing, this.text.trim(), this.at];
    if (what === null || this.sending || (text === '' && what !== 'return')) return;
    this.keep();
    this.sending = true;
    try {
      if (what === 'pin') await this.#pin(at, text);
      else if (what === 'ask') await this.#ask(text);
      else if (!(await elsewhere(what, text))) return;
      this.opened.kept.set(`text-${what}`, null);
      if (this.writing === what) {
        this.text = '';
        this.close();
      }
    } catch (e) {
      this.say(`${(e as Error).message}; what you wrote is still there`);
    } finally {
      this.sending = false;
    }
  }
  async #pin(at: Anchor | null, text: string): Promise<void> {
    if (at === null) return;
    const near = (n: number) => Math.round(n * 100) / 100;
    const where = at.x === null || at.y === null ? { offset: at.offset ?? 0 } : { x: near(at.x), y: near(at.y) };
    const body = { ...where, mark: at.mark, text, ...(typeof at.place === 'number' && { place: at.place }) };
    const pin = await ask(api.POST('/projects/{project}/turns/{turn}/pins', { ...this.opened.path, body }));
    this.opened.packet = { ...this.opened.packet, pins: [...this.opened.packet.pins, pin] };
  }
  /** Asks something about the item, or the mark in hand; the answer comes to stand here. */
  async #ask(text: string): Promise<void> {
    const asked = await ask(
      api.POST('/projects/{project}/proposals', {
        params: { path: { project: this.project } },
        body: { kind: 'question', text, turn: this.opened.packet.turn.id, mark: this.opened.hand.selected }
      })
    );
    this.opened.packet = { ...this.opened.packet, questions: [...this.opened.packet.questions, asked] };
  }
  async unpin(pin: Schemas['Pin']): Promise<void> {
    try {
      const path = { ...this.opened.path.params.path, pin: pin.id };
      await ask(api.DELETE('/projects/{project}/turns/{turn}/pins/{pin}', { params: { path } }));
      this.opened.packet = { ...this.opened.packet, pins: this.opened.packet.pins.filter((p) => p.id !== pin.id) };
    } catch (e) {
      this.say((e as Error).message);
    }
  }

  async showStory(mark: string): Promise<void> {
    try {
      const path = { ...this.opened.path.params.path, mark };
      const { data } = await ask(api.GET('/projects/{project}/turns/{turn}/marks/{mark}/history', { params: { path } }));
      if (this.opened.hand.selected !== mark) return;
      this.story = data.map((h) => ({ action: h.action, by: h.by ?? 'import', at: h.at, revision: h.revision }));
    } catch (e) {
      this.say((e as Error).message);
    }
  }
}
