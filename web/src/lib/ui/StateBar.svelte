<script lang="ts">
  /** A bar of counts by state, widths by share. */
  import { states } from '$lib/state/project.svelte';
  let { counts, label }: { counts: Record<string, number>; label: string } = $props();
  const total = $derived(Object.values(counts).reduce((a, b) => a + b, 0));
</script>

<div
  class="bar"
  role="img"
  aria-label="{label}: {states
    .filter((s) => counts[s])
    .map((s) => `${counts[s]} ${s}`)
    .join(', ') || 'nothing yet'}"
>
  {#each [...states].reverse() as state (state)}
    {#if counts[state]}<span data-state={state} style:flex-grow={(counts[state] ?? 0) / total} title="{counts[state]} {state}"></span>{/if}
  {/each}
</div>

<style>
  .bar {
    display: flex;
    height: 10px;
    border-radius: 2px;
    overflow: hidden;
    background: var(--sunk);
    gap: 1px;
    min-width: 80px;
  }
  span {
    flex-basis: 0;
    background: var(--edge);
  }
  [data-state='accepted'] {
    background: var(--primary);
  }
  [data-state='submitted'] {
    background: color-mix(in srgb, var(--primary) 55%, var(--panel));
  }
  [data-state='returned'] {
    background: var(--accent);
  }
  [data-state='open'] {
    background: color-mix(in srgb, var(--ink) 60%, var(--panel));
  }
  [data-state='waiting'] {
    background: color-mix(in srgb, var(--edge) 55%, var(--panel));
  }
  [data-state='new'],
  [data-state='archived'] {
    background: var(--line);
  }
</style>
