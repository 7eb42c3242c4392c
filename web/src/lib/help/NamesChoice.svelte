<script lang="ts">
  /** Which of a model's names is which of the project: classes with a confidence of their own, the nodes of their skeletons, and tags. */
  import type { Words } from '$lib/words/words.svelte';
  import type { Help } from './help.svelte';

  let { help, words }: { help: Help; words: Words } = $props();
  const known = $derived(words.document.classes);
  const also = $derived(help.then?.alike ?? null);
  const nodes = $derived(help.nodes);
  /** mapped classes drawn as skeletons */
  const skeletons = $derived(
    nodes.length === 0
      ? []
      : [...new Set(Object.values(help.names.classes))].flatMap((key) => {
          const skeleton = words.skeletonOf(key);
          return skeleton ? [{ key, skeleton, named: help.names.nodes(key, also) }] : [];
        })
  );
</script>

{#each help.model?.classes ?? [] as theirs (theirs)}
  {@const key = help.names.classes[theirs]}
  <div class="pair">
    <label
      ><span class="num">{theirs}</span> is
      <select class="field" value={key ?? ''} onchange={(e) => help.map(theirs, e.currentTarget.value)} aria-label="class for {theirs}">
        <option value="">left out</option>
        {#each known as c (c.key)}<option value={c.key}>{c.name}</option>{/each}
      </select></label
    >
    {#if key}
      <label
        >from
        <input
          class="field own num"
          type="number"
          min="0"
          max="1"
          step="0.05"
          placeholder={help.wish.from.toFixed(2)}
          value={help.own[key] ?? ''}
          onchange={(e) => help.from(key, e.currentTarget.value === '' ? null : e.currentTarget.valueAsNumber)}
          aria-label="confidence for {words.nameOf(key)}"
        /></label
      >
    {/if}
  </div>
{/each}
{#each skeletons as { key, skeleton, named } (key)}
  <div class="group" role="group" aria-label="nodes of {words.nameOf(key)}">
    <span class="soft">nodes of {words.nameOf(key)}:</span>
    {#each nodes as theirs (theirs)}
      <label
        ><span class="num">{theirs}</span> is
        <select
          class="field"
          value={named[theirs] ?? ''}
          onchange={(e) => help.node(key, theirs, e.currentTarget.value)}
          aria-label="node for {theirs}"
        >
          <option value="">left out</option>
          {#each skeleton.nodes as node (node.key)}<option value={node.key}>{node.name}</option>{/each}
        </select></label
      >
    {/each}
    {#if Object.keys(named).length < skeleton.nodes.length}<span class="soft"
        >{skeleton.nodes
          .filter((n) => !Object.values(named).includes(n.key))
          .map((n) => n.name)
          .join(', ')} will not be placed</span
      >{/if}
  </div>
{/each}
{#if help.tags.length > 0}
  <div class="group" role="group" aria-label="tags">
    <span class="soft">tags of the picture:</span>
    {#each help.tags as theirs (theirs)}
      <label
        ><span class="num">{theirs}</span> is
        <select
          class="field"
          value={help.names.tags[theirs] ?? ''}
          onchange={(e) => help.tag(theirs, e.currentTarget.value)}
          aria-label="tag for {theirs}"
        >
          <option value="">left out</option>
          {#each words.itemTags as t (t.key)}<option value={t.key}>{t.name}</option>{/each}
        </select></label
      >
    {/each}
  </div>
{/if}
{#if help.questions.length > 0}<span class="soft"
    >and it answers {help.questions.map((key) => words.document.attributes?.find((a) => a.key === key)?.name ?? key).join(', ')}</span
  >{/if}

<style>
  .pair,
  .group {
    display: flex;
    flex-wrap: wrap;
    gap: 4px 14px;
    align-items: center;
  }
  .group {
    width: 100%;
  }
  .own {
    width: 76px;
  }
</style>
