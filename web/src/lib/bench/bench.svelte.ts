import { api, ApiError, ask, type Schemas } from '$lib/api/client';
import { Chosen } from '$lib/edits/hand.svelte';
import { Outbox } from '$lib/edits/outbox.svelte';
import { kindOf } from '$lib/kinds';
import type { Item, Kind, Media } from '$lib/kinds/kind';
import { shelf } from '$lib/state/shelf';
import { Words } from '$lib/words/words.svelte';
import { Opened, type Packet } from './opened.svelte';

type Settings = Schemas['User']['settings'];
const packetKey = (user: number, turn: number): string => `packet-${user}-${turn}`;
const codebookKey = (user: number, project: number): string => `codebook-${user}-${project}`;
/** Time in which a press that was meant for the item before does not act on the one that has just appeared. */
const FRESH = 250;

/** What became of suggestions nobody had decided when an item was submitted. */
function leftBehind(counted: number, left: number): string {
  const taken =
    counted === 0
      ? ''
      : `the whole was seen, so ${counted === 1 ? 'one sure suggestion is a label' : `${counted} sure suggestions are labels`}`;
  const rest =
    left <= 0
      ? ''
      : `${left === 1 ? 'one suggestion was' : `${left} suggestions were`} left behind there: no ${left === 1 ? 'label' : 'labels'}`;
  return `${[taken, rest].filter(Boolean).join('; ')}; take it back to ${left > 0 ? 'decide' : 'look again'}`;
}

/** The bench of one person in one project: which item lies there, which comes next, and the steps an item goes through. */
export class Bench {
  opened = $state.raw<Opened | null>(null);
  message = $state('');
  queue = $state.raw<Schemas['Queue'] | null>(null);
  lastSubmitted = $state<number | null>(null);
  busy = $state(false);
  /** the item has appeared a moment ago */
  fresh = $state(false);
  nothingLeft = $state(false);
  /** the page of the deck that is open: of the mark, of the item, or of the kind */
  page = $state<string | null>(null);
  readonly words: Words;
  readonly outbox: Outbox;
  readonly chosen: Chosen;
  #ahead: { packet: Packet; media: Media } | null = null;
  #kinds = new Map<Item['kind'], Kind>();
  #closed = false;
  #settling: ReturnType<typeof setTimeout> | undefined;

  /** @param moved another item lies on the bench: the address follows it */
  constructor(
    readonly project: number,
    readonly user: number,
    private readonly settings: () => Settings,
    private readonly moved: (turn: number) => void
  ) {
    this.words = new Words(project);
    this.outbox = Outbox.of(user);
    this.chosen = new Chosen(this.words);
  }
  close(): void {
    this.#closed = true;
    clearTimeout(this.#settling);
    this.opened?.close();
    this.#ahead?.media.close();
  }
  get mode(): 'label' | 'review' | 'look' {
    return this.opened?.mode ?? 'look';
  }
  say = (message: string): void => void (this.message = message);

  /** @param look only look: the item is not taken from anybody */
  async start(turn: number, look = false): Promise<void> {
    // what a crash left behind goes out by itself; the item opens whether or not the browser can keep edits
    await this.outbox.adopt();
    const codebook = this.#codebook();
    // whether it came is asked below, which is never reached when the item did not
    codebook.catch(() => {});
    const since = this.outbox.pending(this.project, turn);
    const path = { params: { path: { project: this.project, turn } } };
    let packet: Packet;
    try {
      packet = await ask(api.GET('/projects/{project}/turns/{turn}', path));
      if (!look && packet.turn.state !== 'submitted' && packet.turn.state !== 'accepted') {
        // what waits for this person is opened, and what they hold is held for longer; what can't be opened is only looked at
        try {
          packet = await ask(api.POST('/projects/{project}/turns/{turn}/take', path));
        } catch (e) {
          this.message = (e as Error).message;
        }
      }
    } catch (e) {
      const kept = e instanceof ApiError && e.isOffline ? await shelf.get<Packet>(packetKey(this.user, turn)) : null;
      if (kept === null) throw e;
      packet = kept;
      this.message = 'the server does not answer: this is the item as it was last shown here; what you do is kept and sent later';
    }
    await codebook;
    await this.#open(packet, since);
  }
  async #codebook(): Promise<void> {
    const asked = ask(api.GET('/projects/{project}/codebook', { params: { path: { project: this.project } } }));
    this.words.take(await shelf.or(codebookKey(this.user, this.project), asked));
    this.chosen.fit();
  }

