import { api, ApiError, ask, type Schemas } from '$lib/api/client';
import { asked, askedOfItem, type Answer, type Attribute, type Document } from '$lib/state/codebook';
import { around, nearby } from './nearby';
import { keep, restore, type Step } from './history';
import { Outbox, type Outcome } from './outbox.svelte';
import { toMask, type Edges } from './raster';
import { bounds, handlesOf, hit, mirrored, moved, pulled, shapeOf, withoutPoint } from './shapes';
import type { PaintMode } from './tools/paint';
import {
  body,
  fromServer,
  kinds,
  type Finding,
  type Flag,
  type Kind,
  type Mark,
  type Packet,
  type Point,
  type Ring,
  type Said,
  type Shape
} from './types';
import { ulid } from './ulid';
import { Seen } from './seen';
import { fit, fitBox, isWhole, restaged, stepZoom, toScreen, type Size, type View } from './view';

/** What the pointer does: pick, pan, draw the shape in hand, set a pin, press on the whole a mark is a part of. */
export type Tool = 'pick' | 'hand' | 'draw' | 'pin' | 'whole';
/** What an outline is drawn for: a new mark, or a change of the one in hand. */
export type Stroke = 'new' | 'add' | 'cut' | 'redraw';
type Conflict = { id: string; mine: Mark | null; theirs: Mark | null; name: string };

const MAX_IDLE = 30;
/** In place of a mark's id: what is said of the item as a whole. */
const SAID = 'said';
const isSaid = (edit: Schemas['Edit']): boolean => edit.data?.kind === 'item';

/** The open item and everything that is done to it. Every change goes through `change`, so it can be undone and is sent. */
export class Bench {
  packet = $state.raw<Packet>(null!);
  document = $state.raw<Document>({ skeno: 'codebook/1', classes: [] });
  /** version of the codebook the document is */
  version = $state(0);
  looks = $state.raw<Map<string, { color: string; light: string; marker: string }>>(new Map());
  /** replaced, never changed in place */
  marks = $state.raw<Mark[]>([]);
  /** what is said of the item as a whole */
  said = $state.raw<Said>({ answers: {}, tags: [] });
  selected = $state<string | null>(null);
  hovered = $state<string | null>(null);
  /** further marks in hand beside the selected one */
  others = $state.raw<string[]>([]);
  /** key of the point of the mark in hand that a press took */
  point = $state<string | null>(null);
  tool = $state<Tool>('draw');
  shape = $state<Kind>('box');
  stroke = $state<Stroke>('new');
  /** which stretch of an outline is redrawn: the shorter, or the other */
  otherStretch = $state(false);
  /** number of points after which an outline is finished by itself */
  corners = $state<number | null>(null);
  /** whether points beside a neighbour's outline are taken from it */
  follow = $state(true);
  paint = $state.raw<{ mode: PaintMode; size: number; claim: boolean; wide: boolean }>({
    mode: 'paint',
    size: 24,
    claim: false,
    wide: false
  });
  /** pixels nobody has labelled, or two have */
  coverage = $state(false);
  locked = $state.raw<Set<string>>(new Set());
  /** the mark's own page of the deck is open */
  page = $state(false);
  /** what the core has worked out and the hand has not yet taken */
  proposal = $state.raw<{ mark: string; shape: Shape; what: string } | null>(null);
  air = $state.raw<{ mark: string; sides: NonNullable<Schemas['Computed']['air']> } | null>(null);
  active = $state('');
  hidden = $state(false);
  /** of masks: all of them, and the one in hand */
  opacity = $state.raw({ all: 0.4, hand: 0.62 });
  /** how the picture is shown: 1 is as it is */
  tone = $state.raw({ brightness: 1, contrast: 1, gamma: 1 });
  /** everything but the mark in hand lies in shade */
  shade = $state(false);
  /** thickness of lines, 1 is as usual */
  weight = $state(1);
  /** classes are written at their marks */
  names = $state(false);
  /** parts of the picture that have been on the screen close up */
  seen = $state.raw(new Seen({ width: 1, height: 1 }));
  /** what has not been seen lies in shade */
  showUnseen = $state(false);
  /** another class fits the looks of the mark just drawn much better */
  doubt = $state.raw<{ mark: string; class: string } | null>(null);
  /** the point being set is shown enlarged */
  loupe = $state(true);
  question = $state<string | null>(null);
  view = $state<View>({ scale: 1, x: 0, y: 0 });
  stage = $state<Size>({ width: 100, height: 100 });
  image = $state.raw<HTMLImageElement | null>(null);
  findings = $state.raw<Finding[]>([]);
  message = $state('');
  conflicts = $state<Conflict[]>([]);
  /** a pin about to be written */
  pinAt = $state<(Point & { mark: string | null }) | null>(null);
  queue = $state.raw<Schemas['Queue'] | null>(null);
  ahead = $state.raw<Packet | null>(null);
  lastSubmitted = $state<number | null>(null);
  busy = $state(false);
  /** the item has appeared a moment ago */
  fresh = $state(false);
  nothingLeft = $state(false);
  outbox: Outbox;
  #undo = $state.raw<Step[][]>([]);
  #redo = $state.raw<Step[][]>([]);
  /** revision each mark will have once all is acknowledged, also of deleted ones */
  #revisions = new Map<string, number>();
  #lastActive = Date.now();
  #aheadImage: HTMLImageElement | null = null;
  #fitted = false;

