import type { Cap } from '$lib/keys/caps';
import type { Layer } from '$lib/keys/layers';
import type { Drawing } from '$lib/plane/drawing.svelte';
import { area, common, toMask, without, type Edges } from '$lib/plane/raster';
import { pixels } from '$lib/plane/shapes/mask';
import type { Show } from '$lib/plane/show.svelte';
import { FrameTimes, PlainPace } from '$lib/time/clock.svelte';
import type { Mark, Point } from '$lib/words/mark';
import { Tracked } from '../flat/tracked.svelte';
import type { Anchor, BenchPorts, Caps, Item, Overlay, Surface } from '../kind';
import { VolumeCaps } from './caps';
import Detail from './Detail.svelte';
import { placeOn, spotAt, type Facing, type Spot } from './facing';
import { Growing } from './grow.svelte';
import Note from './Note.svelte';
import type { Direction } from './planes';
import { millimetres, section } from './section';
import Stage from './Stage.svelte';
import Strip from './Strip.svelte';
import { VolumeTracks } from './tracks.svelte';
import type { Volume } from './volume.svelte';

/** Slices a second, when it is gone through by itself. */
const RATE = 12;
const ON_SLICES = () => new Error('on slices only: make their plane the large one');
/** What a press on the stage does that no drawing tool does. */
export type Hold = 'window' | 'measure' | 'cross' | null;

/** A volume on the bench: three planes of it as in a technical drawing, one of them the large one. */
export class VolumeSurface extends Tracked implements Surface {
  readonly Stage = Stage;
  readonly noun = 'volume';
  readonly Strip = Strip;
  readonly Detail = Detail;
  override readonly Note = Note;
  readonly keys: Layer;
  readonly growing: Growing;
  /** what a press on the large plane does for as long as it is set */
  hold = $state<Hold>(null);
  /** a distance that is being measured, or was last: from and to on the sheet */
  measured = $state.raw<[Spot, Spot] | null>(null);
  /** the core works on the object in hand */
  reworking = $state(false);
  /** counts the changes of marks, for what is shown beside the large plane */
  changes = $state(0);
  readonly #caps: VolumeCaps;
  #ends: (() => void)[] = [];

