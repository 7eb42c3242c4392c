<script lang="ts">
  import { goto } from '$app/navigation';
  import { api, ask, type Schemas } from '$lib/api/client';
  import { parts } from '$lib/state/project.svelte';
  import { useProject } from '$lib/state/context';
  import Proposals from '$lib/describe/Proposals.svelte';
  import ErrorNote from '$lib/ui/ErrorNote.svelte';
  import Shell from '$lib/ui/Shell.svelte';
  import StateWord from '$lib/ui/StateWord.svelte';
  import { onMount } from 'svelte';

  const project = useProject();
  let review = $state<Schemas['Review'] | null>(null);
  let questions = $state<Schemas['Proposal'][]>([]);
  let error = $state('');
  onMount(async () => {
    try {
      const [waiting, asked] = await Promise.all([
        ask(api.GET('/projects/{project}/review', parts(project.id))),
        ask(api.GET('/projects/{project}/proposals', parts(project.id)))
      ]);
      review = waiting;
      questions = asked.data.filter((p) => p.kind === 'question');
    } catch (e) {
      error = (e as Error).message;
    }
  });

  async function load() {
    review = await ask(api.GET('/projects/{project}/review', parts(project.id)));
  }
  /** Takes an item from who has it open, so that somebody else can review it. */
  async function free(turn: number) {
    try {
      await ask(
        api.POST('/projects/{project}/turns/{turn}/pass', { params: { path: { project: project.id, turn } }, body: { user: null } })
      );
      await load();
    } catch (e) {
      error = (e as Error).message;
    }
  }

  async function begin() {
    try {
      const { packet } = await ask(api.POST('/projects/{project}/next', { ...parts(project.id), body: { purpose: 'review' } }));
      if (packet) await goto(`/p/${project.id}/bench/${packet.turn.id}`);
      else error = 'nothing waits for your review right now';
    } catch (e) {
      error = (e as Error).message;
    }
  }
</script>

<Shell title="Check" {project}>
  {#snippet actions()}
    {#if review && review.counts.waiting > 0}<button class="act main" onclick={begin}>Review the next</button>{/if}
  {/snippet}
  <ErrorNote message={error} />
  {#if review}
    <p class="counts">
      <strong class="num">{review.counts.waiting}</strong> waiting · <StateWord state="accepted" count={review.counts.accepted} /> · <StateWord
        state="returned"
        count={review.counts.returned}
      />
    </p>
    {#if review.data.length === 0}
      <section class="card">
        <h2>Nothing waits</h2>
        <p class="mt-1">What is submitted in the assignments you review appears here, oldest first.</p>
      </section>
    {:else}
      <table class="dense">
        <thead><tr><th></th><th>item</th><th>set</th><th>labelled by</th><th>round</th><th>marks</th><th>submitted</th><th></th></tr></thead
        >
        <tbody>
          {#each review.data as row (row.turn)}
            <tr>
              <td><img class="thumb" src={row.item.picture.thumb} alt="" loading="lazy" width="72" height="54" /></td>
              <td
                >{row.item.name}{#if row.reopened_because}<br /><span class="soft">reopened: {row.reopened_because}</span>{/if}</td
              >
              <td>{row.item.set || '(top)'}</td>
              <td>{row.labeller}</td>
              <td class="num">{row.round}</td>
              <td class="num">{row.item.mark_count}</td>
              <td
                >{row.submitted_at
                  ? new Date(row.submitted_at).toLocaleString('en-GB', { dateStyle: 'medium', timeStyle: 'short' })
                  : ''}</td
              >
              <td
                >{#if row.held_by}<span class="soft">open with {row.held_by.name}</span>
                  {#if project.may('project.manage')}<button class="act link" onclick={() => free(row.turn)}>free it</button>{/if}
                {:else}<a class="act" href="/p/{project.id}/bench/{row.turn}">Open</a>{/if}</td
              >
            </tr>
          {/each}
        </tbody>
      </table>
    {/if}
  {/if}
  {#if questions.length > 0}
    <h2 class="mt-6 mb-2" id="questions">Questions from the bench</h2>
    <Proposals project={project.id} proposals={questions} changed={(p) => (questions = questions.map((q) => (q.id === p.id ? p : q)))} />
  {/if}
</Shell>

<style>
  .counts {
    margin-bottom: 12px;
    display: flex;
    gap: 8px;
    align-items: center;
  }
  .thumb {
    object-fit: cover;
    height: 54px;
    border-radius: 2px;
  }
</style>
