<script lang="ts">
  import PlaneStage from '$lib/plane/Stage.svelte';
  import type { Surface } from '../kind';
  import type { PictureSurface } from './surface.svelte';
  let { surface, name }: { surface: Surface; name: string } = $props();
  const own = $derived(surface as PictureSurface);
</script>

<PlaneStage plane={own.plane} ground={own.picture} {name} />
