<script lang="ts">
  /** What could not be delivered to the server, or not be kept by this browser: seen before it is lost. */
  import type { ObjectEdits } from './edits.svelte';
  let { edits }: { edits: ObjectEdits } = $props();
</script>

{#if edits.outbox.unkept !== ''}
  <div class="note" role="alert">
    This browser can't keep answers over a reload ({edits.outbox.unkept}). They still go to the server: wait for “saved” before you close
    the page.
  </div>
{/if}
{#each edits.outbox.held as h (h.turn)}
  <div class="note" role="alert">
    {h.count}
    {h.count === 1 ? 'change' : 'changes'} could not be delivered: {h.why}
    <button class="act" onclick={() => edits.outbox.again(h.turn)}>try again</button>
    <button class="act" onclick={() => edits.outbox.drop(h.turn)}>let them go</button>
  </div>
{/each}

<style>
  .note {
    border-left: 3px solid var(--accent);
    background: color-mix(in srgb, var(--accent) 10%, var(--panel));
    padding: 6px 12px;
    border-radius: 4px;
    margin: 4px 0;
  }
</style>
