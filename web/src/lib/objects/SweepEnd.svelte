<script lang="ts">
  /** After a sweep: what it did, and where to go on. */
  import type { Sweep } from './sweep.svelte';

  let {
    sweep,
    minutes,
    openLeft,
    again,
    leave
  }: {
    sweep: Sweep;
    minutes: number;
    /** what was skipped is still open, and can be gone through */
    openLeft: boolean;
    again: () => void;
    leave: () => void;
  } = $props();
  const { plan } = $derived(sweep);
</script>

<h1>{sweep.total === 0 ? 'Nothing to sweep' : 'Done'}</h1>
{#if sweep.total !== 0}
  <p class="did" role="status" aria-label="what was done">
    {sweep.sum} in
    <span class="num">{minutes < 1 ? `${Math.round(minutes * 60)} s` : `${Math.round(minutes)} min`}</span>{#if sweep.skipped.size > 0}, <span
        class="num">{sweep.skipped.size}</span
      >
      {plan.question || plan.every || plan.group || plan.tag ? 'skipped and left open' : 'passed by'}{/if}.
  </p>
{/if}
<div class="ends">
  {#if sweep.skipped.size > 0 && openLeft}<button class="act main" onclick={again}>Go through what is open</button>{/if}
  {#if sweep.at > 0}<button class="act" onclick={() => sweep.back()}>Back to the last</button>{/if}
  <button class="act" onclick={leave}>Another sweep</button>
  <a class="act" href="/">My work</a>
</div>

<style>
  .did {
    font-size: 18px;
    line-height: 2.4;
  }
  .ends {
    display: flex;
    gap: 8px;
  }
</style>
