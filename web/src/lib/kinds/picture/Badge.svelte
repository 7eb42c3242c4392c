<script lang="ts">
  /** What of the picture has not been seen close up yet, over its small copy in the ribbon. */
  import type { Surface } from '../kind';
  import type { PictureSurface } from './surface.svelte';
  let { surface }: { surface: Surface } = $props();
  const { looked, sight } = $derived((surface as PictureSurface).plane);
  const seen = $derived(looked.seen);
</script>

{#if looked.isShown}
  <svg viewBox="0 0 {sight.picture.width} {sight.picture.height}" preserveAspectRatio="xMidYMid slice" aria-hidden="true">
    {#each seen.cells as cell, i (i)}{#if cell === '0'}<rect
          x={(i % seen.columns) * seen.cell}
          y={Math.floor(i / seen.columns) * seen.cell}
          width={seen.cell}
          height={seen.cell}
        />{/if}{/each}
  </svg>
{/if}

<style>
  svg {
    position: absolute;
    inset: 0;
    width: 64px;
    height: 46px;
    fill: rgba(28, 40, 66, 0.72);
  }
</style>
