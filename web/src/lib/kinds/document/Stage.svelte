<script lang="ts">
  import PlaneStage from '$lib/plane/Stage.svelte';
  import { untrack } from 'svelte';
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
{#if own.book.failed}<p class="failed" role="alert">page {own.page + 1} could not be drawn; the others can be worked on</p>{/if}

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
