<script lang="ts">
  import { goto } from '$app/navigation';
  import { page } from '$app/state';
  import { api, ask, type Schemas } from '$lib/api/client';
  import { parts, states } from '$lib/state/project.svelte';
  import { useProject } from '$lib/state/context';
  import DayPlot from '$lib/ui/DayPlot.svelte';
  import ErrorNote from '$lib/ui/ErrorNote.svelte';
  import Shell from '$lib/ui/Shell.svelte';
  import StateBar from '$lib/ui/StateBar.svelte';
  import StateWord from '$lib/ui/StateWord.svelte';
  import { onMount } from 'svelte';

  const project = useProject();
  let progress = $state<Schemas['Progress'] | null>(null);
  let items = $state<Schemas['Item'][]>([]);
  let total = $state(0);
  let next = $state<string | null>(null);
  let error = $state('');
  let chosen = $state<number[]>([]);
  let moved = $state('');

  const filter = $derived({
    state: page.url.searchParams.get('state') ?? '',
    set: page.url.searchParams.get('set'),
    name: page.url.searchParams.get('name') ?? ''
  });

  async function count() {
    try {
      progress = await ask(api.GET('/projects/{project}/progress', parts(project.id)));
    } catch (e) {
      error = (e as Error).message;
    }
  }
  onMount(count);
  const query = $derived({
    ...(filter.state ? { state: filter.state } : {}),
    ...(filter.set !== null ? { set: filter.set } : {}),
    ...(filter.name ? { name: filter.name } : {})
  });
  const archived = $derived(filter.state === 'archived');
  $effect(() => {
    chosen = [];
    void load(query);
  });

  async function load(query: Record<string, string>, more = false) {
    try {
      const list = await ask(
        api.GET('/projects/{project}/items', {
          params: { path: { project: project.id }, query: { ...query, ...(more && next ? { after: next } : {}) } }
        })
      );
      items = more ? [...items, ...list.data] : list.data;
      total = list.total;
      next = list.next;
    } catch (e) {
      error = (e as Error).message;
    }
  }

  /** Takes what is chosen, or all that the filter finds, out of queues and counts; or brings it back. */
  async function archive() {
    error = moved = '';
    try {
      const { changed } = await ask(
        api.POST('/projects/{project}/items/archive', {
          ...parts(project.id),
          body: { archived: !archived, ...(chosen.length > 0 ? { items: $state.snapshot(chosen) } : { filter: query }) }
        })
      );
      moved = `${changed} ${archived ? 'brought back' : 'archived'}`;
      chosen = [];
      await Promise.all([load(query), count()]);
    } catch (e) {
      error = (e as Error).message;
    }
  }

  function narrow(change: Record<string, string | null>) {
    const query = new URLSearchParams(page.url.searchParams);
    for (const [key, value] of Object.entries(change)) {
      if (value === null || (value === '' && key !== 'set')) query.delete(key);
      else query.set(key, value);
    }
    void goto(`?${query}`, { keepFocus: true, noScroll: true, replaceState: true });
  }

  const all = $derived(Object.values(progress?.states ?? {}).reduce((a, b) => a + b, 0));
  /** the archived are counted apart */
  const present = $derived(Object.fromEntries(Object.entries(progress?.states ?? {}).filter(([state]) => state !== 'archived')));
  const most = $derived(Math.max(1, ...(progress?.classes ?? []).map((c) => c.marks)));
</script>

