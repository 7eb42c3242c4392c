<script lang="ts">
  import ViewPanel from '$lib/plane/ViewPanel.svelte';
  import type { Surface } from '../kind';
  import type { PictureSurface } from './surface.svelte';
  let { surface, keep }: { surface: Surface; keep: () => void } = $props();
  const own = $derived(surface as PictureSurface);
</script>

<ViewPanel show={own.shows} looked={own.plane.looked} {keep} />
