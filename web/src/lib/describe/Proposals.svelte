<script lang="ts">
  /** What was proposed from the bench, and the manager's word on it. */
  import { api, ask, type Schemas } from '$lib/api/client';
  import ErrorNote from '$lib/ui/ErrorNote.svelte';

  let {
    project,
    proposals,
    changed,
    addClass
  }: {
    project: number;
    proposals: Schemas['Proposal'][];
    changed: (p: Schemas['Proposal']) => void;
    addClass?: (name: string, description: string) => void;
  } = $props();
  let words = $state<Record<number, string>>({});
  let error = $state('');

  async function answer(p: Schemas['Proposal'], state: Schemas['Proposal']['state']) {
    error = '';
    try {
      const done = await ask(
        api.PATCH('/projects/{project}/proposals/{proposal}', {
          params: { path: { project, proposal: p.id } },
          body: { state, answer: words[p.id] ?? p.answer }
        })
      );
      changed(done);
      if (state === 'taken' && p.kind === 'class') addClass?.(p.name, p.text);
    } catch (e) {
      error = (e as Error).message;
    }
  }
  const day = (at: string) => new Date(at).toLocaleDateString('en-GB');
</script>

<ErrorNote message={error} />
{#each proposals as p (p.id)}
  <article class="card">
    {#if p.item}<img src={p.item.thumb} alt="" width="96" height="72" loading="lazy" />{:else}<span></span>{/if}
    <div>
      <p>
        <strong>{p.kind === 'class' ? `class “${p.name}”` : p.kind}</strong>
        <span class="soft">{p.by}, {day(p.at)}{p.item ? `, at ${p.item.name}` : ''}</span>
      </p>
      <p>{p.text}</p>
      {#if p.state !== 'open'}<p class="soft">
          <strong>{p.kind === 'question' ? 'answered' : p.state}</strong> by {p.answered_by}{p.answer ? `: ${p.answer}` : ''}
          <button class="act link" onclick={() => answer(p, 'open')}>open again</button>
        </p>
      {:else}
        <input
          class="field"
          aria-label="answer to {p.by}"
          placeholder={p.kind === 'question' ? 'the answer, shown at the item' : 'answer, if you like'}
          maxlength="2000"
          bind:value={words[p.id]}
        />
      {/if}
    </div>
    {#if p.state === 'open'}
      <div class="acts">
        {#if p.kind === 'question'}
          <button class="act main" disabled={!words[p.id]?.trim()} onclick={() => answer(p, 'taken')}>Answer</button>
          {#if p.turn}<a class="act" href="/p/{project}/bench/{p.turn}{p.mark ? `?mark=${p.mark}` : ''}">See it</a>{/if}
        {:else}
          <button class="act main" onclick={() => answer(p, 'taken')}>{p.kind === 'class' ? 'Take it: add the class' : 'Take it'}</button>
          <button class="act" onclick={() => answer(p, 'declined')}>Decline</button>
        {/if}
      </div>
    {/if}
  </article>
{:else}
  <section class="card">
    <h2>Nothing was proposed</h2>
    <p class="mt-1">A labeller who meets something the codebook has no word for proposes it on the bench, beside the handbook.</p>
  </section>
{/each}

<style>
  article {
    display: grid;
    grid-template-columns: 96px 1fr auto;
    gap: 12px;
    margin-bottom: 8px;
    align-items: start;
  }
  img {
    object-fit: cover;
    border-radius: 2px;
    height: 72px;
  }
  .acts {
    display: grid;
    gap: 6px;
  }
</style>
