<script lang="ts">
  /** The outline of the cuboid in hand over one of its views: its front, what a press takes hold of. */
  import type { Cuboid } from '$lib/words/mark';
  import { knob, outline, type Px, type Size, type View } from './views';

  let {
    view,
    on,
    cuboid,
    scale,
    size,
    color,
    editable
  }: { view: View; on: Cuboid; cuboid: Cuboid; scale: number; size: Size; color: string; editable: boolean } = $props();
  const names: Record<View, string> = { above: 'from above', side: 'from its side', front: 'from its front' };
  const at = $derived(outline(view, on, cuboid, scale, size));
  const points = $derived(at.map((p) => `${p.x},${p.y}`).join(' '));
  const middle = (a: Px, b: Px): Px => ({ x: (a.x + b.x) / 2, y: (a.y + b.y) / 2 });
  const sides = $derived(at.map((p, i) => middle(p, at[(i + 1) % 4]!)));
  /** of the outline the side that is its front: from above and from its side the one ahead */
  const front = $derived(view === 'front' ? null : ([at[1]!, at[2]!] as const));
  const turn = $derived(view === 'above' ? knob(on, cuboid, scale, size) : null);
</script>

<svg aria-label={names[view]} role="img" style:color>
  <polygon {points} class:front={view === 'front'} />
  {#if front}<line class="ahead" x1={front[0].x} y1={front[0].y} x2={front[1].x} y2={front[1].y} />{/if}
  {#if turn}
    {@const from = middle(front![0], front![1])}
    <line x1={from.x} y1={from.y} x2={turn.x} y2={turn.y} />
    {#if editable}<circle class="knob" cx={turn.x} cy={turn.y} r="6" />{/if}
  {/if}
  {#if editable}
    {#each [...at, ...sides] as p, i (i)}<rect x={p.x - 3} y={p.y - 3} width="6" height="6" />{/each}
  {/if}
</svg>
<span class="name">{names[view]}</span>

<style>
  svg {
    position: absolute;
    inset: 0;
    width: 100%;
    height: 100%;
    pointer-events: none;
  }
  polygon {
    fill: none;
    stroke: currentColor;
    stroke-width: 1.5;
  }
  .front {
    fill: currentColor;
    fill-opacity: 0.1;
  }
  line {
    stroke: currentColor;
    stroke-width: 1.5;
  }
  .ahead {
    stroke-width: 4;
  }
  rect {
    fill: #171b1a;
    stroke: currentColor;
  }
  .knob {
    fill: currentColor;
  }
  .name {
    position: absolute;
    left: 6px;
    top: 4px;
    font-size: 11.5px;
    color: #b9b4a6;
    pointer-events: none;
  }
</style>
