<script lang="ts">
  import { goto } from '$app/navigation';
  import { api, ask, type Schemas } from '$lib/api/client';
  import { session } from '$lib/state/session.svelte';
  import ErrorNote from '$lib/ui/ErrorNote.svelte';
  import Needs from '$lib/ui/Needs.svelte';
  import PaceBars from '$lib/ui/PaceBars.svelte';
  import Shell from '$lib/ui/Shell.svelte';
  import StateBar from '$lib/ui/StateBar.svelte';
  import { CornerUpLeft, Pause, Play, Plus } from '@lucide/svelte';
  import { onMount } from 'svelte';

  let work = $state<Schemas['Work'] | null>(null);
  let projects = $state<Schemas['Project'][]>([]);
  let error = $state('');

  onMount(async () => {
    try {
      [work, projects] = await Promise.all([ask(api.GET('/work')), ask(api.GET('/projects')).then((list) => list.data)]);
    } catch (e) {
      error = (e as Error).message;
    }
  });

  const mine = $derived(
    (work?.projects ?? []).filter((p) => p.waiting + p.open + p.submitted + p.accepted + p.returned.length + p.parked.length > 0)
  );
  const reviews = $derived((work?.projects ?? []).filter((p) => p.to_review > 0));
  const managed = $derived(projects.filter((p) => p.abilities.includes('figures.see')));
  const looked = $derived(projects.filter((p) => p.role === 'guest'));

  async function carryOn(project: number, purpose: 'label' | 'review') {
    error = '';
    try {
      const { packet } = await ask(api.POST('/projects/{project}/next', { params: { path: { project } }, body: { purpose } }));
      if (packet === null)
        error = purpose === 'label' ? 'nothing waits for you in this project right now' : 'nothing waits to be reviewed right now';
      else await goto(`/p/${project}/bench/${packet.turn.id}`);
    } catch (e) {
      error = (e as Error).message;
    }
  }

  const total = (states: Record<string, number> | undefined) => Object.values(states ?? {}).reduce((a, b) => a + b, 0);
</script>