<Shell title="Progress" {project}>
  <ErrorNote message={error} />
  {#if progress}
    {#if all === 0}
      <section class="card">
        <h2>No pictures yet</h2>
        <p class="mt-1 mb-3">First say what may be marked, then bring pictures in.</p>
        {#if project.may('project.manage')}<a class="act main" href="/p/{project.id}/describe">Describe</a>
          <a class="act" href="/p/{project.id}/bring-in">Bring in</a>{/if}
      </section>
    {:else}
      <section class="card mb-4">
        <StateBar counts={present} label="all items" />
        <div class="counts">
          {#each states as state (state)}
            {#if progress.states[state]}
              <button
                class="act link"
                aria-pressed={filter.state === state}
                onclick={() => narrow({ state: filter.state === state ? '' : state })}
                ><StateWord {state} count={progress.states[state]} /></button
              >
            {/if}
          {/each}
        </div>
      </section>
      <div class="two">
        <section class="card">
          <h2 class="mb-2">By day</h2>
          <DayPlot days={progress.days} />
        </section>
        <section class="card">
          <h2 class="mb-2">Marks by class</h2>
          {#each progress.classes as c (c.key)}
            <div class="balance">
              <span>{c.name}</span><span class="bar"><span style:width="{(100 * c.marks) / most}%"></span></span><span class="num"
                >{c.marks}</span
              >
            </div>
          {/each}
        </section>
        <section class="card">
          <h2 class="mb-1">By set</h2>
          <table class="dense">
            <thead><tr><th>set</th><th>items</th><th>accepted</th><th class="w-1/2">state</th></tr></thead>
            <tbody>
              {#each progress.sets as set (set.path)}
                <tr>
                  <td
                    ><button class="act link" onclick={() => narrow({ set: filter.set === set.path ? null : set.path })}
                      >{set.path || '(top)'}</button
                    ></td
                  >
                  <td class="num">{Object.values(set.states).reduce((a, b) => a + b, 0)}</td>
                  <td class="num">{set.states.accepted ?? 0}</td>
                  <td class="pt-2"><StateBar counts={set.states} label={set.path} /></td>
                </tr>
              {/each}
            </tbody>
          </table>
        </section>
        <section class="card">
          <h2 class="mb-1">By person</h2>
          <table class="dense">
            <thead><tr><th>person</th><th>in review</th><th>accepted</th><th>returned</th><th>decided</th><th>at the bench</th></tr></thead>
            <tbody>
              {#each progress.people as person (person.id)}
                <tr>
                  <td>{person.name}</td>
                  <td class="num">{person.states.submitted ?? 0}</td>
                  <td class="num">{person.states.accepted ?? 0}</td>
                  <td class="num">{person.states.returned ?? 0}</td>
                  <td class="num">{person.decided}</td>
                  <td class="num">{Math.round(person.seconds / 60)} min</td>
                </tr>
              {/each}
            </tbody>
          </table>
        </section>
      </div>
      {#if project.may('items.see')}
        <section class="mt-6">
          <div class="filters">
            <h2>Items</h2>
            <input
              class="field narrow"
              placeholder="part of the name"
              aria-label="filter by name"
              value={filter.name}
              oninput={(e) => narrow({ name: e.currentTarget.value })}
            />
            <select
              class="field narrow"
              aria-label="filter by set"
              value={filter.set ?? '*'}
              onchange={(e) => narrow({ set: e.currentTarget.value === '*' ? null : e.currentTarget.value })}
            >
              <option value="*">all sets</option>
              {#each progress.sets as set (set.path)}<option value={set.path}>{set.path || '(top)'}</option>{/each}
            </select>
            <select
              class="field narrow"
              aria-label="filter by state"
              value={filter.state}
              onchange={(e) => narrow({ state: e.currentTarget.value })}
            >
              <option value="">all states</option>
              {#each states as state (state)}<option value={state}>{state}</option>{/each}
            </select>
            <span class="soft"><span class="num">{total}</span> {total === 1 ? 'item' : 'items'}</span>
            {#if project.may('project.manage')}
              <span class="push"></span>
              <span class="soft" role="status">{moved}</span>
              <button class="act" disabled={chosen.length === 0 && (total === 0 || Object.keys(query).length === 0)} onclick={archive}
                >{archived ? 'Bring back' : 'Archive'}
                {chosen.length > 0 ? chosen.length : Object.keys(query).length > 0 ? `all ${total}` : ''}</button
              >
            {/if}
          </div>
          <table class="dense">
            <thead><tr><th></th><th></th><th>name</th><th>set</th><th>size</th><th>state</th><th>labelled</th></tr></thead>
            <tbody>
              {#each items as item (item.id)}
                <tr>
                  <td
                    >{#if project.may('project.manage')}<input
                        type="checkbox"
                        aria-label="choose {item.name}"
                        value={item.id}
                        bind:group={chosen}
                      />{/if}</td
                  >
                  <td><img class="thumb" src={item.picture.thumb} alt="" loading="lazy" width="56" height="42" /></td>
                  <td>{item.name}</td>
                  <td>{item.set || '(top)'}</td>
                  <td class="num">{item.width} × {item.height}</td>
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
          {#if next}<button class="act mt-3" onclick={() => load(query, true)}>Show more</button>{/if}
        </section>
      {/if}
    {/if}
  {/if}
</Shell>

<style>
  .counts {
    display: flex;
    flex-wrap: wrap;
    gap: 12px;
    margin-top: 8px;
  }
  .counts [aria-pressed='true'] {
    background: color-mix(in srgb, var(--primary) 15%, transparent);
  }
  .two {
    display: grid;
    grid-template-columns: minmax(0, 11fr) minmax(0, 9fr);
    gap: 16px;
  }
  .balance {
    display: grid;
    grid-template-columns: 120px 1fr 50px;
    gap: 8px;
    align-items: center;
    padding: 3px 0;
  }
  .balance .bar {
    background: var(--sunk);
    height: 10px;
    border-radius: 2px;
    overflow: hidden;
  }
  .balance .bar span {
    display: block;
    height: 100%;
    background: var(--primary);
  }
  .balance .num {
    text-align: right;
  }
  .filters {
    display: flex;
    gap: 10px;
    align-items: center;
    margin-bottom: 6px;
  }
  .push {
    flex: 1;
  }
  .narrow {
    width: 170px;
  }
  .thumb {
    object-fit: cover;
    height: 42px;
    border-radius: 2px;
  }
</style>
