import { api, ask, type Schemas } from '$lib/api/client';
import type { Layer } from '$lib/keys/layers';
import type { Bench } from './bench.svelte';

/** What is open round the item: class board, forms, panels, the handbook; and what keys do there. */
export class BenchShell {
  board = $state<number | null>(null);
  shift = $state(false);
  finding = $state(false);
  going = $state(false);
  viewing = $state(false);
  map = $state(false);
  book = $state.raw<Schemas['Handbook'] | null>(null);
  /** name of a class that is about to be proposed */
  wish = $state('');
  /** the open question is written, and its field was left by Esc */
  #unwritten = $state<string | null>(null);

  /**
   * @param stage where keys are wanted when no field is open
   * @param leave goes back to the list this item was opened from; null when it was not opened from one
   */
  constructor(
    private readonly bench: Bench,
    private readonly stage: () => HTMLElement | null,
    private readonly leave: (() => void) | null
  ) {}

  toStage = (): void => this.stage()?.focus({ preventScroll: true });

  /** The field that is being written in. */
  #field(): HTMLElement | null {
    if (this.finding || this.going || this.bench.opened?.talk.writing) return document.querySelector<HTMLElement>('[data-field]');
    const open = this.bench.opened?.asking.open;
    return open && open.key !== this.#unwritten ? document.querySelector<HTMLElement>('[data-answer]') : null;
  }
  /** Goes to the field in which the answer is written. */
  write = (): void => {
    this.#unwritten = null;
    document.querySelector<HTMLElement>('[data-answer]')?.focus();
  };

  async openBook(): Promise<void> {
    if (this.book !== null) {
      this.book = null;
      return;
    }
    try {
      this.book = await ask(api.GET('/projects/{project}/handbook', { params: { path: { project: this.bench.project } } }));
    } catch (e) {
      this.bench.say((e as Error).message);
    }
  }
  async propose(name: string): Promise<void> {
    this.finding = false;
    if (this.book === null) await this.openBook();
    this.wish = name;
  }

  /** Fields first: what is typed is for them. */
  readonly fields: Layer = {
    field: () => this.#field(),
    escape: () => {
      const { opened } = this.bench;
      if (this.finding) this.finding = false;
      else if (this.going) this.going = false;
      else if (opened?.talk.writing) opened.talk.close();
      else if (document.activeElement?.matches('[data-answer]')) this.#unwritten = opened?.asking.question ?? null;
      else return false;
      this.toStage();
      return true;
    }
  };
  /** Pages of the deck and the open question, over the kind's own keys. */
  readonly pages: Layer = {
    press: (e) => {
      if (e.key === 'Shift') this.shift = true;
      if ((e.code !== 'Enter' && e.code !== 'NumpadEnter') || e.ctrlKey || e.metaKey) return false;
      const { opened } = this.bench;
      if (opened?.asking.open) opened.asking.openNext(false);
      else if (this.bench.page !== null) this.bench.page = null;
      else return false;
      return true;
    },
    release: (e) => {
      if (e.key === 'Shift') this.shift = false;
    },
    escape: () => {
      const { opened } = this.bench;
      if (this.viewing) this.viewing = false;
      else if (opened?.talk.story) opened.talk.story = null;
      else if (this.board !== null) this.board = null;
      else if (opened?.asking.open) opened.asking.question = null;
      else if (this.bench.page !== null) this.bench.page = null;
      else return false;
      return true;
    }
  };
  /** What is left of the keyboard. */
  readonly base: Layer = {
    press: (e) => {
      const { opened } = this.bench;
      if (!opened) return false;
      if (e.ctrlKey || e.metaKey) {
        if (e.code !== 'KeyZ') return false;
        if (e.shiftKey) opened.editor.redo();
        else opened.editor.undo();
        return true;
      }
      if (e.altKey) return false;
      if (e.key === '?') this.map = true;
      else if (e.key === '/') this.finding = true;
      else if (e.code === 'End') this.going = true;
      else if (e.code === 'PageDown' || e.code === 'PageUp') {
        opened.hand.walk(e.code === 'PageDown' ? 1 : -1);
        if (opened.editable) opened.surface.picking();
      } else return false;
      return true;
    },
    escape: () => {
      const { opened } = this.bench;
      if (opened?.surface.pinning) opened.surface.pinning = false;
      else if (opened && opened.hand.selected !== null) opened.hand.select(null);
      else if (this.book !== null) this.book = null;
      else if (this.bench.message !== '') this.bench.message = '';
      else if (this.leave) this.leave();
      else return false;
      return true;
    }
  };
}
