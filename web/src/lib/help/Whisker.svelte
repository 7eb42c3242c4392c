<script lang="ts">
  /** A figure from 0 to 1 as a dot, and where it lies nineteen times in twenty as a line. */
  import type { Schemas } from '$lib/api/client';
  import { percent } from './help.svelte';

  let {
    of,
    before = null,
    label
  }: { of: Schemas['Interval'] | null | undefined; before?: Schemas['Interval'] | null; label: string } = $props();
  const W = 92;
  const x = (v: number) => 4 + v * (W - 8);
</script>

<span class="whisker" title="{label}: {percent(of)}{before ? `; the version in use before, on the same items: ${percent(before)}` : ''}">
  <svg width={W} height="14" viewBox="0 0 {W} 14" aria-hidden="true">
    <line class="axis" x1={x(0)} x2={x(1)} y1="11.5" y2="11.5" />
    {#if before}<line class="before" x1={x(before.value)} x2={x(before.value)} y1="2" y2="11" />{/if}
    {#if of}
      <line class="span" x1={x(of.low)} x2={x(of.high)} y1="6" y2="6" />
      <circle cx={x(of.value)} cy="6" r="3.4" />
    {/if}
  </svg>
  <span class="num">{of ? `${(100 * of.value).toFixed(0)} %` : '–'}</span>
</span>

<style>
  .whisker {
    display: inline-flex;
    align-items: center;
    gap: 6px;
    white-space: nowrap;
  }
  .axis {
    stroke: var(--line);
  }
  .span {
    stroke: color-mix(in srgb, var(--primary) 55%, transparent);
    stroke-width: 2.5;
  }
  .before {
    stroke: var(--soft);
    stroke-dasharray: 2 2;
  }
  circle {
    fill: var(--primary);
  }
</style>
