import { api, ask } from '$lib/api/client';
import { same } from '$lib/words/same';
import type { Overlay } from '$lib/kinds/kind';
import { body, fromServer, type Mark } from '$lib/words/mark';
import type { Opened } from './opened.svelte';

/** The marks as they were when the item was last returned, for who looks at it again: what has been done about it. */
export class Earlier {
  #marks = $state.raw<ReadonlyMap<string, Mark> | null>(null);
  error = $state('');

  constructor(
    private readonly opened: Pick<Opened, 'packet' | 'editor' | 'path' | 'closed'>,
    readonly project: number
  ) {}
  /** Whether there is an earlier round to look at. */
  get isThere(): boolean {
    const { turn, decisions } = this.opened.packet;
    return turn.mode !== 'label' && turn.round > 1 && decisions.some((d) => d.decision === 'return');
  }
  async load(): Promise<void> {
    if (!this.isThere) return;
    try {
      const { marks } = await ask(api.GET('/projects/{project}/turns/{turn}/earlier', this.opened.path));
      if (!this.opened.closed) this.#marks = new Map(marks.map((m) => [m.id, fromServer(m)]));
      this.error = '';
    } catch (e) {
      this.error = (e as Error).message;
    }
  }

  /** What has come, changed and gone since. */
  readonly changes = $derived.by((): { come: Mark[]; changed: { before: Mark; after: Mark }[]; gone: Mark[] } | null => {
    const was = this.#marks;
    if (was === null) return null;
    const now = this.opened.editor.marks.all();
    const ids = new Set(now.map((m) => m.id));
    return {
      come: now.filter((m) => !was.has(m.id)),
      changed: now.flatMap((after) => {
        const before = was.get(after.id);
        return before && !same(body(before), body(after)) ? [{ before, after }] : [];
      }),
      gone: [...was.values()].filter((m) => !ids.has(m.id))
    };
  });
  readonly #overlay = $derived.by((): Overlay[] => {
    if (this.changes === null) return [];
    const marks = [...this.changes.changed.map((c) => c.before), ...this.changes.gone];
    return marks.length > 0 ? [{ name: 'before', line: 'dotted', marks }] : [];
  });
  get overlays(): readonly Overlay[] {
    return this.#overlay;
  }
}
