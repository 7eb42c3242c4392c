import type { Layer } from '$lib/keys/layers';
import { TrackActs } from '$lib/time/acts';
import { Clock, type Drawn, type FrameTimes, type Pace } from '$lib/time/clock.svelte';
import { Sayings } from '$lib/time/sayings.svelte';
import { Timeline } from '$lib/time/timeline.svelte';
import { TracksOver } from '$lib/time/over.svelte';
import { Tracks } from '$lib/time/tracks.svelte';
import type { Mark } from '$lib/words/mark';
import type { BenchPorts, Item, Overlay, Todo } from './kind';

/** The axis of an item whose marks are tracks along it. */
export type Along = {
  /** what a place on it is called: frame, slice */
  word: 'frame' | 'slice';
  times: FrameTimes;
  pace: Pace;
  draw: Drawn;
  /** what tells how tracks are seen, where that is not as they are at the place that is shown */
  tracks?: (...of: ConstructorParameters<typeof Tracks>) => Tracks;
};

/** An item along its axis: where one is on it, its marks as tracks, what is said of stretches of it, and the lanes below the stage. */
export class Axis {
  readonly tracks: Tracks;
  readonly clock: Clock;
  readonly timeline: Timeline;
  readonly acts: TrackActs;
  readonly sayings: Sayings;
  /** a place is being typed */
  asking = $state(false);
  readonly #over: TracksOver;

  constructor(
    item: Item,
    private readonly ports: BenchPorts,
    private readonly along: Along,
    /** whether anything may be changed */
    private readonly editable: () => boolean
  ) {
    const say = (message: string) => ports.say(message);
    const places = along.times.count;
    const make = along.tracks ?? ((...of: ConstructorParameters<typeof Tracks>) => new Tracks(...of));
    this.tracks = make(
      ports.editor,
      item.id,
      places,
      say,
      (mark, wanted, first, last) => ports.between(mark, wanted, first, last),
      ports.words.varies,
      along.word
    );
    this.tracks.show(0);
    this.#over = new TracksOver((mark, wanted, first, last) => ports.between(mark, wanted, first, last));
    this.acts = new TrackActs(ports.editor, this.tracks, item.id, say, (key) => ports.words.isAbsentUnseen(key), along.word);
    this.clock = new Clock(along.times, along.draw, along.pace);
    this.sayings = new Sayings(ports.words, ports.asking, places, ports.kept, say);
    ports.asking.along = {
      questions: () => this.sayings.questions,
      answers: () =>
        Object.fromEntries(
          this.sayings.questions.flatMap((q) => {
            const here = this.sayings.at(`question ${q.key}`, this.clock.frame);
            return here && 'answer' in here ? [[q.key, here.answer]] : [];
          })
        ),
      give: (question, answer) => this.sayings.give(question, answer, this.clock.frame)
    };
    ports.hand.on(() => {
      if (ports.hand.selected !== null) this.sayings.chosen = null;
    });
    this.timeline = new Timeline(this.clock, this.tracks, ports.editor, ports.hand, ports.words, places, this.sayings);
  }
  close(): void {
    this.clock.close();
    this.ports.asking.along = null;
    this.tracks.close();
    this.#over.close();
  }

  /** Lists of marks that are only looked at, as they are at a place. */
  over(lists: readonly Overlay[], place: number): readonly Overlay[] {
    return this.#over.at(lists, place);
  }
  /** A mark in words, with where on the axis it is. */
  words(mark: Mark, here: () => string): string {
    const [first, last] = [mark.stretches?.[0]?.[0] ?? 0, mark.stretches?.at(-1)?.[1] ?? 0];
    const said = mark.away ? 'not here' : here();
    return first === last ? `${said}, ${this.along.word} ${first + 1}` : `${said}, ${this.along.word}s ${first + 1} to ${last + 1}`;
  }
  short(mark: Mark): string {
    const [first, last] = [mark.stretches?.[0]?.[0] ?? 0, mark.stretches?.at(-1)?.[1] ?? 0];
    return first === last ? String(first + 1) : `${first + 1}–${last + 1}`;
  }
  /** Places marked on a lane: a tag is put on them, a question is asked of them. */
  markFrames(subject: string, from: number, to: number): void {
    const question = this.sayings.mark(subject, from, to);
    if (question !== null) this.ports.asking.question = question;
  }
  /** Goes to where a mark is there, and then shows it. */
  lead(what: Mark, show: (mark: Mark | undefined) => void): void {
    // where it is not there, at a key where it is seen
    const keys = this.tracks.of(what.id)?.keys ?? [];
    if (what.away && keys[0]) void this.clock.go(keys[0].place).then(() => show(this.ports.editor.marks.get(what.id)));
    // what is only suggested is seen where it was found
    else if (!this.ports.editor.marks.get(what.id) && typeof what.place === 'number') void this.clock.go(what.place).then(() => show(what));
    else show(what);
  }
  /** What is still to be said of some places. */
  todo(): Todo[] {
    return this.sayings.questions.flatMap((q) => {
      const gaps = q.required ? this.sayings.gaps(q.key) : [];
      if (gaps.length === 0) return [];
      const lead = () => {
        this.ports.hand.select(null);
        void this.clock.go((gaps.find(([first]) => first > this.clock.frame) ?? gaps[0]!)[0]);
        this.ports.asking.question = q.key;
      };
      return [{ word: `${q.name}: ${gaps.length === 1 ? 'gap' : 'gaps'}`, count: gaps.length, lead }];
    });
  }

  /** Keys of the axis, before those of the stage. */
  press(e: KeyboardEvent): boolean {
    const { clock } = this;
    if (e.shiftKey && !e.ctrlKey && !e.metaKey && !e.altKey && (e.code === 'KeyZ' || e.code === 'KeyX')) {
      void clock.by(e.code === 'KeyZ' ? -clock.step : clock.step);
      return true;
    }
    const { asking, hand } = this.ports;
    const answers = asking.open?.scope === 'frame';
    if (answers && (e.code === 'ArrowLeft' || e.code === 'ArrowRight')) {
      // while answers lie on the letters one still gets about
      void clock.by((e.code === 'ArrowLeft' ? -1 : 1) * (e.shiftKey ? clock.step : 1));
      return true;
    }
    return hand.size === 0 && (e.code === 'Delete' || e.code === 'Backspace') && this.editable() && this.sayings.remove();
  }
  escape(): boolean {
    if (this.sayings.leave()) return true;
    if (this.sayings.chosen !== null) {
      this.sayings.chosen = null;
      return true;
    }
    if (!this.clock.playing) return false;
    this.clock.stop();
    return true;
  }
}

/** The keys of an axis over those of a stage. @param halt stops what goes on by itself, nearest first; false when nothing does */
export const alongAxis = (axis: Axis, stage: Layer, halt: () => boolean): Layer => ({
  ...stage,
  press: (e) => axis.press(e) || stage.press!(e),
  escape: () => halt() || axis.escape() || stage.escape!()
});
