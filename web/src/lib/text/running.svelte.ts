import { document } from '$lib/api/bytes';
import { blocksOf, type Block } from './blocks';
import { Offsets } from './offsets';
import { Tokens } from './tokens';

/** A text as the server sends it. */
export type Sent = { body: string; words: number[]; sentences: number[] };

/** A text that is worked on: its words, its tokens, and the blocks it is drawn in. */
export class Running {
  readonly offsets: Offsets;
  readonly tokens: Tokens;
  readonly blocks: readonly Block[];

  constructor({ body, words }: Sent) {
    this.offsets = new Offsets(body);
    this.tokens = new Tokens(words);
    this.blocks = blocksOf(this.offsets);
  }
  get length(): number {
    return this.offsets.length;
  }
  words(start: number, end: number): string {
    return this.offsets.words(start, end);
  }
}

/** The files of a text: it is loaded ahead of its turn like a picture. */
export class TextFile {
  running = $state.raw<Running | null>(null);
  failed = $state('');
  readonly opened: Promise<Running>;
  #stop = new AbortController();
  #closed = false;

  constructor(path: string) {
    this.opened = document<Sent>(path, this.#stop.signal).then((sent) => {
      const running = new Running(sent);
      if (!this.#closed) this.running = running;
      return running;
    });
    this.opened.catch((e: Error) => (this.failed = this.#closed ? '' : e.message));
  }
  close(): void {
    this.#closed = true;
    this.#stop.abort();
  }
}
