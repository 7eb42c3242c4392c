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
              <a class="act link" href="/p/{project.id}/items?f=state:{state}"><StateWord {state} count={progress.states[state]} /></a>
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
                    ><a class="plain" href="/p/{project.id}/items?{new URLSearchParams({ f: `set:${set.path}` })}">{set.path || '(top)'}</a
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
</style>
