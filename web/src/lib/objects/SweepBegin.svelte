<script lang="ts">
  /** Before a sweep: what is swept over, as a sentence, with how many it means. */
  import { api, ask } from '$lib/api/client';
  import { Play } from '@lucide/svelte';
  import { untrack } from 'svelte';
  import type { Asked } from './asked';
  import Filters from './Filters.svelte';

  let {
    project,
    asked,
    sets,
    seesAll,
    choose,
    begin
  }: {
    project: number;
    asked: Asked;
    sets: readonly string[];
    seesAll: boolean;
    choose: (name: string, value: string) => void;
    begin: () => void;
  } = $props();
  let count = $state<number | null>(null);
  /** there are too many to be counted */
  let more = $state(false);
  let error = $state('');
  const plan = $derived(asked.plan);
  const sentence = $derived(JSON.stringify(plan));

  $effect(() => {
    void sentence;
    untrack(() => void number());
  });
  /** How many the sentence means. */
  async function number() {
    const of = sentence;
    count = null;
    const { over, class: key, question, group, tag, answer, set } = plan;
    const path = { project };
    const common = { ...(question && { question }), ...(answer && { answer }), ...(set !== undefined && { set }), limit: 1 };
    try {
      const found =
        over === 'objects'
          ? await ask(api.GET('/projects/{project}/objects', { params: { path, query: { ...common, ...(key && { class: key }) } } }))
          : over === 'stretches'
            ? await ask(api.GET('/projects/{project}/stretches', { params: { path, query: { ...common, ...(key && { class: key }), ...(tag && { tag }) } } })) // prettier-ignore
            : await ask(
                api.GET('/projects/{project}/said', {
                  params: { path, query: { ...common, ...(group && { group }), ...(tag && { tag }) } }
                })
              );
      // the sentence may have changed meanwhile
      if (of === sentence) [count, more, error] = [found.total ?? found.data.length, found.total === null, ''];
    } catch (e) {
      if (of === sentence) error = (e as Error).message;
    }
  }
</script>

<h1>Sweep</h1>
<p class="sentence"><Filters choices={asked.choices(sets)} change={choose} /></p>
<p class="soft" role="status" aria-label="how many">
  {#if count !== null}{#if more}very many{:else}<strong class="num">{count}</strong>{/if}
    {asked.noun(more ? 2 : count)}, a key each{/if}
</p>
{#if error !== ''}<p role="alert">{error} <button class="act" onclick={() => number()}>try again</button></p>{/if}
<button class="act main big" disabled={!count} onclick={begin}><Play size={17} strokeWidth={1.75} />Begin</button>
{#if !seesAll}<p class="soft small">Objects on what you have open, and on what waits for you.</p>{/if}

<style>
  .sentence {
    font-size: 18px;
    line-height: 2.4;
  }
  .sentence :global(select) {
    width: auto;
    display: inline-block;
    font-weight: 600;
    font-size: 17px;
    padding: 4px 32px 4px 10px;
  }
  .big {
    font-size: 17px;
    padding: 10px 26px;
  }
  .small {
    font-size: 13px;
  }
</style>
