<script lang="ts">
  /** Tags of pictures, in groups that exclude each other, and how many objects and tags a picture may have. */
  import type { Schemas } from '$lib/api/client';
  import { Plus, X } from '@lucide/svelte';
  import { keyOf, setOrDrop } from './edit';

  let { doc }: { doc: Schemas['CodebookDocument'] } = $props();
  let word = $state('');

  function add() {
    for (const name of word
      .split(/[\n,;]+/)
      .map((w) => w.trim())
      .filter(Boolean)) {
      doc.tags ??= [];
      if (doc.tags.some((t) => t.name.toLowerCase() === name.toLowerCase())) continue;
      doc.tags.push({
        key: keyOf(
          name,
          doc.tags.map((t) => t.key)
        ),
        name
      });
    }
    word = '';
  }
  function limit(of: 'objects' | 'tags', side: 'min' | 'max', value: number) {
    const limits = { ...doc.limits };
    const range = { ...limits[of] };
    setOrDrop(range, side, value);
    setOrDrop(limits, of, Object.keys(range).length ? range : undefined);
    setOrDrop(doc, 'limits', Object.keys(limits).length ? limits : undefined);
  }
</script>

<table class="plain">
  <thead><tr><th>tag</th><th>key in files</th><th>group: of one group only one</th><th>put on</th><th></th></tr></thead>
  <tbody>
    {#each doc.tags ?? [] as t, i (i)}
      <tr>
        <td><input class="field" aria-label="name of tag {i + 1}" bind:value={t.name} /></td>
        <td class="num">{t.key}</td>
        <td
          ><input
            class="field"
            aria-label="group of {t.name}"
            value={t.group ?? ''}
            onchange={(e) => setOrDrop(t, 'group', e.currentTarget.value)}
          /></td
        >
        <td
          ><select
            class="field"
            aria-label="what {t.name} is put on"
            value={t.scope ?? 'item'}
            onchange={(e) => {
              const scope = e.currentTarget.value as 'item' | 'stretch' | 'page';
              if (scope === 'item') delete t.scope;
              else t.scope = scope;
            }}
            ><option value="item">the whole</option><option value="stretch">a stretch of a clip</option><option value="page"
              >a page of a document</option
            ></select
          ></td
        >
        <td
          ><button
            class="act link"
            aria-label="remove {t.name}"
            onclick={() => setOrDrop(doc, 'tags', doc.tags!.length > 1 ? doc.tags!.filter((o) => o !== t) : undefined)}
            ><X size={14} /></button
          ></td
        >
      </tr>
    {:else}<tr><td colspan="5" class="soft">No tags yet: words put on whole pictures, such as the light or the weather.</td></tr>{/each}
  </tbody>
</table>
<form
  class="add"
  onsubmit={(e) => {
    e.preventDefault();
    add();
  }}
>
  <input class="field" aria-label="new tags" placeholder="new tags, with commas" bind:value={word} />
  <button class="act" disabled={word.trim() === ''}><Plus size={14} />Add</button>
</form>
<fieldset class="limits">
  <legend>limits of a picture</legend>
  {#each [['objects', 'objects'], ['tags', 'tags']] as const as [of, name] (of)}
    {#each ['min', 'max'] as const as side (side)}
      <label
        >{side === 'min' ? 'at least' : 'at most'}
        {name}
        <input
          class="field num"
          type="number"
          min="0"
          value={doc.limits?.[of]?.[side] ?? ''}
          onchange={(e) => limit(of, side, e.currentTarget.valueAsNumber)}
        /></label
      >
    {/each}
  {/each}
</fieldset>

<style>
  .add {
    display: grid;
    grid-template-columns: 1fr auto;
    gap: 8px;
    margin: 8px 0 18px;
  }
  .limits {
    display: grid;
    grid-template-columns: repeat(4, 1fr);
    gap: 10px;
  }
  .limits label,
  legend {
    font-size: 12.5px;
    color: var(--soft);
  }
  td,
  th {
    padding: 2px 8px 2px 0;
    text-align: left;
  }
  th {
    font-size: 12.5px;
    color: var(--soft);
    font-weight: 500;
  }
  table {
    width: 100%;
  }
</style>
