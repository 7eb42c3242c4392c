<script lang="ts">
  /** Where the mark in hand lies, and whether what is written under it is being read. */
  import type { Mark } from '$lib/words/mark';
  import type { Surface } from '../kind';
  import type { DocumentSurface } from './surface.svelte';

  let { surface, mark: m }: { surface: Surface; mark: Mark } = $props();
  const own = $derived(surface as DocumentSurface);
</script>

<div class="num soft size">
  {own.words(m)}{#if own.readings.reading.has(m.id)}<span role="status"> · reading what is written there</span>{/if}
</div>

<style>
  .size {
    font-size: 12px;
    margin-bottom: 3px;
  }
</style>
