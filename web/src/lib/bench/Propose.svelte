<script lang="ts">
  /** A class or a rule proposed to the manager, and what became of earlier ones. */
  import { api, ask, type Schemas } from '$lib/api/client';
  import { onMount } from 'svelte';
  import type { Opened } from './opened.svelte';

  let { opened, project, name = '' }: { opened: Opened; project: number; name?: string } = $props();
  let kind = $state<'class' | 'rule'>('rule');
  let word = $state('');
  let text = $state('');
  let error = $state('');
  let sent = $state('');
  let mine = $state.raw<Schemas['Proposal'][]>([]);
  const path = $derived({ params: { path: { project } } });

  $effect(() => {
    if (name !== '') [kind, word] = ['class', name];
  });
  onMount(async () => {
    try {
      mine = (await ask(api.GET('/projects/{project}/proposals', path))).data.slice(0, 5);
    } catch (e) {
      error = (e as Error).message;
    }
  });
  async function send() {
    error = sent = '';
    try {
      const made = await ask(
        api.POST('/projects/{project}/proposals', {
          ...path,
          body: {
            kind,
            name: kind === 'class' ? word : '',
            text,
            turn: opened.editable ? opened.packet.turn.id : null,
            mark: opened.hand.selected
          }
        })
      );
      mine = [made, ...mine];
      word = text = '';
      sent = 'sent to the manager, with this item';
    } catch (e) {
      error = (e as Error).message;
    }
  }
</script>

<section aria-label="propose">
  <h3>Something is missing?</h3>
  <form
    onsubmit={(e) => {
      e.preventDefault();
      void send();
    }}
  >
    <label><input type="radio" name="kind" value="rule" bind:group={kind} /> a rule</label>
    <label><input type="radio" name="kind" value="class" bind:group={kind} /> a class</label>
    {#if kind === 'class'}<input
        class="field"
        aria-label="name of the class you propose"
        placeholder="its name"
        maxlength="80"
        required
        bind:value={word}
      />{/if}
    <textarea
      class="field"
      rows="2"
      maxlength="2000"
      aria-label="what you propose"
      placeholder={kind === 'class' ? 'what belongs to it' : 'the rule in a sentence'}
      required
      bind:value={text}></textarea>
    <button class="act">Propose</button> <span role="status" class="soft">{sent}</span>
    {#if error !== ''}<p role="alert">{error}</p>{/if}
  </form>
  {#each mine as p (p.id)}
    <p class="soft">
      {p.kind === 'class' ? `class “${p.name}”` : p.text}: <strong>{p.state === 'open' ? 'waits' : p.state}</strong>{p.answer
        ? `. ${p.answer}`
        : ''}
    </p>
  {/each}
</section>

<style>
  section {
    border-top: 1px solid var(--line);
    margin-top: 18px;
    padding-top: 10px;
    font-size: 13.5px;
  }
  form {
    margin: 6px 0 10px;
  }
  label {
    margin-right: 12px;
  }
  .field {
    margin: 5px 0;
  }
</style>
