import { Seen } from './seen';
import type { Sight } from './sight.svelte';

type Rule = { cells: string; zoom: number; required: boolean };

/** Which parts of the picture have been looked at close up, told to the server now and then. */
export class Looked {
  seen = $state.raw<Seen>(null!);
  /** what has not been seen lies in shade because it was asked for */
  shown = $state(false);
  readonly zoom: number;
  readonly required: boolean;
  #there: string;
  #timer: ReturnType<typeof setTimeout> | undefined;
  #telling: Promise<void> | null = null;

  /** @param tell tells the server; null where only looked at */
  constructor(
    private readonly sight: Sight,
    rule: Rule,
    private readonly tell: ((cells: string) => Promise<unknown>) | null
  ) {
    this.seen = new Seen(sight.picture, rule.cells);
    this.zoom = rule.zoom;
    this.required = rule.required && tell !== null;
    this.#there = this.seen.cells;
  }
  /** Whether what has not been seen is shaded: asked for, or required and something is left. */
  get isShown(): boolean {
    return (this.shown || this.required) && !this.seen.all;
  }
  /** Takes note of what is on the stage now; called when the view has come to rest. */
  look(): void {
    const next = this.seen.with(this.sight.view, this.sight.stage, this.zoom);
    if (next === this.seen) return;
    this.seen = next;
    clearTimeout(this.#timer);
    this.#timer = setTimeout(() => void this.keep().catch(() => {}), 2000);
  }
  /** Tells the server now what it does not know yet; @throws what kept it, and then it is told again with the next look */
  async keep(): Promise<void> {
    clearTimeout(this.#timer);
    await this.#telling?.catch(() => {});
    const cells = this.seen.cells;
    if (this.tell === null || cells === this.#there) return;
    this.#telling = this.tell(cells).then(() => void (this.#there = cells));
    try {
      await this.#telling;
    } finally {
      this.#telling = null;
    }
  }
  /** Goes to the nearest part that has not been seen, close enough for it to count. */
  next(): void {
    const { view, stage, picture } = this.sight;
    const at = this.seen.next({ x: (stage.width / 2 - view.x) / view.scale, y: (stage.height / 2 - view.y) / view.scale });
    if (!at) return;
    const scale = Math.max(view.scale, this.zoom);
    // as much of the picture on the stage as there is
    const along = (size: number, place: number, all: number) =>
      all * scale <= size ? (size - all * scale) / 2 : Math.min(0, Math.max(size - all * scale, size / 2 - place * scale));
    this.sight.view = { scale, x: along(stage.width, at.x, picture.width), y: along(stage.height, at.y, picture.height) };
  }
  /** Per cent that have not been seen, where that is required. */
  get left(): number {
    return this.required && !this.seen.all ? Math.max(1, Math.round(100 * (1 - this.seen.share))) : 0;
  }
}
