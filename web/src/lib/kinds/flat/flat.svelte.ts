import type { Cap, Row } from '$lib/keys/caps';
import type { Layer } from '$lib/keys/layers';
import { PlaneCaps } from '$lib/plane/caps';
import type { Drawing } from '$lib/plane/drawing.svelte';
import { planeKeys } from '$lib/plane/keys';
import { Plane } from '$lib/plane/plane.svelte';
import type { Show } from '$lib/plane/show.svelte';
import type { Mark } from '$lib/words/mark';
import type { Anchor, BenchPorts, Caps, Item, Settings, Surface, Todo } from '../kind';
import Note from './Note.svelte';
import Preferences from './Preferences.svelte';

/** What kinds of items have in common that are worked on on one plane. */
export class Flat {
  readonly Preferences = Preferences;
  readonly Note: NonNullable<Surface['Note']> = Note;
  readonly plane: Plane;
  protected readonly planeCaps: PlaneCaps;
  protected readonly planeKeys: Layer;
  readonly keyMap: { keys: string; what: string }[] = [
    { keys: 'E, again', what: 'the next shape of the class' },
    { keys: 'arrows', what: 'nudge what is in hand, or its point, by 1 px, with Shift by 10; else move the pointer' },
    { keys: '.', what: 'press at the pointer' },
    { keys: ',', what: 'press and hold, and let go' },
    { keys: 'wheel', what: 'zoom at the pointer' },
    { keys: '+ −', what: 'zoom by steps; at 1 a pixel is a pixel' },
    { keys: 'Space, middle button', what: 'hold to pan' },
    { keys: 'Shift and press', what: 'one more mark in hand' },
    { keys: 'Ctrl C, Ctrl V', what: 'copy marks, also to another item' }
  ];
  readonly pages: Record<string, () => Row[]> = { mask: () => this.planeCaps.maskPage() };

  constructor(
    readonly item: Item,
    protected readonly ports: BenchPorts,
    drawing: Drawing,
    readonly shows: Show,
    /** what lies on the stage, where that is a part of the item */
    on: { id: number; width: number; height: number } = item
  ) {
    this.plane = new Plane({ ...ports, item: on }, drawing, shows);
    this.planeCaps = new PlaneCaps(this.plane, ports.page);
    this.planeKeys = planeKeys(this.plane);
  }

  show(what: Mark | Anchor | null): void {
    if (what === null) this.plane.sight.whole();
    else if ('kind' in what) this.plane.to(what);
    else if (what.x !== null && what.y !== null) this.plane.sight.centre({ x: what.x, y: what.y });
  }
  caps(): Caps {
    return { tools: this.planeCaps.tools(), verbs: this.planeCaps.verbs(), view: this.planeCaps.view() };
  }
  ofMark(): Cap[] {
    return this.planeCaps.ofMark();
  }
  words = (mark: Mark): string => this.plane.words(mark);
  short = (mark: Mark): string => this.plane.short(mark);
  todo(): Todo[] {
    const { looked } = this.plane;
    return looked.left > 0 ? [{ word: '% not seen', count: looked.left, lead: () => looked.next() }] : [];
  }
  facts(): string[] {
    return [`${this.item.width} × ${this.item.height} px`];
  }
  get isDrawing(): boolean {
    return this.plane.isDrawing;
  }
  chose(): void {
    this.plane.drawing.chose();
  }
  picking(): void {
    this.plane.drawing.mode = 'pick';
  }
  drawing(): void {
    this.plane.drawing.mode = 'draw';
  }
  get pinning(): boolean {
    return this.plane.drawing.mode === 'pin';
  }
  set pinning(on: boolean) {
    this.plane.drawing.mode = on ? 'pin' : 'pick';
  }
  wholing(): void {
    this.plane.drawing.mode = 'whole';
  }
  async settle(): Promise<void> {
    this.plane.nudge.end();
    await this.plane.looked.keep();
  }
  settings(): Settings {
    return this.shows.settings;
  }
}
