import type { Schemas } from '$lib/api/client';
import type { Asking } from '$lib/edits/asking.svelte';
import type { Editor } from '$lib/edits/editor.svelte';
import type { Attribute } from '$lib/words/codebook';
import type { Mark, Shape } from '$lib/words/mark';
import type { Words } from '$lib/words/words.svelte';

type Found = Schemas['Computed'];
export type ReadPorts = {
  words: Words;
  editor: Editor;
  asking: Asking;
  /** asks what is written under a mark on its page */
  ask: (mark: Mark) => Promise<Found>;
  /** the mark takes another shape, as a step of its own */
  reshape: (mark: Mark, shape: Shape) => void;
  say: (message: string) => void;
};

/** What is written under marks, as it is offered: a box that was just drawn goes close around the words, which stand in its answer until a hand takes them. */
export class Readings {
  /** marks that are being read */
  reading = $state.raw<ReadonlySet<string>>(new Set());
  #closed = false;

  constructor(private readonly ports: ReadPorts) {}
  close(): void {
    this.#closed = true;
  }

  /** The question of a class whose answer is what is written. */
  questionOf(key: string): Attribute | null {
    const asked = this.ports.words.classOf(key)?.attributes ?? [];
    return (this.ports.words.document.attributes ?? []).find((a) => a.reads && asked.includes(a.key)) ?? null;
  }
  /** Reads what is under a mark. @param snap a box goes close around it */
  async read(mark: Mark, snap: boolean): Promise<void> {
    const { asking, editor, say } = this.ports;
    const question = this.questionOf(mark.class);
    if (!question || this.reading.has(mark.id)) return;
    this.#mark(mark.id, true);
    try {
      const found = await this.ports.ask(mark);
      const now = editor.marks.get(mark.id);
      // it was redrawn, or is gone, or so is the whole item: what was read is not its words
      if (this.#closed || !now || now.geometry !== mark.geometry || !found.words) return;
      const { text, confidence, source, reason } = found.words;
      if (source === 'failed') return say(`the words of this page could not be read: ${reason}`);
      if (text === '') return snap ? undefined : say('nothing is written there, as far as it can be read');
      if (snap && found.kind === 'box' && mark.kind === 'box')
        this.ports.reshape(now, {
          kind: 'box',
          geometry: found.geometry as Schemas['Computed']['geometry'] & { x: number; y: number; width: number; height: number }
        });
      asking.propose(mark.id, question.key, {
        text: question.control === 'paragraphs' ? text : text.replace(/\s*\n\s*/g, ' '),
        how: source === 'layer' ? 'as the file has it' : `read, ${Math.round((confidence ?? 0) * 100)} % sure`,
        doubtful: source === 'read' && (confidence ?? 0) < 0.8
      });
    } catch (e) {
      if (!this.#closed) say(`the words could not be read: ${(e as Error).message}`);
    } finally {
      this.#mark(mark.id, false);
    }
  }
  #mark(id: string, on: boolean): void {
    const next = new Set(this.reading);
    if (on) next.add(id);
    else next.delete(id);
    this.reading = next;
  }
}
