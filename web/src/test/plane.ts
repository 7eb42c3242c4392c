import { Acts } from '$lib/edits/acts';
import { Asking } from '$lib/edits/asking.svelte';
import { Editor } from '$lib/edits/editor.svelte';
import { Findings } from '$lib/edits/findings.svelte';
import { Chosen, Hand } from '$lib/edits/hand.svelte';
import { Kept } from '$lib/edits/kept';
import type { Entry, Listener } from '$lib/edits/outbox.svelte';
import { Drawing } from '$lib/plane/drawing.svelte';
import { Plane } from '$lib/plane/plane.svelte';
import type { Overlay, PlanePorts } from '$lib/plane/ports';
import { Show } from '$lib/plane/show.svelte';
import type { Schemas } from '$lib/api/client';
import type { Document } from '$lib/words/codebook';
import type { Mark, Said, Shape } from '$lib/words/mark';
import { Words } from '$lib/words/words.svelte';

export const mark = (id: string, shape: Shape | [number, number, number, number], more: Partial<Mark> = {}): Mark => {
  const [x, y, width, height] = Array.isArray(shape) ? shape : [0, 0, 0, 0];
  const form: Shape = Array.isArray(shape) ? { kind: 'box', geometry: { x, y, width, height } } : shape;
  return {
    ...form,
    id,
    class: 'apple',
    answers: {},
    stack: null,
    part_of: null,
    flags: [],
    revision: 1,
    author: 1,
    source: 'hand',
    ...more
  } as Mark;
};
export const asSent = (m: Mark, more: Partial<Schemas['Mark']> = {}): Schemas['Mark'] =>
  ({
    id: m.id,
    class: m.class,
    kind: m.kind,
    geometry: m.geometry,
    answers: m.answers,
    stack: m.stack,
    part_of: m.part_of,
    flags: m.flags,
    stretches: m.stretches,
    place: m.place,
    revision: m.revision,
    author_id: m.author,
    source: m.source,
    deleted: false,
    confidence: null,
    suggestion: null,
    ...more
  }) as Schemas['Mark'];
export const saidNothing: Schemas['Said'] = { answers: {}, tags: [], stretches: [], revision: 0, author_id: null, source: 'hand' };

/** An orchard's codebook: every flat shape, a skeleton, questions of each type. */
export const orchard: Document = {
  skeno: 'codebook/1',
  classes: [
    { key: 'apple', name: 'Apple', shapes: ['box', 'polygon', 'mask'], attributes: ['ripe', 'scab', 'spots', 'note'] },
    { key: 'leaf', name: 'Leaf', shapes: ['polygon', 'polyline'], attributes: ['scab'] },
    { key: 'corner', name: 'Corner', shapes: ['polygon'], points: 4 },
    { key: 'eyes', name: 'Eyes', shapes: ['points'], points: 3, point_names: ['left eye', 'right eye'] },
    { key: 'moth', name: 'Moth', shapes: ['skeleton'], skeleton: 'moth' },
    { key: 'tree', name: 'Tree', shapes: ['turned_box', 'ellipse', 'cuboid_2d'], part_of: ['leaf'] }
  ],
  attributes: [
    {
      key: 'ripe',
      name: 'Ripeness',
      type: 'one',
      scope: 'object',
      required: true,
      options: [
        { key: 'green', name: 'Green' },
        { key: 'red', name: 'Red' }
      ]
    },
    { key: 'scab', name: 'Scab', type: 'yesno', scope: 'object' },
    { key: 'spots', name: 'Spots', type: 'number', scope: 'object', when: [{ attribute: 'scab', any: [true] }] },
    { key: 'note', name: 'Note', type: 'text', scope: 'object' },
    { key: 'light', name: 'Light', type: 'one', scope: 'item', required: true, options: [{ key: 'sun', name: 'Sun' }] }
  ],
  tags: [
    { key: 'wet', name: 'Wet', group: 'weather' },
    { key: 'dry', name: 'Dry', group: 'weather' },
    { key: 'blurred', name: 'Blurred' }
  ],
  skeletons: [
    {
      key: 'moth',
      name: 'Moth',
      nodes: [
        { key: 'head', name: 'Head', x: 0.5, y: 0 },
        { key: 'tail', name: 'Tail', x: 0.5, y: 1 },
        { key: 'l', name: 'Left', x: 0, y: 0.5, twin: 'r' },
        { key: 'r', name: 'Right', x: 1, y: 0.5, twin: 'l' }
      ],
      edges: [['head', 'tail']]
    }
  ]
};
export function wordsOf(document: Document = orchard): Words {
  const words = new Words(3);
  words.take({
    document,
    version: 1,
    looks: document.classes.map((c) => ({ key: c.key, color: '#123456', light: '#abcdef', marker: 'circle' }))
  });
  return words;
}

