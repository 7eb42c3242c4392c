import { bounds, describe, short, shapeOf } from './shapes';
import { anchor as anchorOf } from './shapes';
import type { Mark, Point } from '$lib/words/mark';
import { Assist } from './assist.svelte';
import { Cutout } from './cutout.svelte';
import { Posing } from './posing.svelte';
import { coverage, coverageWords, type Coverage } from './coverage';
import type { Drawing } from './drawing.svelte';
import { Forms } from './forms';
import { Looked } from './looked.svelte';
import { Nearby } from './nearby';
import { Nudge } from './nudge.svelte';
import { Pointer } from './pointer.svelte';
import { Patches } from './patches.svelte';
import type { Overlay, PlanePorts } from './ports';
import type { Show } from './show.svelte';
import { Sight } from './sight.svelte';
import { toolbox, type StageTool } from './tools';

/** A flat item on the stage: how it lies there, what is done to it, what is shown over it. */
export class Plane {
  readonly sight: Sight;
  readonly nearby: Nearby;
  readonly assist: Assist;
  readonly forms: Forms;
  readonly nudge: Nudge;
  readonly looked: Looked;
  readonly pointer: Pointer;
  readonly cutout: Cutout;
  readonly patches: Patches;
  readonly posing: Posing;
  readonly tools: ReturnType<typeof toolbox>;
  /** counts the changes of what a tool has begun, which is plain state of its own: the deck and the stage look again */
  beat = $state(0);
  #ends: (() => void)[] = [];

  constructor(
    readonly ports: PlanePorts,
    readonly drawing: Drawing,
    readonly show: Show
  ) {
    const { editor, hand } = ports;
    this.sight = new Sight({ width: ports.item.width, height: ports.item.height });
    this.nearby = new Nearby(editor.marks);
    this.assist = new Assist(ports, () => this.forms);
    this.forms = new Forms(ports, this.sight, drawing, this.nearby, this.assist);
    this.nudge = new Nudge(this.forms);
    this.looked = new Looked(this.sight, ports.seen, ports.mode === 'look' ? null : ports.tellSeen);
    drawing.begin(ports.mode === 'label');
    this.cutout = new Cutout(ports.cutOut, () => (drawing.shape === 'mask' ? 'mask' : 'polygon'));
    this.posing = new Posing(ports.pose, ports.fits, {
      now: (id) => editor.marks.get(id) ?? null,
      fit: (mark, geometry) => this.forms.reshape(mark, { kind: 'skeleton', geometry }, [], 'fitted'),
      say: ports.say
    });
    this.patches = new Patches(ports.patches, this.sight, () => ports.place?.() ?? null);
    this.tools = toolbox(
      {
        ...ports,
        sight: this.sight,
        drawing,
        nearby: this.nearby,
        forms: this.forms,
        posing: this.posing,
        over: () => this.over,
        pin: ports.pin
      },
      this.cutout,
      this.patches
    );
    this.pointer = new Pointer(this);
    hand.on(() => this.nudge.end());
    this.#ends.push(
      editor.marks.on(() => {
        this.#coverage = null;
        this.#changes++;
      })
    );
  }
  close(): void {
    this.nudge.end();
    this.cutout.leave();
    this.posing.leave();
    this.patches.close();
    for (const end of this.#ends) end();
    this.nearby.close();
  }

  get editable(): boolean {
    return this.ports.mode !== 'look';
  }
  get tool(): StageTool {
    const { mode, shape, cutting } = this.drawing;
    if (mode === 'draw' && cutting && this.editable) return this.tools.cutout;
    if (mode === 'draw') return this.editable ? this.tools.shapes[shape] : this.tools.modes.pick;
    return this.editable || mode === 'hand' ? this.tools.modes[mode] : this.tools.modes.pick;
  }
  /** Something is being drawn that another key would not finish. */
  get isDrawing(): boolean {
    void this.beat;
    // also where another tool was taken meanwhile
    return (this.tool.busy?.() ?? false) || this.cutout.isOpen;
  }
  /** Runs something on the tool in hand and lets everybody look again. */
  acted(act: () => boolean | undefined): boolean {
    const was = act() ?? false;
    this.beat++;
    return was;
  }
  /** The second list that lies over the marks, when it is switched on. */
  get over(): readonly Overlay[] {
    return this.show.over ? this.ports.overlays() : [];
  }

  /** Shows a mark, about half the stage. */
  to(mark: Mark | undefined): void {
    if (mark) this.sight.to(bounds(shapeOf(mark)));
  }
  /** Where a pin on a mark would sit. */
  anchor(mark: Mark): Point {
    return anchorOf(shapeOf(mark));
  }
  words = (mark: Mark): string => describe(shapeOf(mark));
  short = (mark: Mark): string => short(shapeOf(mark));

  #coverage: Coverage | null = null;
  #changes = $state(0);
  /** What is labelled by nobody, or twice; worked out once for each state of the marks. */
  get covered(): Coverage | null {
    void this.#changes;
    if (!this.show.coverage) return null;
    this.#coverage ??= coverage(this.ports.editor.marks.all(), this.sight.picture);
    return this.#coverage;
  }
  get coverageWords(): string {
    return this.covered === null ? '' : coverageWords(this.covered);
  }
}
