<script lang="ts">
  /** Work on many items that goes on behind the page: how far it is, stop, try again. Polls while anything goes on. */
  import { api, ask, type Schemas } from '$lib/api/client';
  import { parts } from '$lib/state/project.svelte';
  import { useProject } from '$lib/state/context';
  import ErrorNote from './ErrorNote.svelte';
  import { Progressbar } from 'flowbite-svelte';
  import { onMount, untrack } from 'svelte';

  let {
    kind,
    began,
    ended
  }: {
    kind: Schemas['Chore']['kind'];
    /** the chore a request of this page has just begun, so that it shows at once */
    began: number | null;
    /** called when one of them has come to its end while the page was open */
    ended: (chore: Schemas['Chore']) => void;
  } = $props();

  const project = useProject();
  const words = {
    hand_out: 'handing out',
    withdraw: 'taking back',
    archive: 'archiving or bringing back',
    facts: 'taking in facts',
    frames: 'taking frames of a clip'
  };
  let chores = $state.raw<Schemas['Chore'][]>([]);
  let error = $state('');
  const goes = (chore: Schemas['Chore']) => chore.state === 'waiting' || chore.state === 'working';
  // what is done and seen needs no line of its own; what failed stays until somebody decides
  const shown = $derived(chores.filter((c) => goes(c) || c.state === 'failed'));

  let gone = false;
  async function look() {
    const found = (await ask(api.GET('/projects/{project}/chores', parts(project.id)))).data.filter((c) => c.kind === kind);
    if (gone) return;
    const before = new Set(chores.filter(goes).map((c) => c.id));
    // one that was quicker than the first look has ended all the same
    if (began !== null && !chores.some((c) => c.id === began)) before.add(began);
    chores = found;
    for (const chore of found) if (before.has(chore.id) && !goes(chore)) ended(chore);
  }
  async function attempt(work: () => Promise<unknown>) {
    error = '';
    try {
      await work();
      await look();
    } catch (e) {
      error = (e as Error).message;
    }
  }
  onMount(() => {
    void attempt(async () => {});
    const timer = setInterval(() => {
      // a look that fails is followed by another
      if (chores.some(goes)) look().catch(() => {});
    }, 1200);
    return () => {
      gone = true;
      clearInterval(timer);
    };
  });
  $effect(() => {
    if (began !== null) untrack(() => void attempt(async () => {}));
  });
  const of = (chore: Schemas['Chore']) => ({ params: { path: { project: project.id, chore: chore.id } } });
</script>

<ErrorNote message={error} />
{#each shown as chore (chore.id)}
  <div class="work" role="status" aria-label="{words[kind]}: {chore.state}">
    <span>{words[kind]}{chore.by ? `, ${chore.by}` : ''}</span>
    {#if goes(chore)}
      <span class="bar"><Progressbar progress={Math.floor((100 * chore.done) / Math.max(1, chore.total))} size="h-2" /></span>
      <span class="num">{chore.done} of {chore.total}</span>
    {:else}
      <span class="why">stopped at {chore.done} of {chore.total}: {chore.error}</span>
      <button class="act" onclick={() => attempt(() => ask(api.POST('/projects/{project}/chores/{chore}/retry', of(chore))))}
        >Try again</button
      >
    {/if}
    <button
      class="act"
      title="what is done stays"
      onclick={() => attempt(() => ask(api.DELETE('/projects/{project}/chores/{chore}', of(chore))))}
      >{goes(chore) ? 'Stop' : 'Let it be'}</button
    >
  </div>
{/each}

<style>
  .work {
    display: flex;
    flex-wrap: wrap;
    gap: 6px 14px;
    align-items: center;
    padding: 6px 0;
  }
  .bar {
    width: 180px;
  }
  .why {
    color: var(--accent-text);
    overflow-wrap: anywhere;
  }
</style>
