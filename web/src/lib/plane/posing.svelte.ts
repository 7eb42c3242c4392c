import type { Mark, Point, Pose } from '$lib/words/mark';

export type PoseWish = { class: string; nodes: Record<string, Point> };
/** `sure`: how sure it is of each node, 0 to 1 */
export type Posed = { geometry: Pose; sure: Record<string, number> };
export type AskPose = (wish: PoseWish, signal: AbortSignal) => Promise<Posed>;

/** From here on a node is taken for placed. */
const SURE = 0.5;
/** Time after which it is said that the server takes long. */
const LONG = 2500;

type Skeleton = Extract<Mark, { kind: 'skeleton' }>;
type Ports = {
  /** the mark as it is now; null: it is gone */
  now: (id: string) => Mark | null;
  fit: (mark: Mark, geometry: Pose) => void;
  say: (message: string) => void;
};

/**
 * A skeleton a hand has laid is moved to where the picture shows it, by what accepted ones look like. The laid one is there at once and stays
 * when nothing comes back; what was changed meanwhile by hand is never moved. Nodes it is not sure of are doubtful until a hand has moved them.
 */
export class Posing {
  /** the mark that is being fitted */
  mark = $state<string | null>(null);
  slow = $state(false);
  #doubts = $state.raw<ReadonlyMap<string, Record<string, Point>>>(new Map());
  #stop: AbortController | null = null;

  constructor(
    private readonly ask: AskPose,
    /** classes whose skeletons were learned */
    readonly classes: readonly string[],
    private readonly at: Ports
  ) {}

  can(mark: Mark | null): mark is Skeleton {
    return mark?.kind === 'skeleton' && this.classes.includes(mark.class);
  }

  async start(mark: Mark | null): Promise<void> {
    if (!this.can(mark)) return;
    this.leave();
    const stop = (this.#stop = new AbortController());
    this.mark = mark.id;
    const laid = mark.geometry;
    const timer = setTimeout(() => (this.slow = !stop.signal.aborted), LONG);
    try {
      const nodes = Object.fromEntries(Object.entries(laid.nodes).map(([key, { x, y }]) => [key, { x, y }]));
      const { geometry, sure } = await this.ask({ class: mark.class, nodes }, stop.signal);
      if (stop.signal.aborted) return;
      const now = this.at.now(mark.id);
      if (!this.can(now) || JSON.stringify(now.geometry) !== JSON.stringify(laid)) return;
      const doubtful = Object.entries(geometry.nodes).filter(([key]) => (sure[key] ?? 1) < SURE);
      this.#doubts = new Map([...this.#doubts, [mark.id, Object.fromEntries(doubtful.map(([key, { x, y }]) => [key, { x, y }]))]]);
      this.at.fit(now, geometry);
    } catch (e) {
      if (!stop.signal.aborted) this.at.say(`not fitted: ${(e as Error).message}; it stays as you have laid it`);
    } finally {
      clearTimeout(timer);
      if (this.#stop === stop) {
        this.#stop = null;
        this.mark = null;
        this.slow = false;
      }
    }
  }
  /** Lets the one be that is on its way. @returns whether there was any */
  leave(): boolean {
    const was = this.mark !== null;
    this.#stop?.abort();
    this.#stop = null;
    this.mark = null;
    this.slow = false;
    return was;
  }
  /** Nodes of a mark that it is not sure of and no hand has moved since. */
  doubtful(mark: Mark | null): string[] {
    const put = mark && this.#doubts.get(mark.id);
    if (!put || mark.kind !== 'skeleton') return [];
    const { nodes } = mark.geometry;
    return Object.entries(put)
      .filter(([key, at]) => nodes[key]?.state === 'visible' && nodes[key].x === at.x && nodes[key].y === at.y)
      .map(([key]) => key);
  }
}
