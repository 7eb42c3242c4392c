<script lang="ts">
  /** Another item of the queue: by its number, a part of its name, its state. */
  import { api, ask, type Schemas } from '$lib/api/client';
  import StateWord from '$lib/ui/StateWord.svelte';
  import { focused } from '$lib/ui/focus';
  import type { Bench } from './bench.svelte';
  import type { Opened } from './opened.svelte';

  type Found =
    import('$lib/api/schema').paths['/projects/{project}/turns/{turn}/queue/find']['get']['responses']['200']['content']['application/json'];
  let { bench, opened, done }: { bench: Bench; opened: Opened; done: () => void } = $props();
  let word = $state('');
  let state_ = $state('');
  let sort = $state<'name' | 'state' | 'time'>('name');
  let found = $state.raw<Found | null>(null);
  let at = $state(0);
  let error = $state('');
  let run = 0;

  $effect(() => {
    const query = { find: word.trim(), ...(state_ ? { state: state_ } : {}), sort };
    const mine = ++run;
    const timer = setTimeout(
      () =>
        ask(api.GET('/projects/{project}/turns/{turn}/queue/find', { params: { ...opened.path.params, query } })).then(
          (answer) => {
            if (mine !== run) return;
            [found, at, error] = [answer, 0, ''];
          },
          (e: Error) => mine === run && (error = e.message)
        ),
      word === '' ? 0 : 120
    );
    return () => clearTimeout(timer);
  });
  const all = $derived(Object.values(found?.states ?? {}).reduce((a, b) => a + b, 0));
  function go(row: Found['data'][number] | undefined) {
    if (!row) return;
    done();
    if (row.turn !== opened.packet.turn.id) void bench.goTo(row.turn, row.state as Schemas['Turn']['state']);
  }
</script>

<form
  class="goto"
  role="search"
  aria-label="go to an item"
  onsubmit={(e) => {
    e.preventDefault();
    go(found?.data[at]);
  }}
>
  <input
    class="field"
    aria-label="number or name"
    placeholder="number or part of the name"
    data-field
    {@attach focused}
    bind:value={word}
    onkeydown={(e) => {
      const by = { ArrowDown: 1, ArrowUp: -1 }[e.key];
      if (by === undefined || !found) return;
      e.preventDefault();
      at = Math.min(found.data.length - 1, Math.max(0, at + by));
    }}
  />
  <div class="states">
    <button type="button" aria-pressed={state_ === ''} onclick={() => (state_ = '')}>all <span class="num">{all}</span></button>
    {#each Object.entries(found?.states ?? {}) as [s, n] (s)}<button
        type="button"
        aria-pressed={state_ === s}
        onclick={() => (state_ = state_ === s ? '' : s)}><StateWord state={s} count={n} /></button
      >{/each}
    <select class="field" aria-label="sorted by" bind:value={sort}
      ><option value="name">by name</option><option value="state">by state</option><option value="time">latest first</option></select
    >
  </div>
  {#if error}<p role="alert">{error}</p>{/if}
  <ol>
    {#each found?.data ?? [] as row, i (row.turn)}
      <li>
        <button type="button" class:first={i === at} onclick={() => go(row)}
          ><img src={row.thumb} alt="" width="40" height="30" loading="lazy" /><span class="num">{row.place}</span>
          <span class="name">{row.name}</span><StateWord state={row.state} /></button
        >
      </li>
    {:else}<li class="soft">{found ? 'no item of the queue is called that' : ''}</li>{/each}
  </ol>
</form>

<style>
  .goto {
    position: absolute;
    top: 44px;
    left: 12px;
    z-index: 6;
    width: 420px;
    background: var(--panel);
    border: 1px solid var(--edge);
    border-radius: 4px;
    box-shadow: 0 8px 28px rgb(0 0 0 / 0.4);
    padding: 9px;
    display: grid;
    gap: 6px;
  }
  .states {
    display: flex;
    flex-wrap: wrap;
    gap: 4px;
    align-items: center;
    font-size: 12.5px;
  }
  .states button {
    padding: 1px 7px;
    border-radius: 4px;
    cursor: pointer;
  }
  .states [aria-pressed='true'] {
    background: color-mix(in srgb, var(--primary) 24%, transparent);
  }
  .states select {
    width: auto;
    margin-left: auto;
    padding: 1px 28px 1px 7px;
    font-size: 12.5px;
  }
  ol {
    max-height: 46vh;
    overflow-y: auto;
  }
  li button {
    display: grid;
    grid-template-columns: 40px 38px minmax(0, 1fr) auto;
    gap: 8px;
    align-items: center;
    width: 100%;
    text-align: left;
    padding: 2px 5px;
    border-radius: 4px;
    cursor: pointer;
  }
  .first,
  li button:hover {
    background: color-mix(in srgb, var(--primary) 20%, transparent);
  }
  .name {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  img {
    object-fit: cover;
    height: 30px;
    border-radius: 2px;
  }
</style>
