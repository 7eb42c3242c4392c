<script lang="ts">
  /** What waits for a decision of the hand: what was grown, and what any plane has. */
  import FlatNote from '../flat/Note.svelte';
  import type { Surface } from '../kind';
  import type { VolumeSurface } from './surface.svelte';
  let { surface }: { surface: Surface } = $props();
  const own = $derived(surface as VolumeSurface);
  const { growing } = $derived(own);
  const few = (n: number) => (n < 10 ? n.toFixed(2) : n < 1000 ? n.toFixed(1) : Math.round(n).toLocaleString('en'));
  const HOLDS = {
    window: 'drag on the plane: down and up the level, across the width. Esc ends it.',
    measure: 'drag from one place to another.',
    cross: ''
  };
</script>

{#if growing.active}
  <div class="say" role="status" aria-label="grow">
    {#if growing.waiting}growing…
    {:else if growing.found}
      {@const { voxels, ml, slices } = growing.found}
      <span class="num">{voxels.toLocaleString('en')}</span>
      {voxels === 1 ? 'voxel' : 'voxels'}, <span class="num">{few(ml)}</span> ml on
      <span class="num">{slices.size}</span>
      {slices.size === 1 ? 'slice' : 'slices'}{growing.found.cut ? '; ended before it had found all' : ''}. Enter takes it, Esc leaves it;
      press elsewhere to begin there.
    {:else}
      press inside of what is meant.
    {/if}
    {#if growing.seed}<div class="soft num">
        {few(growing.value - growing.spread)} to {few(growing.value + growing.spread)}, up to {growing.distance} mm from the press
      </div>{/if}
  </div>
{:else if own.hold !== null}
  <div class="say" role="status" aria-label="what a press does">{HOLDS[own.hold]}</div>
{/if}
<FlatNote {surface} />

<style>
  .say {
    padding: 8px 12px;
    border-bottom: 1px solid var(--line);
    font-size: 13px;
  }
</style>
