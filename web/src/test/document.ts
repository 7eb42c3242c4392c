import { Drawing } from '$lib/plane/drawing.svelte';
import { Show } from '$lib/plane/show.svelte';
import type { Kept } from '$lib/edits/kept';
import { Book } from '$lib/kinds/document/book.svelte';
import { DocumentSurface } from '$lib/kinds/document/surface.svelte';
import type { BenchPorts, Item } from '$lib/kinds/kind';
import type { Document } from '$lib/words/codebook';
import type { Box, Mark } from '$lib/words/mark';
import { mark, onBench, PICTURE } from './plane';

/** Images that come when they are told to. */
export class Late {
  static all: Late[] = [];
  onload: (() => void) | null = null;
  onerror: (() => void) | null = null;
  src = '';
  constructor() {
    Late.all.push(this);
  }
  static of(page: number): Late | undefined {
    return Late.all.find((image) => image.src.includes(`place=${page}&`));
  }
}
export const tickets: Document = {
  skeno: 'codebook/1',
  classes: [
    { key: 'weight', name: 'Weight line', shapes: ['box'], attributes: ['written'] },
    { key: 'signature', name: 'Signature', shapes: ['box'] }
  ],
  attributes: [
    { key: 'written', name: 'What is written', type: 'text', scope: 'object', required: true, reads: true },
    {
      key: 'kind',
      name: 'Kind of page',
      type: 'one',
      scope: 'page',
      required: true,
      options: [
        { key: 'front', name: 'Front' },
        { key: 'lines', name: 'Lines' }
      ]
    },
    { key: 'count', name: 'Lines', type: 'number', scope: 'page', required: true, when: [{ attribute: 'kind', any: ['lines'] }] }
  ],
  tags: [
    { key: 'wet', name: 'Wet', scope: 'page', group: 'state' },
    { key: 'dry', name: 'Dry', scope: 'page', group: 'state' }
  ]
};
export const on = (id: string, page: number, box: [number, number, number, number] = [10, 10, 30, 20], more: Partial<Mark> = {}): Mark =>
  mark(id, box, { class: 'weight', place: page, ...more });

type Options = { runs?: number[][]; marks?: Mark[]; compute?: BenchPorts['compute']; mode?: 'label' | 'look'; kept?: Kept };
/** A document as it lies on the bench, without bench or server. */
export function opened({ runs = [[400, 600, 3]], marks = [], compute, mode = 'label', kept }: Options = {}) {
  const it = onBench({ marks, document: tickets, active: 'weight', ...(kept && { kept }) });
  const deck: (string | null)[] = [];
  const item = {
    ...PICTURE,
    width: runs[0]![0],
    height: runs[0]![1],
    kind: 'document',
    document: { pages: runs.reduce((n, r) => n + r[2]!, 0), sheets: runs, resolution: 150, format: 'pdf', path: '/page?v=1' }
  } as unknown as Item;
  const ports = {
    ...it,
    project: 3,
    user: 1,
    turn: 5,
    mode,
    pins: () => [],
    overlays: () => [],
    compute: compute ?? (() => Promise.reject(new Error('nobody computes here'))),
    fits: [],
    tellSeen: () => Promise.resolve(),
    page: (name: string | null) => void deck.push(name),
    pin: () => {}
  } as unknown as BenchPorts;
  const book = new Book(item);
  const drawing = new Drawing(it.words, it.chosen);
  const surface = new DocumentSurface(item, book, ports, drawing, new Show());
  surface.plane.sight.resize({ width: 800, height: 600 });
  surface.plane.sight.view = { scale: 1, x: 0, y: 0 };
  const caps = () => {
    const { tools, verbs, view } = surface.caps();
    return Object.fromEntries([...tools, ...verbs.caps, ...view.caps].map((c) => [c.code, c]));
  };
  /** a box drawn by hand, px of the page in hand */
  const draw = (box: Box) => surface.plane.forms.draw({ kind: 'box', geometry: box });
  return { ...it, surface, book, caps, draw, deck, drawing };
}
