import { same } from '$lib/words/same';
import { body, keyBody, type Dropped, type Mark, type Said, type TrackKey } from '$lib/words/mark';

/** What is changed: a mark, a key of one, what is said of an item, or a suggestion that is found wrong. */
export type Value = Mark | Said | TrackKey | Dropped;
export const isDrop = (value: Value | null): value is Dropped => value !== null && 'dropped' in value;
export const isKey = (value: Value | null): value is TrackKey => value !== null && 'mark' in value;
export const isSaid = (value: Value | null): value is Said => value !== null && 'tags' in value;
/**
 * One change of one subject (a mark by its id, or what is said of an item), with both sides, so that it can be taken back. `words` is the
 * version of the codebook its classes and answers are from; the server translates older ones.
 */
export type Step = { subject: string; item: number; before: Value | null; after: Value | null; words: number; suggestion?: string };

/** Steps kept over a reload: more than anybody takes back, little enough for the browser's store. */
const KEPT = 60;
const LARGEST = 1_500_000;
/** Changes of one step beyond which it is not kept, nor what was before it. */
const MOST_AT_ONCE = 4000;
/** Time after the last step until they are written: a hand that goes on is not held up by it. */
const REST = 400;

/** Keeps what can be taken back until the item is left or the tab closed. */
export class History {
  readonly #key: string;
  #waiting: { undo: Step[][]; gone: () => ReadonlyMap<string, number> } | null = null;
  /** steps never change once they are made */
  #written = new WeakMap<Step[], string>();
  #timer: ReturnType<typeof setTimeout> | undefined;
  #leaving = (): void => this.flush();

  constructor(user: number, turn: number) {
    this.#key = `skeno-undo-${user}-${turn}`;
    globalThis.addEventListener?.('pagehide', this.#leaving);
  }

  /** @param gone tells the revisions of marks that are not there any more: what brings one back has to be on top of its removal */
  keep(undo: Step[][], gone: () => ReadonlyMap<string, number> = () => new Map()): void {
    this.#waiting = { undo, gone };
    clearTimeout(this.#timer);
    this.#timer = setTimeout(() => this.flush(), REST);
  }
  /** Writes what is still to be written. */
  flush(): void {
    clearTimeout(this.#timer);
    if (this.#waiting === null) return;
    // the newest first, as many as there is room for: one step may be of thousands of marks
    const kept: string[] = [];
    let size = 2;
    for (const steps of this.#waiting.undo.slice(-KEPT).reverse()) {
      if (steps.length > MOST_AT_ONCE) break;
      let json = this.#written.get(steps);
      if (json === undefined) this.#written.set(steps, (json = JSON.stringify(steps)));
      size += json.length + 1;
      if (size > LARGEST) break;
      kept.unshift(json);
    }
    const gone = JSON.stringify(Object.fromEntries(this.#waiting.gone()));
    this.#waiting = null;
    try {
      sessionStorage.setItem(this.#key, `{"gone":${gone},"steps":[${kept.join()}]}`);
    } catch {
      // the store is full: the steps stay for this visit, only a reload forgets them
      sessionStorage.removeItem(this.#key);
    }
  }
  close(): void {
    this.flush();
    globalThis.removeEventListener?.('pagehide', this.#leaving);
  }

  #read(): { steps: Step[][]; gone: Record<string, number> } {
    try {
      const kept = JSON.parse(sessionStorage.getItem(this.#key) ?? '{}') as { steps?: Step[][]; gone?: Record<string, number> };
      return { steps: kept.steps ?? [], gone: kept.gone ?? {} };
    } catch {
      return { steps: [], gone: {} };
    }
  }
  /**
   * The steps kept, as far back as they still fit what is there: from one that does not on, nothing may be taken back; and the revisions of
   * marks that were removed here. @param marks as they are now by id, and keys by what they are called
   */
  restore(marks: ReadonlyMap<string, Mark | TrackKey | Dropped>, said: Said): { steps: Step[][]; gone: Map<string, number> } {
    const kept = this.#read();
    return { steps: this.#fitting(kept.steps, marks, said), gone: new Map(Object.entries(kept.gone)) };
  }
  #fitting(kept: Step[][], marks: ReadonlyMap<string, Mark | TrackKey | Dropped>, said: Said): Step[][] {
    const now = new Map<string, Value>(marks);
    const saidNow = (subject: string): Value | null => now.get(subject) ?? (subject.startsWith('said:') ? said : null);
    const fitting: Step[][] = [];
    for (const steps of [...kept].reverse()) {
      for (const step of [...steps].reverse()) {
        if (!same(plain(step.after), plain(saidNow(step.subject)))) return fitting.reverse();
        if (step.before) now.set(step.subject, step.before);
        else now.delete(step.subject);
      }
      fitting.push(steps);
    }
    return fitting.reverse();
  }
}

/** What a value says, apart from who said it and when. */
export const plain = (value: Value | null) =>
  value === null || isSaid(value) || isDrop(value) ? value : isKey(value) ? keyBody(value) : body(value);
