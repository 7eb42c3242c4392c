<script lang="ts">
  /** What the core has worked out and waits to be taken; the air round a box. */
  import type { Surface } from '../kind';
  import type { Flat } from './flat.svelte';
  let { surface }: { surface: Surface } = $props();
  const { assist } = $derived((surface as Surface & Flat).plane);
</script>

{#if assist.proposal}
  <div class="say" role="status">
    {assist.proposal.what}. Enter takes it, Esc leaves it.
    <div>
      <button class="act main" onclick={() => assist.take()}>Take it</button>
      <button class="act" onclick={() => assist.clear()}>Leave it</button>
    </div>
  </div>
{/if}
{#if assist.air}
  <div class="say" role="status">
    air round the object: {Object.entries(assist.air.sides)
      .map(
        ([side, a]) =>
          `${side} ${a.air === null ? 'unclear' : `${a.air} px`}${a.verdict === 'loose' ? ' (too much)' : a.verdict === 'cuts' ? ' (cuts it)' : ''}`
      )
      .join(', ')}
  </div>
{/if}

<style>
  .say {
    margin: 6px 8px 0;
    padding: 7px 10px;
    border-left: 3px solid var(--accent);
    background: color-mix(in srgb, var(--accent) 12%, var(--panel));
    border-radius: 4px;
    font-size: 13px;
    display: grid;
    gap: 5px;
  }
</style>
