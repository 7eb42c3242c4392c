<script lang="ts">
  /** What people have made of suggestions, as one bar from left as they were to drawn anew. */
  import type { Schemas } from '$lib/api/client';
  import { lasting } from './help.svelte';

  let { of }: { of: Schemas['Outcome'] } = $props();
  type Part = readonly [key: string, word: string, n: number];
  const some = (parts: readonly Part[]): readonly Part[] => parts.filter(([, , n]) => n > 0);
  const bars = $derived(
    [
      {
        about: '',
        parts: some([
          ['untouched', 'left as they were', of.untouched],
          ['moved', `moved${of.alike === null ? '' : ` (to where they were: ${(100 * of.alike).toFixed(0)} % alike)`}`, of.moved],
          ['class', 'given another class', of.class_changed],
          ['dropped', 'dropped', of.dropped],
          ['left', 'left behind, decided by nobody: no labels', of.left],
          ['open', 'not come to yet', of.open],
          ['missed', 'missed by the model, drawn by hand', of.missed]
        ])
      },
      {
        about: 'tags and answers of the whole',
        parts: some([
          ['untouched', 'right', of.said.right],
          ['class', 'answered otherwise', of.said.changed],
          ['dropped', 'wrong', of.said.dropped],
          ['left', 'left behind', of.said.left],
          ['open', 'not come to yet', of.said.open]
        ])
      }
    ].filter(({ parts }) => parts.length > 0)
  );
  const sum = (parts: readonly Part[]) => parts.reduce((all, [, , n]) => all + n, 0);
</script>

{#each bars as { about, parts } (about)}
  {#if about !== ''}<div class="soft about">{about}</div>{/if}
  <div class="bar" aria-hidden="true">
    {#each parts as [key, word, n] (key)}<i class={key} style:width="{(100 * n) / sum(parts)}%" title="{n} {word}"></i>{/each}
  </div>
  <div class="words">
    {#each parts as [key, word, n] (key)}<span><i class={key}></i><span class="num">{n}</span> {word}</span>{/each}
    {#if about === '' && of.seconds !== null}<span class="soft"
        ><span class="num">{lasting(of.seconds)}</span> an object at the bench, on <span class="num">{of.items}</span> items given away{#if of.by_hand !== null};
          <span class="num">{lasting(of.by_hand)}</span> where nothing was suggested{/if}</span
      >{/if}
  </div>
{:else}
  <span class="soft">nothing was suggested</span>
{/each}

<style>
  .about {
    margin-top: 6px;
  }
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
