<script lang="ts">
  /** Where the span in hand stands, and what is joined with it. */
  import type { Mark } from '$lib/words/mark';
  import { isRelation, isSpan } from '$lib/text/spans.svelte';
  import type { Surface } from '../kind';
  import type { TextSurface } from './surface.svelte';

  let { surface, mark: m }: { surface: Surface; mark: Mark } = $props();
  const own = $derived(surface as TextSurface);
  const { words, hand } = $derived(own.ports);
  const joins = $derived(isSpan(m) ? own.spans.joinsOf(m.id) : []);
  const saidOf = (id: string) => {
    const span = own.spans.get(id);
    return span ? own.said(span.geometry, 30) : 'gone';
  };
</script>

<div class="num soft size">
  {#if isSpan(m)}{m.geometry.start}–{m.geometry.end} · {m.geometry.end - m.geometry.start} characters
  {:else if isRelation(m)}{saidOf(m.geometry.from)} → {saidOf(m.geometry.to)}{/if}
</div>
{#each joins as j (j.id)}
  {@const other = j.geometry.from === m.id ? j.geometry.to : j.geometry.from}
  <button class="join" onclick={() => hand.select(other)}
    ><span class="soft">{j.geometry.from === m.id ? words.nameOf(j.class) : `${words.nameOf(j.class)} of`}</span> {saidOf(other)}</button
  >
{/each}

<style>
  .size {
    font-size: 12px;
    margin-bottom: 3px;
  }
  .join {
    display: block;
    text-align: left;
    cursor: pointer;
    font-size: 12.5px;
    padding: 1px 0;
  }
</style>
