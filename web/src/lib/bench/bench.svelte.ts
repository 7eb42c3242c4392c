import { api, ApiError, ask, type Schemas } from '$lib/api/client';
import { asked, type Answer, type Attribute, type Document } from '$lib/state/codebook';
import { Outbox, type Outcome } from './outbox.svelte';
import { fromServer, type Box, type Finding, type Mark, type Packet, type Point } from './types';
import { ulid } from './ulid';
import { fit, fitBox, moved, type Size, type View } from './view';

export type Tool = 'pick' | 'hand' | 'box' | 'pin';
type Step = { id: string; before: Mark | null; after: Mark | null };
type Conflict = { id: string; mine: Mark | null; theirs: Mark | null; name: string };

const MAX_IDLE = 30;

/** The open item and everything that is done to it. Every change goes through `change`, so it can be undone and is sent. */
export class Bench {
  packet = $state.raw<Packet>(null!);
  document = $state.raw<Document>({ skeno: 'codebook/1', classes: [] });
  looks = $state.raw<Map<string, { color: string; light: string; marker: string }>>(new Map());
  marks = $state<Mark[]>([]);
  selected = $state<string | null>(null);
  hovered = $state<string | null>(null);
  tool = $state<Tool>('box');
  active = $state('');
  hidden = $state(false);
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
  #undo = $state<Step[][]>([]);
  #redo = $state<Step[][]>([]);
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
  get picture(): Size {
    return this.packet.item;
  }
  get path() {
    return { params: { path: { project: this.project, turn: this.packet.turn.id } } };
  }

  light = (key: string): string => this.looks.get(key)?.light ?? '#d5d8da';
  nameOf = (key: string): string => this.document.classes.find((c) => c.key === key)?.name ?? key;

  /** "Apple 3": the class and which of it. */
  label(mark: Mark): string {
    const of = this.marks.filter((m) => m.class === mark.class);
    return `${this.nameOf(mark.class)} ${of.findIndex((m) => m.id === mark.id) + 1}`;
  }

  questionsOf = (mark: Mark): Attribute[] => asked(this.document, mark.class, mark.answers);
  get openQuestion(): Attribute | null {
    const mark = this.mark;
    return mark && this.question !== null ? (this.questionsOf(mark).find((a) => a.key === this.question) ?? null) : null;
  }

  async start(turn: number): Promise<void> {
    await this.loadCodebook();
    let packet = await ask(api.GET('/projects/{project}/turns/{turn}', { params: { path: { project: this.project, turn } } }));
    const path = { params: { path: { project: this.project, turn } } };
    if (packet.turn.mode === 'look') {
      // what waits for this person is opened; what can't be opened is only looked at
      try {
        if (packet.turn.state === 'submitted') packet = await ask(api.POST('/projects/{project}/turns/{turn}/review', path));
        else if (packet.turn.state !== 'accepted') packet = await ask(api.POST('/projects/{project}/turns/{turn}/take', path));
      } catch (e) {
        if (packet.turn.state !== 'submitted' || (e as ApiError).status !== 403) this.message = (e as Error).message;
      }
    }
    await this.outbox.restore();
    this.open(packet);
  }

  async loadCodebook(): Promise<void> {
    const codebook = await ask(api.GET('/projects/{project}/codebook', { params: { path: { project: this.project } } }));
    this.document = codebook.document;
    this.looks = new Map(codebook.looks.map((l) => [l.key, l]));
    const drawable = codebook.document.classes.filter((c) => c.shapes.includes('box'));
    if (!drawable.some((c) => c.key === this.active)) this.active = drawable[0]?.key ?? '';
  }

