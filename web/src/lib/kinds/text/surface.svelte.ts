import type { Cap, Row } from '$lib/keys/caps';
import type { Layer } from '$lib/keys/layers';
import { ulid } from '$lib/edits/ulid';
import { Alike, type Offer, type Phrases } from '$lib/text/alike.svelte';
import { Cursor, type Edge } from '$lib/text/cursor.svelte';
import { Relating } from '$lib/text/relating.svelte';
import { Running, type TextFile } from '$lib/text/running.svelte';
import { isRelation, isSpan, Spans } from '$lib/text/spans.svelte';
import type { Range } from '$lib/text/tokens';
import { begun, type Mark, type SpanMark } from '$lib/words/mark';
import type { Anchor, BenchPorts, Caps, Item, Settings, Surface, Todo } from '../kind';
import { TextCaps } from './caps';
import Detail from './Detail.svelte';
import Stage from './Stage.svelte';

/** What the stage, which knows where words lie on the screen, does for the surface. */
export type Seen = {
  /** the word above or below a place */
  line(offset: number, by: 1 | -1): number | null;
  reveal(range: Range, wholly?: boolean): void;
};

/** A text on the bench. */
export class TextSurface implements Surface {
  readonly Stage = Stage;
  readonly Detail = Detail;
  readonly noun = 'text';
  running = $state.raw<Running>(new Running({ body: '', words: [], sentences: [] }));
  cursor = $state.raw() as Cursor;
  spans = $state.raw() as Spans;
  alike = $state.raw() as Alike;
  relating = $state.raw() as Relating;
  /** the words a drag goes over */
  dragged = $state.raw<Range | null>(null);
  /** the next press on a word sets a pin there */
  pinning = $state(false);
  /** a press on a span says what the one in hand is a part of */
  whole = $state(false);
  /** an edge is moved while its key is held */
  held = $state<'widen' | 'narrow' | null>(null);
  /** names of the classes stand below their lines */
  named = $state(true);
  seen: Seen | null = null;
  /** Shift is held: by letters instead of words */
  shift = $state(false);
  readonly keys: Layer;
  readonly #caps: TextCaps;
  readonly pages: Record<string, () => Row[]>;
  #heldBy: string | null = null;
  #down: string | null = null;
  #closed = false;

