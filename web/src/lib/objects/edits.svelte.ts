import type { Schemas } from '$lib/api/client';
import { Editor, saidSubject } from '$lib/edits/editor.svelte';
import { BESIDE, Outbox } from '$lib/edits/outbox.svelte';
import { fromServer, saidFromServer, type Mark, type Said } from '$lib/words/mark';
import { Words } from '$lib/words/words.svelte';

export type Found = Schemas['ProjectObject'];
export type ItemFound = Schemas['ItemSaid'];

/**
 * Changes of marks on many items, beside the turns, on the bench's own editor and outbox. What the server knew of an object when it was listed
 * stays as it is; what was made of it since is here.
 */
export class ObjectEdits {
  message = $state('');
  readonly words: Words;
  readonly outbox: Outbox;
  readonly editor: Editor;

  /** @param refused something was not taken and it is not known what is there: it has to be listed again */
  constructor(
    readonly project: number,
    user: number,
    private readonly refused: () => void = () => {}
  ) {
    this.words = new Words(project);
    this.outbox = Outbox.of(user);
    this.editor = new Editor({ project, turn: BESIDE, user }, this.words, this.outbox, (answer, _, unsure) => {
      if (unsure) this.refused();
      if (answer.codebook_version !== this.words.version) void this.words.load().catch((e: Error) => (this.message = e.message));
    });
  }
  async start(): Promise<void> {
    await Promise.all([this.words.load(), this.outbox.adopt()]);
    // what a crash left unsent is on its way before anything is listed; without a network the list is asked for all the same
    await this.outbox.arrived(this.project, BESIDE, 3000).catch(() => {});
  }
  close(): void {
    this.editor.close();
  }

  /** The mark as it is now; null when it has been deleted. */
  now(object: Found): Mark | null {
    if (this.editor.isGone(object.mark.id)) return null;
    return this.editor.marks.get(object.mark.id) ?? fromServer(object.mark);
  }
  /** What is said of an item now. */
  saidNow({ item, said }: ItemFound): Said {
    return this.editor.saidOf(item.id) ?? saidFromServer(said);
  }

  /** Makes each object something else; null takes it away. @returns how many changed */
  change(objects: Found[], become: (mark: Mark) => Mark | null): number {
    return this.editor.change(
      objects.flatMap((object) => {
        const before = this.now(object);
        const after = before && become(before);
        if (before === null || after === before) return [];
        return [{ subject: object.mark.id, item: object.item.id, revision: object.mark.revision, before, after }];
      })
    );
  }
  /** Says something else of an item. */
  say(found: ItemFound, after: Said): number {
    const { item, said } = found;
    return this.editor.change([
      { subject: saidSubject(item.id), item: item.id, revision: said.revision, before: this.saidNow(found), after }
    ]);
  }
  get canUndo(): boolean {
    return this.editor.canUndo;
  }
  /** Takes the last change back. @returns the marks it was of */
  undo(): string[] {
    return this.editor.undo().map((s) => s.subject);
  }
  redo(): string[] {
    return this.editor.redo().map((s) => s.subject);
  }
}
