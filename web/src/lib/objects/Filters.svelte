<script lang="ts">
  /** Which objects are meant, as a sentence: each part of it opens its choice. */
  import type { Choice } from './filters';
  let { choices, change }: { choices: readonly Choice[]; change: (name: string, value: string) => void } = $props();
</script>

{#each choices as c (c.name)}
  {#if c.lead}<span class="lead">{c.lead}</span>{/if}
  <select class="field" aria-label={c.label} value={c.value} onchange={(e) => change(c.name, e.currentTarget.value)}>
    {#each c.options as o (o.value)}<option value={o.value}>{o.word}</option>{/each}
  </select>
{/each}

<style>
  .lead:not(:first-child) {
    margin-left: 0.35em;
  }
  .lead {
    margin-right: 0.35em;
  }
</style>
