<script lang="ts">
  /** Relations: ways two marks belong together, from objects of some classes to objects of others. */
  import type { Schemas } from '$lib/api/client';
  import { Plus, X } from '@lucide/svelte';
  import { keyOf, setOrDrop, toggle } from './edit';

  let { doc }: { doc: Schemas['CodebookDocument'] } = $props();
  let word = $state('');
  const spans = $derived(doc.classes.filter((c) => c.shapes.includes('span')));

  function add() {
    const name = word.trim();
    const [first] = spans;
    if (name === '' || !first) return;
    doc.relations ??= [];
    doc.relations.push({
      key: keyOf(name, [...doc.classes.map((c) => c.key), ...doc.relations.map((r) => r.key)]),
      name,
      from: [first.key],
      to: [(spans[1] ?? first).key]
    });
    word = '';
  }
</script>

{#each doc.relations ?? [] as r, i (i)}
  <article class="relation" aria-label={r.name}>
    <div class="head">
      <input class="field" aria-label="name of relation {i + 1}" bind:value={r.name} />
      <span class="num soft">{r.key}</span>
      <button
        class="act link"
        aria-label="remove {r.name}"
        onclick={() => setOrDrop(doc, 'relations', doc.relations!.length > 1 ? doc.relations!.filter((o) => o !== r) : undefined)}
        ><X size={14} /></button
      >
    </div>
    {#each [['from', 'leads from'], ['to', 'leads to']] as const as [end, words] (end)}
      <div class="ends" role="group" aria-label="{r.name} {words}">
        <span class="soft">{words}</span>
        {#each spans as c (c.key)}<button aria-pressed={r[end].includes(c.key)} onclick={() => (r[end] = toggle(r[end], c.key))}
            >{c.name}</button
          >{/each}
      </div>
    {/each}
    <input
      class="field"
      placeholder="what it means"
      aria-label="what {r.name} means"
      value={r.description ?? ''}
      onchange={(e) => setOrDrop(r, 'description', e.currentTarget.value)}
    />
  </article>
{:else}<p class="soft">
    No relations yet: a number and what was counted, a treatment and what it is against. They join spans of texts.
  </p>{/each}
{#if spans.length === 0}<p class="soft">No class is drawn as a text span, so there is nothing to join.</p>{/if}
<form
  class="add"
  onsubmit={(e) => {
    e.preventDefault();
    add();
  }}
>
  <input class="field" aria-label="new relation" placeholder="a new relation" bind:value={word} disabled={spans.length === 0} />
  <button class="act" disabled={word.trim() === '' || spans.length === 0}><Plus size={14} />Add</button>
</form>

<style>
  .relation {
    border: 1px solid var(--line);
    border-radius: 4px;
    padding: 8px 10px;
    margin-bottom: 8px;
    display: grid;
    gap: 6px;
  }
  .head {
    display: flex;
    gap: 10px;
    align-items: center;
  }
  .ends {
    display: flex;
    flex-wrap: wrap;
    gap: 4px;
    align-items: center;
  }
  .ends .soft {
    width: 74px;
  }
  .ends button {
    border: 1px solid var(--edge);
    border-radius: 4px;
    padding: 1px 8px;
    cursor: pointer;
  }
  .ends [aria-pressed='true'] {
    border-color: var(--primary);
    background: color-mix(in srgb, var(--primary) 22%, transparent);
  }
  .add {
    display: grid;
    grid-template-columns: 1fr auto;
    gap: 8px;
    margin: 8px 0 18px;
  }
</style>
