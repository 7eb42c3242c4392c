<script lang="ts">
  /** Where the track in hand is now, where it is there at all, and its keys with where each came from. */
  import { area } from '$lib/plane/raster';
  import { pixels } from '$lib/plane/shapes/mask';
  import type { Mark } from '$lib/words/mark';
  import type { Surface } from '../kind';
  import type { ClipSurface } from './surface.svelte';

  let { surface, mark: m }: { surface: Surface; mark: Mark } = $props();
  const own = $derived(surface as ClipSurface);
  const keys = $derived(own.plane.ports.editor.keys.of(m.id));
  const live = $derived((m.stretches && own.tracks.of(m.id)?.keys) ?? []);
  const fixed = (n: number) => n.toFixed(n % 1 ? 1 : 0);
  const sources = { hand: 'by hand', copied: 'carried', followed: 'followed', cutout: 'cut out', model: 'by a model' } as const;
  /** of a long list what lies round the playhead */
  const MOST = 60;
  const at = $derived(live.findIndex((k) => k.place >= own.clock.frame));
  const from = $derived(Math.max(0, Math.min(live.length - MOST, (at < 0 ? live.length : at) - MOST / 2)));
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
<div class="keys" role="group" aria-label="keys">
  {#each live.slice(from, from + MOST) as key (key.place)}
    <button
      class:here={key.place === own.clock.frame}
      class:open={key.source !== 'hand'}
      title="frame {key.place + 1}, {sources[key.source]}{key.hidden ? ', hidden' : ''}"
      aria-label="key at frame {key.place + 1}, {sources[key.source]}{key.hidden ? ', hidden' : ''}"
      onclick={() => own.go(key.place)}><i></i>{key.place + 1}</button
    >
  {/each}
  {#if live.length > MOST}<span class="soft">of {live.length}</span>{/if}
  {#if keys.length > live.length}<span class="soft">and {keys.length - live.length} beyond its ends</span>{/if}
</div>

<style>
  .size {
    font-size: 12px;
    margin-bottom: 3px;
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
