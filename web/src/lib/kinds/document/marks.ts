import type { Draft, Editor } from '$lib/edits/editor.svelte';
import type { Mark } from '$lib/words/mark';

/** The marks of a document as they are on one of its pages: those of the others are away, and what is drawn lies on that page. */
export class PageMarks {
  #page = 0;
  #putting = false;
  #end: () => void;

  constructor(private readonly editor: Editor) {
    this.#end = editor.marks.on((changes) => {
      this.#byPage = null;
      if (!this.#putting) this.#refresh(changes.flatMap((c) => (c.after ? c.id : [])));
    });
    editor.through = (draft) => [this.#through(draft)];
    this.#refresh(editor.marks.ids);
  }
  close(): void {
    this.editor.through = null;
    this.#end();
  }
  show(page: number): void {
    this.#page = page;
    this.#refresh(this.editor.marks.ids);
  }
  #byPage: Map<number, Mark[]> | null = null;
  /** Marks on a page. */
  on(page: number): readonly Mark[] {
    if (this.#byPage === null) {
      this.#byPage = new Map();
      for (const mark of this.editor.marks.all())
        if (mark.place !== null) {
          const there = this.#byPage.get(mark.place);
          if (there) there.push(mark);
          else this.#byPage.set(mark.place, [mark]);
        }
    }
    return this.#byPage.get(page) ?? [];
  }

  #refresh(ids: Iterable<string>): void {
    const list: { id: string; mark: Mark }[] = [];
    for (const id of ids) {
      const mark = this.editor.marks.get(id);
      if (!mark || mark.place === null) continue;
      const away = mark.place !== this.#page;
      if ((mark.away ?? false) !== away) list.push({ id, mark: { ...mark, away } });
    }
    if (list.length === 0) return;
    this.#putting = true;
    try {
      this.editor.marks.put(list);
    } finally {
      this.#putting = false;
    }
  }
  #through(draft: Draft): Draft {
    const { before, after } = draft;
    // what comes back by undo is on the page it was on
    if (before !== null || after === null || !('class' in after) || draft.placed || this.editor.isGone(draft.subject)) return draft;
    // what was suggested is where it was found, whichever page is in hand
    const found = draft.suggestion !== undefined ? (after as Mark).place : null;
    const place = found ?? this.#page;
    return { ...draft, after: { ...(after as Mark), place, away: place !== this.#page } };
  }
}
