<script lang="ts">
  /**
   * A volume as a technical drawing: the large plane, to its right and below it the two that stand on it, at the same scale and in line with it,
   * and in the corner the object in hand as a body.
   */
  import PlaneStage from '$lib/plane/Stage.svelte';
  import { toPicture, toScreen } from '$lib/plane/view';
  import type { Point } from '$lib/words/mark';
  import Failed from '../flat/Failed.svelte';
  import type { Surface } from '../kind';
  import Side from './Side.svelte';
  import Solid from './Solid.svelte';
  import type { Spot } from './facing';
  import type { VolumeSurface } from './surface.svelte';
  let { surface, name }: { surface: Surface; name: string } = $props();
  const own = $derived(surface as VolumeSurface);
  const { plane } = $derived(own);
  const facing = $derived(own.facing);
  const view = $derived(plane.sight.view);
  const color = $derived(plane.ports.words.light(plane.ports.hand.mark?.class ?? plane.ports.chosen.active));
  let width = $state(0);
  let height = $state(0);

  /** How much of the sheet the side views get: as the body is deep, within what leaves room for both. */
  const share = $derived.by(() => {
    const { index } = own.volume;
    if (!index || !facing) return 0.3;
    const mm = (axis: number) => index.sizes[axis]! * index.spacing[axis]!;
    const deep = mm(facing.through);
    const fits = Math.min(deep / (deep + mm(facing.across)), deep / (deep + mm(facing.down)));
    return Math.max(0.24, Math.min(0.36, fits));
  });
  const at = $derived.by(() => {
    void own.volume.version;
    return facing ? toScreen(view, own.on(own.volume.cross)) : null;
  });
  const edge = $derived.by(() => {
    if (!facing) return null;
    const a = toScreen(view, { x: 0, y: 0 });
    const b = toScreen(view, { x: facing.width, y: facing.height });
    const clamp = (n: number, most: number) => Math.max(10, Math.min(most - 10, n));
    return {
      left: clamp(a.x - 9, width),
      right: clamp(b.x + 9, width),
      up: clamp(a.y - 9, height),
      low: clamp(b.y + 9, height),
      midX: clamp((a.x + b.x) / 2, width),
      midY: clamp((a.y + b.y) / 2, height)
    };
  });

  // --- presses that no drawing tool is for
  let host: HTMLElement;
  let from: { p: Point; level: number; width: number; spot: Spot | null } | null = null;
  const on = (e: PointerEvent): Point => {
    const r = host.getBoundingClientRect();
    return { x: e.clientX - r.left, y: e.clientY - r.top };
  };
  const spotOf = (p: Point): Spot | null => own.spot(toPicture(view, p));
  const holds = $derived(own.hold !== null || own.growing.active);
  function down(e: PointerEvent) {
    if (e.button !== 0) return;
    const p = on(e);
    const spot = spotOf(p);
    const { window } = own.volume;
    (e.currentTarget as HTMLElement).setPointerCapture(e.pointerId);
    from = { p, level: window.level, width: window.width, spot };
    if (own.growing.active && own.hold === null) {
      const value = spot && own.volume.measured(spot);
      if (spot && value !== null) own.growing.from(spot, value);
      from = null;
    }
    if (own.hold === 'measure') own.measured = spot ? [spot, spot] : null;
  }
  function move(e: PointerEvent) {
    const p = on(e);
    const { window } = own.volume;
    if (own.hold === 'window' && from) {
      // a quarter of the stage is the whole width of what was shown
      const by = from.width / Math.max(80, Math.min(width, height) / 4);
      window.set(from.level + (p.y - from.p.y) * by, Math.max(1e-9, from.width + (p.x - from.p.x) * by));
    }
    if (own.hold === 'measure' && from && own.measured) {
      const spot = spotOf(p);
      if (spot) own.measured = [own.measured[0], spot];
    }
  }
  function meet(e: PointerEvent) {
    if (!e.altKey || e.button !== 0) return;
    e.stopPropagation();
    e.preventDefault();
    const spot = spotOf(on(e));
    if (spot) void own.meet(spot);
  }
  const ruler = $derived.by(() => {
    const { measured } = own;
    if (!measured || !facing) return null;
    return { a: toScreen(view, own.on(measured[0])), b: toScreen(view, own.on(measured[1])), mm: own.distance ?? 0 };
  });
  /** where the pointer is while no drawing tool has it */
  let hovered = $state.raw<Point | null>(null);
  /** what is measured under the pointer */
  const under = $derived.by(() => {
    const p = hovered ?? plane.pointer.at;
    void own.volume.version;
    const spot = p && own.spot(p);
    const value = spot ? own.volume.measured(spot) : null;
    return value === null ? null : Number(value.toPrecision(6));
  });
</script>

