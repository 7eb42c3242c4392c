<script lang="ts">
  import ViewPanel from '$lib/plane/ViewPanel.svelte';
  import type { Surface } from '../kind';
  import type { ClipSurface } from './surface.svelte';
  let { surface, keep }: { surface: Surface; keep: () => void } = $props();
  const own = $derived(surface as ClipSurface);
</script>

<ViewPanel show={own.shows} looked={own.plane.looked} {keep} />
