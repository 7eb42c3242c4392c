import type { Layer } from '$lib/keys/layers';
import type { Drawing } from '$lib/plane/drawing.svelte';
import type { PlanePorts } from '$lib/plane/ports';
import type { Show } from '$lib/plane/show.svelte';
import { TrackActs } from '$lib/time/acts';
import { Clock, type Drawn, type FrameTimes, type Pace } from '$lib/time/clock.svelte';
import { Sayings } from '$lib/time/sayings.svelte';
import { Timeline } from '$lib/time/timeline.svelte';
import { TracksOver } from '$lib/time/over.svelte';
import { Tracks } from '$lib/time/tracks.svelte';
import type { Mark } from '$lib/words/mark';
import { Flat } from './flat.svelte';
import { atPlace } from './place';
import type { Anchor, BenchPorts, Item, Overlay, Todo } from '../kind';

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

/** What kinds of items have in common whose marks are tracks along an axis: a place of it on the plane, all of it below. */
export abstract class Tracked extends Flat {
  readonly tracks: Tracks;
  readonly clock: Clock;
  readonly timeline: Timeline;
  readonly acts: TrackActs;
  readonly sayings: Sayings;
  /** a place is being typed */
  asking = $state(false);
  readonly #over: TracksOver;
  readonly #lists: () => readonly Overlay[];
  protected closed = false;

  /**
   * @param along gets the surface when all but what is made of it is there
   * @param on what lies on the stage, where that is a part of the item
   */
  constructor(
    item: Item,
    ports: BenchPorts,
    drawing: Drawing,
    shows: Show,
    readonly along: Along,
    on?: { id: number; width: number; height: number },
    more: Partial<PlanePorts> = {}
  ) {
    super(
      item,
      {
        ...atPlace(
          ports,
          () => this.clock.frame,
          () => this.overlays
        ),
        ...more
      } as BenchPorts,
      drawing,
      shows,
      on
    );
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
    this.#lists = ports.overlays;
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
    this.closed = true;
    this.clock.close();
    this.ports.asking.along = null;
    this.tracks.close();
    this.#over.close();
    this.plane.close();
  }

  /** The place whose marks are shown. */
  protected get shownPlace(): number {
    return this.clock.frame;
  }
  /** What the bench lays over the marks, as it is at the place that is shown. */
  protected readonly others: readonly Overlay[] = $derived.by(() => this.#over.at(this.#lists(), this.shownPlace));
  /** What lies over the marks. */
  get overlays(): readonly Overlay[] {
    return this.others;
  }
  get place(): number {
    return this.clock.frame;
  }
  async go(place: number): Promise<void> {
    await this.clock.go(place);
  }
  override show(what: Mark | Anchor | null): void {
    if (what === null) {
      this.plane.sight.whole();
      return;
    }
    if ('kind' in what) {
      // where it is not there, at a key where it is seen
      const keys = this.tracks.of(what.id)?.keys ?? [];
      if (what.away && keys[0]) void this.clock.go(keys[0].place).then(() => this.plane.to(this.ports.editor.marks.get(what.id)));
      // what is only suggested is seen where it was found
      else if (!this.ports.editor.marks.get(what.id) && typeof what.place === 'number')
        void this.clock.go(what.place).then(() => this.plane.to(what));
      else this.plane.to(what);
      return;
    }
    if (typeof what.place === 'number') void this.go(what.place);
    if (what.x !== null && what.y !== null) this.plane.sight.centre({ x: what.x, y: what.y });
  }
  override words = (mark: Mark): string => {
    const [first, last] = [mark.stretches?.[0]?.[0] ?? 0, mark.stretches?.at(-1)?.[1] ?? 0];
    const here = mark.away ? 'not here' : this.plane.words(mark);
    return first === last ? `${here}, ${this.along.word} ${first + 1}` : `${here}, ${this.along.word}s ${first + 1} to ${last + 1}`;
  };
  override short = (mark: Mark): string => {
    const [first, last] = [mark.stretches?.[0]?.[0] ?? 0, mark.stretches?.at(-1)?.[1] ?? 0];
    return first === last ? String(first + 1) : `${first + 1}–${last + 1}`;
  };
  /** Places marked on a lane: a tag is put on them, a question is asked of them. */
  markFrames(subject: string, from: number, to: number): void {
    const question = this.sayings.mark(subject, from, to);
    if (question !== null) this.ports.asking.question = question;
  }
  /** What is still to be said of some places. */
  override todo(): Todo[] {
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
  override drawing(): void {
    this.clock.stop();
    super.drawing();
  }

  /** Stops what goes on by itself, nearest first; false when nothing does. */
  protected halt(): boolean {
    return false;
  }
  protected layer(): Layer {
    const { planeKeys, clock } = this;
    return {
      ...planeKeys,
      press: (e) => {
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
        if (hand.size === 0 && (e.code === 'Delete' || e.code === 'Backspace') && this.plane.editable && this.sayings.remove()) return true;
        return planeKeys.press!(e);
      },
      escape: () => {
        if (this.halt() || this.sayings.leave()) return true;
        if (this.sayings.chosen !== null) {
          this.sayings.chosen = null;
          return true;
        }
        if (clock.playing) {
          clock.stop();
          return true;
        }
        return planeKeys.escape!();
      }
    };
  }
}