  constructor(
    readonly project: number,
    readonly user: number,
    private readonly moved: (turn: number) => void
  ) {
    this.outbox = new Outbox(user, (outcomes, answer) => this.#heard(outcomes, answer));
  }

  get mode(): 'label' | 'review' | 'look' {
    return this.packet?.turn.mode ?? 'look';
  }
  get editable(): boolean {
    return this.mode !== 'look';
  }
  get mark(): Mark | undefined {
    return this.marks.find((m) => m.id === this.selected);
  }
  get canUndo(): boolean {
    return this.#undo.length > 0;
  }
  get canRedo(): boolean {
    return this.#redo.length > 0;
  }
  /** Whether what has not been seen is shaded: asked for, or required and something is left. */
  get unseenShown(): boolean {
    return (this.showUnseen || (this.packet.seen.required && this.editable)) && !this.seen.all;
  }
  #seenThere = '';
  #keeping: ReturnType<typeof setTimeout> | undefined;
  /** Takes note of what is on the stage now; called when the view has come to rest. */
  sight(): void {
    const next = this.seen.with(this.view, this.stage, this.packet.seen.zoom);
    if (next === this.seen) return;
    this.seen = next;
    clearTimeout(this.#keeping);
    this.#keeping = setTimeout(() => void this.keepSeen(), 2000);
  }
  /** Tells the server what has been seen. */
  async keepSeen(): Promise<void> {
    clearTimeout(this.#keeping);
    if (!this.packet || this.mode === 'look' || this.seen.cells === this.#seenThere) return;
    const cells = this.seen.cells;
    this.#seenThere = cells;
    try {
      await ask(api.PUT('/projects/{project}/turns/{turn}/seen', { ...this.path, body: { cells } }));
    } catch {
      // told again with the next look, and before a submit
      this.#seenThere = '';
    }
  }
  /** Goes to the nearest part that has not been seen, close enough for it to count. */
  toUnseen(): void {
    const { width, height } = this.stage;
    const at = this.seen.next({ x: (width / 2 - this.view.x) / this.view.scale, y: (height / 2 - this.view.y) / this.view.scale });
    if (!at) return;
    const scale = Math.max(this.view.scale, this.packet.seen.zoom);
    // as much of the picture on the stage as there is
    const along = (size: number, place: number, all: number) =>
      all * scale <= size ? (size - all * scale) / 2 : Math.min(0, Math.max(size - all * scale, size / 2 - place * scale));
    this.view = { scale, x: along(width, at.x, this.picture.width), y: along(height, at.y, this.picture.height) };
  }

  get picture(): Size {
    return this.packet.item;
  }
  get path() {
    return { params: { path: { project: this.project, turn: this.packet.turn.id } } };
  }

  light = (key: string): string => this.looks.get(key)?.light ?? '#d5d8da';
  nameOf = (key: string): string => this.document.classes.find((c) => c.key === key)?.name ?? key;

  classOf = (key: string) => this.document.classes.find((c) => c.key === key);
  skeletonOf = (key: string) => this.document.skeletons?.find((k) => k.key === this.classOf(key)?.skeleton);
  bones = (key: string): [string, string][] => (this.skeletonOf(key)?.edges ?? []) as [string, string][];
  /** Number of points a shape of a class has; of outlines only where the class is not drawn as points. */
  pointsOf = (key: string, kind: Kind = 'points'): number | null =>
    kind === 'points' || !this.kindsOf(key).includes('points') ? (this.classOf(key)?.points ?? null) : null;
  isUpright = (key: string): boolean => this.classOf(key)?.orientation === 'upright';
  /** Kinds a class is drawn as on pictures, in the codebook's order. */
  kindsOf = (key: string): Kind[] => (this.classOf(key)?.shapes ?? []).filter((s): s is Kind => kinds.includes(s as Kind));
  get drawable() {
    return this.document.classes.filter((c) => this.kindsOf(c.key).length > 0);
  }
  /** All marks in hand. */
  get inHand(): Mark[] {
    const ids = new Set([...(this.selected === null ? [] : [this.selected]), ...this.others]);
    return this.marks.filter((m) => ids.has(m.id));
  }
  /** The mask that is being painted. */
  get painted(): Extract<Mark, { kind: 'mask' }> | null {
    const mark = this.mark;
    return this.tool === 'draw' && this.shape === 'mask' && mark?.kind === 'mask' && this.others.length === 0 ? mark : null;
  }

  /** "Apple 3": the class and which of it. */
  label(mark: Mark): string {
    const of = this.marks.filter((m) => m.class === mark.class);
    return `${this.nameOf(mark.class)} ${of.findIndex((m) => m.id === mark.id) + 1}`;
  }

  questionsOf = (mark: Mark): Attribute[] => asked(this.document, mark.class, mark.answers);
  get itemQuestions(): Attribute[] {
    return askedOfItem(this.document, this.said.answers);
  }
  /** Questions about what is in hand: the mark, or the item where none is. */
  get questions(): Attribute[] {
    const mark = this.mark;
    return mark ? this.questionsOf(mark) : this.itemQuestions;
  }
  get answers(): Record<string, Answer> {
    return this.mark?.answers ?? this.said.answers;
  }
  get openQuestion(): Attribute | null {
    return this.question !== null ? (this.questions.find((a) => a.key === this.question) ?? null) : null;
  }

  /** What is still to do on this item, as far as it can be told here; the check has the last word. */
  get todo(): { word: string; count: number; lead: () => void }[] {
    if (this.mode !== 'label') return [];
    const list: { word: string; count: number; lead: () => void }[] = [];
    const open = new Map<string, { name: string; marks: Mark[] }>();
    for (const mark of this.marks)
      for (const q of this.questionsOf(mark))
        if (q.required && mark.answers[q.key] === undefined) {
          const there = open.get(q.key);
          if (there) there.marks.push(mark);
          else open.set(q.key, { name: q.name, marks: [mark] });
        }
    for (const [key, { name, marks }] of open)
      list.push({ word: name, count: marks.length, lead: () => this.lead({ mark: marks[0]!.id, attribute: key } as Finding) });
    for (const q of this.itemQuestions)
      if (q.required && this.said.answers[q.key] === undefined)
        list.push({ word: q.name, count: 1, lead: () => this.lead({ mark: null, attribute: q.key } as Finding) });
    const least = this.document.limits?.objects?.min ?? 0;
    if (this.marks.length > 0 && this.marks.length < least)
      list.push({ word: 'marks at least', count: least - this.marks.length, lead: () => (this.tool = 'draw') });
    const said = new Set([...open.keys(), ...this.itemQuestions.map((q) => q.key)]);
    const doubts = this.findings.filter((f) => f.attribute === null || !said.has(f.attribute));
    if (doubts.length > 0)
      list.push({ word: doubts.length === 1 ? 'doubt' : 'doubts', count: doubts.length, lead: () => this.nextFinding() });
    if (this.packet.seen.required && !this.seen.all)
      list.push({ word: '% not seen', count: Math.max(1, Math.round(100 * (1 - this.seen.share))), lead: () => this.toUnseen() });
    return list;
  }

  /** @param look only look: the item is not taken from anybody */
  async start(turn: number, look = false): Promise<void> {
    await this.loadCodebook();
    const path = { params: { path: { project: this.project, turn } } };
    let packet = await ask(api.GET('/projects/{project}/turns/{turn}', path));
    if (packet.turn.mode === 'look' && !look && packet.turn.state !== 'submitted' && packet.turn.state !== 'accepted') {
      // what waits for this person is opened; what can't be opened is only looked at
      try {
        packet = await ask(api.POST('/projects/{project}/turns/{turn}/take', path));
      } catch (e) {
        this.message = (e as Error).message;
      }
    }
    await this.outbox.restore();
    this.open(packet);
  }

  async loadCodebook(): Promise<void> {
    const codebook = await ask(api.GET('/projects/{project}/codebook', { params: { path: { project: this.project } } }));
    this.document = codebook.document;
    this.version = codebook.version;
    this.looks = new Map(codebook.looks.map((l) => [l.key, l]));
    if (!this.drawable.some((c) => c.key === this.active)) this.active = this.drawable[0]?.key ?? '';
    this.#fitShape();
  }

  /** The shape in hand is one the class in hand is drawn as. */
  #fitShape(): void {
    const own = this.kindsOf(this.active);
    if (!own.includes(this.shape)) this.shape = own[0] ?? 'box';
  }
  #shapeBefore = new Map<string, Kind>();
  #justChosen = false;
  /** The tool for the class in hand; again: its next shape. */
  takeShape(): void {
    const own = this.kindsOf(this.active);
    // right after a class was chosen the key only takes the tool: who presses it by habit gets what the deck shows
    if (this.tool === 'draw' && own.length > 1 && !this.#justChosen) this.shape = own[(own.indexOf(this.shape) + 1) % own.length]!;
    // a mask in hand is gone on with; another kind of mark is let go, so that the next drag draws
    if (this.shape === 'mask' && this.mark?.kind !== 'mask') this.select(null);
    this.#justChosen = false;
    this.#shapeBefore.set(this.active, this.shape);
    this.tool = 'draw';
  }

  #receive(packet: Packet): void {
    this.packet = packet;
    this.marks = packet.marks.map(fromServer);
    this.said = { answers: packet.said.answers, tags: packet.said.tags };
    this.#revisions = new Map(packet.marks.map((m) => [m.id, m.revision]));
    this.#revisions.set(SAID, packet.said.revision);
    this.#layOver(this.outbox.pending(packet.turn.id));
    this.findings = packet.findings;
  }

  open(packet: Packet): void {
    void this.keepSeen();
    this.#receive(packet);
    this.seen = new Seen(packet.item, packet.seen.cells);
    this.#seenThere = this.seen.cells;
    this.doubt = null;
    if (packet.codebook_version !== this.version) void this.#newWords();
    this.selected = this.question = this.hovered = this.pinAt = this.point = this.proposal = this.air = null;
    this.others = [];
    this.page = false;
    this.stroke = 'new';
    this.locked = new Set();
    this.#undo = restore(this.user, packet.turn.id, this.marks, this.said);
    this.#redo = [];
    this.conflicts = [];
    this.nothingLeft = false;
    this.tool = packet.turn.mode === 'label' ? 'draw' : 'pick';
    this.#lastActive = Date.now();
    this.fresh = true;
    setTimeout(() => (this.fresh = false), 250);
    this.#fitted = false;
    this.#showImage(packet);
    this.fitView();
    this.moved(packet.turn.id);
    void this.loadQueue();
    if (packet.turn.mode !== 'look') void this.preload();
  }

  /** Edits not yet acknowledged, laid over what the server knows. */
  #layOver(edits: Schemas['Edit'][]): void {
    const marks = [...this.marks];
    for (const edit of edits) {
      if (edit.mark === null || isSaid(edit)) {
        this.#revisions.set(SAID, edit.base + 1);
        this.said = { ...this.said, ...(edit.data as Partial<Said>) };
        continue;
      }
      this.#revisions.set(edit.mark, edit.base + 1);
      const data = (edit.data ?? {}) as Partial<Mark>;
      const at = marks.findIndex((m) => m.id === edit.mark);
      if (edit.action === 'delete') marks.splice(at, at < 0 ? 0 : 1);
      else if (edit.action === 'create' && at < 0)
        marks.push({
          id: edit.mark,
          kind: 'box',
          stack: null,
          part_of: null,
          flags: [],
          answers: {},
          source: 'hand',
          author: this.user,
          revision: 0,
          ...data
        } as Mark);
      else if (at >= 0) marks[at] = { ...marks[at]!, ...data } as Mark;
    }
    this.marks = marks;
  }

  #showImage(packet: Packet): void {
    this.image = null;
    const large = Math.max(packet.item.width, packet.item.height) > 2048;
    if (this.#aheadImage?.dataset.item === String(packet.item.id) && this.#aheadImage.complete && this.#aheadImage.naturalWidth > 0) {
      this.image = this.#aheadImage;
      return;
    }
    const image = new Image();
    image.onload = () => {
      if (this.packet.item.id === packet.item.id) this.image = image;
    };
    image.onerror = () => (this.message = 'the picture could not be loaded; reload the page when the server is back');
    image.src = packet.item.picture.screen;
    if (large) {
      // the screen copy first, every pixel as soon as it is here
      const full = new Image();
      full.onload = () => {
        if (this.packet.item.id === packet.item.id) this.image = full;
      };
      full.src = packet.item.picture.full;
    }
  }

  /** Leases and loads the item after this one, so that it opens at once. */
  async preload(): Promise<void> {
    try {
      const { packet } = await ask(
        api.POST('/projects/{project}/next', {
          params: { path: { project: this.project } },
          body: { purpose: this.mode === 'review' ? 'review' : 'label', holding: [this.packet.turn.id], preload: true }
        })
      );
      if (packet && packet.turn.id !== this.packet.turn.id) {
        this.ahead = packet;
        const image = new Image();
        image.dataset.item = String(packet.item.id);
        image.src = packet.item.picture.screen;
        this.#aheadImage = image;
      } else this.ahead = null;
    } catch {
      // without a preloaded item the next one is asked for when it is needed
      this.ahead = null;
    }
  }

  async loadQueue(): Promise<void> {
    try {
      this.queue = await ask(api.GET('/projects/{project}/turns/{turn}/queue', this.path));
    } catch {
      this.queue = null;
    }
  }

  resize(stage: Size): void {
    const was = this.stage;
    this.stage = stage;
    if (!this.#fitted) this.fitView();
    // a stage that is hidden for a moment has no size to go by
    else if (stage.width > 100 && was.width > 100) this.view = restaged(this.view, this.picture, was, stage);
    else if (stage.width > 100) this.fitView();
  }
  fitView(): void {
    this.view = fit(this.picture, this.stage);
    this.#fitted = this.stage.width > 100;
    this.#closer = null;
  }
  /** the view to go back to from the whole picture */
  #closer: View | null = null;
  /** The whole picture, and back to where one was: between two zooms. */
  toggleZoom(): void {
    const now = this.view;
    if (!isWhole(now, this.picture, this.stage)) {
      this.view = fit(this.picture, this.stage);
      this.#closer = now;
    } else this.view = this.#closer ?? stepZoom(now, { x: this.stage.width / 2, y: this.stage.height / 2 }, 1, 1);
  }
  toObject(): void {
    if (this.mark) this.view = fitBox(bounds(shapeOf(this.mark)), this.stage);
  }

  #seconds(): number {
    const now = Date.now();
    const seconds = Math.min(MAX_IDLE, Math.round((now - this.#lastActive) / 1000));
    this.#lastActive = now;
    return seconds;
  }

  /** Sends one step and shows it. */
  #apply(step: Step): void {
    const key = step.said ? SAID : step.id;
    const base = this.#revisions.get(key) ?? 0;
    const edit = { id: ulid(), mark: step.said ? null : step.id, base, seconds: this.#seconds(), codebook: step.words ?? this.version };
    this.#revisions.set(key, base + 1);
    if (step.said) {
      this.said = step.said.after;
      this.outbox.add(this.project, this.packet.turn.id, {
        ...edit,
        action: base === 0 ? 'create' : 'change',
        data: { kind: 'item', ...step.said.after }
      });
      return;
    }
    const at = this.marks.findIndex((m) => m.id === step.id);
    if (step.after === null) {
      this.marks = this.marks.filter((m) => m.id !== step.id);
      if (this.selected === step.id) this.selected = this.question = this.point = null;
      this.others = this.others.filter((id) => id !== step.id);
      this.outbox.add(this.project, this.packet.turn.id, { ...edit, action: 'delete' });
      return;
    }
    const mark = { ...step.after, author: this.user, source: 'hand' };
    this.marks = at >= 0 ? this.marks.with(at, mark) : [...this.marks, mark];
    this.outbox.add(this.project, this.packet.turn.id, {
      ...edit,
      action: at >= 0 ? 'change' : 'create',
      data: body(step.after),
      ...(step.suggestion && { suggestion: step.suggestion })
    });
  }

  /** Asks whether the class of a new mark fits what it looks like; says nothing when nobody answers. */
  async #guard(mark: Mark): Promise<void> {
    if (!this.packet.slip_guard || this.mode !== 'label') return;
    const found = await api
      .POST('/projects/{project}/turns/{turn}/compute', {
        ...this.path,
        body: { op: 'looks', kind: mark.kind, geometry: mark.geometry, class: mark.class }
      })
      .catch(() => null);
    const now = this.marks.find((m) => m.id === mark.id);
    if (found?.data?.doubt && now?.class === mark.class) this.doubt = { mark: mark.id, class: found.data.doubt.class };
  }

  change(steps: Step[]): void {
    if (!this.editable || steps.length === 0) return;
    if (this.doubt && steps.some((s) => s.id === this.doubt?.mark)) this.doubt = null;
    const drawn = steps.length === 1 && steps[0]!.before === null ? steps[0]!.after : null;
    if (drawn) {
      // who draws on has seen the doubt and left it
      this.doubt = null;
      void this.#guard(drawn);
    }
    for (const step of steps) this.#apply(step);
    this.#undo = [...this.#undo, steps.map((s) => ({ ...s, words: this.version }))];
    this.#redo = [];
    this.#settled();
  }
  undo(): void {
    const steps = this.#undo[this.#undo.length - 1];
    if (!steps) return;
    this.#undo = this.#undo.slice(0, -1);
    for (const step of [...steps].reverse())
      this.#apply({
        id: step.id,
        before: step.after,
        after: step.before,
        words: step.words,
        ...(step.said && { said: { before: step.said.after, after: step.said.before } })
      });
    this.#redo = [...this.#redo, steps];
    this.#settled();
  }
  redo(): void {
    const steps = this.#redo[this.#redo.length - 1];
    if (!steps) return;
    this.#redo = this.#redo.slice(0, -1);
    for (const step of steps) this.#apply(step);
    this.#undo = [...this.#undo, steps];
    this.#settled();
  }
  #settled(): void {
    this.proposal = this.air = null;
    keep(this.user, this.packet.turn.id, this.#undo);
  }

  /** A mark of the class in hand that is not on the item yet. */
  #begun(shape: Shape): Mark {
    return {
      ...shape,
      id: ulid(),
      class: this.active,
      answers: {},
      stack: null,
      part_of: null,
      flags: [],
      revision: 0,
      author: this.user,
      source: 'hand'
    } as Mark;
  }
  draw(shape: Shape): void {
    if (!this.active) {
      this.message = 'the codebook has no class that is drawn on pictures yet';
      return;
    }
    const mark = this.#begun(shape);
    this.change([{ id: mark.id, before: null, after: mark }]);
    this.select(mark.id);
    this.openNext(true);
  }
  reshape(mark: Mark, shape: Shape): void {
    const now = this.marks.find((m) => m.id === mark.id) ?? mark;
    this.change([{ id: mark.id, before: now, after: { ...now, ...shape } as Mark }]);
  }
  /** One stroke of the brush: the mask in hand changes, or begins; masks it claims pixels from change with it. */
  painting(shape: Extract<Shape, { kind: 'mask' }>, claimed: { mark: Mark; edges: Edges }[]): void {
    const { width, height } = this.picture;
    const mine = this.painted;
    const after = mine ? ({ ...mine, ...shape } as Mark) : this.#begun(shape);
    const steps: Step[] = claimed.map(({ mark, edges }) => ({
      id: mark.id,
      before: mark,
      after: edges.length === 0 ? null : ({ ...mark, geometry: toMask(edges, width, height) } as Mark)
    }));
    this.change([...steps, { id: after.id, before: mine, after }]);
    if (!mine) this.select(after.id);
  }
  /** Ends work on the mask in hand; its required questions come up now, not at the first stroke. */
  letGo(): boolean {
    const mark = this.painted;
    if (!mark) return false;
    this.openNext(true);
    if (this.question === null) this.select(null);
    return true;
  }
  nudge(by: Point): void {
    const mark = this.mark;
    if (mark && this.point !== null && this.others.length === 0 && !this.locked.has(mark.id)) {
      const handle = handlesOf(shapeOf(mark), this.view.scale).find((h) => h.key === this.point);
      if (handle)
        return this.reshape(mark, pulled(shapeOf(mark), handle.key, { x: handle.at.x + by.x, y: handle.at.y + by.y }, this.picture));
    }
    const free = this.inHand.filter((m) => !this.locked.has(m.id));
    this.change(free.map((m) => ({ id: m.id, before: m, after: { ...m, ...moved(shapeOf(m), by, this.picture) } as Mark })));
  }
  /** The point in hand, or else the marks in hand. */
  remove(): void {
    const mark = this.mark;
    if (mark && this.point !== null && this.others.length === 0) {
      const left = withoutPoint(shapeOf(mark), this.point);
      if (left) {
        this.reshape(mark, left);
        this.point = null;
        return;
      }
    }
    this.change(this.inHand.filter((m) => !this.locked.has(m.id)).map((m) => ({ id: m.id, before: m, after: null })));
  }
  duplicate(): void {
    this.#put(this.inHand, { x: 12, y: 12 });
  }
  copy(): void {
    const marks = this.inHand;
    if (marks.length === 0) return;
    localStorage.setItem('skeno-copied', JSON.stringify({ project: this.project, size: this.picture, marks: marks.map(body) }));
    this.message = marks.length === 1 ? 'copied; Ctrl V puts it onto any item of this project' : `${marks.length} marks copied`;
  }
  paste(): void {
    let kept: { project: number; size: Size; marks: Partial<Mark>[] } | null;
    try {
      kept = JSON.parse(localStorage.getItem('skeno-copied') ?? 'null');
    } catch {
      kept = null;
    }
    if (!kept || kept.project !== this.project) {
      this.message = 'nothing was copied in this project';
      return;
    }
    const same = kept.size.width === this.picture.width && kept.size.height === this.picture.height;
    const marks = kept.marks.filter((m) => (same || m.kind !== 'mask') && this.classOf(m.class ?? '')) as Mark[];
    if (marks.length < kept.marks.length)
      this.message = `${kept.marks.length - marks.length} of the copied marks do not fit this picture or its codebook`;
    this.#put(
      marks.map((m) => ({ ...m, part_of: null })),
      { x: 0, y: 0 }
    );
  }
  #put(marks: Mark[], by: Point): void {
    if (!this.editable || marks.length === 0) return;
    const copies = marks.map(
      (m) => ({ ...m, ...moved(shapeOf(m), by, this.picture), id: ulid(), revision: 0, author: this.user, source: 'hand' }) as Mark
    );
    this.change(copies.map((m) => ({ id: m.id, before: null, after: m })));
    this.take(copies);
  }
  /** A digit or a cap of the class board: the class in hand, and of the marks in hand. */
  choose(key: string): void {
    // the same key again confirms the class that was doubted
    if (this.doubt && this.marks.find((m) => m.id === this.doubt?.mark)?.class === key) this.doubt = null;
    const left = this.inHand.filter((m) => m.class !== key && !this.kindsOf(key).includes(m.kind));
    const marks = this.editable ? this.inHand.filter((m) => m.class !== key && this.kindsOf(key).includes(m.kind)) : [];
    // with a mark in hand the digit is meant for it; a class that is not drawn so is only taken for what comes next
    this.active = key;
    this.#justChosen = true;
    this.shape = this.#shapeBefore.get(key) ?? this.shape;
    this.#fitShape();
    if (marks.length === 0) {
      if (this.inHand.length > 0 && left.length > 0) this.select(null);
      return;
    }
    // answers the new class does not ask are dropped with the change, and come back with undo
    const asks = this.classOf(key)?.attributes ?? [];
    this.change(
      marks.map((m) => {
        const answers = Object.fromEntries(Object.entries(m.answers).filter(([k]) => asks.includes(k)));
        return { id: m.id, before: m, after: { ...m, class: key, answers } };
      })
    );
    if (left.length > 0)
      this.message = `${left.length} of the marks in hand ${left.length === 1 ? 'is' : 'are'} of a shape ${this.nameOf(key)} is not drawn as`;
    this.question = null;
  }

  #changeEach(change: (m: Mark) => Mark): void {
    this.change(this.inHand.map((m) => ({ id: m.id, before: m, after: change(m) })));
  }
  toggleFlag(flag: Flag): void {
    const on = this.inHand.every((m) => m.flags.includes(flag));
    this.#changeEach((m) => ({ ...m, flags: on ? m.flags.filter((f) => f !== flag) : [...new Set([...m.flags, flag])] }));
  }
  /** The place in the stack: the mark's own, or else its class's. */
  stackOf = (m: Mark): number => m.stack ?? this.classOf(m.class)?.stack ?? 0;
  restack(up: boolean): void {
    const mine = this.mark;
    if (!mine) return;
    const places = this.marks.filter((m) => m.id !== mine.id).map(this.stackOf);
    const stack = places.length === 0 ? this.stackOf(mine) : up ? Math.max(...places) + 1 : Math.min(...places) - 1;
    this.#changeEach((m) => ({ ...m, stack }));
  }
  partOf(whole: string | null): void {
    this.#changeEach((m) => ({ ...m, part_of: whole === m.id ? null : whole }));
    this.tool = 'pick';
  }
  toggleLock(): void {
    const ids = this.inHand.map((m) => m.id);
    const locked = new Set(this.locked);
    for (const id of ids) if (!locked.delete(id)) locked.add(id);
    this.locked = locked;
  }
  mirror(): void {
    const mark = this.mark;
    if (mark?.kind !== 'skeleton') return;
    const twins = new Map((this.skeletonOf(mark.class)?.nodes ?? []).flatMap((n): [string, string][] => (n.twin ? [[n.key, n.twin]] : [])));
    this.reshape(mark, mirrored({ kind: 'skeleton', geometry: mark.geometry }, twins));
  }
  /** visible, hidden, absent, and again: of the node in hand */
  nodeState(key: string): void {
    const mark = this.mark;
    if (mark?.kind !== 'skeleton') return;
    const node = mark.geometry.nodes[key];
    const nodes = { ...mark.geometry.nodes };
    if (!node) {
      const b = bounds(shapeOf(mark));
      nodes[key] = { x: Math.round(b.x + b.width / 2), y: Math.round(b.y + b.height / 2), state: 'visible' };
    } else if (node.state === 'visible') nodes[key] = { ...node, state: 'hidden' };
    else if (Object.keys(nodes).length > 1) delete nodes[key];
    this.reshape(mark, { kind: 'skeleton', geometry: { nodes } });
  }

  /** The point of a neighbour's outline a press would take, when outlines are followed. */
  neighbourAt(p: Point, except: string | null): { mark: string; ring: Ring; i: number } | null {
    if (!this.follow || this.tool !== 'draw' || (this.shape !== 'polygon' && this.shape !== 'polyline')) return null;
    const at = toScreen(this.view, p);
    let best: { mark: string; ring: Ring; i: number } | null = null;
    let least = 9;
    for (const mark of nearby(this.marks, around(p, 9 / this.view.scale))) {
      if (mark.id === except || (mark.kind !== 'polygon' && mark.kind !== 'polyline') || hit(shapeOf(mark), p, this.view.scale) === null)
        continue;
      for (const ring of mark.kind === 'polygon' ? mark.geometry.rings : [mark.geometry.points])
        for (let i = 0; i < ring.length / 2; i++) {
          const s = toScreen(this.view, { x: ring[2 * i]!, y: ring[2 * i + 1]! });
          const d = Math.hypot(s.x - at.x, s.y - at.y);
          if (d < least) [best, least] = [{ mark: mark.id, ring, i }, d];
        }
    }
    return best;
  }
  /** A place a point is pulled to: a neighbour's point when one is near. */
  snapped(p: Point, except: string): Point {
    const near = this.neighbourAt(p, except);
    return near ? { x: near.ring[2 * near.i]!, y: near.ring[2 * near.i + 1]! } : p;
  }

  /** Asks the core; what comes back is shown first and taken by Enter. */
  async compute(op: 'outline' | 'fill' | 'mend' | 'tight', n: number, what: string): Promise<void> {
    const mark = this.mark;
    if (!mark) return;
    try {
      const found = await ask(
        api.POST('/projects/{project}/turns/{turn}/compute', {
          ...this.path,
          body: { op, kind: mark.kind, geometry: mark.geometry, n, class: mark.class }
        })
      );
      if (this.mark?.id !== mark.id) return;
      if (op === 'tight') this.air = found.air ? { mark: mark.id, sides: found.air } : null;
      else if (op === 'mend' && found.changed === 0) this.message = `nothing to mend up to ${n} px`;
      else
        this.proposal = {
          mark: mark.id,
          shape: { kind: found.kind, geometry: found.geometry } as Shape,
          what: op === 'mend' ? `${what}: ${found.changed} px change` : what
        };
    } catch (e) {
      this.message = (e as Error).message;
    }
  }
  takeProposal(): boolean {
    const proposal = this.proposal;
    const mark = this.marks.find((m) => m.id === proposal?.mark);
    this.proposal = null;
    if (!proposal || !mark) return false;
    if (!this.kindsOf(mark.class).includes(proposal.shape.kind))
      this.message = `${this.nameOf(mark.class)} is not drawn as ${proposal.shape.kind}; the check will say so`;
    this.reshape(mark, proposal.shape);
    return true;
  }

  answer(attribute: Attribute, answer: Answer | null, stay = false): void {
    const marks = this.inHand;
    const answered = (before: Record<string, Answer>, open: (answers: Record<string, Answer>) => Attribute[]): Record<string, Answer> => {
      const answers = { ...before };
      if (answer === null) delete answers[attribute.key];
      else answers[attribute.key] = answer;
      // an answer to a question that is no longer asked does not stay behind unseen
      const still = new Set(open(answers).map((a) => a.key));
      const was = new Set(open(before).map((a) => a.key));
      for (const key of Object.keys(answers)) if (!still.has(key) && was.has(key)) delete answers[key];
      return answers;
    };
    if (marks.length === 0) this.say({ ...this.said, answers: answered(this.said.answers, (a) => askedOfItem(this.document, a)) });
    else
      this.change(
        marks
          .filter((m) => this.questionsOf(m).some((a) => a.key === attribute.key))
          .map((m) => ({ id: m.id, before: m, after: { ...m, answers: answered(m.answers, (a) => asked(this.document, m.class, a)) } }))
      );
    if (!stay) this.openNext(false);
  }
  say(said: Said): void {
    this.change([{ id: SAID, before: null, after: null, said: { before: this.said, after: said } }]);
  }
  /** Puts a tag on or takes it off; of a group only one stays. */
  tag(key: string): void {
    const tags = this.document.tags ?? [];
    const group = tags.find((t) => t.key === key)?.group;
    const excluded = (other: string) => group !== undefined && tags.find((t) => t.key === other)?.group === group;
    this.say({
      ...this.said,
      tags: this.said.tags.includes(key) ? this.said.tags.filter((t) => t !== key) : [...this.said.tags.filter((t) => !excluded(t)), key]
    });
  }

  /** Opens the next question without an answer; only required ones when a mark has just been drawn. */
  openNext(requiredOnly: boolean): void {
    const questions = this.questions;
    const from = questions.findIndex((a) => a.key === this.question) + 1;
    const order = [...questions.slice(from), ...questions.slice(0, from)];
    this.question = order.find((a) => this.answers[a.key] === undefined && (a.required || !requiredOnly))?.key ?? null;
    if (
      !requiredOnly &&
      this.question !== null &&
      !order.find((a) => a.key === this.question)?.required &&
      from > 0 &&
      questions.findIndex((a) => a.key === this.question) < from
    )
      this.question = null;
  }

  select(id: string | null): void {
    if (this.selected !== id) this.question = this.point = this.proposal = this.air = null;
    this.selected = id;
    this.others = [];
    if (id === null) this.page = false;
  }
  /** One more mark in hand, or one less. */
  also(id: string): void {
    if (this.selected === null) return this.select(id);
    if (id === this.selected) {
      const [next, ...rest] = this.others;
      this.select(next ?? null);
      this.others = rest;
    } else this.others = this.others.includes(id) ? this.others.filter((o) => o !== id) : [...this.others, id];
    this.question = this.point = null;
  }
  take(marks: Mark[]): void {
    this.select(marks[0]?.id ?? null);
    this.others = marks.slice(1).map((m) => m.id);
  }

  #heard(outcomes: Outcome[], answer: Schemas['EditResults']): void {
    for (const { turn, edit, result } of outcomes) {
      if (turn !== this.packet?.turn.id) continue;
      if (result.outcome === 'conflict') {
        const theirs = result.mark && !result.mark.deleted ? fromServer(result.mark) : null;
        if (edit.mark === null || isSaid(edit)) {
          this.message =
            'what is said of this item was changed elsewhere meanwhile; it is shown as it is there, yours can be brought back by undo';
          void this.reload();
          continue;
        }
        const mine = this.marks.find((m) => m.id === edit.mark) ?? null;
        if (!this.conflicts.some((c) => c.id === edit.mark))
          this.conflicts.push({ id: edit.mark, mine, theirs, name: this.nameOf((mine ?? theirs)?.class ?? '') });
        this.#takeTheirs(edit.mark, result.mark ?? null);
      } else if (result.outcome === 'refused') {
        this.message = `an edit was refused: ${result.reason ?? ''}`;
        void this.reload();
      }
    }
    if (outcomes.some((o) => o.turn === this.packet?.turn.id) && this.outbox.pending(this.packet.turn.id).length === 0)
      this.findings = answer.findings;
    if (answer.codebook_version !== this.version) void this.#newWords();
    // done under an earlier codebook: what the server made of it in the words of this one
    else if (outcomes.some((o) => o.turn === this.packet?.turn.id && o.edit.codebook !== this.version)) void this.reload();
  }

  #learning: Promise<void> | null = null;
  /** Takes up a new codebook: what is on its way goes first, and comes back in the new words. */
  #newWords(): Promise<void> {
    this.#learning ??= (async () => {
      try {
        await this.outbox.flush();
        await this.loadCodebook();
        await this.reload();
        this.message = 'the codebook has changed; your work is kept';
      } catch {
        // asked again with the next answer, or the next look
      }
    })().finally(() => (this.#learning = null));
    return this.#learning;
  }
  /** Looks whether the codebook is still the same, for a bench on which nothing happens. */
  async look(): Promise<void> {
    if (!this.packet || this.outbox.waiting > 0) return;
    const found = await api.GET('/projects/{project}', { params: { path: { project: this.project } } }).catch(() => null);
    if (found?.data && found.data.codebook_version !== this.version) await this.#newWords();
  }

  #takeTheirs(id: string, theirs: Schemas['Mark'] | null): void {
    if (theirs) this.#revisions.set(id, theirs.revision);
    const rest = this.marks.filter((m) => m.id !== id);
    this.marks = !theirs || theirs.deleted ? rest : [...rest, fromServer(theirs)];
  }

  /** Settles a conflict: the version of this hand again, on top of the other, or the other as it is. */
  settle(conflict: Conflict, mine: boolean): void {
    this.conflicts = this.conflicts.filter((c) => c.id !== conflict.id);
    const now = this.marks.find((m) => m.id === conflict.id);
    if (mine) this.change([{ id: conflict.id, before: now ?? null, after: conflict.mine }]);
  }

  async reload(): Promise<void> {
    const packet = await ask(api.GET('/projects/{project}/turns/{turn}', this.path));
    if (packet.turn.id !== this.packet.turn.id) return;
    this.#receive(packet);
  }

  /**
   * Runs one step of the workflow after everything drawn has arrived. While one runs, a second submit or decision is a slip of the
   * finger and dropped; going elsewhere waits for its turn.
   */
  #last: Promise<void> = Promise.resolve();
  #step(work: () => Promise<void>, waits = false): Promise<void> {
    // an item that has just appeared is not submitted by the second half of a double press
    if (!waits && (this.busy || this.fresh)) return Promise.resolve();
    this.#last = this.#last.then(() => this.#run(work));
    return this.#last;
  }
  async #run(work: () => Promise<void>): Promise<void> {
    this.busy = true;
    this.message = '';
    try {
      await Promise.race([
        Promise.all([this.outbox.flush(), this.keepSeen()]),
        new Promise((_, no) =>
          setTimeout(() => no(new Error('the server does not answer; what you did is kept here, try again when it is back')), 8000)
        )
      ]);
      await work();
    } catch (e) {
      const error = e as ApiError;
      if (error instanceof ApiError && error.problem.findings) {
        this.findings = error.problem.findings;
        const first = error.problem.findings[0];
        if (first) this.lead(first);
      }
      this.message = error.message;
    }
    this.busy = false;
  }

  /** Goes to the mark and question a finding is about. */
  lead(finding: Finding): void {
    this.select(finding.mark);
    this.question = finding.attribute;
    if (this.mark && this.editable) this.tool = 'pick';
  }
  nextFinding(): void {
    if (this.findings.length === 0) return;
    const at = this.findings.findIndex((f) => f.mark === this.selected && (f.attribute === this.question || f.attribute === null));
    this.lead(this.findings[(at + 1) % this.findings.length]!);
    this.toObject();
  }

  doubted = $state(false);
  submit(nothing: boolean): Promise<void> {
    return this.#step(async () => {
      const turn = this.packet.turn.id;
      // a second press after doubts were shown goes on
      const anyway = this.doubted;
      this.doubted = false;
      try {
        await ask(api.POST('/projects/{project}/turns/{turn}/submit', { ...this.path, body: { nothing, anyway } }));
      } catch (e) {
        if (e instanceof ApiError && e.code === 'doubts') this.doubted = true;
        throw e;
      }
      this.lastSubmitted = turn;
      await this.#goOn();
    });
  }

  decide(decision: 'accept' | 'return', reason: string): Promise<void> {
    return this.#step(async () => {
      const turn = this.packet.turn.id;
      await ask(api.POST('/projects/{project}/turns/{turn}/decision', { ...this.path, body: { decision, reason } }));
      // an accept can be taken back; a return has gone to its labeller
      this.lastSubmitted = decision === 'accept' ? turn : null;
      await this.#goOn();
    });
  }

  /** Opens the item that is loaded already, else the next there is. */
  async #goOn(): Promise<void> {
    const purpose = this.mode === 'review' ? 'review' : 'label';
    const ahead = this.ahead;
    this.ahead = null;
    if (ahead) {
      const path = { params: { path: { project: this.project, turn: ahead.turn.id } } };
      this.open({ ...ahead, turn: { ...ahead.turn, mode: purpose } });
      // the picture is up; the lease, held since it was loaded, is renewed behind it
      ask(api.POST('/projects/{project}/turns/{turn}/take', path)).catch((e) => {
        if (this.packet.turn.id === ahead.turn.id) this.message = (e as Error).message;
      });
      return;
    }
    const { packet } = await ask(
      api.POST('/projects/{project}/next', { params: { path: { project: this.project } }, body: { purpose, holding: [] } })
    );
    if (packet) this.open(packet);
    else this.nothingLeft = true;
  }

  /** Sets the item aside with a reason and goes on. */
  park(reason: string): Promise<void> {
    return this.#step(async () => {
      await ask(api.POST('/projects/{project}/turns/{turn}/park', { ...this.path, body: { reason } }));
      await this.#goOn();
    });
  }
  /** Asks something about the item, or the mark in hand; the answer comes to stand here. */
  async inquire(text: string): Promise<boolean> {
    try {
      const asked = await ask(
        api.POST('/projects/{project}/proposals', {
          params: { path: { project: this.project } },
          body: { kind: 'question', text, turn: this.packet.turn.id, mark: this.selected }
        })
      );
      this.packet = { ...this.packet, questions: [...this.packet.questions, asked] };
      return true;
    } catch (e) {
      this.message = (e as Error).message;
      return false;
    }
  }

  /** Takes the item that is only looked at, to work on it. */
  takeUp(): Promise<void> {
    return this.#step(async () => {
      this.open(await ask(api.POST('/projects/{project}/turns/{turn}/take', this.path)));
    }, true);
  }

  takeBack(): Promise<void> {
    return this.#step(async () => {
      const turn = this.packet.turn.can_take_back ? this.packet.turn.id : this.lastSubmitted;
      if (turn === null) throw new Error('there is nothing to take back');
      this.open(await ask(api.POST('/projects/{project}/turns/{turn}/take-back', { params: { path: { project: this.project, turn } } })));
      this.lastSubmitted = null;
    }, true);
  }

  goTo(turn: number, state = this.queue?.data.find((q) => q.turn === turn)?.state): Promise<void> {
    return this.#step(async () => {
      const path = { params: { path: { project: this.project, turn } } };
      if (state === 'submitted' || state === 'accepted') this.open(await ask(api.GET('/projects/{project}/turns/{turn}', path)));
      else this.open(await ask(api.POST('/projects/{project}/turns/{turn}/take', path)));
    }, true);
  }
  neighbour(by: number, unlabelled = false): void {
    const rows = this.queue?.data ?? [];
    const at = rows.findIndex((q) => q.turn === this.packet.turn.id);
    const wanted = unlabelled ? rows.slice(at + 1).find((q) => q.state === 'waiting' || q.state === 'returned') : rows[at + by];
    if (wanted) void this.goTo(wanted.turn);
    else this.message = unlabelled ? 'no unlabelled item after this one' : 'there is no item on that side';
  }

  async pin(text: string): Promise<void> {
    const at = this.pinAt;
    if (!at) return;
    try {
      const pin = await ask(
        api.POST('/projects/{project}/turns/{turn}/pins', {
          ...this.path,
          body: { x: Math.round(at.x * 100) / 100, y: Math.round(at.y * 100) / 100, mark: at.mark, text }
        })
      );
      this.packet = { ...this.packet, pins: [...this.packet.pins, pin] };
      this.pinAt = null;
    } catch (e) {
      this.message = (e as Error).message;
    }
  }
  async unpin(pin: number): Promise<void> {
    try {
      await ask(api.DELETE('/projects/{project}/turns/{turn}/pins/{pin}', { params: { path: { ...this.path.params.path, pin } } }));
      this.packet = { ...this.packet, pins: this.packet.pins.filter((p) => p.id !== pin) };
    } catch (e) {
      this.message = (e as Error).message;
    }
  }

  /** A suggestion becomes a mark of this person. */
  confirm(suggestion: Schemas['Mark']): void {
    const mark = { ...fromServer(suggestion), id: ulid(), revision: 0, author: this.user, source: 'hand' };
    this.change([{ id: mark.id, before: null, after: mark, suggestion: suggestion.id }]);
    this.packet = { ...this.packet, suggestions: this.packet.suggestions.filter((s) => s.id !== suggestion.id) };
    this.select(mark.id);
  }
}
