import type { Layer } from '$lib/keys/layers';
import type { Drawing } from '$lib/plane/drawing.svelte';
import type { PlanePorts } from '$lib/plane/ports';
import type { Show } from '$lib/plane/show.svelte';
import type { TrackActs } from '$lib/time/acts';
import type { Clock } from '$lib/time/clock.svelte';
import type { Sayings } from '$lib/time/sayings.svelte';
import type { Timeline } from '$lib/time/timeline.svelte';
import type { Tracks } from '$lib/time/tracks.svelte';
import type { Mark } from '$lib/words/mark';
import { alongAxis, Axis, type Along } from '../axis.svelte';
import { Flat } from './flat.svelte';
import { atPlace } from './place';
import type { Anchor, BenchPorts, Item, Overlay, Todo } from '../kind';

/** What kinds of items have in common whose marks are tracks along an axis: a place of it on the plane, all of it below. */
export abstract class Tracked extends Flat {
  readonly axis: Axis;
  readonly tracks: Tracks;
  readonly clock: Clock;
  readonly timeline: Timeline;
  readonly acts: TrackActs;
  readonly sayings: Sayings;
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
    this.#lists = ports.overlays;
    this.axis = new Axis(item, ports, along, () => this.plane.editable);
    ({ tracks: this.tracks, clock: this.clock, timeline: this.timeline, acts: this.acts, sayings: this.sayings } = this.axis);
  }
  close(): void {
    this.closed = true;
    this.axis.close();
    this.plane.close();
  }

  get asking(): boolean {
    return this.axis.asking;
  }
  set asking(on: boolean) {
    this.axis.asking = on;
  }
  /** The place whose marks are shown. */
  protected get shownPlace(): number {
    return this.clock.frame;
  }
  /** What the bench lays over the marks, as it is at the place that is shown. */
  protected readonly others: readonly Overlay[] = $derived.by(() => this.axis.over(this.#lists(), this.shownPlace));
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
    if ('kind' in what) return this.axis.lead(what, (mark) => this.plane.to(mark));
    if (typeof what.place === 'number') void this.go(what.place);
    if (what.x !== null && what.y !== null) this.plane.sight.centre({ x: what.x, y: what.y });
  }
  override words = (mark: Mark): string => this.axis.words(mark, () => this.plane.words(mark));
  override short = (mark: Mark): string => this.axis.short(mark);
  markFrames(subject: string, from: number, to: number): void {
    this.axis.markFrames(subject, from, to);
  }
  override todo(): Todo[] {
    return this.axis.todo();
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
    return alongAxis(this.axis, this.planeKeys, () => this.halt());
  }
}