/** The outbox as the editor knows it, which keeps what it is given. */
export class Tray {
  entries: Entry[] = [];
  held = 0;
  #listener: Listener | null = null;
  listen = (_project: number, _turn: number, listener: Listener): (() => void) => {
    this.#listener = listener;
    return () => (this.#listener = null);
  };
  pending = (): Schemas['Edit'][] => this.entries.map((e) => e.edit);
  add = (_project: number, _turn: number, entries: Entry[]): void => void this.entries.push(...entries);
  withdraw = (_project: number, _turn: number, subject: string): void =>
    void (this.entries = this.entries.filter((e) => (e.edit.mark ?? `said:${e.item ?? ''}`) !== subject));
  undelivered = (): number => this.held;
  get isHeard(): boolean {
    return this.#listener !== null;
  }
  /** The server answers what waits; `change`: another outcome for some. */
  answer(change: (edit: Schemas['Edit']) => Partial<Schemas['EditResult']> = () => ({}), more: Partial<Schemas['EditResults']> = {}): void {
    const entries = this.entries;
    this.entries = [];
    this.#listener?.(
      entries.map(({ edit, item }) => ({
        edit,
        ...(item !== undefined && { item }),
        result: { id: edit.id, outcome: 'applied', mark: null, said: null, key: null, ...change(edit) }
      })),
      { results: [], findings: [], codebook_version: 1, seconds: 0, ...more }
    );
  }
}

export const PICTURE = { id: 9, width: 400, height: 300, name: 'a.png' };
type Options = {
  marks?: Mark[];
  said?: Partial<Said>;
  mode?: 'label' | 'review' | 'look';
  active?: string;
  seen?: PlanePorts['seen'];
  slipGuard?: boolean;
  document?: Document;
  overlays?: Overlay[];
  compute?: PlanePorts['compute'];
  cutOut?: PlanePorts['cutOut'];
  pose?: PlanePorts['pose'];
  fits?: PlanePorts['fits'];
  patches?: PlanePorts['patches'];
  kept?: Kept;
};
/** What any item has on the bench, without bench or server. */
export function onBench({ marks = [], said = {}, active = 'apple', document = orchard, kept = new Kept(1, 5) }: Options = {}) {
  const words = wordsOf(document);
  const tray = new Tray();
  const messages: string[] = [];
  const pins: unknown[] = [];
  const editor = new Editor({ project: 3, turn: 5, user: 1 }, words, tray);
  editor.take(
    PICTURE.id,
    marks.map((m) => asSent(m)),
    { ...saidNothing, ...said }
  );
  const hand = new Hand(editor.marks, kept);
  const chosen = new Chosen(words);
  chosen.active = active;
  const say = (message: string) => void messages.push(message);
  const asking = new Asking(words, editor, hand, PICTURE.id);
  const acts = new Acts(words, editor, hand, chosen, PICTURE.id, say);
  const findings = new Findings(editor.marks);
  return { words, tray, messages, pins, editor, kept, hand, chosen, say, asking, acts, findings };
}
/** A flat item as it lies there. */
export function laid({ mode = 'label', ...more }: Options = {}) {
  const { words, tray, messages, pins, editor, kept, hand, chosen, say, asking, acts, findings } = onBench(more);
  const drawing = new Drawing(words, chosen);
  const plane = new Plane(
    {
      words,
      editor,
      hand,
      chosen,
      acts,
      asking,
      findings,
      kept,
      item: PICTURE,
      project: 3,
      user: 1,
      turn: 5,
      mode,
      seen: more.seen ?? { cells: '', zoom: 1, required: false },
      slipGuard: more.slipGuard ?? false,
      pins: () => [],
      overlays: () => more.overlays ?? [],
      say,
      compute: more.compute ?? (() => Promise.reject(new Error('nobody computes here'))),
      pose: more.pose ?? (() => Promise.reject(new Error('nobody fits here'))),
      fits: more.fits ?? [],
      cutOut: more.cutOut ?? (() => Promise.reject(new Error('nobody cuts out here'))),
      patches: more.patches ?? (() => Promise.reject(new Error('nobody makes patches here'))),
      tellSeen: () => Promise.resolve(),
      pin: (at) => void pins.push(at)
    },
    drawing,
    new Show()
  );
  // a px of the picture is one of the screen
  plane.sight.resize({ width: 400, height: 300 });
  plane.sight.view = { scale: 1, x: 0, y: 0 };
  const all = () => editor.marks.all();
  const press = (x: number, y: number, shift = false) => {
    plane.tool.down({ x, y }, { shift });
    plane.tool.up({ x, y });
  };
  const drag = (...[first, ...rest]: [number, number][]) => {
    plane.tool.down({ x: first![0], y: first![1] });
    for (const [x, y] of rest) plane.tool.move({ x, y });
    plane.tool.up({ x: rest.at(-1)![0], y: rest.at(-1)![1] });
  };
  return { words, tray, messages, pins, editor, kept, hand, chosen, asking, acts, findings, drawing, plane, all, press, drag };
}
