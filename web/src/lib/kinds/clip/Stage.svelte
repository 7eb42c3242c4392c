<script lang="ts">
  import PlaneStage from '$lib/plane/Stage.svelte';
  import Failed from '../flat/Failed.svelte';
  import type { Surface } from '../kind';
  import type { ClipSurface } from './surface.svelte';
  let { surface, name }: { surface: Surface; name: string } = $props();
  const own = $derived(surface as ClipSurface);
</script>

<PlaneStage plane={own.plane} ground={own.clip} {name} />
{#if own.clip.failed}<Failed why={own.clip.failed} />{/if}
