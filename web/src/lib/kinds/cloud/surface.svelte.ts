import type { Cap, Row } from '$lib/keys/caps';
import type { Layer } from '$lib/keys/layers';
import { ulid } from '$lib/edits/ulid';
import { FrameTimes, PlainPace } from '$lib/time/clock.svelte';
import { Following } from '$lib/time/follow.svelte';
import { begun, type Cuboid, type CuboidMark, type Mark } from '$lib/words/mark';
import { same } from '$lib/words/same';
import { alongAxis, Axis } from '../axis.svelte';
import type { Anchor, BenchPorts, Caps, Item, Overlay, Settings, Surface, Todo } from '../kind';
import type { Camera } from './camera';
import { CloudCaps } from './caps';
import type { Cloud } from './cloud.svelte';
import { above, inside, met, moved, rounded, turned, typical, world, type Place } from './cuboid';
import Detail from './Detail.svelte';
import type { CloudLooks } from './looks.svelte';
import Note from './Note.svelte';
import type { Drawn } from './space-view';
import Stage from './Stage.svelte';
import Strip from './Strip.svelte';
import { CuboidTracks } from './tracks.svelte';

/** Frames a second, when it is gone through by itself. */
const RATE = 5;
/** Metres an arrow moves what is in hand, and with Shift. */
const STEP = [0.05, 0.25] as const;
/** Degrees a key turns it, and with Shift. */
const TURN = [1, 15] as const;
/** Time after which what arrows did is one step. */
const REST = 450;
/** Metres: a drag that is shorter is a press. */
const PRESS = 0.15;
/** Metres over the ground from where on a cuboid hangs in the air. */
const AIR = 0.4;
/** Points that are looked at to tell whether a cuboid is empty. */
const SOME = 300_000;

export const isCuboid = (mark: Mark | null | undefined): mark is CuboidMark => mark?.kind === 'cuboid';

/** What the stage, which knows where things lie on the screen, does for the surface. */
export type Seen = { show(cuboid: Cuboid | null): void };

/** A cloud on the bench. */
export class CloudSurface implements Surface {
  readonly Stage = Stage;
  readonly Strip = Strip;
  readonly Detail = Detail;
  readonly Note = Note;
  readonly noun = 'cloud';
  readonly axis: Axis;
  readonly following: Following;
  /** what a press on the stage does */
  mode = $state<'pick' | 'draw' | 'pin' | 'whole'>('pick');
  /** the large view: turned in space, from above, or what a camera saw */
  view = $state<'space' | 'above' | 'picture'>('space');
  /** the camera somebody chose */
  camera = $state<number | null>(null);
  /** a drag on the ground, and until what is found there is here */
  dragged = $state.raw<{ from: Place; to: Place } | null>(null);
  /** a cuboid is being fitted */
  fitting = $state(false);
  /** a heading or a size is being typed */
  typing = $state(false);
  seen: Seen | null = null;
  readonly keys: Layer;
  readonly pages: Record<string, () => Row[]>;
  readonly keyMap: { keys: string; what: string }[] = [
    { keys: 'drag, E in hand', what: 'over a thing on the ground, from its back to its front: its cuboid' },
    { keys: 'arrows', what: 'what is in hand on, back, to its left, to its right by 5 cm, with Shift by 25' },
    { keys: '+ −', what: 'what is in hand higher, lower' },
    { keys: ', .', what: 'turns it to the left, to the right by 1°, with Shift by 15' },
    { keys: 'drag', what: 'turns the view; with the right button it is moved; from above it is moved by any' },
    { keys: 'wheel', what: 'closer and wider at the pointer' },
    { keys: 'Z, X', what: 'a frame back, a frame on; with Shift as many as the longer step has' }
  ];
  readonly #caps: CloudCaps;
  #nudging: { id: string; timer: ReturnType<typeof setTimeout> } | null = null;
  /** the cuboid as it becomes, while a hand moves it */
  #held = $state.raw<{ id: string; cuboid: Cuboid } | null>(null);
  #asking: AbortController | null = null;
  #counts = new WeakMap<Cuboid, { frame: object; loaded: number; count: number }>();
  #heights = new WeakMap<Cuboid, { frame: object; loaded: number; above: number | null }>();
  closed = false;

