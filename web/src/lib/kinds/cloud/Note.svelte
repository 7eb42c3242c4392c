<script lang="ts">
  /** What waits for a decision of the hand: cuboids with nothing in them. */
  import type { Surface } from '../kind';
  import type { CloudSurface } from './surface.svelte';
  let { surface }: { surface: Surface } = $props();
  const own = $derived(surface as CloudSurface);
  const empty = $derived(own.empty);
</script>

{#if empty.length > 0}
  <p class="note" role="status">
    {empty.length === 1 ? `${own.ports.acts.label(empty[0]!)} has no point in it` : `${empty.length} cuboids have no point in them`} on this frame
  </p>
{/if}

<style>
  .note {
    font-size: 12.5px;
    margin: 0;
    padding: 4px 10px;
    color: var(--accent-text, var(--accent));
  }
</style>
