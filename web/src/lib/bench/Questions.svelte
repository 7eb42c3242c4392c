<script lang="ts">
  /** Questions with their answers as short words; the open one with what answers it. */
  import type { Asking } from '$lib/edits/asking.svelte';
  import AnswerEditor from '$lib/words/AnswerEditor.svelte';
  import { say, type Answer, type Attribute } from '$lib/words/codebook';
  import type { Finding } from '$lib/words/mark';

  let {
    asking,
    list,
    answers,
    faults,
    editable,
    mine,
    before,
    left
  }: {
    asking: Asking;
    list: Attribute[];
    answers: Record<string, Answer>;
    faults: readonly Finding[];
    editable: boolean;
    /** the open question is one of these */
    mine: boolean;
    /** done before one of these is opened */
    before?: () => void;
    /** the keys are wanted on the stage again */
    left: () => void;
  } = $props();
</script>

{#each list as a (a.key)}
  {@const answer = answers[a.key]}
  {@const open = mine && asking.question === a.key}
  <div class="q" class:asked={open} class:missing={a.required && !answer}>
    <button
      class="ask"
      disabled={!editable}
      onclick={() => {
        const was = asking.question === a.key && mine;
        before?.();
        asking.question = was ? null : a.key;
      }}
    >
      <span>{a.name}{a.required ? ' *' : ''}</span>
      <span class="said">{answer ? say(a, answer) : a.default !== undefined ? `(${String(a.default)})` : ''}</span>
    </button>
    {#if open && editable}
      <AnswerEditor
        attribute={a}
        {answer}
        proposal={asking.proposalFor(a.key)}
        give={(next, stay) => asking.answer(a, next, stay)}
        {left}
      />
    {/if}
    {#each faults.filter((f) => f.attribute === a.key) as f, i (i)}<p class="fault">{f.message}</p>{/each}
  </div>
{/each}

<style>
  .q {
    border-left: 2px solid transparent;
    padding-left: 7px;
    margin-left: -9px;
  }
  .q.missing {
    border-color: var(--accent);
  }
  .q.asked {
    border-color: var(--primary);
    background: color-mix(in srgb, var(--primary) 10%, transparent);
  }
  .ask {
    display: flex;
    justify-content: space-between;
    width: 100%;
    gap: 8px;
    padding: 2px 4px 2px 0;
    cursor: pointer;
    text-align: left;
  }
  .said {
    color: var(--primary);
    text-align: right;
  }
  .fault {
    color: var(--accent-text);
    padding: 1px 10px 1px 0;
  }
</style>
