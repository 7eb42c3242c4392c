<script lang="ts">
  import ViewPanel from '$lib/plane/ViewPanel.svelte';
  import type { Surface } from '../kind';
  import type { Flat } from './flat.svelte';
  let { surface, keep }: { surface: Surface; keep: () => void } = $props();
  const own = $derived(surface as Surface & Flat);
</script>

<ViewPanel show={own.shows} looked={own.plane.looked} {keep} />
