import { TextFile, Running, type Sent } from '$lib/text/running.svelte';
import { Phrases } from '$lib/text/alike.svelte';
import { TextSurface } from '$lib/kinds/text/surface.svelte';
import type { BenchPorts, Item } from '$lib/kinds/kind';
import type { Document } from '$lib/words/codebook';
import type { Mark } from '$lib/words/mark';
import { mark, onBench, PICTURE, wordsOf } from './plane';

/** A text as the server sends it, its tokens cut at spaces and signs, as far as tests need it. */
export function sent(body: string): Sent {
  const words: number[] = [];
  let [at, unit] = [0, 0];
  for (const found of body.matchAll(/[\p{L}\p{N}\p{M}'’]+|[^\s\p{L}\p{N}\p{M}]/gu)) {
    const start = at + [...body.slice(unit, found.index)].length;
    const length = [...found[0]].length;
    words.push(start - at, length);
    at = start + length;
    unit = found.index + found[0].length;
  }
  return { body, words, sentences: words.length > 0 ? [words.length / 2] : [] };
}
export const running = (body: string): Running => new Running(sent(body));

export const scouts: Document = {
  skeno: 'codebook/1',
  classes: [
    { key: 'pest', name: 'Pest', shapes: ['span'], attributes: ['alive'] },
    { key: 'count', name: 'Count', shapes: ['span'] },
    { key: 'block', name: 'Block', shapes: ['span', 'box'] },
    { key: 'leaf', name: 'Leaf', shapes: ['box'] }
  ],
  attributes: [{ key: 'alive', name: 'Alive', type: 'yesno', scope: 'object' }],
  relations: [
    { key: 'counted', name: 'of', from: ['count'], to: ['pest'] },
    { key: 'near', name: 'near', from: ['pest', 'block'], to: ['block', 'pest'] }
  ]
};
export const wordsOfScouts = () => wordsOf(scouts);
export const span = (id: string, key: string, start: number, end: number): Mark =>
  mark(id, { kind: 'span', geometry: { start, end } }, { class: key });
export const join = (id: string, key: string, from: string, to: string): Mark =>
  mark(id, { kind: 'relation', geometry: { from, to } }, { class: key });

/** A text as it lies on the bench, without bench or server. */
export async function read(body: string, marks: Mark[] = [], more: { mode?: 'label' | 'review' | 'look'; phrases?: Phrases } = {}) {
  globalThis.fetch = () => Promise.resolve(new Response(JSON.stringify(sent(body)), { headers: { 'Content-Type': 'application/json' } }));
  const it = onBench({ marks, document: scouts, active: 'pest' });
  it.words.drawnAs = ['span'];
  const pages: (string | null)[] = [];
  const pins: unknown[] = [];
  const file = new TextFile('/text');
  const ports = {
    ...it,
    project: 3,
    user: 1,
    turn: 5,
    mode: more.mode ?? 'label',
    pins: () => [],
    overlays: () => [],
    say: (message: string) => void it.messages.push(message),
    phrases: () => Promise.resolve([]),
    page: (name: string | null) => void pages.push(name),
    pin: (at: unknown) => void pins.push(at)
  } as unknown as BenchPorts;
  const item = {
    ...PICTURE,
    kind: 'text',
    path: 'a',
    text: { length: [...body].length, encoding: 'UTF-8', format: 'txt', path: '/text' }
  } as unknown as Item;
  await file.opened;
  const surface = new TextSurface(item, file, ports, more.phrases ?? new Phrases());
  await Promise.resolve();
  const caps = () => {
    const { tools, verbs, view } = surface.caps();
    return Object.fromEntries([...tools, ...verbs.caps, ...view.caps].map((c) => [c.code, c]));
  };
  const key = (code: string, init: KeyboardEventInit = {}): boolean => {
    const e = new KeyboardEvent('keydown', { code, ...init });
    const taken = surface.keys.press!(e);
    if (!taken) caps()[code]?.press();
    return taken;
  };
  const up = (code: string) => surface.keys.release!(new KeyboardEvent('keyup', { code }));
  /** what is marked, in words */
  const said = () =>
    it.editor.marks
      .all()
      .map((m) =>
        m.kind === 'span' ? `${m.class}: ${surface.running.words(m.geometry.start, m.geometry.end)}` : `${m.class} ${surface.short(m)}`
      );
  const at = () => (surface.range ? surface.running.words(surface.range.start, surface.range.end) : '');
  return { ...it, surface, key, up, caps, said, at, pages, pins };
}
