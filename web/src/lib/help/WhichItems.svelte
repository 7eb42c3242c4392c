<script lang="ts">
  /** The choice of the items a sentence is about. */
  import type { Schemas } from '$lib/api/client';
  import { say } from '$lib/items/conditions';
  import type { Words } from '$lib/words/words.svelte';
  import { X } from '@lucide/svelte';
  import type { Which } from './which.svelte';

  let { which, sets, words }: { which: Which; sets: Schemas['Set'][]; words: Words } = $props();
</script>

<label><input type="radio" bind:group={which.set} value={null} /> all sets</label>
{#each sets as set (set.path)}<label
    ><input type="radio" bind:group={which.set} value={set.path} />
    {set.path || '(top)'} <span class="soft num">{set.items}</span></label
  >{/each}
{#each which.narrowed as f (f)}<span class="chip"
    >{say(f, words.document)}
    <button aria-label="drop: {say(f, words.document)}" onclick={() => (which.narrowed = which.narrowed.filter((o) => o !== f))}
      ><X size={13} /></button
    ></span
  >{/each}
<a class="plain" href="/p/{words.project}/items?{new URLSearchParams(which.conditions.map((f) => ['f', f]))}">narrow down on Items</a>

<style>
  .chip {
    display: inline-flex;
    gap: 4px;
    align-items: center;
    border: 1px solid var(--edge);
    border-radius: 4px;
    padding: 1px 7px;
  }
</style>
