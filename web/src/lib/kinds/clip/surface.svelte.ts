import type { Cap } from '$lib/keys/caps';
import type { Layer } from '$lib/keys/layers';
import type { Drawing } from '$lib/plane/drawing.svelte';
import type { Show } from '$lib/plane/show.svelte';
import { FrameTimes } from '$lib/time/clock.svelte';
import { Fitting } from '$lib/time/fit.svelte';
import { Following } from '$lib/time/follow.svelte';
import { Recutting } from '$lib/time/recut.svelte';
import { Tracked } from '../flat/tracked.svelte';
import type { BenchPorts, Caps, Item, Surface } from '../kind';
import { ClipCaps } from './caps';
import type { Clip } from './clip.svelte';
import Detail from './Detail.svelte';
import { SoundPace } from './sound';
import Stage from './Stage.svelte';
import Strip from './Strip.svelte';

/** A clip on the bench: one frame of it on the plane, the whole of it in time below. */
export class ClipSurface extends Tracked implements Surface {
  readonly Stage = Stage;
  readonly noun = 'clip';
  readonly Strip = Strip;
  readonly Detail = Detail;
  readonly sound: SoundPace;
  readonly following: Following;
  readonly fitting: Fitting;
  readonly recutting: Recutting;
  muted = $state(false);
  readonly keys: Layer;
  readonly #caps: ClipCaps;

  constructor(
    item: Item,
    readonly clip: Clip,
    ports: BenchPorts,
    drawing: Drawing,
    shows: Show
  ) {
    const { frames, rate } = item.clip!;
    const say = (message: string) => ports.say(message);
    const sound = new SoundPace(() => (clip.index?.sound ? clip.path('sound.m4a') : null));
    // until its own times are here it is as if its frames came evenly
    const even = Array.from({ length: frames }, (_, k) => Math.round((k * 90_000) / rate));
    super(item, ports, drawing, shows, {
      word: 'frame',
      times: new FrameTimes(even, Math.round((frames * 90_000) / rate), 90_000),
      pace: sound,
      draw: {
        show: async (frame) => {
          await clip.opened;
          const is = await clip.show(frame);
          // marks and picture change together: both are drawn in the next frame of the screen
          if (is && !this.closed) {
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
      }
    });
    this.sound = sound;
    this.following = new Following(ports.editor, this.tracks, this.clock, ports.follow, ports.thin, say);
    this.fitting = new Fitting(ports.editor, this.tracks, this.clock, ports.fit, say);
    this.recutting = new Recutting(ports.editor, this.tracks, this.clock, ports.recut, say);
    void clip.opened.then(
      (index) => {
        if (!this.closed) this.clock.times = new FrameTimes(index.times, index.end, index.ticks);
      },
      () => {}
    );
    const begun = ports.kept.get<number>('frame');
    if (begun !== null && begun > 0) void this.clock.go(begun);
    this.#caps = new ClipCaps(this, this.planeCaps, ports);
    this.keys = this.layer();
    this.keyMap.push(
      { keys: 'Z, X', what: 'a frame back, a frame on; with Shift as many as the longer step has' },
      { keys: 'wheel on the time', what: 'closer and wider; with Shift along it' }
    );
    Object.assign(this.pages, this.#caps.pages);
  }
  override close(): void {
    this.following.stop();
    this.fitting.close();
    this.recutting.close();
    this.sound.close();
    super.close();
    this.clip.close();
  }

  protected override get shownPlace(): number {
    return this.clip.shown;
  }
  override caps(): Caps {
    return this.#caps.caps();
  }
  override ofMark(): Cap[] {
    return this.#caps.ofMark();
  }
  override facts(): string[] {
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
  override get isDrawing(): boolean {
    return this.following.mark !== null || this.recutting.mark !== null || super.isDrawing;
  }
  get isShown(): boolean {
    return this.clip.ready;
  }
  mute(): void {
    this.muted = this.sound.muted = !this.muted;
  }
  protected override halt(): boolean {
    return this.following.stop() || this.fitting.stop() || this.recutting.stop();
  }
}
