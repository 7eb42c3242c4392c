import type { Cap } from '$lib/keys/caps';
import type { Layer } from '$lib/keys/layers';
import type { Drawing } from '$lib/plane/drawing.svelte';
import type { Show } from '$lib/plane/show.svelte';
import { TrackActs } from '$lib/time/acts';
import { Clock, FrameTimes } from '$lib/time/clock.svelte';
import { Fitting } from '$lib/time/fit.svelte';
import { Following } from '$lib/time/follow.svelte';
import { Recutting } from '$lib/time/recut.svelte';
import { Sayings } from '$lib/time/sayings.svelte';
import { Timeline } from '$lib/time/timeline.svelte';
import { TracksOver } from '$lib/time/over.svelte';
import { Tracks } from '$lib/time/tracks.svelte';
import type { Mark } from '$lib/words/mark';
import { Flat } from '../flat/flat.svelte';
import { atPlace } from '../flat/place';
import type { Anchor, BenchPorts, Caps, Item, Overlay, Surface, Todo } from '../kind';
import { ClipCaps } from './caps';
import type { Clip } from './clip.svelte';
import Detail from './Detail.svelte';
import { SoundPace } from './sound';
import Stage from './Stage.svelte';
import Strip from './Strip.svelte';

/** A clip on the bench: one frame of it on the plane, the whole of it in time below. */
export class ClipSurface extends Flat implements Surface {
  readonly Stage = Stage;
  readonly noun = 'clip';
  readonly Strip = Strip;
  readonly Detail = Detail;
  readonly tracks: Tracks;
  readonly clock: Clock;
  readonly timeline: Timeline;
  readonly acts: TrackActs;
  readonly sound: SoundPace;
  readonly sayings: Sayings;
  readonly following: Following;
  readonly fitting: Fitting;
  readonly recutting: Recutting;
  /** a number of a frame, or a time, is being typed */
  asking = $state(false);
  muted = $state(false);
  readonly keys: Layer;
  readonly #caps: ClipCaps;
  readonly #over: TracksOver;
  readonly #lists: () => readonly Overlay[];
  #closed = false;

