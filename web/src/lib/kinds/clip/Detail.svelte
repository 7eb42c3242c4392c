<script lang="ts">
  /** Where the track in hand is now, where it is there at all, and its keys with where each came from. */
  import { area } from '$lib/plane/raster';
  import { pixels } from '$lib/plane/shapes/mask';
  import type { Mark } from '$lib/words/mark';
  import KeyList from '../KeyList.svelte';
  import type { Surface } from '../kind';
  import type { ClipSurface } from './surface.svelte';

  let { surface, mark: m }: { surface: Surface; mark: Mark } = $props();
  const own = $derived(surface as ClipSurface);
  const keys = $derived(own.plane.ports.editor.keys.of(m.id));
  const live = $derived((m.stretches && own.tracks.of(m.id)?.keys) ?? []);
  const fixed = (n: number) => n.toFixed(n % 1 ? 1 : 0);
</script>

<div class="num soft size">
  {#if m.away}not there at this frame
  {:else if m.kind === 'box'}{fixed(m.geometry.x)}, {fixed(m.geometry.y)} · {fixed(m.geometry.width)} × {fixed(m.geometry.height)} px
  {:else if m.kind === 'mask'}mask · {area(pixels(m.geometry).edges).toLocaleString('en')} px
  {:else}{own.plane.words(m)}{/if}
  {#if m.veiled && !m.away}· hidden{/if}
</div>
<div class="num soft size">
  frames {(m.stretches ?? []).map(([a, b]) => (a === b ? a + 1 : `${a + 1}–${b + 1}`)).join(', ')}
</div>
<KeyList keys={live} place={own.clock.frame} word="frame" go={(place) => own.go(place)} beyond={keys.length - live.length} />

<style>
  .size {
    font-size: 12px;
    margin-bottom: 3px;
  }
</style>