  async #kind(name: Item['kind']): Promise<Kind> {
    let kind = this.#kinds.get(name);
    if (!kind) {
      kind = await kindOf(name, { words: this.words, chosen: this.chosen });
      kind.take(this.settings());
      this.#kinds.set(name, kind);
    }
    return kind;
  }
  /** Lays an item on the bench. */
  async #open(packet: Packet, since: readonly Schemas['Edit'][] = [], loaded: Media | null = null): Promise<void> {
    const kind = await this.#kind(packet.item.kind);
    if (this.#closed) return;
    this.opened?.close();
    this.words.drawnAs = kind.shapes;
    this.chosen.fit();
    const media = loaded ?? kind.load(packet.item);
    const opened = new Opened(
      {
        words: this.words,
        outbox: this.outbox,
        chosen: this.chosen,
        project: this.project,
        user: this.user,
        say: this.say,
        newWords: () => void this.#newWords(),
        page: (name) => (this.page = name)
      },
      packet,
      since,
      kind,
      media
    );
    this.opened = opened;
    this.page = null;
    this.nothingLeft = false;
    this.fresh = true;
    clearTimeout(this.#settling);
    this.#settling = setTimeout(() => (this.fresh = false), FRESH);
    this.moved(packet.turn.id);
    if (packet.codebook_version !== this.words.version) void this.#newWords();
    void shelf.put(packetKey(this.user, packet.turn.id), packet);
    void this.#loadQueue(opened);
    void opened.earlier.load();
    if (packet.turn.mode !== 'look') void this.#preload(opened);
  }

  /** Leases and loads the item after this one, so that it opens at once. Without it the next one is asked for when it is needed. */
  async #preload(opened: Opened): Promise<void> {
    this.#ahead?.media.close();
    this.#ahead = null;
    const turn = opened.packet.turn.id;
    try {
      const { packet } = await ask(
        api.POST('/projects/{project}/next', {
          params: { path: { project: this.project } },
          body: { purpose: opened.mode === 'review' ? 'review' : 'label', holding: [turn], after: turn, preload: true }
        })
      );
      if (!packet || packet.turn.id === turn || opened.closed) return;
      const media = (await this.#kind(packet.item.kind)).load(packet.item);
      if (opened.closed) media.close();
      else this.#ahead = { packet, media };
    } catch (e) {
      if (!(e instanceof ApiError)) throw e;
    }
  }
  /** The items around this one. Without an answer those known before stay, and who wants to go there asks again. */
  async #loadQueue(opened: Opened): Promise<string> {
    try {
      const queue = await ask(api.GET('/projects/{project}/turns/{turn}/queue', opened.path));
      if (!opened.closed) this.queue = queue;
      return '';
    } catch (e) {
      return (e as Error).message;
    }
  }

  #learning: Promise<void> | null = null;
  /** Takes up a new codebook: what is on its way goes first, and comes back in the new words. */
  #newWords(): Promise<void> {
    this.#learning ??= (async () => {
      const opened = this.opened;
      if (!opened) return;
      try {
        await this.outbox.arrived(this.project, opened.packet.turn.id);
        await this.#codebook();
        await opened.reload();
        opened.surface.chose();
        opened.say('the codebook has changed; your work is kept');
      } catch (e) {
        // asked again with the next answer, or the next look
        opened.say(`the codebook has changed and could not be loaded yet (${(e as Error).message})`);
      }
    })().finally(() => (this.#learning = null));
    return this.#learning;
  }
  /** Looks whether the codebook is still the same, for a bench on which nothing happens. */
  async look(): Promise<void> {
    if (!this.opened || this.outbox.waiting(this.project) > 0) return;
    const found = await api.GET('/projects/{project}', { params: { path: { project: this.project } } }).catch(() => null);
    if (found?.data && found.data.codebook_version !== this.words.version) await this.#newWords();
  }

  /**
   * Runs one step of the workflow after everything drawn has arrived. While one runs, a second submit or decision is a slip of the
   * finger and dropped; going elsewhere waits for its turn.
   *
   * @returns whether it was done
   */
  #last: Promise<boolean> = Promise.resolve(true);
  #step(work: (opened: Opened) => Promise<void>, waits = false): Promise<boolean> {
    // an item that has just appeared is not submitted by the second half of a double press
    if (!waits && (this.busy || this.fresh)) return Promise.resolve(false);
    this.#last = this.#last.then(() => this.#run(work));
    return this.#last;
  }
  async #run(work: (opened: Opened) => Promise<void>): Promise<boolean> {
    const opened = this.opened;
    if (!opened || this.#closed) return false;
    this.busy = true;
    this.message = '';
    try {
      await opened.surface.settle();
      await this.outbox.arrived(this.project, opened.packet.turn.id);
      await work(opened);
      return true;
    } catch (e) {
      if (e instanceof ApiError && e.problem.findings) {
        opened.findings.take(e.problem.findings);
        const first = e.problem.findings.find((f) => f.stops) ?? e.problem.findings[0];
        if (first) opened.lead(first);
      }
      this.message = (e as Error).message;
      return false;
    } finally {
      this.busy = false;
    }
  }
  /** What this hand did and the server did not take has to be settled before the item is called done. */
  #mustBeSettled(opened: Opened): void {
    const open = opened.editor.unsettled;
    if (open > 0)
      throw new Error(
        `${open === 1 ? 'one change' : `${open} changes`} of this item ${open === 1 ? 'was' : 'were'} not taken: settle ${open === 1 ? 'it' : 'them'} first`
      );
    if (opened.surface.isDrawing) throw new Error('something is half drawn: finish it or leave it with Esc first');
  }

  /** the turn whose last step got no answer */
  #unheard: number | null = null;
  /** Does a step of the workflow. One whose answer was lost may have been done all the same: then it is not asked for again. */
  async #once(opened: Opened, act: () => Promise<unknown>): Promise<void> {
    const turn = opened.packet.turn.id;
    const unheard = this.#unheard === turn;
    this.#unheard = null;
    // what is drawn while it is on its way would come too late, and be held
    opened.editor.locked = () => this.say('this item is on its way: wait a moment');
    try {
      await this.outbox.arrived(this.project, turn);
      await act();
    } catch (e) {
      opened.editor.locked = null;
      if (!(e instanceof ApiError)) throw e;
      if (e.isOffline) this.#unheard = turn;
      if (!unheard || e.status !== 409) throw e;
      const { state } = (await ask(api.GET('/projects/{project}/turns/{turn}', opened.path))).turn;
      if (state === 'open' || state === 'waiting') throw e;
    }
  }

  submit(nothing: boolean): Promise<boolean> {
    return this.#step(async (opened) => {
      this.#mustBeSettled(opened);
      const turn = opened.packet.turn.id;
      // a second press after doubts were shown goes on
      const anyway = opened.doubted;
      opened.doubted = false;
      const left = opened.suggestions.list.length;
      let counted = 0;
      try {
        await this.#once(opened, async () => {
          counted =
            (await ask(api.POST('/projects/{project}/turns/{turn}/submit', { ...opened.path, body: { nothing, anyway } }))).counted ?? 0;
        });
      } catch (e) {
        if (e instanceof ApiError && e.code === 'doubts') opened.doubted = true;
        throw e;
      }
      this.lastSubmitted = turn;
      await this.#goOn(opened);
      // what nobody has decided is no label, and whoever submitted it should know
      if (left > 0 && this.message === '') this.message = leftBehind(counted, left - counted);
    });
  }
  decide(decision: 'accept' | 'return', reason: string): Promise<boolean> {
    return this.#step(async (opened) => {
      this.#mustBeSettled(opened);
      const turn = opened.packet.turn.id;
      await this.#once(opened, () =>
        ask(api.POST('/projects/{project}/turns/{turn}/decision', { ...opened.path, body: { decision, reason } }))
      );
      // an accept can be taken back; a return has gone to its labeller
      this.lastSubmitted = decision === 'accept' ? turn : null;
      await this.#goOn(opened);
    });
  }
  /** Sets the item aside with a reason and goes on. */
  park(reason: string): Promise<boolean> {
    return this.#step(async (opened) => {
      await this.#once(opened, () => ask(api.POST('/projects/{project}/turns/{turn}/park', { ...opened.path, body: { reason } })));
      await this.#goOn(opened);
    });
  }

  /** Opens the item that is loaded already, else the next there is. */
  async #goOn(opened: Opened): Promise<void> {
    const purpose = opened.mode === 'review' ? 'review' : 'label';
    const ahead = this.#ahead;
    this.#ahead = null;
    if (ahead) {
      const path = { params: { path: { project: this.project, turn: ahead.packet.turn.id } } };
      await this.#open({ ...ahead.packet, turn: { ...ahead.packet.turn, mode: purpose } }, [], ahead.media);
      const next = this.opened;
      // the picture is up; the lease, held since it was loaded, is renewed behind it
      ask(api.POST('/projects/{project}/turns/{turn}/take', path)).catch((e: Error) => next?.say(e.message));
      return;
    }
    const { packet } = await ask(
      api.POST('/projects/{project}/next', {
        params: { path: { project: this.project } },
        body: { purpose, holding: [], after: opened.packet.turn.id }
      })
    );
    if (packet) await this.#open(packet, this.outbox.pending(this.project, packet.turn.id));
    else this.nothingLeft = true;
  }

  /** Takes the item that is only looked at, to work on it. */
  takeUp(): Promise<boolean> {
    return this.#step(async (opened) => this.#open(await ask(api.POST('/projects/{project}/turns/{turn}/take', opened.path))), true);
  }
  get canTakeBack(): boolean {
    return this.lastSubmitted !== null || (this.opened?.packet.turn.can_take_back ?? false);
  }
  takeBack(): Promise<boolean> {
    return this.#step(async (opened) => {
      const turn = opened.packet.turn.can_take_back ? opened.packet.turn.id : this.lastSubmitted;
      if (turn === null) throw new Error('there is nothing to take back');
      await this.#open(
        await ask(api.POST('/projects/{project}/turns/{turn}/take-back', { params: { path: { project: this.project, turn } } }))
      );
      this.lastSubmitted = null;
    }, true);
  }

  goTo(turn: number, state = this.queue?.data.find((q) => q.turn === turn)?.state): Promise<boolean> {
    return this.#step(async () => {
      const path = { params: { path: { project: this.project, turn } } };
      const since = this.outbox.pending(this.project, turn);
      const done = state === 'submitted' || state === 'accepted';
      const packet = await ask(
        done ? api.GET('/projects/{project}/turns/{turn}', path) : api.POST('/projects/{project}/turns/{turn}/take', path)
      );
      await this.#open(packet, since);
    }, true);
  }
  /** where a press before this one is still on the way to: two presses go two items on */
  #heading: number | null = null;
  neighbour(by: number, unlabelled = false): void {
    const { opened } = this;
    if (opened && !this.queue?.data.some((q) => q.turn === opened.packet.turn.id) && this.#heading === null) {
      void this.#loadQueue(opened).then((trouble) => {
        if (trouble !== '') opened.say(`the items around this one could not be loaded: ${trouble}`);
        else if (!opened.closed) this.#go(by, unlabelled);
      });
      return;
    }
    this.#go(by, unlabelled);
  }
  #go(by: number, unlabelled: boolean): void {
    const rows = this.queue?.data ?? [];
    const at = rows.findIndex((q) => q.turn === (this.#heading ?? this.opened?.packet.turn.id));
    const wanted = unlabelled
      ? rows.slice(at + 1).find((q) => q.state === 'waiting' || q.state === 'returned')
      : at < 0
        ? undefined
        : rows[at + by];
    if (!wanted) {
      this.message = unlabelled ? 'no unlabelled item after this one' : 'there is no item on that side';
      return;
    }
    this.#heading = wanted.turn;
    void this.goTo(wanted.turn).then(() => {
      if (this.#heading === wanted.turn) this.#heading = null;
    });
  }
}
