<script lang="ts">
  /** How large the object in hand is, on which slices it is, and its keys with where each came from. */
  import type { Mark } from '$lib/words/mark';
  import type { Surface } from '../kind';
  import type { VolumeSurface } from './surface.svelte';

  let { surface, mark: m }: { surface: Surface; mark: Mark } = $props();
  const own = $derived(surface as VolumeSurface);
  const live = $derived((m.stretches && own.tracks.of(m.id)?.keys) ?? []);
  const extent = $derived.by(() => {
    void own.volume.version;
    return own.extent(m);
  });
  const sources = { hand: 'by hand', copied: 'carried', followed: 'followed', cutout: 'cut out', model: 'by a model' } as const;
  /** of a long list what lies round the slice that is shown */
  const MOST = 60;
  const at = $derived(live.findIndex((k) => k.place >= own.clock.frame));
  const from = $derived(Math.max(0, Math.min(live.length - MOST, (at < 0 ? live.length : at) - MOST / 2)));
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
<div class="keys" role="group" aria-label="keys">
  {#each live.slice(from, from + MOST) as key (key.place)}
    <button
      class:here={key.place === own.clock.frame}
      class:open={key.source !== 'hand'}
      title="slice {key.place + 1}, {sources[key.source]}"
      aria-label="key at slice {key.place + 1}, {sources[key.source]}"
      onclick={() => void own.go(key.place)}><i></i>{key.place + 1}</button
    >
  {/each}
  {#if live.length > MOST}<span class="soft">of {live.length}</span>{/if}
</div>

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
  .keys {
    display: flex;
    flex-wrap: wrap;
    gap: 3px;
    padding: 2px 0 5px;
    font-size: 12px;
  }
  .keys button {
    display: inline-flex;
    gap: 4px;
    align-items: center;
    border: 1px solid var(--edge);
    border-radius: 4px;
    padding: 0 5px;
    font-family: var(--font-mono);
    font-size: 11.5px;
    cursor: pointer;
  }
  .keys .here {
    border-color: var(--accent);
  }
  .keys i {
    width: 7px;
    height: 7px;
    border-radius: 50%;
    background: var(--primary);
    border: 1.5px solid var(--primary);
  }
  .keys .open i {
    background: none;
  }
</style>