<Shell title={session.user ? `Hello, ${session.user.name.split(' ')[0]}` : ''}>
  {#snippet actions()}
    {#if session.user?.can_create}<a class="act" href="/projects/new"><Plus size={15} strokeWidth={1.75} />New project</a>{/if}
  {/snippet}
  <ErrorNote message={error} />

  {#if (work?.needs.length ?? 0) > 0}
    <section class="card mb-4" aria-label="what waits for your decision">
      <h2 class="mb-1">Waits for your decision</h2>
      <Needs needs={work?.needs ?? []} named={managed.length > 1} />
    </section>
  {/if}
  {#each mine as p (p.id)}
    <section class="card mb-4" aria-label="my work in {p.name}">
      <div class="head">
        <div>
          <h2>{p.name}</h2>
          <p class="soft">
            {p.waiting} waiting · {p.open} open · {p.returned.length} came back · {p.submitted} in review · {p.accepted} accepted
          </p>
        </div>
        {#if p.days.length > 0}<PaceBars days={p.days} seconds={p.seconds} />{/if}
        {#if p.waiting + p.open + p.returned.length > 0}
          <div class="acts">
            <a class="act" href="/p/{p.id}/sweep" title="one question over many objects, a key each">Sweep</a>
            <button class="act main big" onclick={() => carryOn(p.id, 'label')}><Play size={17} strokeWidth={1.75} />Continue</button>
          </div>
        {:else}<span class="soft">all done for now</span>{/if}
      </div>
      {#if p.returned.length > 0}
        <h3 class="came"><CornerUpLeft size={14} strokeWidth={1.75} /> came back</h3>
        <ul class="returned">
          {#each p.returned as item (item.turn)}
            <li>
              <img src={item.thumb} alt="" width="72" height="54" loading="lazy" />
              <div>
                <strong>{item.name}</strong> <span class="soft">from {item.by}</span>
                <div>{item.reason}</div>
                {#each item.pins as pin, i (i)}<div class="soft">• {pin}</div>{/each}
              </div>
              <a class="act" href="/p/{p.id}/bench/{item.turn}">Fix it</a>
            </li>
          {/each}
        </ul>
      {/if}
      {#if p.parked.length > 0}
        <h3 class="came"><Pause size={14} strokeWidth={1.75} /> parked</h3>
        <ul class="returned">
          {#each p.parked as item (item.turn)}
            <li>
              <img src={item.thumb} alt="" width="72" height="54" loading="lazy" />
              <div>
                <strong>{item.name}</strong>
                <div>{item.reason}</div>
              </div>
              <a class="act" href="/p/{p.id}/bench/{item.turn}">Take it up</a>
            </li>
          {/each}
        </ul>
      {/if}
    </section>
  {/each}

  {#each reviews as p (p.id)}
    <section class="card mb-4" aria-label="review in {p.name}">
      <div class="head">
        <div>
          <h2>{p.name}</h2>
          <p class="soft">{p.to_review} {p.to_review === 1 ? 'item waits' : 'items wait'} for your review</p>
        </div>
        <div class="acts">
          <a class="act" href="/p/{p.id}/check">See the queue</a>
          <button class="act main big" onclick={() => carryOn(p.id, 'review')}><Play size={17} strokeWidth={1.75} />Review</button>
        </div>
      </div>
    </section>
  {/each}

  {#if (work?.answers.length ?? 0) > 0}
    <section class="card mb-4" aria-label="answers to what you proposed and asked">
      <h2>Answers to what you proposed and asked</h2>
      {#each work?.answers ?? [] as a (a.proposal.id)}
        <p class="mt-1">
          <strong>{a.proposal.kind === 'class' ? `class “${a.proposal.name}”` : a.proposal.text}</strong>
          <span class="soft">in {a.project}{a.proposal.kind === 'question' && a.proposal.item ? `, ${a.proposal.item.name}` : ''}</span>:
          {a.proposal.kind === 'question' ? `${a.proposal.answered_by}: ` : `${a.proposal.state} by ${a.proposal.answered_by}. `}{a.proposal
            .answer}
        </p>
      {/each}
    </section>
  {/if}

  {#if managed.length > 0}
    <h2 class="mt-6 mb-1">Projects</h2>
    <table class="dense">
      <thead><tr><th>project</th><th>group</th><th>you are</th><th>items</th><th>accepted</th><th class="w-1/3">progress</th></tr></thead>
      <tbody>
        {#each managed as p (p.id)}
          <tr>
            <td><a class="plain" href="/p/{p.id}">{p.name}</a></td>
            <td>{p.group}</td>
            <td>{p.role ?? 'owner'}</td>
            <td class="num">{total(p.states)}</td>
            <td class="num">{p.states?.accepted ?? 0}</td>
            <td class="align-middle"><StateBar counts={p.states ?? {}} label={p.name} /></td>
          </tr>
        {/each}
      </tbody>
    </table>
  {/if}
  {#each looked as p (p.id)}<p class="mt-4">You may look at <strong>{p.name}</strong>.</p>{/each}

  {#if work && mine.length + reviews.length + managed.length + looked.length === 0}
    <section class="card">
      {#if session.user?.can_create}
        <h2>Begin with a project</h2>
        <p class="mt-1 mb-3">Describe what to mark, bring pictures in, hand the work out. It takes a few minutes.</p>
        <a class="act main" href="/projects/new"><Plus size={15} strokeWidth={1.75} />New project</a>
      {:else}
        <h2>Nothing here yet</h2>
        <p class="mt-1">Nobody has handed work out to you. A manager invites you to a project by a link.</p>
      {/if}
    </section>
  {/if}
</Shell>

<style>
  .head {
    display: flex;
    gap: 22px;
    align-items: center;
  }
  .head > :first-child {
    flex: 1;
  }
  .acts {
    display: flex;
    gap: 14px;
    align-items: center;
  }
  .big {
    font-size: 17px;
    padding: 10px 26px;
  }
  .came {
    margin: 12px 0 4px;
    font-weight: 650;
    color: var(--accent-text);
    display: flex;
    gap: 5px;
    align-items: center;
  }
  .returned li {
    display: grid;
    grid-template-columns: 72px 1fr auto;
    gap: 12px;
    align-items: center;
    padding: 6px 0;
    border-top: 1px solid var(--line);
  }
  .returned img {
    object-fit: cover;
    border-radius: 2px;
    height: 54px;
  }
</style>
