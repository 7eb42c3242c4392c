<script lang="ts">
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
  let error = $state('');

  async function count() {
    error = '';
    try {
      progress = await ask(api.GET('/projects/{project}/progress', parts(project.id)));
    } catch (e) {
      error = (e as Error).message;
    }
  }
  onMount(count);

  const all = $derived(Object.values(progress?.states ?? {}).reduce((a, b) => a + b, 0));
  /** the archived are counted apart */
  const present = $derived(Object.fromEntries(Object.entries(progress?.states ?? {}).filter(([state]) => state !== 'archived')));
  const most = $derived(Math.max(1, ...(progress?.classes ?? []).map((c) => c.marks)));
  /** states that there are, in the order of the work: one column each for sets and people alike */
  const columns = $derived(
    states.filter(
      (s) =>
        s !== 'archived' &&
        ((progress?.states[s] ?? 0) > 0 ||
          (progress?.people ?? []).some((p) => (p.states[s] ?? 0) > 0) ||
          ['accepted', 'submitted'].includes(s))
    )
  );
  const sum = (counts: Record<string, number>) => Object.values(counts).reduce((a, b) => a + b, 0);
</script>

{#snippet figures(counts: Record<string, number>)}
  {#each columns as s (s)}<td class="num" class:none={!counts[s]}>{counts[s] ?? 0}</td>{/each}
{/snippet}

<Shell title="Progress" {project}>
  <ErrorNote message={error} />
  {#if error !== '' && progress === null}<button class="act" onclick={count}>try again</button>{/if}
  {#if progress}
    {#if all === 0}
      <section class="card">
        <h2>No pictures yet</h2>
        <p class="mt-1 mb-3">First say what may be marked, then bring pictures in.</p>
        {#if project.may('project.manage')}<a class="act main" href="/p/{project.id}/describe">Describe</a>
          <a class="act" href="/p/{project.id}/bring-in">Bring in</a>{/if}
      </section>
    {:else}
      <div class="two">
        <section class="card scan" aria-label="states by set and person">
          <table class="dense">
            <thead
              ><tr
                ><th></th><th class="barcell">state</th>{#each columns as s (s)}<th class="n"
                    ><a href="/p/{project.id}/items?f=state:{s}"><StateWord state={s} /></a></th
                  >{/each}<th class="n">all</th></tr
              ></thead
            >
            <tbody>
              <tr class="whole">
                <th scope="row">all items</th>
                <td class="barcell"><StateBar counts={present} label="all items" /></td>
                {@render figures(present)}
                <td class="num">{sum(present)}</td>
              </tr>
              {#each progress.sets as set (set.path)}
                <tr>
                  <th scope="row"
                    ><a class="plain" href="/p/{project.id}/items?{new URLSearchParams({ f: `set:${set.path}` })}">{set.path || '(top)'}</a
                    ></th
                  >
                  <td class="barcell"><StateBar counts={set.states} label={set.path || '(top)'} /></td>
                  {@render figures(set.states)}
                  <td class="num">{sum(set.states)}</td>
                </tr>
              {/each}
            </tbody>
            {#if progress.people.length > 0}
              <tbody>
                <tr class="part"><th scope="colgroup" colspan={columns.length + 3}>what people have in hand and have done</th></tr>
                {#each progress.people as person (person.id)}
                  <tr>
                    <th scope="row"
                      >{person.name}
                      <span class="soft small"
                        >{Math.round(person.seconds / 60)} min{person.decided > 0 ? `, ${person.decided} decided` : ''}</span
                      ></th
                    >
                    <td class="barcell"><StateBar counts={person.states} label={person.name} /></td>
                    {@render figures(person.states)}
                    <td class="num">{sum(person.states)}</td>
                  </tr>
                {/each}
              </tbody>
            {/if}
          </table>
          {#if (progress.states.archived ?? 0) > 0}<p class="soft small mt-1">
              <a href="/p/{project.id}/items?f=state:archived"><span class="num">{progress.states.archived}</span> archived</a> are not counted.
            </p>{/if}
        </section>
        <div class="plots">
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
        </div>
      </div>
    {/if}
  {/if}
</Shell>

<style>
  .two {
    display: grid;
    gap: 16px;
  }
  .plots {
    display: grid;
    grid-template-columns: minmax(0, 11fr) minmax(0, 9fr);
    gap: 16px;
    align-items: start;
  }
  .scan {
    overflow-x: auto;
  }
  .scan th[scope='row'] {
    font-weight: 400;
    font-size: inherit;
    color: var(--ink);
    text-align: left;
    border-bottom-color: var(--line);
  }
  .scan .whole th,
  .scan .whole td {
    font-weight: 650;
  }
  .barcell {
    width: 24%;
    min-width: 84px;
    vertical-align: middle;
  }
  .scan th.n,
  .scan td.num {
    text-align: right;
  }
  .scan th.n {
    width: 9%;
    min-width: 56px;
  }
  .scan th.n a {
    white-space: nowrap;
  }
  .none {
    color: var(--soft);
    opacity: 0.6;
  }
  .part th {
    padding-top: 10px;
    text-align: left;
    font-weight: 650;
  }
  .small {
    font-size: 12.5px;
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
</style>