  constructor(
    item: Item,
    readonly clip: Clip,
    ports: BenchPorts,
    drawing: Drawing,
    shows: Show
  ) {
    super(
      item,
      atPlace(
        ports,
        () => this.clock.frame,
        () => this.overlays
      ),
      drawing,
      shows
    );
    const { frames, rate } = item.clip!;
    const say = (message: string) => ports.say(message);
    this.tracks = new Tracks(
      ports.editor,
      item.id,
      frames,
      say,
      (mark, wanted, first, last) => ports.between(mark, wanted, first, last),
      ports.words.varies
    );
    this.#lists = ports.overlays;
    this.#over = new TracksOver((mark, wanted, first, last) => ports.between(mark, wanted, first, last));
    this.acts = new TrackActs(ports.editor, this.tracks, item.id, say, (key) => ports.words.isAbsentUnseen(key));
    this.sound = new SoundPace(() => (clip.index?.sound ? clip.path('sound.m4a') : null));
    // until its own times are here it is as if its frames came evenly
    const even = Array.from({ length: frames }, (_, k) => Math.round((k * 90_000) / rate));
    this.clock = new Clock(
      new FrameTimes(even, Math.round((frames * 90_000) / rate), 90_000),
      {
        show: async (frame) => {
          await clip.opened;
          const is = await clip.show(frame);
          // marks and picture change together: both are drawn in the next frame of the screen
          if (is && !this.#closed) {
            this.tracks.show(frame);
            ports.kept.set('frame', frame);
          }
          return is;
        },
        newest: (frame) => {
          const shown = clip.newest(frame, this.clock.speed > 1);
          if (shown !== null) this.tracks.show(shown);
          return shown;
        },
        ahead: (frame) => clip.ahead(frame, this.clock.speed > 1),
        failed: (why) => say(`this frame could not be shown: ${why}`)
      },
      this.sound
    );
    this.following = new Following(ports.editor, this.tracks, this.clock, ports.follow, ports.thin, say);
    this.fitting = new Fitting(ports.editor, this.tracks, this.clock, ports.fit, say);
    this.recutting = new Recutting(ports.editor, this.tracks, this.clock, ports.recut, say);
    this.sayings = new Sayings(ports.words, ports.asking, frames, ports.kept, say);
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
    this.timeline = new Timeline(this.clock, this.tracks, ports.editor, ports.hand, ports.words, frames, this.sayings);
    void clip.opened.then(
      (index) => {
        if (!this.#closed) this.clock.times = new FrameTimes(index.times, index.end, index.ticks);
      },
      () => {}
    );
    const begun = ports.kept.get<number>('frame');
    if (begun !== null && begun > 0) void this.clock.go(begun);
    this.#caps = new ClipCaps(this, this.planeCaps, ports);
    this.keys = this.#layer();
    this.keyMap.push(
      { keys: 'Z, X', what: 'a frame back, a frame on; with Shift as many as the longer step has' },
      { keys: 'wheel on the time', what: 'closer and wider; with Shift along it' }
    );
    Object.assign(this.pages, this.#caps.pages);
  }
  close(): void {
    this.#closed = true;
    this.following.stop();
    this.fitting.close();
    this.recutting.close();
    this.clock.close();
    this.sound.close();
    this.ports.asking.along = null;
    this.tracks.close();
    this.#over.close();
    this.plane.close();
    this.clip.close();
  }

  /** What lies over the marks, as it is at the frame that is shown. */
  readonly overlays = $derived.by(() => this.#over.at(this.#lists(), this.clip.shown));
  get place(): number {
    return this.clock.frame;
  }
  async go(place: number): Promise<void> {
    await this.clock.go(place);
  }
  show(what: Mark | Anchor | null): void {
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
  caps(): Caps {
    return this.#caps.caps();
  }
  ofMark(): Cap[] {
    return this.#caps.ofMark();
  }
  words = (mark: Mark): string => {
    const [first, last] = [mark.stretches?.[0]?.[0] ?? 0, mark.stretches?.at(-1)?.[1] ?? 0];
    return `${mark.away ? 'not here' : this.plane.words(mark)}, frames ${first + 1} to ${last + 1}`;
  };
  short = (mark: Mark): string => {
    const [first, last] = [mark.stretches?.[0]?.[0] ?? 0, mark.stretches?.at(-1)?.[1] ?? 0];
    return `${first + 1}–${last + 1}`;
  };
  facts(): string[] {
    const { frames, rate, duration, variable, sound, codec, format } = this.item.clip!;
    return [
      `${frames} frames`,
      `${(duration ?? frames / rate).toFixed(1)} s`,
      `${Number(rate.toFixed(3))} a second${variable ? ', not evenly' : ''}`,
      ...super.facts(),
      sound ? 'with sound' : 'no sound',
      `${codec} in ${format}`
    ];
  }
  /** While it is followed what is found is not kept yet. */
  get isDrawing(): boolean {
    return this.following.mark !== null || this.recutting.mark !== null || super.isDrawing;
  }
  get isShown(): boolean {
    return this.clip.ready;
  }
  /** Frames marked on a lane: a tag is put on them, a question is asked of them. */
  markFrames(subject: string, from: number, to: number): void {
    const question = this.sayings.mark(subject, from, to);
    if (question !== null) this.ports.asking.question = question;
  }
  mute(): void {
    this.muted = this.sound.muted = !this.muted;
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
  drawing(): void {
    this.clock.stop();
    super.drawing();
  }

  #layer(): Layer {
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
        if (this.following.stop() || this.fitting.stop() || this.recutting.stop() || this.sayings.leave()) return true;
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
