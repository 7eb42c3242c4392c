<script lang="ts">
  /** How large the object in hand is, on which slices it is, and its keys with where each came from. */
  import type { Mark } from '$lib/words/mark';
  import KeyList from '../KeyList.svelte';
  import type { Surface } from '../kind';
  import type { VolumeSurface } from './surface.svelte';

  let { surface, mark: m }: { surface: Surface; mark: Mark } = $props();
  const own = $derived(surface as VolumeSurface);
  const live = $derived((m.stretches && own.tracks.of(m.id)?.keys) ?? []);
  const extent = $derived.by(() => {
    void own.volume.version;
    return own.extent(m);
  });
  const few = (n: number) => (n < 10 ? n.toFixed(2) : n < 1000 ? n.toFixed(1) : Math.round(n).toLocaleString('en'));
</script>

<dl class="num size" aria-label="how large it is">
  {#if extent.voxels > 0}
    <div>
      <dt>volume</dt>
      <dd>{few(extent.ml)} ml</dd>
    </div>
    <div>
      <dt>here</dt>
      <dd>{few(extent.mm2)} mm²</dd>
    </div>
    <div>
      <dt>slices</dt>
      <dd>{extent.slices}</dd>
    </div>
  {/if}
</dl>
<div class="num soft size">
  slices {(m.stretches ?? []).map(([a, b]) => (a === b ? a + 1 : `${a + 1}–${b + 1}`)).join(', ')}
</div>
<KeyList keys={live} place={own.clock.frame} word="slice" go={(place) => own.go(place)} />

<style>
  .size {
    font-size: 12px;
    margin: 0 0 3px;
    display: flex;
    gap: 12px;
    flex-wrap: wrap;
  }
  .size div {
    display: flex;
    gap: 5px;
  }
  dt {
    color: var(--soft);
  }
  dd {
    margin: 0;
  }
</style>
