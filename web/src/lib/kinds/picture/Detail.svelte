<script lang="ts">
  /** Where the mark in hand lies, and its points and nodes one by one. */
  import { area } from '$lib/plane/raster';
  import { pixels } from '$lib/plane/shapes/mask';
  import type { Mark } from '$lib/words/mark';
  import type { Surface } from '../kind';
  import type { PictureSurface } from './surface.svelte';

  let { surface, mark: m }: { surface: Surface; mark: Mark } = $props();
  const { plane } = $derived(surface as PictureSurface);
  const { hand, words } = $derived(plane.ports);
  const fixed = (n: number) => n.toFixed(n % 1 ? 1 : 0);
  const take = (key: string) => (hand.point = hand.point === key ? null : key);
  const lacking = $derived(plane.forms.lacking(m));
</script>

<div class="num soft size">
  {#if m.kind === 'box'}{fixed(m.geometry.x)}, {fixed(m.geometry.y)} · {fixed(m.geometry.width)} × {fixed(m.geometry.height)} px
  {:else if m.kind === 'mask'}mask · {area(pixels(m.geometry).edges).toLocaleString('en')} px
  {:else}{plane.words(m)}{/if}
</div>
{#if m.kind === 'skeleton'}
  <div class="nodes" role="group" aria-label="nodes">
    {#each words.skeletonOf(m.class)?.nodes ?? [] as n (n.key)}
      {@const state = m.geometry.nodes[n.key]?.state ?? 'absent'}
      <button
        data-state={state}
        class:taken={hand.point === `n:${n.key}`}
        title="{n.name}: {state}"
        aria-label="{n.name}, {state}"
        disabled={!plane.editable}
        onclick={() => plane.forms.nodeState(n.key)}><i></i>{n.name}</button
      >
    {/each}
  </div>
{:else if m.kind === 'points'}
  <div class="nodes" role="group" aria-label="points">
    {#each m.geometry.points.filter((_, i) => i % 2 === 0) as x, i (i)}
      <button
        class:taken={hand.point === `v:0:${i}`}
        aria-label="point {words.pointName(m.class, i)}"
        aria-pressed={hand.point === `v:0:${i}`}
        disabled={!plane.editable}
        onclick={() => take(`v:0:${i}`)}
        >{words.pointName(m.class, i)}<span class="num soft">{fixed(x)}, {fixed(m.geometry.points[2 * i + 1]!)}</span></button
      >
    {/each}
  </div>
{/if}
{#if lacking > 0}<div class="soft size">
    {lacking} more {lacking === 1 ? 'point' : 'points'} asked: draw on to set {lacking === 1 ? 'it' : 'them'}
  </div>{/if}

<style>
  .size {
    font-size: 12px;
    margin-bottom: 3px;
  }
  .nodes {
    display: flex;
    flex-wrap: wrap;
    gap: 3px;
    padding: 2px 0 5px;
  }
  .nodes button {
    display: inline-flex;
    gap: 5px;
    align-items: center;
    font-size: 12px;
    border: 1px solid var(--edge);
    border-radius: 4px;
    padding: 0 6px;
    cursor: pointer;
  }
  .nodes .taken {
    border-color: var(--primary);
  }
  .nodes i {
    width: 8px;
    height: 8px;
    border-radius: 50%;
    background: var(--primary);
    border: 2px solid var(--primary);
  }
  .nodes [data-state='hidden'] i {
    background: none;
  }
  .nodes [data-state='absent'] i {
    background: none;
    border-style: dotted;
    border-color: var(--soft);
  }
  .nodes [data-state='absent'] {
    color: var(--soft);
    text-decoration: line-through;
  }
</style>