  open(packet: Packet): void {
    this.packet = packet;
    this.marks = packet.marks.map(fromServer);
    this.#revisions = new Map(packet.marks.map((m) => [m.id, m.revision]));
    this.#layOver(this.outbox.pending(packet.turn.id));
    this.findings = packet.findings;
    this.selected = this.question = this.hovered = this.pinAt = null;
    this.#undo = [];
    this.#redo = [];
    this.conflicts = [];
    this.nothingLeft = false;
    this.tool = packet.turn.mode === 'label' ? 'box' : 'pick';
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
    for (const edit of edits) {
      const data = (edit.data ?? {}) as Partial<Mark> & { attribute?: string; answer?: Answer };
      const at = this.marks.findIndex((m) => m.id === edit.mark);
      if (edit.action === 'delete') this.marks.splice(at, at < 0 ? 0 : 1);
      else if (edit.action === 'create' && at < 0)
        this.marks.push({
          id: edit.mark,
          kind: 'box',
          stack: null,
          answers: {},
          source: 'hand',
          author: this.user,
          revision: 0,
          ...data
        } as Mark);
      else if (at >= 0) Object.assign(this.marks[at]!, data);
      this.#revisions.set(edit.mark, edit.base + 1);
    }
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
    this.stage = stage;
    if (!this.#fitted) this.fitView();
  }
  fitView(): void {
    this.view = fit(this.picture, this.stage);
    this.#fitted = this.stage.width > 100;
  }
  toObject(): void {
    if (this.mark) this.view = fitBox(this.mark.geometry, this.stage);
  }

  #seconds(): number {
    const now = Date.now();
    const seconds = Math.min(MAX_IDLE, Math.round((now - this.#lastActive) / 1000));
    this.#lastActive = now;
    return seconds;
  }

  /** Sends one step and shows it. */
  #apply(step: Step): void {
    const base = this.#revisions.get(step.id) ?? 0;
    const edit = { id: ulid(), mark: step.id, base, seconds: this.#seconds() };
    const at = this.marks.findIndex((m) => m.id === step.id);
    if (step.after === null) {
      if (at >= 0) this.marks.splice(at, 1);
      if (this.selected === step.id) this.selected = this.question = null;
      this.outbox.add(this.project, this.packet.turn.id, { ...edit, action: 'delete' });
    } else {
      const { class: key, kind, geometry, answers, stack } = $state.snapshot(step.after) as Mark;
      const mark = { ...step.after, author: this.user, source: 'hand' };
      if (at >= 0) this.marks[at] = mark;
      else this.marks.push(mark);
      this.outbox.add(this.project, this.packet.turn.id, {
        ...edit,
        action: at >= 0 ? 'change' : 'create',
        data: { class: key, kind, geometry, answers, stack }
      });
    }
    this.#revisions.set(step.id, base + 1);
  }

  change(steps: Step[]): void {
    if (!this.editable || steps.length === 0) return;
    for (const step of steps) this.#apply(step);
    this.#undo.push(steps);
    this.#redo = [];
  }
  undo(): void {
    const steps = this.#undo.pop();
    if (!steps) return;
    for (const step of [...steps].reverse()) this.#apply({ id: step.id, before: step.after, after: step.before });
    this.#redo.push(steps);
  }
  redo(): void {
    const steps = this.#redo.pop();
    if (!steps) return;
    for (const step of steps) this.#apply(step);
    this.#undo.push(steps);
  }

  draw(geometry: Box): void {
    if (!this.active) {
      this.message = 'the codebook has no class drawn as a box yet';
      return;
    }
    const mark: Mark = {
      id: ulid(),
      class: this.active,
      kind: 'box',
      geometry,
      answers: {},
      stack: null,
      revision: 0,
      author: this.user,
      source: 'hand'
    };
    this.change([{ id: mark.id, before: null, after: mark }]);
    this.selected = mark.id;
    this.openNext(true);
  }
  reshape(mark: Mark, geometry: Box): void {
    this.change([{ id: mark.id, before: $state.snapshot(mark) as Mark, after: { ...($state.snapshot(mark) as Mark), geometry } }]);
  }
  nudge(by: Point): void {
    if (this.mark) this.reshape(this.mark, moved(this.mark.geometry, by, this.picture));
  }
  remove(): void {
    if (this.mark) this.change([{ id: this.mark.id, before: $state.snapshot(this.mark) as Mark, after: null }]);
  }
  duplicate(): void {
    const mark = this.mark;
    if (!mark) return;
    const copy = {
      ...($state.snapshot(mark) as Mark),
      id: ulid(),
      geometry: moved($state.snapshot(mark.geometry), { x: 12, y: 12 }, this.picture),
      revision: 0
    };
    this.change([{ id: copy.id, before: null, after: copy }]);
    this.selected = copy.id;
  }
  /** A digit or a cap of the class board: the class in hand, and of the selected mark. */
  choose(key: string): void {
    this.active = key;
    const mark = this.mark;
    if (!mark || mark.class === key || !this.editable) return;
    const before = $state.snapshot(mark) as Mark;
    // answers the new class does not ask are dropped with the change, and come back with undo
    const asks = this.document.classes.find((c) => c.key === key)?.attributes ?? [];
    const answers = Object.fromEntries(Object.entries(before.answers).filter(([k]) => asks.includes(k)));
    this.change([{ id: mark.id, before, after: { ...before, class: key, answers } }]);
    this.question = null;
  }

  answer(attribute: Attribute, answer: Answer | null, stay = false): void {
    const mark = this.mark;
    if (!mark) return;
    const before = $state.snapshot(mark) as Mark;
    const answers = { ...before.answers };
    if (answer === null) delete answers[attribute.key];
    else answers[attribute.key] = answer;
    // an answer to a question that is no longer asked does not stay behind unseen
    const open = new Set(asked(this.document, mark.class, answers).map((a) => a.key));
    for (const key of Object.keys(answers))
      if (!open.has(key) && asked(this.document, mark.class, before.answers).some((a) => a.key === key)) delete answers[key];
    this.change([{ id: mark.id, before, after: { ...before, answers } }]);
    if (!stay) this.openNext(false);
  }

  /** Opens the next question without an answer; only required ones when a mark has just been drawn. */
  openNext(requiredOnly: boolean): void {
    const mark = this.mark;
    if (!mark) return;
    const questions = this.questionsOf(mark);
    const from = questions.findIndex((a) => a.key === this.question) + 1;
    const order = [...questions.slice(from), ...questions.slice(0, from)];
    this.question = order.find((a) => mark.answers[a.key] === undefined && (a.required || !requiredOnly))?.key ?? null;
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
    if (this.selected !== id) this.question = null;
    this.selected = id;
  }

  #heard(outcomes: Outcome[], answer: Schemas['EditResults']): void {
    for (const { turn, edit, result } of outcomes) {
      if (turn !== this.packet?.turn.id) continue;
      if (result.outcome === 'conflict') {
        const theirs = result.mark && !result.mark.deleted ? fromServer(result.mark) : null;
        const at = this.marks.findIndex((m) => m.id === edit.mark);
        const mine = at >= 0 ? ($state.snapshot(this.marks[at]) as Mark) : null;
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
    if (answer.codebook_version !== this.packet?.codebook_version) {
      this.packet = { ...this.packet, codebook_version: answer.codebook_version };
      void this.loadCodebook().then(() => (this.message = 'the codebook has changed; your work is kept'));
    }
  }

  #takeTheirs(id: string, theirs: Schemas['Mark'] | null): void {
    const at = this.marks.findIndex((m) => m.id === id);
    if (theirs) this.#revisions.set(id, theirs.revision);
    if (!theirs || theirs.deleted) this.marks.splice(at, at < 0 ? 0 : 1);
    else if (at >= 0) this.marks[at] = fromServer(theirs);
    else this.marks.push(fromServer(theirs));
  }

  /** Settles a conflict: the version of this hand again, on top of the other, or the other as it is. */
  settle(conflict: Conflict, mine: boolean): void {
    this.conflicts = this.conflicts.filter((c) => c.id !== conflict.id);
    const now = this.marks.find((m) => m.id === conflict.id);
    if (mine) this.change([{ id: conflict.id, before: now ? ($state.snapshot(now) as Mark) : null, after: conflict.mine }]);
  }

  async reload(): Promise<void> {
    const packet = await ask(api.GET('/projects/{project}/turns/{turn}', this.path));
    if (packet.turn.id !== this.packet.turn.id) return;
    this.packet = packet;
    this.marks = packet.marks.map(fromServer);
    this.#revisions = new Map(packet.marks.map((m) => [m.id, m.revision]));
    this.#layOver(this.outbox.pending(packet.turn.id));
    this.findings = packet.findings;
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
        this.outbox.flush(),
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
    if (finding.mark === null) return;
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
      await ask(api.POST('/projects/{project}/turns/{turn}/decision', { ...this.path, body: { decision, reason } }));
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
      ask(
        purpose === 'review'
          ? api.POST('/projects/{project}/turns/{turn}/review', path)
          : api.POST('/projects/{project}/turns/{turn}/take', path)
      ).catch((e) => {
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

  takeBack(): Promise<void> {
    return this.#step(async () => {
      const turn = this.packet.turn.can_take_back ? this.packet.turn.id : this.lastSubmitted;
      if (turn === null) throw new Error('there is no submit to take back');
      this.open(await ask(api.POST('/projects/{project}/turns/{turn}/take-back', { params: { path: { project: this.project, turn } } })));
      this.lastSubmitted = null;
    }, true);
  }

  goTo(turn: number): Promise<void> {
    return this.#step(async () => {
      const path = { params: { path: { project: this.project, turn } } };
      const row = this.queue?.data.find((q) => q.turn === turn);
      if (this.mode === 'review') this.open(await ask(api.POST('/projects/{project}/turns/{turn}/review', path)));
      else if (row && (row.state === 'submitted' || row.state === 'accepted'))
        this.open(await ask(api.GET('/projects/{project}/turns/{turn}', path)));
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
    this.change([{ id: mark.id, before: null, after: mark }]);
    this.packet = { ...this.packet, suggestions: this.packet.suggestions.filter((s) => s.id !== suggestion.id) };
    this.select(mark.id);
  }
}