  constructor(
    item: Item,
    readonly volume: Volume,
    ports: BenchPorts,
    drawing: Drawing,
    shows: Show
  ) {
    const { slices } = item.volume!;
    const say = (message: string) => ports.say(message);
    const size = { width: item.width, height: item.height };
    const on = {
      id: item.id,
      get width() {
        return volume.facing?.width ?? size.width;
      },
      get height() {
        return volume.facing?.height ?? size.height;
      }
    };
    /** The slice that is the large plane, or the plane that stands on them. */
    const lying = (): [number | undefined, string | undefined] =>
      volume.direction === 'xy'
        ? [volume.cross[2], undefined]
        : [undefined, `${volume.direction}-${volume.cross[volume.facing?.through ?? 2]}`];
    super(
      item,
      ports,
      drawing,
      shows,
      {
        word: 'slice',
        times: new FrameTimes(
          Array.from({ length: slices }, (_, k) => k),
          slices,
          RATE
        ),
        pace: new PlainPace(),
        draw: {
          show: (slice) => this.#to([volume.cross[0], volume.cross[1], slice]),
          newest: (slice) => {
            const shown = volume.newest(slice);
            if (shown !== null) void this.#to([volume.cross[0], volume.cross[1], shown]);
            return shown;
          },
          ahead: (slice) => volume.ahead(slice),
          failed: (why) => say(`this slice could not be shown: ${why}`)
        },
        tracks: (...of) => new VolumeTracks(size, ...of)
      },
      on,
      {
        through: (by) => this.step(by),
        goesOn: (mark) => mark.stretches !== undefined && mark.stretches !== null,
        cutOut: (wish, signal) => ports.cutOut(wish, signal, ...lying()),
        patches: (part, side, signal) => ports.patches(part, side, signal, ...lying()),
        // shapes that are worked on are of slices
        compute: (mark, what) =>
          volume.direction === 'xy' ? ports.compute(mark, { ...what, place: volume.cross[2] }) : Promise.reject(ON_SLICES()),
        // what was worked out for a slice is not for a plane of the same number that stands on it
        place: () =>
          volume.direction === 'xy'
            ? volume.cross[2]
            : -1 - 2 * volume.cross[volume.facing?.through ?? 2] - (volume.direction === 'yz' ? 1 : 0),
        // a pin is a voxel, whichever plane it is set on
        pin: (at) => {
          const spot = at && this.spot(at);
          ports.pin(at && spot ? { x: spot[0] + 0.5, y: spot[1] + 0.5, place: spot[2], mark: at.mark } : null);
        },
        pins: () => this.#pins(ports)
      }
    );
    this.growing = new Growing(ports, item.id, this.solids, size);
    this.#ends.push(
      ports.editor.marks.on(() => this.changes++),
      ports.editor.keys.on(() => this.changes++)
    );
    // a brush for photographs would paint half of a small scan
    if (drawing.paint.size > Math.max(3, size.width / 10)) drawing.setPaint({ size: Math.max(3, Math.round(size.width / 16)) });
    volume.begin();
    void volume.opened.then(
      () => {
        if (this.closed) return;
        const begun = ports.kept.get<Spot>('cross');
        const [x, y, z] = item.volume!.slices > 0 ? volume.index!.sizes : [1, 1, 1];
        const cross: Spot =
          Array.isArray(begun) && begun.length === 3 && begun.every((n, i) => Number.isInteger(n) && n >= 0 && n < [x, y, z][i]!)
            ? begun
            : volume.cross;
        this.turn('xy', cross);
      },
      () => {}
    );
    this.#caps = new VolumeCaps(this, this.planeCaps, ports);
    this.keys = this.#layer();
    this.keyMap.splice(
      this.keyMap.findIndex((k) => k.keys === 'wheel'),
      1,
      { keys: 'wheel', what: 'through the planes; with Ctrl closer and wider' },
      { keys: 'Z, X', what: 'a plane back, a plane on; with Shift as many as the longer step has' },
      { keys: 'Alt and press', what: 'the planes meet here' }
    );
    Object.assign(this.pages, this.#caps.pages);
  }
  override close(): void {
    for (const end of this.#ends) end();
    this.growing.leave();
    super.close();
    this.volume.close();
  }
  get solids(): VolumeTracks {
    return this.tracks as VolumeTracks;
  }
  get facing(): Facing | null {
    return this.volume.facing;
  }
  get sizes(): Spot {
    return this.volume.index?.sizes ?? [this.item.width, this.item.height, this.item.volume!.slices];
  }

  /** The pins that lie on the large plane. */
  #pins(ports: BenchPorts): ReturnType<BenchPorts['pins']> {
    const { facing, volume, sizes } = this;
    if (!facing) return [];
    return ports.pins().flatMap((pin) => {
      if (pin.x === null || pin.y === null) return [];
      const spot = [Math.floor(pin.x), Math.floor(pin.y), pin.place ?? volume.cross[2]].map((n, i) =>
        Math.max(0, Math.min(sizes[i]! - 1, n))
      ) as Spot;
      if (spot[facing.through] !== volume.cross[facing.through]) return [];
      return [facing.direction === 'xy' ? pin : { ...pin, ...placeOn(facing, sizes, spot) }];
    });
  }
  override show(what: Mark | Anchor | null): void {
    if (what === null || 'kind' in what || what.x === null || what.y === null) return super.show(what);
    // a place is shown on its slice
    const spot: Spot = [Math.floor(what.x), Math.floor(what.y), what.place ?? this.volume.cross[2]];
    this.turn('xy', spot);
    this.plane.sight.centre({ x: what.x, y: what.y });
  }
  /** The planes meet at a voxel: picture and marks change together. */
  async #to(cross: Spot): Promise<boolean> {
    const is = await this.volume.go(cross);
    if (!this.closed && this.facing) {
      this.solids.lie({ facing: this.facing, sizes: this.sizes, cross: this.volume.cross });
      this.ports.kept.set('cross', cross);
    }
    return is;
  }
  /** The planes meet at a voxel. */
  async meet(spot: Spot): Promise<void> {
    const { cross } = this.volume;
    const next = spot.map((n, i) => Math.max(0, Math.min(this.sizes[i]! - 1, n))) as Spot;
    if (next.every((n, i) => n === cross[i])) return;
    const slice = next[2] !== this.clock.frame;
    await this.#to(next);
    if (slice) await this.clock.go(next[2]);
  }
  /** Another plane is the large one. */
  turn(direction: Direction, cross: Spot = this.volume.cross): void {
    const { volume } = this;
    const was = volume.direction;
    volume.direction = direction;
    const facing = volume.facing;
    if (!facing) return;
    if (was !== direction) {
      this.ports.hand.point = null;
      this.measured = null;
      this.plane.sight.picture = { width: facing.width, height: facing.height };
      this.plane.sight.whole();
    }
    void this.#to(cross).then(() => this.clock.go(cross[2]));
  }
  /** A plane on, along what the large one is looked along. */
  step(by: number): void {
    const axis = this.facing?.through ?? 2;
    if (axis === 2) {
      void this.clock.by(by);
      return;
    }
    const spot: Spot = [...this.volume.cross];
    spot[axis] += by;
    void this.meet(spot);
  }
  /** The voxel under a place of the stage. */
  spot(p: Point): Spot | null {
    const { facing } = this;
    if (!facing || p.x < 0 || p.y < 0 || p.x >= facing.width || p.y >= facing.height) return null;
    return spotAt(facing, this.sizes, this.volume.cross, p);
  }
  on(spot: Spot): Point {
    return placeOn(this.facing!, this.sizes, spot);
  }
  /** mm between the ends of what was measured. */
  get distance(): number | null {
    return this.measured && this.volume.index ? millimetres(...this.measured, this.volume.index.spacing) : null;
  }

  /** What is grown lies over the marks until it is taken. */
  readonly #laid: readonly Overlay[] = $derived.by(() => [...this.others, ...this.#grown()]);
  override get overlays(): readonly Overlay[] {
    return this.#laid;
  }
  #grown(): Overlay[] {
    const { found } = this.growing;
    const { facing, volume } = this;
    if (!found || !facing) return [];
    const edges = this.grownOn(facing, volume.cross);
    const mark = {
      id: 'grown',
      class: this.ports.chosen.active,
      kind: 'mask',
      geometry: toMask(edges, facing.width, facing.height)
    } as Mark;
    return [{ name: 'grown', line: 'dashed', marks: [mark], filled: new Set(['grown']) }];
  }
  /** What is grown, on a plane. */
  grownOn(facing: Facing, cross: Spot): Edges {
    const { growing } = this;
    if (!growing.found) return [];
    return facing.direction === 'xy' ? growing.on(cross[2]) : section((z) => growing.on(z), growing.stretches, facing, this.sizes, cross);
  }
  /** Voxels of an object, in all and on the slice that is shown; ml and mm². */
  extent(mark: Mark): { voxels: number; ml: number; slice: number; mm2: number; slices: number } {
    void this.changes;
    const track = this.solids.of(mark.id);
    const spacing = this.volume.index?.spacing ?? [1, 1, 1];
    if (!track || !mark.stretches) return { voxels: 0, ml: 0, slice: 0, mm2: 0, slices: 0 };
    const of = this.solids.slices(mark, track);
    let [voxels, slices] = [0, 0];
    for (const [first, last] of mark.stretches)
      for (let z = first; z <= last; z++) {
        voxels += area(of(z));
        slices++;
      }
    const slice = track.at(this.clock.frame) ? area(of(this.clock.frame)) : 0;
    return { voxels, ml: (voxels * spacing[0] * spacing[1] * spacing[2]) / 1000, slice, mm2: slice * spacing[0] * spacing[1], slices };
  }
  /** The first loses what the second covers, on every slice. */
  subtract(mark: Mark, other: Mark): void {
    const [track, by] = [this.solids.of(mark.id), this.solids.of(other.id)];
    if (!track || !by || mark.kind !== 'mask' || !mark.stretches) return this.ports.say('only a mask can lose what another covers');
    const [mine, theirs] = [this.solids.slices(mark, track), this.solids.slices(other, by)];
    const changes = new Map<number, { come: Edges; gone: Edges }>();
    for (const [first, last] of mark.stretches)
      for (let z = first; z <= last; z++) {
        const gone = common(mine(z), theirs(z));
        if (gone.length > 0) changes.set(z, { come: [], gone });
      }
    if (changes.size === 0) return this.ports.say('they have nothing in common');
    this.ports.editor.change(this.solids.write(mark, changes));
  }
  /** The object in hand as one body, worked on by the core; what it was is a step back. */
  async rework(mark: Mark, op: 'largest' | 'smooth' | 'fill'): Promise<void> {
    const track = this.solids.of(mark.id);
    if (!track || !mark.stretches || mark.kind !== 'mask' || this.reworking) return;
    const of = this.solids.slices(mark, track);
    const places = mark.stretches.flatMap(([a, b]) => Array.from({ length: b - a + 1 }, (_, i) => a + i));
    const before = new Map(places.map((z) => [z, of(z)]));
    const { width, height } = this.item;
    this.reworking = true;
    try {
      const slices = [...before]
        .filter(([, edges]) => edges.length > 0)
        .map(([place, edges]) => ({ place, geometry: toMask(edges, width, height) }));
      const found = await this.ports.solid(op, slices);
      if (this.closed) return;
      const now = this.ports.editor.marks.get(mark.id);
      if (!now || this.solids.of(mark.id) !== track) return this.ports.say('it was changed meanwhile; press once more');
      if (found.slices.length === 0) return this.ports.say('nothing would be left of it');
      const after = new Map(found.slices.map((s) => [s.place, pixels(s.geometry).edges]));
      const changes = new Map<number, { come: Edges; gone: Edges }>();
      for (const z of new Set([...before.keys(), ...after.keys()])) {
        const [was, is] = [before.get(z) ?? [], after.get(z) ?? []];
        const change = { come: without(is, was), gone: without(was, is) };
        if (change.come.length + change.gone.length > 0) changes.set(z, change);
      }
      if (changes.size === 0) return this.ports.say(op === 'largest' ? 'it is of one part' : 'there is nothing to change');
      this.ports.editor.change(this.solids.write(now, changes));
      if (found.parts !== null) this.ports.say(`the largest of ${found.parts} parts is left`);
    } catch (e) {
      if (!this.closed) this.ports.say(`not done: ${(e as Error).message}`);
    } finally {
      this.reworking = false;
    }
  }
  /** As it is on its nearest slice it is on this one too. */
  hereToo(mark: Mark): void {
    this.ports.editor.change(this.solids.hereToo(mark));
  }
  /** Not on this slice; one that is on no other is gone. */
  notHere(mark: Mark): void {
    this.ports.editor.change(this.solids.notHere(mark));
  }

  override caps(): Caps {
    return this.#caps.caps();
  }
  override ofMark(): Cap[] {
    return this.#caps.ofMark();
  }
  override facts(): string[] {
    const { sizes } = this;
    const { spacing, letters, format } = this.item.volume!;
    const mm = (n: number) => Number(n.toFixed(3));
    return [
      `${sizes.join(' × ')} voxels`,
      `${spacing.map(mm).join(' × ')} mm`,
      letters ? `to ${letters.join(', ')}` : 'lies as in its file',
      `${spacing.map((s, i) => Math.round(s * sizes[i]!)).join(' × ')} mm in all`,
      format === 'nii.gz' || format === 'nii' ? 'NIfTI' : format
    ];
  }
  get isShown(): boolean {
    return this.volume.ready;
  }
  /** What is grown is not kept until it is taken. */
  override get isDrawing(): boolean {
    return this.growing.found !== null || super.isDrawing;
  }
  protected override halt(): boolean {
    if (this.growing.leave()) return true;
    if (this.hold !== null) {
      this.hold = null;
      return true;
    }
    if (this.measured !== null) {
      this.measured = null;
      return true;
    }
    return false;
  }
  #layer(): Layer {
    const layer = this.layer();
    return {
      ...layer,
      press: (e) => {
        const plain = !e.ctrlKey && !e.metaKey && !e.altKey;
        if (plain && e.shiftKey && (e.code === 'KeyZ' || e.code === 'KeyX')) {
          this.step(e.code === 'KeyZ' ? -this.clock.step : this.clock.step);
          return true;
        }
        if (plain && this.growing.active) {
          if ((e.code === 'Enter' || e.code === 'NumpadEnter') && this.growing.take()) return true;
          if (e.key === '+' || e.key === '-') {
            this.growing.wider(e.key === '+' ? 1 : -1);
            return true;
          }
        }
        return layer.press!(e);
      }
    };
  }
}
