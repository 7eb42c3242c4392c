import { api, ask } from '$lib/api/client';
import { same } from '$lib/words/same';
import type { Overlay } from '$lib/kinds/kind';
import { body, constant, fromServer, keyBody, keyFromServer, type Mark, type TrackKey } from '$lib/words/mark';
import type { Opened } from './opened.svelte';

/** The marks as they were when the item was last returned, for who looks at it again: what has been done about it. */
export class Earlier {
  #marks = $state.raw<ReadonlyMap<string, Mark> | null>(null);
  /** of the tracks of which anything was changed */
  #keys = $state.raw<readonly TrackKey[]>([]);
  error = $state('');

  constructor(
    private readonly opened: Pick<Opened, 'packet' | 'editor' | 'path' | 'closed'>,
    readonly project: number,
    /** whether the answer of an object to a question may change along the axis: then it is its keys that say it */
    private readonly varies: (question: string) => boolean = () => false
  ) {}
  /** Whether there is an earlier round to look at. */
  get isThere(): boolean {
    const { turn, decisions } = this.opened.packet;
    return turn.mode !== 'label' && turn.round > 1 && decisions.some((d) => d.decision === 'return');
  }
  async load(): Promise<void> {
    if (!this.isThere) return;
    try {
      const { marks, keys } = await ask(api.GET('/projects/{project}/turns/{turn}/earlier', this.opened.path));
      if (!this.opened.closed) {
        this.#keys = keys.map(keyFromServer);
        this.#marks = new Map(marks.map((m) => [m.id, fromServer(m)]));
      }
      this.error = '';
    } catch (e) {
      this.error = (e as Error).message;
    }
  }

  readonly #keysWere = $derived.by(() => {
    const of = new Map<string, TrackKey[]>();
    for (const key of this.#keys) of.set(key.mark, [...(of.get(key.mark) ?? []), key]);
    return of;
  });
  /** What has come, changed and gone since; of a track also at which places keys have. */
  readonly changes = $derived.by((): { come: Mark[]; changed: { before: Mark; after: Mark; places: number[] }[]; gone: Mark[] } | null => {
    const was = this.#marks;
    if (was === null) return null;
    const now = this.opened.editor.marks.all();
    const ids = new Set(now.map((m) => m.id));
    return {
      come: now.filter((m) => !was.has(m.id)),
      changed: now.flatMap((after) => {
        const before = was.get(after.id);
        if (!before) return [];
        const places = this.#places(after);
        return places.length > 0 || !same(this.#body(before), this.#body(after)) ? [{ before, after, places }] : [];
      }),
      gone: [...was.values()].filter((m) => !ids.has(m.id))
    };
  });
  #body(mark: Mark): unknown {
    return body(mark.stretches ? constant(mark, this.varies) : mark);
  }
  /** Where keys of a track have come, changed or gone. */
  #places(mark: Mark): number[] {
    const was = mark.stretches && this.#keysWere.get(mark.id);
    if (!was) return [];
    const now = this.opened.editor.keys.of(mark.id);
    const before = new Map(was.map((k) => [k.place, k]));
    const come = now.filter((k) => !before.has(k.place) || !same(keyBody(before.get(k.place)!), keyBody(k)));
    const there = new Set(now.map((k) => k.place));
    return [...come, ...was.filter((k) => !there.has(k.place))].map((k) => k.place).sort((a, b) => a - b);
  }
  readonly #overlay = $derived.by((): Overlay[] => {
    if (this.changes === null) return [];
    const marks = [...this.changes.changed.map((c) => c.before), ...this.changes.gone];
    return marks.length > 0 ? [{ name: 'before', line: 'dotted', marks, keys: this.#keys }] : [];
  });
  get overlays(): readonly Overlay[] {
    return this.#overlay;
  }
}