<div class="sheet" style:--share="{share * 100}%">
  <!-- svelte-ignore a11y_no_static_element_interactions -->
  <div class="large" bind:this={host} bind:clientWidth={width} bind:clientHeight={height} onpointerdowncapture={meet}>
    <PlaneStage {plane} ground={own.volume} {name} />
    {#if at && facing && !plane.show.hidden}
      <svg class="over" aria-hidden="true" style:color>
        <line x1={at.x} y1={0} x2={at.x} y2={Math.max(0, at.y - 14)} /><line x1={at.x} y1={at.y + 14} x2={at.x} y2={height} />
        <line x1={0} y1={at.y} x2={Math.max(0, at.x - 14)} y2={at.y} /><line x1={at.x + 14} y1={at.y} x2={width} y2={at.y} />
        {#if ruler}
          <line class="ruler" x1={ruler.a.x} y1={ruler.a.y} x2={ruler.b.x} y2={ruler.b.y} />
          <circle cx={ruler.a.x} cy={ruler.a.y} r="3" /><circle cx={ruler.b.x} cy={ruler.b.y} r="3" />
        {/if}
      </svg>
    {/if}
    {#if edge && facing?.letters.left}
      <b class="letter" style:left="{edge.left}px" style:top="{edge.midY}px">{facing.letters.left}</b>
      <b class="letter" style:left="{edge.right}px" style:top="{edge.midY}px">{facing.letters.right}</b>
      <b class="letter" style:left="{edge.midX}px" style:top="{edge.up}px">{facing.letters.up}</b>
      <b class="letter" style:left="{edge.midX}px" style:top="{edge.low}px">{facing.letters.low}</b>
    {/if}
    {#if ruler}<p
        class="said num"
        role="status"
        aria-label="distance"
        style:left="{(ruler.a.x + ruler.b.x) / 2 + 8}px"
        style:top="{(ruler.a.y + ruler.b.y) / 2 + 8}px"
      >
        {ruler.mm.toFixed(ruler.mm < 10 ? 2 : 1)} mm
      </p>{/if}
    <p class="reading num" aria-hidden="true">
      {#if under !== null}{under}{/if}<span class="soft"
        >{Math.round(own.volume.window.level)} ± {Math.round(own.volume.window.width / 2)}</span
      >
    </p>
    {#if holds}
      <!-- svelte-ignore a11y_no_static_element_interactions -->
      <div
        class="hold"
        data-hold={own.hold ?? 'grow'}
        onpointerdown={down}
        onpointermove={(e) => {
          move(e);
          hovered = toPicture(view, on(e));
        }}
        onpointerup={() => (from = null)}
        onpointercancel={() => (from = null)}
        onpointerenter={() => plane.pointer.leave()}
        onpointerleave={() => (hovered = null)}
        onwheel={(e) => {
          e.preventDefault();
          if (e.shiftKey && own.growing.active) own.growing.wider((e.deltaY || e.deltaX) < 0 ? 1 : -1);
          else if (e.ctrlKey) plane.pointer.wheel(on(e as unknown as PointerEvent), e.deltaY);
          else if (e.deltaY !== 0) own.step(e.deltaY > 0 ? 1 : -1);
        }}
      ></div>
    {/if}
  </div>
  <Side surface={own} role="right" />
  <Side surface={own} role="below" />
  <div class="corner"><Solid surface={own} /></div>
</div>
{#if own.volume.failed}<Failed why={own.volume.failed} />{/if}

<style>
  .sheet {
    display: grid;
    grid-template-columns: minmax(0, 1fr) var(--share);
    grid-template-rows: minmax(0, 1fr) var(--share);
    gap: 1px;
    width: 100%;
    height: 100%;
    background: var(--line);
  }
  .large,
  .corner {
    position: relative;
    overflow: hidden;
    min-width: 0;
    min-height: 0;
    background: var(--stage);
  }
  .over {
    position: absolute;
    inset: 0;
    width: 100%;
    height: 100%;
    pointer-events: none;
  }
  line {
    stroke: currentColor;
    stroke-width: 1;
    opacity: 0.5;
  }
  .ruler {
    stroke: #f7f3ea;
    stroke-width: 1.5;
    opacity: 1;
  }
  circle {
    fill: none;
    stroke: #f7f3ea;
    stroke-width: 1.5;
  }
  .letter {
    position: absolute;
    transform: translate(-50%, -50%);
    color: #d8d2c2;
    font-size: 12px;
    pointer-events: none;
    text-shadow: 0 0 3px #000;
  }
  .said,
  .reading {
    position: absolute;
    pointer-events: none;
    background: rgba(23, 27, 26, 0.86);
    color: #e9e4d8;
    border-radius: 3px;
    padding: 1px 7px;
    font-size: 12px;
    white-space: nowrap;
  }
  .reading {
    right: 6px;
    bottom: 6px;
    display: flex;
    gap: 9px;
  }
  .hold {
    position: absolute;
    inset: 0;
    cursor: crosshair;
    touch-action: none;
  }
  .hold[data-hold='window'] {
    cursor: move;
  }
</style>
