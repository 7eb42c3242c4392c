<script lang="ts">
  import PlaneStage from '$lib/plane/Stage.svelte';
  import { untrack } from 'svelte';
  import Failed from '../flat/Failed.svelte';
  import type { Surface } from '../kind';
  import type { DocumentSurface } from './surface.svelte';
  let { surface, name }: { surface: Surface; name: string } = $props();
  const own = $derived(surface as DocumentSurface);
  $effect(() => {
    void [own.plane.sight.view, own.plane.ports.hand.size];
    untrack(() => own.moved());
  });
</script>

<PlaneStage plane={own.plane} ground={own.book} name="{name}, page {own.page + 1} of {own.pagesCount}" />
{#if own.book.failed}<Failed why="page {own.page + 1} could not be drawn; the others can be worked on" />{/if}