  constructor(
    readonly item: Item,
    readonly file: TextFile,
    readonly ports: BenchPorts,
    readonly phrases: Phrases,
    /** how one works, from text to text */
    private readonly ways: { byKeys: boolean } = { byKeys: true }
  ) {
    this.#begin(file.running ?? this.running);
    void file.opened.then(
      (running) => {
        if (!this.#closed && this.running !== running) this.#begin(running);
        this.#look();
      },
      () => {}
    );
    if (file.running) this.#look();
    if (ports.mode === 'label') phrases.ask(() => ports.phrases());
    this.#caps = new TextCaps(this, ports);
    this.pages = this.#caps.pages;
    this.keys = this.#layer();
  }
  #begin(running: Running): void {
    const { ports } = this;
    this.spans?.close();
    this.running = running;
    this.cursor = new Cursor(running);
    this.spans = new Spans(ports.editor.marks, running);
    this.relating = new Relating(ports.words, this.spans);
    this.alike = new Alike(
      running,
      this.spans,
      this.phrases,
      (key) => ports.words.kindsOf(key).includes('span'),
      () => this.cursor.range?.start ?? 0,
      // what was suggested comes before what is only the same words
      () => ports.overlays().some((o) => o.pick && o.marks.some(isSpan))
    );
  }
  /** Where one works by keys a word is looked at from the beginning; a digit is for it. By the pointer the class is chosen first. */
  #look(): void {
    const word = this.ports.kept.get<number>('word');
    if (word !== null || this.ways.byKeys) this.cursor.to(word ?? 0);
  }
  close(): void {
    this.#closed = true;
    this.spans.close();
    this.file.close();
  }

  get editable(): boolean {
    return this.ports.mode !== 'look';
  }
  /** What keys are about: the words of the span in hand, else those that are looked at. */
  get range(): Range | null {
    const { one } = this.ports.hand;
    return isSpan(one) ? one.geometry : this.cursor.range;
  }
  words = (mark: Mark): string => {
    if (isSpan(mark)) return `"${this.said(mark.geometry)}" at ${mark.geometry.start} to ${mark.geometry.end}`;
    if (isRelation(mark)) return this.#joined(mark.geometry);
    return '';
  };
  short = (mark: Mark): string => this.lead(mark);
  lead(mark: Mark): string {
    return isSpan(mark) ? this.said(mark.geometry) : isRelation(mark) ? this.#joined(mark.geometry) : '';
  }
  #joined({ from, to }: { from: string; to: string }): string {
    const [a, b] = [this.spans.get(from), this.spans.get(to)];
    return `${a ? this.said(a.geometry, 20) : 'gone'} → ${b ? this.said(b.geometry, 20) : 'gone'}`;
  }
  said({ start, end }: Range, most = 48): string {
    const words = this.running.words(start, Math.min(end, start + most + 1)).replace(/\s+/g, ' ');
    return end - start > most ? `${words.trimEnd()}…` : words;
  }
  facts(): string[] {
    const { length, encoding } = this.item.text!;
    return [
      `${length.toLocaleString('en')} characters`,
      `${this.running.tokens.count.toLocaleString('en')} words and signs`,
      ...(encoding === 'UTF-8' ? [] : [`came in ${encoding}`])
    ];
  }
  todo(): Todo[] {
    return [];
  }
  get isDrawing(): boolean {
    return this.relating.key !== null;
  }
  get isShown(): boolean {
    return this.file.running !== null;
  }
  caps(): Caps {
    return this.#caps.caps();
  }
  ofMark(): Cap[] {
    return this.#caps.ofMark();
  }
  show(what: Mark | Anchor | null): void {
    if (what === null) return;
    if ('kind' in what) {
      const span = isSpan(what) ? what : isRelation(what) ? this.spans.get(what.geometry.from) : null;
      if (span) this.seen?.reveal(span.geometry);
    } else if (typeof what.offset === 'number') {
      this.cursor.to(what.offset);
      if (this.cursor.range) this.seen?.reveal(this.cursor.range);
    }
  }
  chose(): void {
    // a class chosen with nothing looked at is for the next span
  }
  /** The words that are looked at become a span of a class. */
  take(key: string): boolean {
    const { range } = this.cursor;
    if (!range || !this.ports.words.kindsOf(key).includes('span')) return false;
    this.ports.chosen.active = key;
    this.draw(range, key);
    return true;
  }
  picking(): void {
    this.pinning = this.whole = false;
    const { one } = this.ports.hand;
    const span = isSpan(one) ? one : isRelation(one) ? this.spans.get(one.geometry.from) : null;
    if (span) this.seen?.reveal(span.geometry);
  }
  drawing(): void {
    if (this.cursor.range) this.seen?.reveal(this.cursor.range);
  }
  wholing(): void {
    this.whole = true;
  }
  settle(): Promise<void> {
    return Promise.resolve();
  }
  settings(): Settings {
    return {};
  }
  readonly keyMap: { keys: string; what: string }[] = [
    { keys: '← →', what: 'the word before, the next; with Shift widen or narrow behind' },
    { keys: '↑ ↓', what: 'the line above, the line below' },
    { keys: 'E held, Q W', what: 'widen before, widen behind; with Shift by letters' },
    { keys: 'T held, Q W', what: 'narrow before, narrow behind' },
    { keys: 'Esc', what: 'no word is looked at: a digit is for what is drawn next' },
    { keys: '1 … 0', what: 'the words that are looked at become a span of that class' },
    { keys: 'drag, double press', what: 'a span of the class in hand; with Alt by letters' },
    { keys: 'Enter', what: 'the span on these words into hand' }
  ];

  /** A span over some words; one of the same class that is there already is taken in hand instead. */
  draw(range: Range, key = this.ports.chosen.active): void {
    const { ports } = this;
    if (!this.editable || range.start >= range.end) return;
    if (!ports.words.kindsOf(key).includes('span')) return ports.say('no class is drawn on texts');
    const same = this.spans.same(range, key);
    if (same) {
      ports.hand.select(same.id);
      return;
    }
    const mark = this.#made(range, key);
    ports.editor.change([{ subject: mark.id, item: this.item.id, before: null, after: mark }]);
    this.phrases.learn(this.running.words(range.start, range.end), key);
    this.cursor.set(range);
    ports.hand.select(mark.id);
    ports.asking.openNext(true);
  }
  #made({ start, end }: Range, key: string): SpanMark {
    return begun(ulid(), { kind: 'span', geometry: { start, end } }, key, this.ports.user) as SpanMark;
  }
  /** The same words here become a span, as they did elsewhere. */
  confirm(offer: Offer): void {
    if (!this.editable) return;
    const mark = this.#made(offer, offer.class);
    this.ports.editor.change([{ subject: mark.id, item: this.item.id, before: null, after: mark }]);
    this.phrases.learn(offer.words, offer.class);
    this.cursor.set({ start: offer.start, end: offer.end });
    // what is asked of it has to be answered: else the hand stays free for the next
    const asks = this.ports.words.questionsOf(mark).some((q) => q.required);
    this.ports.hand.select(asks ? mark.id : null);
    if (asks) this.ports.asking.openNext(true);
    this.seen?.reveal(this.alike.now ?? offer);
  }
  leave(offer: Offer): void {
    this.alike.leave(offer);
    if (this.alike.now) this.seen?.reveal(this.alike.now);
  }

  /** To the next word, or the one before; what is in hand is let go. */
  step(by: 1 | -1): void {
    const { hand } = this.ports;
    if (isSpan(hand.one)) this.cursor.set(hand.one.geometry);
    hand.select(null);
    this.cursor.by(by);
    this.#moved();
  }
  line(by: 1 | -1): void {
    const { hand } = this.ports;
    const at = this.range;
    hand.select(null);
    const next = at && this.seen?.line(at.start, by);
    if (next !== null && next !== undefined) this.cursor.to(next);
    this.#moved();
  }
  /** Moves an edge of the span in hand, or of the words that are looked at. */
  edge(edge: Edge, by: 1 | -1, letters = this.shift): void {
    const { one } = this.ports.hand;
    if (isSpan(one) && this.editable) this.#reach(one, this.cursor.moved(one.geometry, edge, by, letters));
    else this.cursor.edge(edge, by, letters);
    this.#moved();
  }
  #reach(mark: SpanMark, range: Range): void {
    if (this.ports.hand.locked.has(mark.id)) return this.ports.say('it is locked');
    if (range.start === mark.geometry.start && range.end === mark.geometry.end) return;
    const after: SpanMark = { ...mark, geometry: { start: range.start, end: range.end } };
    this.ports.editor.change([{ subject: mark.id, item: this.item.id, before: mark, after }]);
    this.cursor.set(range);
  }
  /** The span in hand over other words. */
  reach(range: Range): void {
    const { one } = this.ports.hand;
    if (isSpan(one) && this.editable) this.#reach(one, range);
  }
  #moved(): void {
    this.ways.byKeys = true;
    if (this.range) {
      this.seen?.reveal(this.range);
      this.ports.kept.set('word', this.range.start);
    }
  }
  /** The pointer has been used. */
  pointed(): void {
    this.ways.byKeys = false;
  }
  /** A press on a word: the shortest span there into hand, again the next longer one; where there is none the word is looked at. */
  press(offset: number): void {
    const { hand } = this.ports;
    const at = { start: offset, end: offset + 1 };
    if (this.pinning) {
      this.pinning = false;
      const [under] = this.spans.over(at);
      return this.ports.pin({ x: null, y: null, offset, mark: under?.id ?? null });
    }
    const found = this.spans.over(at);
    if (this.relating.key !== null) {
      const target = found.find((m) => this.relating.candidates.some((c) => c.id === m.id));
      if (target) this.join(target.id);
      else this.ports.say('no span it may lead to lies there');
      return;
    }
    if (this.whole) {
      this.whole = false;
      if (found[0]) this.ports.acts.partOf(found[0].id);
      return;
    }
    const suggested = this.ports
      .overlays()
      .flatMap((o) => (o.pick ? o.marks.filter(isSpan).map((m) => ({ m, pick: o.pick! })) : []))
      .find(({ m }) => m.geometry.start <= offset && offset < m.geometry.end);
    if (found.length === 0 && suggested) return suggested.pick(suggested.m.id);
    const now = found.findIndex((m) => m.id === hand.selected);
    const next = found[now + 1] ?? (now < 0 ? undefined : found[0]);
    this.cursor.to(offset);
    hand.select(next?.id ?? null);
    if (next) this.cursor.set(next.geometry);
  }
  /** The span on the words that are looked at comes into hand. */
  pick(): boolean {
    const { range } = this.cursor;
    const found = range ? this.spans.over(range) : [];
    if (found.length === 0) return false;
    const now = found.findIndex((m) => m.id === this.ports.hand.selected);
    this.ports.hand.select(found[(now + 1) % found.length]!.id);
    return true;
  }
  /** Cuts the span in hand in two: behind its first word, or between the words where it joins two things. */
  split(): void {
    const { one } = this.ports.hand;
    if (!isSpan(one)) return;
    const { tokens } = this.running;
    const inside = tokens.within(one.geometry);
    if (!inside || inside[0] === inside[1]) return this.ports.say('it is one word: narrow it instead');
    const [first, last] = inside;
    const words = Array.from({ length: last - first + 1 }, (_, i) =>
      this.running.words(tokens.starts[first + i]!, tokens.ends[first + i]!)
    );
    // a sign, or a word of two letters or three that stands between two others, is what joins them
    const between = words.findIndex((w, i) => i > 0 && i < words.length - 1 && /^([,;/&+]|\p{Ll}{2,3})$/u.test(w));
    const before = between > 0 ? between - 1 : 0;
    const behind = between > 0 ? between + 1 : 1;
    const left = { ...one, geometry: { start: one.geometry.start, end: tokens.ends[first + before]! } } as SpanMark;
    const right = {
      ...one,
      id: ulid(),
      revision: 0,
      suggestion: null,
      geometry: { start: tokens.starts[first + behind]!, end: one.geometry.end }
    } as SpanMark;
    this.ports.editor.change([
      { subject: one.id, item: this.item.id, before: one, after: left },
      { subject: right.id, item: this.item.id, before: null, after: right }
    ]);
    this.ports.hand.select(right.id);
  }
  /** The spans in hand become one; one alone is joined with the next of its class. */
  joinSpans(): void {
    const { hand } = this.ports;
    const marks = hand.free.filter(isSpan);
    const first = marks[0];
    if (!first) return;
    if (marks.length === 1) {
      const next = this.spans.inOrder().find((m) => m.class === first.class && m.id !== first.id && m.geometry.start >= first.geometry.end);
      if (!next) return this.ports.say('no span of its class follows');
      marks.push(next);
    }
    if (marks.some((m) => m.class !== first.class)) return this.ports.say('they are of different classes');
    const start = Math.min(...marks.map((m) => m.geometry.start));
    const end = Math.max(...marks.map((m) => m.geometry.end));
    const rest = marks.slice(1);
    // what led to one of them leads to all of them now
    const joins = this.spans.joins.flatMap((j) => {
      const to = (id: string) => (rest.some((m) => m.id === id) ? first.id : id);
      const [from, into] = [to(j.geometry.from), to(j.geometry.to)];
      if (from === j.geometry.from && into === j.geometry.to) return [];
      const after = from === into ? null : ({ ...j, geometry: { from, to: into } } as Mark);
      return [{ subject: j.id, item: this.item.id, before: j as Mark, after }];
    });
    this.ports.editor.change([
      { subject: first.id, item: this.item.id, before: first, after: { ...first, geometry: { start, end } } },
      ...rest.map((m) => ({ subject: m.id, item: this.item.id, before: m as Mark, after: null })),
      ...joins
    ]);
    hand.select(first.id);
  }

  /** A relation is to be drawn from the span in hand. */
  relate(key: string): void {
    const { one } = this.ports.hand;
    if (!isSpan(one)) return;
    if (!this.relating.begin(key, one.id)) return this.ports.say(`there is nothing here that ${this.ports.words.nameOf(key)} may lead to`);
    this.#showTarget();
  }
  target(by: 1 | -1): void {
    this.relating.step(by);
    this.#showTarget();
  }
  #showTarget(): void {
    const target = this.relating.target === null ? null : this.spans.get(this.relating.target);
    if (target) this.seen?.reveal(target.geometry);
  }
  /** The relation is drawn to a span. */
  join(to = this.relating.target): void {
    const { key, from } = this.relating;
    if (key === null || from === null || to === null) return;
    if (this.spans.joins.some((j) => j.class === key && j.geometry.from === from && j.geometry.to === to)) {
      this.relating.leave();
      return this.ports.say('they are joined so already');
    }
    const mark = begun(ulid(), { kind: 'relation', geometry: { from, to } }, key, this.ports.user);
    this.ports.editor.change([{ subject: mark.id, item: this.item.id, before: null, after: mark }]);
    this.relating.leave();
    this.ports.page(null);
    this.ports.hand.select(from);
  }
  /** A drag from one span to another: by the one relation that may lead there, or by a choice. */
  drawJoin(from: string, to: string): void {
    const [a, b] = [this.spans.get(from), this.spans.get(to)];
    if (!a || !b || a.id === b.id || !this.editable) return;
    const fits = this.ports.words.relations.filter((r) => r.from.includes(a.class) && r.to.includes(b.class));
    if (fits.length === 0)
      return this.ports.say(`no relation leads from ${this.ports.words.nameOf(a.class)} to ${this.ports.words.nameOf(b.class)}`);
    this.ports.hand.select(from);
    this.relating.begin(fits[0]!.key, from);
    this.relating.target = to;
    if (fits.length === 1) this.join(to);
    else this.ports.page('join');
  }

  hold(how: 'widen' | 'narrow'): void {
    if (this.held === how && this.#heldBy === null) {
      this.held = null;
      return;
    }
    this.held = how;
    // pressed by the pointer it stays until it is pressed again
    this.#heldBy = this.#down;
  }
  #layer(): Layer {
    return {
      press: (e) => {
        this.shift = e.shiftKey;
        if (!e.repeat) this.#down = e.code;
        if (e.ctrlKey || e.metaKey) {
          if (e.code === 'KeyC' && this.range && (getSelection()?.toString() ?? '') === '') {
            void navigator.clipboard?.writeText(this.running.words(this.range.start, this.range.end)).catch(() => {});
            return true;
          }
          return false;
        }
        if (e.altKey) return false;
        const relating = this.relating.key !== null;
        switch (e.code) {
          case 'ArrowLeft':
          case 'ArrowRight': {
            const by = e.code === 'ArrowRight' ? 1 : -1;
            if (relating) this.target(by);
            else if (e.shiftKey) this.edge('end', by, false);
            else this.step(by);
            return true;
          }
          case 'ArrowUp':
          case 'ArrowDown':
            this.line(e.code === 'ArrowDown' ? 1 : -1);
            return true;
          case 'Enter':
          case 'NumpadEnter':
            if (relating) this.join();
            else this.pick();
            return true;
          case 'Delete':
          case 'Backspace':
            if (this.ports.hand.size > 0 && this.editable) this.ports.acts.remove();
            return true;
          default:
            return false;
        }
      },
      release: (e) => {
        this.shift = e.shiftKey;
        if (this.held && this.#heldBy === e.code) this.held = this.#heldBy = null;
        if (this.#down === e.code) this.#down = null;
      },
      escape: () => {
        if (this.relating.leave()) return true;
        if (this.whole || this.held) {
          this.whole = false;
          this.held = this.#heldBy = null;
          return true;
        }
        if (this.ports.hand.size === 0 && this.cursor.range) {
          this.cursor.set(null);
          this.ports.kept.set('word', null);
          return true;
        }
        return false;
      }
    };
  }
}
