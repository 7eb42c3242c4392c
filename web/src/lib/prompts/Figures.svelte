<script lang="ts">
  /** What came of a trial of a prompt, so far: figures of spans, of answers and of tags, and what it took. */
  import type { Schemas } from '$lib/api/client';
  import { lasting } from '$lib/help/help.svelte';
  import Whisker from '$lib/help/Whisker.svelte';
  import type { Words } from '$lib/words/words.svelte';

  let { figures, words }: { figures: Schemas['PromptFigures']; words: Words } = $props();
  const rows = $derived([
    ...Object.entries(figures.classes).map(([key, f]) => ({ key, name: words.nameOf(key), f })),
    ...(Object.keys(figures.classes).length > 1 ? [{ key: '', name: 'all together', f: figures.all }] : [])
  ]);
  const whole = $derived([
    ...Object.entries(figures.answers).map(([key, of]) => ({
      key: `question ${key}`,
      name: words.document.attributes?.find((a) => a.key === key)?.name ?? key,
      of
    })),
    ...Object.entries(figures.tags).map(([key, of]) => ({
      key: `tag ${key}`,
      name: words.itemTags.find((t) => t.key === key)?.name ?? key,
      of
    }))
  ]);
</script>

<p role="status">
  <span class="num">{figures.items}</span> texts answered; of what was said <span class="num">{figures.mended}</span>
  places were mended and <span class="num">{figures.left}</span> could not be used{#if figures.cut > 0}, <span class="num"
      >{figures.cut}</span
    >
    replies were not whole{/if}{#if figures.failed.length > 0}, <b class="num">{figures.failed.length}</b> failed{/if};
  <span class="num">{lasting(figures.seconds)}</span>{#if figures.cost !== null}, cost
    <span class="num">{figures.cost.toFixed(4)}</span>{#if figures.uncounted > 0}
      without <span class="num">{figures.uncounted}</span> that were not counted{/if}{/if}
</p>
{#if rows.length > 0}
  <table class="dense" aria-label="figures of spans">
    <thead
      ><tr
        ><th>spans</th><th>there</th><th>said</th><th>F1 exact</th><th>precision</th><th>recall</th><th>F1 overlapping</th><th>precision</th
        ><th>recall</th></tr
      ></thead
    >
    <tbody>
      {#each rows as { key, name, f } (key)}
        <tr class:sum={key === ''}
          ><td>{name}</td><td class="num">{f.known}</td><td class="num">{f.said}</td
          >{#each ['exact', 'overlapping'] as const as how (how)}{#each ['f1', 'precision', 'recall'] as const as figure (figure)}<td
                ><Whisker of={f[how][figure]} label="{figure}, {how}" /></td
              >{/each}{/each}</tr
        >
      {/each}
    </tbody>
  </table>
{/if}
{#if whole.length > 0}
  <table class="dense whole" aria-label="figures of answers">
    <thead><tr><th>of the text</th><th>answered as accepted</th></tr></thead>
    <tbody>
      {#each whole as { key, name, of } (key)}<tr><td>{name}</td><td><Whisker {of} label="as accepted" /></td></tr>{/each}
    </tbody>
  </table>
{/if}

<style>
  .sum td {
    border-top: 1px solid var(--edge);
    font-weight: 600;
  }
  .whole {
    width: auto;
    margin-top: 10px;
  }
  p {
    margin: 8px 0;
  }
</style>
