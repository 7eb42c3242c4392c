<script lang="ts">
  /** What people have made of suggestions, as one bar from left as they were to drawn anew. */
  import type { Schemas } from '$lib/api/client';
  import { lasting } from './help.svelte';

  let { of }: { of: Schemas['Outcome'] } = $props();
  const parts = $derived(
    (
      [
        ['untouched', 'left as they were', of.untouched],
        ['moved', `moved${of.alike === null ? '' : ` (to where they were: ${(100 * of.alike).toFixed(0)} % alike)`}`, of.moved],
        ['class', 'given another class', of.class_changed],
        ['dropped', 'dropped', of.dropped],
        ['left', 'left behind, decided by nobody: no labels', of.left],
        ['open', 'not come to yet', of.open],
        ['missed', 'missed by the model, drawn by hand', of.missed]
      ] as const
    ).filter(([, , n]) => n > 0)
  );
  const all = $derived(parts.reduce((sum, [, , n]) => sum + n, 0));
</script>

{#if all === 0}
  <span class="soft">nothing was suggested</span>
{:else}
  <div class="bar" aria-hidden="true">
    {#each parts as [key, word, n] (key)}<i class={key} style:width="{(100 * n) / all}%" title="{n} {word}"></i>{/each}
  </div>
  <div class="words">
    {#each parts as [key, word, n] (key)}<span><i class={key}></i><span class="num">{n}</span> {word}</span>{/each}
    {#if of.seconds !== null}<span class="soft"
        ><span class="num">{lasting(of.seconds)}</span> an object at the bench, on <span class="num">{of.items}</span> items given away</span
      >{/if}
  </div>
{/if}

<style>
  .bar {
    display: flex;
    height: 12px;
    border-radius: 3px;
    overflow: hidden;
    max-width: 640px;
  }
  .words {
    display: flex;
    flex-wrap: wrap;
    gap: 2px 16px;
    margin-top: 4px;
  }
  .words i {
    display: inline-block;
    width: 9px;
    height: 9px;
    border-radius: 2px;
    margin-right: 5px;
  }
  .untouched {
    background: var(--primary);
  }
  .moved {
    background: color-mix(in srgb, var(--primary) 60%, var(--panel));
  }
  .class {
    background: color-mix(in srgb, var(--primary) 35%, var(--panel));
  }
  .dropped {
    background: var(--accent);
  }
  .left {
    background: color-mix(in srgb, var(--accent) 45%, var(--panel));
  }
  .open {
    background: var(--line);
  }
  .missed {
    background: var(--soft);
  }
</style>
