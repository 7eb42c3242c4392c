<script lang="ts">
  /** All items: conditions stacked with what each leaves over, the field map, and the list. */
  import { extentOf } from '$lib/state/extent';
  import { goto, replaceState } from '$app/navigation';
  import { page } from '$app/state';
  import { api, ask, type Schemas } from '$lib/api/client';
  import { choices, examples, kinds, read, say, written, type Kind } from '$lib/items/conditions';
  import FieldMap from '$lib/items/FieldMap.svelte';
  import type { Document } from '$lib/words/codebook';
  import { parts } from '$lib/state/project.svelte';
  import { useProject } from '$lib/state/context';
  import ErrorNote from '$lib/ui/ErrorNote.svelte';
  import ClipFrames from '$lib/items/ClipFrames.svelte';
  import LongWork from '$lib/ui/LongWork.svelte';
  import Shell from '$lib/ui/Shell.svelte';
  import StateWord from '$lib/ui/StateWord.svelte';
  import { Plus, X } from '@lucide/svelte';
  import { onDestroy, onMount, untrack } from 'svelte';

  const project = useProject();
  let document_ = $state.raw<Document>({ skeno: 'codebook/1', classes: [] });
  let sets = $state<string[]>([]);
  let map = $state.raw<{ path: string; items: number[]; states: string; left: string }[]>([]);
  let items = $state<Schemas['Item'][]>([]);
  let steps = $state<{ f: string; found: number }[]>([]);
  let all = $state(0);
  let total = $state(0);
  let next = $state<number | null>(null);
  let error = $state('');
  let ready = $state(false);
  let chosen = $state<number[]>([]);
  let moved = $state('');
  let began = $state<number | null>(null);
  let picked = $state<Schemas['Item'] | null>(null);
  let adding = $state<{ kind: Kind; value: string; not: boolean } | null>(null);

  // the page's address is its state: what is written there by hand is what is shown
  let search = $state(page.url.search);
  const conditions = $derived(new URLSearchParams(search).getAll('f'));
  const sort = $derived((new URLSearchParams(search).get('sort') ?? 'name') as 'name');
  const order = $derived((new URLSearchParams(search).get('order') ?? 'asc') as 'asc');
  const query = $derived({ 'f[]': conditions, sort, order });
  const archived = $derived(conditions.includes('state:archived'));

  onMount(async () => {
    try {
      const [codebook, found] = await Promise.all([
        ask(api.GET('/projects/{project}/codebook', parts(project.id))),
        ask(api.GET('/projects/{project}/sets', parts(project.id)))
      ]);
      document_ = codebook.document;
      sets = found.data.map((s) => s.path);
      ready = true;
    } catch (e) {
      error = (e as Error).message;
    }
  });
  $effect(() => {
    void query;
    if (ready) untrack(() => void load());
  });

  let run = 0;
  async function load(more = false) {
    const mine = ++run;
    const path = { project: project.id };
    try {
      if (!more) {
        // the map first: it says all there is to count
        const drawn = await ask(api.GET('/projects/{project}/items/map', { params: { path, query } }));
        if (mine !== run) return;
        map = drawn.sets;
        ({ total, all, steps } = drawn);
        chosen = [];
      }
      const list = await ask(
        api.GET('/projects/{project}/items', { params: { path, query: { ...query, ...(more && next !== null ? { offset: next } : {}) } } })
      );
      if (mine !== run) return;
      items = more ? [...items, ...list.data] : list.data;
      next = list.next;
      error = '';
    } catch (e) {
      if (mine === run) error = (e as Error).message;
    }
  }
  function set(change: (params: URLSearchParams) => void) {
    const params = new URLSearchParams(search);
    change(params);
    const text = params.toString();
    search = text === '' ? '' : `?${text}`;
    replaceState(`/p/${project.id}/items${search}`, {});
  }
  /** models look at pictures, prompts are asked about texts */
  const texts = $derived(items.length > 0 && items.every((i) => i.kind === 'text'));
  const restack = (list: string[]) =>
    set((params) => {
      params.delete('f');
      for (const f of list) params.append('f', f);
    });
  function add() {
    if (!adding) return;
    if (adding.value === '' && adding.kind !== 'set') return;
    const f = written(adding.kind, adding.value, adding.not);
    if (!conditions.includes(f)) restack([...conditions, f]);
    adding = null;
  }
  function begin(kind: Kind) {
    adding = { kind, value: choices(kind, document_, sets)?.[0]?.value ?? '', not: false };
  }

  /** the item asked for last; an answer about another, or one that comes when the page has been left, is nobody's any more */
  let asked = 0;
  async function pick(item: number) {
    const mine = ++asked;
    try {
      const found = await ask(api.GET('/projects/{project}/items/{item}', { params: { path: { project: project.id, item } } }));
      if (mine === asked) picked = found;
    } catch (e) {
      if (mine === asked) error = (e as Error).message;
    }
  }
  async function open(id: number) {
    if (picked?.id !== id) await pick(id);
    if (picked?.id !== id) return;
    if (picked.turn) await goto(benchOf(picked));
    else error = `${picked.name} has been handed out to nobody, so it can't be opened on the bench`;
  }
  function unpick() {
    asked++;
    picked = null;
  }
  onDestroy(unpick);
  async function putBack() {
    if (!picked?.parked) return;
    try {
      await ask(
        api.POST('/projects/{project}/turns/{turn}/put-back', { params: { path: { project: project.id, turn: picked.parked.turn } } })
      );
      await Promise.all([pick(picked.id), load()]);
    } catch (e) {
      error = (e as Error).message;
    }
  }
  const benchOf = (item: Schemas['Item']) =>
    `/p/${project.id}/bench/${item.turn}?${new URLSearchParams({ back: `/p/${project.id}/items${search}` })}`;

  /** Takes what is chosen, or all that the filter finds, out of queues and counts; or brings it back. */
  async function archive() {
    error = moved = '';
    try {
      const { changed, chore } = await ask(
        api.POST('/projects/{project}/items/archive', {
          ...parts(project.id),
          body: { archived: !archived, ...(chosen.length > 0 ? { items: $state.snapshot(chosen) } : { filter: { f: conditions } }) }
        })
      );
      began = chore;
      // with many items it goes on behind, and the line below says how far
      if (chore === null) moved = `${changed} ${archived ? 'brought back' : 'archived'}`;
      await load();
    } catch (e) {
      error = (e as Error).message;
    }
  }
  const head = (word: string, by: string) => ({ word, by });
