<script lang="ts">
  import PlaneStage from '$lib/plane/Stage.svelte';
  import type { Surface } from '../kind';
  import type { ClipSurface } from './surface.svelte';
  let { surface, name }: { surface: Surface; name: string } = $props();
  const own = $derived(surface as ClipSurface);
</script>

<PlaneStage plane={own.plane} ground={own.clip} {name} />
{#if own.clip.failed}<p class="failed" role="alert">{own.clip.failed}</p>{/if}

<style>
  .failed {
    position: absolute;
    left: 12px;
    top: 12px;
    background: var(--panel);
    border-left: 3px solid var(--accent);
    padding: 7px 10px;
    border-radius: 4px;
  }
</style>