  constructor(
    readonly item: Item,
    readonly cloud: Cloud,
    readonly ports: BenchPorts,
    readonly looks: CloudLooks,
    /** sizes of what was drawn on the items before, by class */
    readonly sizes: Map<string, number[][]>
  ) {
    const { frames } = item.cloud!;
    const even = Array.from({ length: frames }, (_, k) => k);
    this.axis = new Axis(
      item,
      ports,
      {
        word: 'frame',
        times: new FrameTimes(
          even.map((k) => k * 1000),
          frames * 1000,
          RATE * 1000
        ),
        pace: new PlainPace(),
        draw: {
          show: async (frame) => {
            const is = await cloud.show(frame);
            if (is && !this.closed) {
              this.axis.tracks.show(frame);
              ports.kept.set('frame', frame);
            }
            return is;
          },
          newest: (frame) => {
            const shown = cloud.newest(frame);
            if (shown !== null) this.axis.tracks.show(shown);
            return shown;
          },
          ahead: (frame) => cloud.ahead(frame),
          failed: (why) => ports.say(`this frame could not be shown: ${why}`)
        },
        tracks: (...of) => new CuboidTracks(...of)
      },
      () => this.editable
    );
    this.following = new Following(ports.editor, this.axis.tracks, this.axis.clock, ports.follow, ports.thin, (m) => ports.say(m));
    // its first frame is not gone to, it is where one is
    const kept = ports.kept.get<number>('frame') ?? 0;
    void cloud.show(0).then(
      () => kept > 0 && kept < frames && !this.closed && void this.axis.clock.go(kept),
      (e: Error) => !this.closed && (cloud.failed = e.message)
    );
    ports.hand.on(() => {
      this.commit();
      this.typing = false;
    });
    this.#caps = new CloudCaps(this, ports);
    this.pages = this.#caps.pages;
    this.keys = alongAxis(this.axis, this.#stageKeys(), () => this.#halt());
  }
  close(): void {
    // what keys have moved is not lost with the item
    this.commit();
    this.closed = true;
    this.following.stop();
    this.#asking?.abort();
    this.axis.close();
    this.cloud.close();
  }

  get editable(): boolean {
    return this.ports.mode !== 'look';
  }
  get place(): number {
    return this.axis.clock.frame;
  }
  async go(place: number): Promise<void> {
    this.commit();
    await this.axis.clock.go(place);
  }
  get isShown(): boolean {
    return this.cloud.ready;
  }
  get isDrawing(): boolean {
    // while it is followed what is found is not kept yet
    return this.dragged !== null || this.fitting || this.following.mark !== null;
  }
  get pinning(): boolean {
    return this.mode === 'pin';
  }
  set pinning(on: boolean) {
    this.mode = on ? 'pin' : 'pick';
  }
  /** The cuboid in hand where it is now, also while it is being moved; null: none is, or it is not there at this frame. */
  get cuboid(): Cuboid | null {
    const { one } = this.ports.hand;
    if (!isCuboid(one) || one.away) return null;
    return this.#held?.id === one.id ? this.#held.cuboid : one.geometry;
  }
  /** All that lies on the stage at this frame. */
  readonly drawn: Drawn[] = $derived.by(() => {
    const { editor, hand, words, chosen } = this.ports;
    void editor.marks.ids;
    const list: Drawn[] = [];
    for (const mark of editor.marks.all()) {
      if (!isCuboid(mark) || mark.away) continue;
      const cuboid = this.#held?.id === mark.id ? this.#held.cuboid : mark.geometry;
      list.push({
        id: mark.id,
        cuboid,
        color: words.light(mark.class),
        held: hand.has(mark.id),
        over: hand.isOver(mark.id),
        dashed: mark.veiled === true
      });
    }
    void chosen.active;
    for (const overlay of this.overlays)
      for (const mark of overlay.marks)
        if (isCuboid(mark))
          list.push({
            id: mark.id,
            cuboid: mark.geometry,
            color: words.light(mark.class),
            held: overlay.strong === mark.id,
            over: false,
            dashed: true
          });
    return list;
  });
  /** Lists of marks that are only looked at are shown over the others. */
  over = $state(true);
  get overlays(): readonly Overlay[] {
    return this.over ? this.axis.over(this.ports.overlays(), this.place) : [];
  }

  /** How many points of the frame lie in a cuboid; of a very large frame as told by a choice of them. */
  count(cuboid: Cuboid): number {
    void this.cloud.version;
    const { frame } = this.cloud;
    if (!frame) return 0;
    const known = this.#counts.get(cuboid);
    if (known?.frame === frame && known.loaded === frame.loaded) return known.count;
    const count = inside(cuboid, frame);
    this.#counts.set(cuboid, { frame, loaded: frame.loaded, count });
    return count;
  }
  /** How high over the ground around it a cuboid begins; null: no ground is in sight. */
  #above(cuboid: Cuboid): number | null {
    const frame = this.cloud.frame!;
    const known = this.#heights.get(cuboid);
    if (known?.frame === frame && known.loaded === frame.loaded) return known.above;
    const over = above(cuboid, frame);
    this.#heights.set(cuboid, { frame, loaded: frame.loaded, above: over });
    return over;
  }
  /** Cuboids of this frame that are seen. */
  readonly #here: CuboidMark[] = $derived.by(() => {
    void this.cloud.version;
    const { frame } = this.cloud;
    if (!frame?.whole || frame.points > SOME) return [];
    void this.ports.editor.marks.ids;
    return this.ports.editor.marks.all().filter((m): m is CuboidMark => isCuboid(m) && !m.away && m.veiled !== true);
  });
  /** Those with no point in them, and those with some that hang in the air. */
  readonly empty: CuboidMark[] = $derived(this.#here.filter((m) => this.count(m.geometry) === 0));
  readonly floating: CuboidMark[] = $derived(this.#here.filter((m) => this.count(m.geometry) > 0 && (this.#above(m.geometry) ?? 0) > AIR));

  words = (mark: Mark): string =>
    this.axis.words(mark, () => {
      if (!isCuboid(mark)) return '';
      const [l, w, h] = mark.geometry.size.map((m) => m.toFixed(2));
      return `${l} × ${w} × ${h} m`;
    });
  short = (mark: Mark): string => this.axis.short(mark);
  facts(): string[] {
    const { frames, points, least, most, format } = this.item.cloud!;
    const now = points[this.place] ?? 0;
    const spread = [0, 1, 2].map((axis) => Math.round((most[axis]! - least[axis]!) * 10) / 10);
    return [
      `${now.toLocaleString('en')} points`,
      ...(frames > 1 ? [`${frames} frames`] : []),
      `${spread.join(' × ')} m`,
      format === 'frames' ? 'sequence' : format
    ];
  }
  todo(): Todo[] {
    const of = (marks: CuboidMark[], word: string): Todo[] =>
      marks[0] ? [{ word: marks.length === 1 ? word : `${word}s`, count: marks.length, lead: () => this.show(this.#take(marks[0]!)) }] : [];
    return [...of(this.empty, 'empty cuboid'), ...of(this.floating, 'floating cuboid'), ...this.axis.todo()];
  }
  #take(mark: Mark): Mark {
    this.ports.hand.select(mark.id);
    return mark;
  }
  show(what: Mark | Anchor | null): void {
    if (what === null) return this.seen?.show(null);
    if ('kind' in what) return this.axis.lead(what, (mark) => isCuboid(mark) && this.seen?.show(mark.geometry));
    const near = (): void => {
      const mark = what.mark === null ? null : this.ports.editor.marks.get(what.mark);
      if (isCuboid(mark)) this.seen?.show(mark.geometry);
      else if (what.x !== null && what.y !== null)
        this.seen?.show({ center: [what.x, what.y, this.cloud.frame?.floor() ?? 0], size: [2, 2, 2], heading: 0 });
    };
    if (typeof what.place === 'number' && what.place !== this.place) void this.go(what.place).then(near);
    else near();
  }
  chose(): void {
    // the class is for what is drawn next
  }
  picking(): void {
    this.mode = 'pick';
    const { one } = this.ports.hand;
    if (isCuboid(one) && !one.away) this.seen?.show(one.geometry);
  }
  drawing(): void {
    // on a picture nobody knows how far away a drag is
    if (this.view === 'picture') this.view = 'above';
    this.mode = 'draw';
  }
  wholing(): void {
    this.mode = 'whole';
  }
  settle(): Promise<void> {
    this.commit();
    return Promise.resolve();
  }
  settings(): Settings {
    return {};
  }
  caps(): Caps {
    return this.#caps.caps();
  }
  ofMark(): Cap[] {
    return this.#caps.ofMark();
  }

  // --- what a hand does on the stage
  /** The nearest cuboid on a ray. */
  hit(from: Place, towards: Place): Drawn | null {
    let best: { drawn: Drawn; far: number } | null = null;
    for (const drawn of this.drawn) {
      const far = met(drawn.cuboid, from, towards);
      // one in hand lets what stands in it be taken
      if (far !== null && (best === null || far < best.far)) best = { drawn, far };
    }
    return best?.drawn ?? null;
  }
  press(hit: Drawn | null, ground: Place | null, also: boolean): void {
    const { hand, acts, pin } = this.ports;
    const mark = hit ? this.ports.editor.marks.get(hit.id) : null;
    if (this.mode === 'pin') {
      this.mode = 'pick';
      const at: Place | null = isCuboid(mark) ? (mark.geometry.center as Place) : ground;
      return pin({ x: at?.[0] ?? null, y: at?.[1] ?? null, place: this.place, mark: mark?.id ?? null });
    }
    if (this.mode === 'whole') {
      this.mode = 'pick';
      if (mark) acts.partOf(mark.id);
      return;
    }
    if (hit && !mark) {
      const overlay = this.overlays.find((o) => o.pick && o.marks.some((m) => m.id === hit.id));
      return overlay?.pick?.(hit.id);
    }
    if (also && mark) hand.also(mark.id);
    else hand.select(mark?.id ?? null);
  }
  /** The usual size of a class: of what is drawn here, and on the items before. @param least from how many on it counts */
  usual(key: string, least = 1): Place | null {
    const here = this.ports.editor.marks.all().flatMap((m) => (isCuboid(m) && m.class === key ? [m.geometry.size] : []));
    const all = [...here, ...(this.sizes.get(key) ?? [])];
    return all.length < least ? null : typical(all);
  }
  /** A thing was dragged over, from its back to its front: its cuboid. */
  async draw(from: Place, to: Place): Promise<void> {
    const { ports } = this;
    const key = ports.chosen.active;
    this.dragged = null;
    if (!this.editable || this.fitting) return;
    if (!ports.words.kindsOf(key).includes('cuboid')) return ports.say('no class is drawn as a cuboid');
    const size = this.usual(key);
    let usual = this.usual(key, 2);
    if (Math.hypot(to[0] - from[0], to[1] - from[1]) < PRESS) {
      if (!size) return ports.say('drag over it, from its back to its front');
      // a press where it stands: as large as its class is
      usual = size;
      [from, to] = [
        [from[0] - size[0] * 0.6, from[1] - size[1] * 0.6, from[2]],
        [from[0] + size[0] * 0.6, from[1] + size[1] * 0.6, from[2]]
      ];
    }
    this.dragged = { from, to };
    this.fitting = true;
    const asking = (this.#asking = new AbortController());
    const { place } = this;
    const id = ulid();
    try {
      const found = await ports.fitCuboid(
        // (the first one of a class may have been drawn wrong)
        { frame: place, from: [from[0], from[1]], to: [to[0], to[1]], ...(usual && { typical: usual }) },
        asking.signal
      );
      if (this.closed || asking.signal.aborted) return;
      if (place !== this.place) return ports.say('another frame is shown meanwhile: draw it once more');
      this.#put(id, key, found.geometry, 'fitted');
      if (!found.found) ports.say('there are no points to fit it to: it is as it was dragged');
    } catch (e) {
      if (this.closed || asking.signal.aborted || place !== this.place) return;
      // what was drawn is not lost with the connection
      this.#put(id, key, asDragged(from, to, size), 'hand');
      ports.say(`not fitted, it is as it was dragged: ${(e as Error).message}`);
    } finally {
      if (this.#asking === asking) {
        this.dragged = null;
        this.fitting = false;
      }
    }
  }
  #put(id: string, key: string, cuboid: Cuboid, source: string): void {
    const mark = begun(id, { kind: 'cuboid', geometry: rounded(cuboid) }, key, this.ports.user, source);
    this.ports.editor.change([{ subject: id, item: this.item.id, before: null, after: mark }]);
    this.ports.hand.select(id);
    this.#learn(key, cuboid);
    this.ports.asking.openNext(true);
  }
  #learn(key: string, cuboid: Cuboid): void {
    this.sizes.set(key, [...(this.sizes.get(key) ?? []).slice(-20), cuboid.size]);
  }
  /** The cuboid in hand as close round its points as they lie. */
  async tighten(): Promise<void> {
    const { one } = this.ports.hand;
    const { cuboid, place } = this;
    if (!isCuboid(one) || !cuboid || this.fitting) return;
    this.commit();
    this.fitting = true;
    const asking = (this.#asking = new AbortController());
    try {
      const found = await this.ports.fitCuboid({ frame: place, cuboid }, asking.signal);
      if (this.closed || asking.signal.aborted) return;
      const now = this.ports.editor.marks.get(one.id);
      if (place !== this.place || !isCuboid(now) || now.away || !same(now.geometry, cuboid))
        return this.ports.say('it was changed meanwhile; press once more');
      if (!found.found) return this.ports.say('there are too few points in it to fit it to');
      this.#change(now, found.geometry);
    } catch (e) {
      if (!this.closed && !asking.signal.aborted) this.ports.say(`not done: ${(e as Error).message}`);
    } finally {
      if (this.#asking === asking) this.fitting = false;
    }
  }
  /** The cuboid in hand while it is moved: shown, not kept. */
  hold(cuboid: Cuboid): void {
    const { one } = this.ports.hand;
    if (!isCuboid(one) || one.away || !this.editable) return;
    if (this.ports.hand.locked.has(one.id)) return this.ports.say('it is locked');
    this.#held = { id: one.id, cuboid };
  }
  /** What was held is kept, as one step. */
  commit(): void {
    if (this.#nudging) clearTimeout(this.#nudging.timer);
    this.#nudging = null;
    const held = this.#held;
    this.#held = null;
    if (!held) return;
    const mark = this.ports.editor.marks.get(held.id);
    if (isCuboid(mark) && !mark.away) this.#change(mark, held.cuboid);
  }
  /** Leaves what is held as it was. */
  drop(): boolean {
    if (this.#held === null) return false;
    if (this.#nudging) clearTimeout(this.#nudging.timer);
    this.#held = this.#nudging = null;
    return true;
  }
  get isHolding(): boolean {
    return this.#held !== null;
  }
  /** What is done to the cuboid in hand, kept at once. */
  change(become: (cuboid: Cuboid) => Cuboid): void {
    this.commit();
    const { one } = this.ports.hand;
    if (isCuboid(one) && !one.away && this.editable) this.#change(one, become(one.geometry));
  }
  #change(mark: CuboidMark, cuboid: Cuboid): void {
    if (this.ports.hand.locked.has(mark.id)) return this.ports.say('it is locked');
    const geometry = rounded(cuboid);
    if (same(geometry, mark.geometry)) return;
    this.ports.editor.change([{ subject: mark.id, item: this.item.id, before: mark, after: { ...mark, geometry } }]);
    this.#learn(mark.class, geometry);
  }
  /** By keys: what they do within a moment is one step. */
  #nudge(become: (cuboid: Cuboid) => Cuboid): void {
    const { one } = this.ports.hand;
    const { cuboid } = this;
    if (!one || !cuboid || !this.editable) return;
    this.hold(become(cuboid));
    if (this.#nudging) clearTimeout(this.#nudging.timer);
    this.#nudging = { id: one.id, timer: setTimeout(() => this.commit(), REST) };
  }
  /** Those with pictures. */
  get cameras(): Camera[] {
    return this.item.cloud!.cameras.filter((c) => c.pictures.some((ending) => ending !== ''));
  }
  /** As its pictures are called by. */
  numberOf(camera: Camera): number {
    return this.item.cloud!.cameras.indexOf(camera);
  }
  /** The large view, looked at another way: the next. */
  get next(): 'space' | 'above' | 'picture' {
    if (this.view === 'space') return 'above';
    return this.view === 'above' && this.cameras.length > 0 ? 'picture' : 'space';
  }
  turnTo(view: 'space' | 'above' | 'picture'): void {
    this.view = view;
    if (view === 'picture' && this.mode === 'draw') this.mode = 'pick';
  }

  #halt(): boolean {
    if (this.drop() || this.following.stop()) return true;
    if (this.fitting) {
      this.#asking?.abort();
      this.dragged = null;
      this.fitting = false;
      return true;
    }
    if (this.dragged) {
      this.dragged = null;
      return true;
    }
    if (this.typing) {
      this.typing = false;
      return true;
    }
    return false;
  }
  #stageKeys(): Layer {
    const ways: Record<string, Place> = { ArrowUp: [1, 0, 0], ArrowDown: [-1, 0, 0], ArrowLeft: [0, 1, 0], ArrowRight: [0, -1, 0] };
    return {
      press: (e) => {
        if (e.ctrlKey || e.metaKey || e.altKey) {
          this.commit();
          return false;
        }
        const fast = e.shiftKey ? 1 : 0;
        const way = ways[e.code] ?? (e.key === '+' ? ([0, 0, 1] as Place) : e.key === '-' ? ([0, 0, -1] as Place) : null);
        if (this.cuboid && way) {
          // along its own axes
          this.#nudge((c) => {
            const to = world({ ...c, center: [0, 0, 0] }, way.map((m) => m * STEP[fast]!) as Place);
            return moved(c, to);
          });
          return true;
        }
        if (this.cuboid && (e.code === 'Comma' || e.code === 'Period')) {
          this.#nudge((c) => turned(c, (e.code === 'Comma' ? 1 : -1) * TURN[fast]!));
          return true;
        }
        this.commit();
        if (e.code === 'Delete' || e.code === 'Backspace') {
          if (this.ports.hand.size > 0 && this.editable) this.ports.acts.remove();
          return true;
        }
        // it finishes; it never submits
        return e.code === 'Enter' || e.code === 'NumpadEnter';
      },
      escape: () => {
        if (this.mode !== 'pick' && this.mode !== 'draw') {
          this.mode = 'pick';
          return true;
        }
        return false;
      }
    };
  }
}

/** What was dragged over, without anybody who knows of points. */
function asDragged(from: Place, to: Place, size: Place | null): Cuboid {
  const [dx, dy] = [to[0] - from[0], to[1] - from[1]];
  const along = Math.abs(dx) >= Math.abs(dy);
  const height = size?.[2] ?? 1;
  const sides = [Math.max(0.05, Math.abs(along ? dx : dy)), Math.max(0.05, Math.abs(along ? dy : dx))];
  return {
    center: [(from[0] + to[0]) / 2, (from[1] + to[1]) / 2, from[2] + height / 2],
    size: [...sides, height],
    heading: along ? (dx >= 0 ? 0 : 180) : dy >= 0 ? 90 : -90
  };
}
