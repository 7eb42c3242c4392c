import type { Running } from './running.svelte';
import type { Spans } from './spans.svelte';
import type { Range } from './tokens';

/** Words that were marked before, with the class they were marked as. */
export type Phrase = { words: string; class: string; count: number };
export type Offer = Range & { class: string; words: string };

const folded = (words: string): string => words.toLocaleLowerCase();
/** Code points of the steps in which a long text is looked through: those of the step the cursor is in, of the one before and the one behind. */
const STEP = 4000;
/** Offered at once at most; others follow when these have been answered. */
const MOST = 24;

/** What was marked so far, by its words; it stays from text to text. */
export class Phrases {
  /** classes by folded words, with how often */
  #known = new Map<string, Map<string, number>>();
  #loaded = new Set<string>();
  version = $state(0);
  /** what the project knows has been asked for */
  asked = false;

  /** Asks once for what the project knows already. Without an answer what this hand marks is known all the same; it is asked again with the next text. */
  ask(get: () => Promise<Phrase[]>): void {
    if (this.asked) return;
    this.asked = true;
    get().then(
      (found) => this.load(found),
      () => (this.asked = false)
    );
  }
  /** What the project knows already; each once. */
  load(phrases: readonly Phrase[]): void {
    for (const { words, class: key, count } of phrases) {
      const name = `${key} ${folded(words)}`;
      if (this.#loaded.has(name)) continue;
      this.#loaded.add(name);
      this.#add(words, key, count);
    }
    this.version++;
  }
  learn(words: string, key: string): void {
    this.#add(words, key, 1);
    this.version++;
  }
  #add(words: string, key: string, count: number): void {
    const fold = folded(words);
    if (fold.length > 120 || fold.trim() === '') return;
    const classes = this.#known.get(fold) ?? new Map<string, number>();
    classes.set(key, (classes.get(key) ?? 0) + count);
    this.#known.set(fold, classes);
  }
  /** The class some words were marked as most often. */
  classOf(words: string): string | null {
    const classes = this.#known.get(folded(words));
    return classes ? [...classes].reduce((a, b) => (b[1] > a[1] ? b : a))[0] : null;
  }
  get all(): { words: string; class: string }[] {
    void this.version;
    return [...this.#known.keys()].map((words) => ({ words, class: this.classOf(words)! }));
  }
}

/**
 * The same words elsewhere in this text: offered one after the other, never marked by themselves. Words count where they stand as whole tokens
 * and no span of their class lies over them.
 */
export class Alike {
  /** the text folded, where that leaves every sign at its place */
  readonly #body: string;
  /** where the words of each phrase stand: the text does not change */
  readonly #found = new Map<string, Range[]>();
  #window = '';
  #part = '';
  #left = $state.raw<ReadonlySet<string>>(new Set());

  constructor(
    private readonly running: Running,
    private readonly spans: Spans,
    private readonly phrases: Phrases,
    /** whether spans of a class are drawn here */
    private readonly drawn: (key: string) => boolean,
    /** where it is looked for in a long text */
    private readonly about: () => number,
    /** whether something else is to be decided first, which may say the same */
    private readonly waits: () => boolean = () => false
  ) {
    const { body } = running.offsets;
    const fold = folded(body);
    this.#body = fold.length === body.length ? fold : body;
  }
  /** Where it is looked: the whole of a text that is not long. In units of the text. */
  readonly #from = $derived.by(() => (this.#long ? Math.max(0, Math.floor(this.about() / STEP) - 1) * STEP : 0));
  get #long(): boolean {
    return this.running.length > 6 * STEP;
  }
  /** Where some words stand from one code point to another, wholly. */
  find(words: string, from = 0, to = this.running.length): Range[] {
    const { offsets, tokens } = this.running;
    if (this.#window !== `${from} ${to}`) {
      this.#window = `${from} ${to}`;
      this.#found.clear();
      this.#part = this.#body.slice(offsets.unit(from), offsets.unit(to));
    }
    const wanted = folded(words);
    const known = this.#found.get(wanted);
    if (known) return known;
    const first = offsets.unit(from);
    const found: Range[] = [];
    for (let at = this.#part.indexOf(wanted); at >= 0; at = this.#part.indexOf(wanted, at + wanted.length)) {
      const range = { start: offsets.offset(first + at), end: offsets.offset(first + at + wanted.length) };
      const whole = tokens.snapped(range);
      if (whole && whole.start === range.start && whole.end === range.end) found.push(range);
    }
    this.#found.set(wanted, found);
    return found;
  }
  /** What is offered, as it stands in the text. */
  readonly offers: Offer[] = $derived.by(() => {
    void this.spans.version;
    if (this.waits()) return [];
    const offers: Offer[] = [];
    const from = this.#from;
    const to = this.#long ? Math.min(this.running.length, from + 3 * STEP) : this.running.length;
    for (const { words, class: key } of this.phrases.all) {
      if (!this.drawn(key)) continue;
      let free = 0;
      for (const range of this.find(words, from, to)) {
        if (free === MOST) break;
        if (this.#left.has(`${range.start} ${range.end} ${key}`)) continue;
        if (this.spans.over(range).some((m) => m.class === key || (m.geometry.start === range.start && m.geometry.end === range.end)))
          continue;
        offers.push({ ...range, class: key, words: this.running.words(range.start, range.end) });
        free++;
      }
    }
    // as they begin, the longer ones first: of words within others that are offered too, the longer ones
    offers.sort((a, b) => a.start - b.start || b.end - a.end);
    const shown: Offer[] = [];
    let end = 0;
    for (const o of offers) {
      if (shown.length === MOST) break;
      if (o.end <= end && !shown.some((p) => p.start === o.start && p.end === o.end)) continue;
      shown.push(o);
      end = Math.max(end, o.end);
    }
    return shown;
  });
  /** How many there are, as it is said. */
  get told(): string {
    return this.offers.length < MOST ? String(this.offers.length) : `${MOST} or more`;
  }
  get now(): Offer | null {
    return this.offers[0] ?? null;
  }
  /** Not these, here. */
  leave({ start, end, class: key }: Offer): void {
    this.#left = new Set([...this.#left, `${start} ${end} ${key}`]);
  }
}
