<script lang="ts">
  /** What the core has worked out and waits to be taken; the air round a box. */
  import type { Surface } from '../kind';
  import type { Flat } from './flat.svelte';
  let { surface }: { surface: Surface } = $props();
  const { plane } = $derived(surface as Surface & Flat);
  const { assist, cutout, posing } = $derived(plane);
  const doubtful = $derived(posing.doubtful(plane.ports.hand.one));
  const nodeName = (key: string) =>
    plane.ports.words.skeletonOf(plane.ports.hand.one?.class ?? '')?.nodes.find((n) => n.key === key)?.name ?? key;
</script>

{#if cutout.isOpen}
  <div class="say" role="status" aria-label="cut-out">
    {#if cutout.failed !== ''}
      not cut out: {cutout.failed}. What you have said is kept: Enter tries again, Esc leaves it, and you can draw it by hand.
    {:else if cutout.slow}
      the server takes long; Esc leaves it, and you can draw it by hand.
    {:else if cutout.working}
      cutting out…
    {:else}
      {cutout.found?.shape ? `${cutout.found.area.toLocaleString('en')} px` : 'nothing found'} by {cutout.inputs}
      {cutout.inputs === 1 ? 'input' : 'inputs'}.{cutout.found?.shape ? ' Enter takes it; press where it lacks something.' : ''}
    {/if}
    {#each cutout.doubts as doubt (doubt)}<div class="doubt">{doubt}</div>{/each}
  </div>
{/if}

{#if posing.mark}
  <div class="say" role="status" aria-label="fit">
    {posing.slow ? 'the server takes long; Esc leaves it as you have laid it.' : 'fitting it to the picture…'}
  </div>
{:else if doubtful.length > 0}
  <div class="say" role="status" aria-label="fit">
    <span>fitted to the picture; look at <b>{doubtful.map(nodeName).join(' · ')}</b></span>
  </div>
{/if}

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
  .doubt {
    color: var(--accent-text);
  }
</style>