</script>

<Shell title="Items" {project}>
  {#snippet actions()}<span class="soft" role="status" aria-label="found"
      ><strong class="num">{total}</strong>{conditions.length > 0 ? ` of ${all}` : ''}
      {total === 1 && conditions.length === 0 ? 'item' : 'items'}</span
    >{/snippet}
  <ErrorNote message={error} />
  {#if project.may('project.manage')}<LongWork kind="archive" {began} ended={() => void load()} />{/if}
  <div class="stack" role="group" aria-label="filter">
    <span class="step"><span class="num">{all}</span></span>
    {#each conditions as f, i (f)}
      {@const { not } = read(f)}
      <span class="arrow" aria-hidden="true">→</span>
      <span class="condition" class:not>
        <button class="link" title="turn it round" onclick={() => restack(conditions.with(i, not ? f.slice(1) : `-${f}`))}
          >{say(f, document_)}</button
        >
        <button aria-label="drop: {say(f, document_)}" onclick={() => restack(conditions.filter((_, n) => n !== i))}><X size={13} /></button
        >
      </span>
      <span class="step" role="note" aria-label="left after: {say(f, document_)}"
        ><span class="num">{steps[i]?.f === f ? steps[i]?.found : '…'}</span></span
      >
    {/each}
    {#if adding}
      {@const list = choices(adding.kind, document_, sets)}
      <form
        class="add"
        onsubmit={(e) => {
          e.preventDefault();
          add();
        }}
      >
        <select class="field" aria-label="is or is not" bind:value={adding.not}
          ><option value={false}>only if</option><option value={true}>not if</option></select
        >
        <select class="field" aria-label="about" value={adding.kind} onchange={(e) => begin(e.currentTarget.value as Kind)}>
          {#each Object.entries(kinds) as [kind, word] (kind)}<option value={kind}>{word}</option>{/each}
        </select>
        {#if list}
          <select class="field" aria-label="which" bind:value={adding.value}>
            {#each list as c (c.value)}<option value={c.value}>{c.word}</option>{/each}
          </select>
        {:else}
          <!-- svelte-ignore a11y_autofocus -->
          <input
            class="field"
            class:num={adding.kind === 're'}
            aria-label="which"
            placeholder={examples[adding.kind]}
            autofocus
            bind:value={adding.value}
          />
        {/if}
        <button class="act main">Add</button>
        <button type="button" class="act" onclick={() => (adding = null)}>Not now</button>
      </form>
    {:else}
      <button class="act" onclick={() => begin('state')}><Plus size={14} strokeWidth={1.75} />condition</button>
    {/if}
  </div>
  <FieldMap sets={map} picked={picked?.id ?? null} {pick} {open} />
  {#if picked}
    <section class="picked card" aria-label="picked item">
      <img src={picked.picture.thumb} alt="" width="128" height="96" />
      <div>
        <strong>{picked.name}</strong>
        <span class="soft">{picked.set || '(top)'}, {extentOf(picked)}</span>
        <p><StateWord state={picked.state} /> · {picked.mark_count} {picked.mark_count === 1 ? 'mark' : 'marks'}</p>
        {#if Object.keys(picked.facts ?? {}).length > 0}<p class="soft">
            {Object.entries(picked.facts ?? {})
              .map(([key, value]) => `${key} ${value}`)
              .join(', ')}
          </p>{/if}
        {#if picked.clip}<p class="soft num">
            {picked.clip.frames.toLocaleString('en')} frames, {picked.clip.duration.toFixed(2)} s, {picked.clip.rate.toFixed(2)}{picked.clip
              .variable
              ? ' on the whole'
              : ''} frames a second, {picked.clip.format}, {picked.clip.codec}, {picked.clip.sound ? 'with sound' : 'no sound'}
          </p>{/if}
        {#if picked.parked}<p>parked by {picked.parked.by}: {picked.parked.reason}</p>{/if}
        {#if picked.clip && project.may('project.manage')}<ClipFrames item={picked} done={() => void load()} />{/if}
      </div>
      {#if picked.parked && project.may('project.manage')}<button class="act" onclick={putBack}>Back to the queue</button>{/if}
      {#if picked.turn}<a class="act main" href={benchOf(picked)}>On the bench</a>{:else}<span class="soft">handed out to nobody</span>{/if}
      <button aria-label="close" onclick={unpick}><X size={15} /></button>
    </section>
  {/if}
  <div class="over">
    <h2>List</h2>
    {#if project.may('project.manage')}
      <span class="push"></span>
      <span class="soft" role="status" aria-label="archived">{moved}</span>
      {#if total > 0 && !archived && chosen.length === 0}<a
          class="act"
          href="/p/{project.id}/help{texts ? '/prompts' : ''}?{new URLSearchParams(conditions.map((f) => ['f', f]))}"
          >Ask a {texts ? 'prompt' : 'model'} about {conditions.length > 0 ? `these ${total}` : 'them'}</a
        >{/if}
      <button class="act" disabled={chosen.length === 0 && (total === 0 || conditions.length === 0)} onclick={archive}
        >{archived ? 'Bring back' : 'Archive'}
        {chosen.length > 0 ? chosen.length : conditions.length > 0 ? `all ${total}` : ''}</button
      >
    {/if}
  </div>
  <table class="dense">
    <thead
      ><tr
        ><th></th><th></th>
        {#each [head('name', 'name'), head('set', ''), head('size', 'size'), head('state', 'state'), head('labelled', 'marks')] as h (h.word)}
          <th aria-sort={h.by === sort ? (order === 'asc' ? 'ascending' : 'descending') : undefined}
            >{#if h.by}<button
                class="sort"
                onclick={() =>
                  set((params) => {
                    params.set('order', sort === h.by && order === 'asc' ? 'desc' : 'asc');
                    params.set('sort', h.by);
                  })}>{h.word} {h.by === sort ? (order === 'asc' ? '↑' : '↓') : ''}</button
              >{:else}{h.word}{/if}</th
          >
        {/each}
      </tr></thead
    >
    <tbody>
      {#each items as item (item.id)}
        <tr class:here={item.id === picked?.id}>
          <td
            >{#if project.may('project.manage')}<input
                type="checkbox"
                aria-label="choose {item.name}"
                value={item.id}
                bind:group={chosen}
              />{/if}</td
          >
          <td><img class="thumb" src={item.picture.thumb} alt="" loading="lazy" width="56" height="42" /></td>
          <td><button class="name" onclick={() => pick(item.id)} ondblclick={() => open(item.id)}>{item.name}</button></td>
          <td>{item.set || '(top)'}</td>
          <td class="num">{extentOf(item)}</td>
          <td><StateWord state={item.state} /></td>
          <td
            >{item.labelled === 'objects'
              ? `${item.mark_count} ${item.mark_count === 1 ? 'mark' : 'marks'}`
              : item.labelled === 'nothing'
                ? 'nothing there'
                : 'not labelled'}</td
          >
        </tr>
      {/each}
    </tbody>
  </table>
  {#if next !== null}<button class="act mt-3" onclick={() => load(true)}>Show more</button>{/if}
</Shell>

<style>
  .stack {
    display: flex;
    flex-wrap: wrap;
    gap: 7px;
    align-items: center;
    margin-bottom: 10px;
    min-height: 34px;
  }
  .step .num {
    font-weight: 600;
  }
  .arrow {
    color: var(--soft);
  }
  .condition {
    display: inline-flex;
    align-items: center;
    gap: 4px;
    border: 1px solid var(--primary);
    border-radius: 4px;
    padding: 2px 4px 2px 9px;
    background: color-mix(in srgb, var(--primary) 10%, transparent);
  }
  .condition.not {
    border-color: var(--accent);
    background: color-mix(in srgb, var(--accent) 10%, transparent);
  }
  .condition button {
    cursor: pointer;
    padding: 2px;
  }
  .add {
    display: flex;
    gap: 6px;
    align-items: center;
  }
  .add .field {
    width: auto;
    max-width: 230px;
    padding-block: 3px;
  }
  .add select.field {
    padding-right: 30px;
  }
  .picked {
    display: flex;
    gap: 14px;
    align-items: center;
    padding: 8px 12px;
    margin-top: 6px;
  }
  .picked > div {
    flex: 1;
  }
  .picked img {
    object-fit: cover;
    border-radius: 3px;
    height: 72px;
    width: 96px;
  }
  .over {
    display: flex;
    gap: 10px;
    align-items: center;
    margin: 14px 0 4px;
  }
  .push {
    flex: 1;
  }
  .sort,
  .name {
    cursor: pointer;
    font: inherit;
    color: inherit;
  }
  .name {
    color: var(--primary);
    text-decoration: underline;
    text-underline-offset: 2px;
  }
  .here {
    background: color-mix(in srgb, var(--primary) 12%, transparent);
  }
  .thumb {
    object-fit: cover;
    height: 42px;
    border-radius: 2px;
  }
</style>
