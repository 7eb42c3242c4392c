import type { Chosen } from '$lib/edits/hand.svelte';
import type { FlatKind } from '$lib/words/mark';
import type { Words } from '$lib/words/words.svelte';

/** What the pointer does: pick, pan, draw the shape in hand, set a pin, press on the whole a mark is a part of. */
export type Mode = 'pick' | 'hand' | 'draw' | 'pin' | 'whole';
/** What an outline is drawn for: a new mark, or a change of the one in hand. */
export type Stroke = 'new' | 'add' | 'cut' | 'redraw';
export type PaintMode = 'paint' | 'erase' | 'add outline' | 'cut outline' | 'fill';

/** How one draws: the tool and shape in hand and their settings. Settings stay from item to item. */
export class Drawing {
  mode = $state<Mode>('pick');
  shape = $state<FlatKind>('box');
  /** the shape is cut out of a rough box instead of drawn */
  cutting = $state(false);
  stroke = $state<Stroke>('new');
  /** which stretch of an outline is redrawn: the shorter, or the other */
  otherStretch = $state(false);
  /** number of points after which an outline is finished by itself */
  corners = $state<number | null>(null);
  /** whether points beside a neighbour's outline are taken from it */
  follow = $state(true);
  /** whether points that neighbours share are moved together */
  together = $state(true);
  /** `patches`: the brush lays whole patches instead of a disc */
  paint = $state.raw<{ mode: PaintMode; size: number; claim: boolean; wide: boolean; patches: boolean }>({
    mode: 'paint',
    size: 24,
    claim: false,
    wide: false,
    patches: false
  });
  #before = new Map<string, { shape: FlatKind; cutting: boolean }>();
  #justChosen = false;

  constructor(
    private readonly words: Words,
    private readonly chosen: Chosen
  ) {}

  /** Another item has opened. */
  begin(labelling: boolean): void {
    this.mode = labelling ? 'draw' : 'pick';
    this.stroke = 'new';
    this.fit();
  }
  /** The shape in hand is one the class in hand is drawn as. */
  fit(): void {
    const own = this.words.flatKindsOf(this.chosen.active);
    if (!own.includes(this.shape)) this.shape = own[0] ?? 'box';
    this.cutting = this.cutting && this.#areas.length > 0;
    if (this.cutting && !this.#areas.includes(this.shape)) this.shape = this.#areas[0]!;
  }
  /** Shapes of the class in hand that can be cut out. */
  get #areas(): FlatKind[] {
    return this.words.flatKindsOf(this.chosen.active).filter((kind) => kind === 'polygon' || kind === 'mask');
  }
  /** What the key of the shape goes through: the shapes of the class in hand, and the cut-out where one of them is an area. */
  get ways(): { shape: FlatKind; cutting: boolean }[] {
    const areas = this.#areas;
    return [
      ...this.words.flatKindsOf(this.chosen.active).map((shape) => ({ shape, cutting: false })),
      ...(areas.length > 0 ? [{ shape: areas.includes(this.shape) ? this.shape : areas.at(-1)!, cutting: true }] : [])
    ];
  }
  /** The way after the one in hand. */
  get nextWay(): { shape: FlatKind; cutting: boolean } | null {
    const { ways } = this;
    const at = ways.findIndex((way) => way.cutting === this.cutting && (this.cutting || way.shape === this.shape));
    return ways.length > 1 ? ways[(at + 1) % ways.length]! : null;
  }
  /** Cut out as the other shape a class may have; false when it has one only. */
  otherArea(): boolean {
    const other = this.#areas.find((kind) => kind !== this.shape);
    if (!other) return false;
    this.shape = other;
    this.#remember();
    return true;
  }
  #remember(): void {
    this.#before.set(this.chosen.active, { shape: this.shape, cutting: this.cutting });
  }
  /** Another class has come into hand. */
  chose(): void {
    this.#justChosen = true;
    const before = this.#before.get(this.chosen.active);
    if (before) ({ shape: this.shape, cutting: this.cutting } = before);
    this.fit();
  }
  /** The tool for the class in hand; again: its next shape. */
  takeShape(): void {
    const next = this.nextWay;
    // right after a class was chosen the key only takes the tool: who presses it by habit gets what the deck shows
    if (this.mode === 'draw' && next && !this.#justChosen) ({ shape: this.shape, cutting: this.cutting } = next);
    this.#justChosen = false;
    this.#remember();
    this.mode = 'draw';
    this.stroke = 'new';
  }
  setPaint(change: Partial<Drawing['paint']>): void {
    this.paint = { ...this.paint, wide: false, ...change };
  }
  larger(by: number): void {
    const size = this.paint.size * by;
    this.setPaint({ size: by > 1 ? Math.min(600, Math.round(size + 0.5)) : Math.max(1, Math.round(size - 0.5)) });
  }
  /** The outline of the mark in hand is changed by the next one drawn. */
  redraw(stroke: Stroke): void {
    this.mode = 'draw';
    this.shape = 'polygon';
    this.cutting = false;
    this.stroke = stroke;
    this.otherStretch = false;
  }
  /** Points after which an outline of the class in hand ends by itself: the class's own rule, else what this hand has set. */
  get wanted(): number | null {
    const rule = this.words.pointsOf(this.chosen.active, this.shape);
    return this.shape === 'points' ? rule : (rule ?? this.corners);
  }
}
