<script lang="ts">
  /** Runs of models and prompts: how far they are, what came of them; paused, stopped, gone on with, taken back. */
  import type { Schemas } from '$lib/api/client';
  import { Progressbar } from 'flowbite-svelte';
  import { goesOn } from './help.svelte';
  import type { RunList } from './runs.svelte';
  import Outcome from './Outcome.svelte';

  type Run = Schemas['Run'];
  let { list }: { list: RunList } = $props();
  let open = $state<number | null>(null);
  let made = $state.raw<{ run: number; of: Schemas['Outcome'] } | null>(null);
  async function look(run: Run) {
    if (made?.run === run.id) made = null;
    else {
      const of = await list.outcome(run.id);
      made = of && { run: run.id, of };
    }
  }
  /** a press that takes much away asks once more */
  let asked = $state<number | null>(null);
  const words: Record<Run['state'], string> = {
    waiting: 'waits for the worker',
    working: 'at work',
    paused: 'paused',
    done: 'done',
    failed: 'failed',
    cancelled: 'stopped',
    taken_back: 'taken back'
  };
  function takeBack(run: Run) {
    if (asked !== run.id) asked = run.id;
    else {
      asked = null;
      void list.act(run, 'take-back');
    }
  }
</script>

<table class="dense" aria-label="runs">
  <thead
    ><tr
      ><th>run</th><th>asked</th><th>from</th><th class="w-1/5">items</th><th>suggested</th><th>on items</th><th>nothing on</th><th
        >left out</th
      ><th>failed</th><th></th></tr
    ></thead
  >
  <tbody>
    {#each list.runs as run (run.id)}
      <tr>
        <td class="num">{run.id}</td>
        <td
          >{run.model}<br /><span class="soft">{words[run.state]}{run.at ? `, ${new Date(run.at).toLocaleDateString('en-GB')}` : ''}</span
          ></td
        >
        <td class="num">{run.prompt ? '–' : run.from.toFixed(2)}</td>
        <td>
          {#if goesOn(run) || run.state === 'paused' || run.state === 'failed'}
            <Progressbar progress={Math.floor((100 * run.done) / Math.max(1, run.total))} size="h-2" />
          {/if}
          <span class="num">{run.done} of {run.total}</span>
          {#if run.prompt && run.done > 0}<div class="soft">
              <span class="num">{run.prompt.mended}</span> mended, <span class="num">{run.prompt.left}</span> not usable{#if run.prompt.cost !== null},
                cost
                <span class="num">{run.prompt.cost.toFixed(4)}</span>{#if run.prompt.uncounted > 0}
                  without <span class="num">{run.prompt.uncounted}</span> not counted{/if}{/if}
            </div>{/if}
          {#if run.error !== ''}<div class="why">{run.error}</div>{/if}
        </td>
        <td class="num"
          >{run.report.things}{#if run.report.said > 0}<br /><span class="soft">{run.report.said} of the whole</span>{/if}</td
        >
        <td class="num">{run.report.with}</td>
        <td class="num">{run.report.without}</td>
        <td class="num">{run.report.left}</td>
        <td class="num"
          >{#if run.report.failed_count > 0}<button
              class="act link"
              aria-expanded={open === run.id}
              onclick={() => (open = open === run.id ? null : run.id)}>{run.report.failed_count}</button
            >{:else}0{/if}</td
        >
        <td class="acts">
          {#if goesOn(run)}<button class="act" onclick={() => list.act(run, 'pause')}>Pause</button>{/if}
          {#if run.state === 'paused' || run.state === 'failed'}<button class="act" onclick={() => list.act(run, 'resume')}>Go on</button
            >{/if}
          {#if goesOn(run) || run.state === 'paused' || run.state === 'failed'}<button
              class="act"
              title="what it has suggested stays"
              onclick={() => list.act(run, 'cancel')}>Stop</button
            >{/if}
          {#if run.state !== 'taken_back' && run.report.things + run.report.said > 0 && !goesOn(run)}<button
              class="act link"
              title="what somebody has confirmed is a label and stays"
              onclick={() => takeBack(run)}>{asked === run.id ? 'yes, take all of it back' : 'take back'}</button
            >{/if}
          {#if run.report.things + run.report.said > 0}<button
              class="act link"
              aria-expanded={made?.run === run.id}
              onclick={() => look(run)}>what became of it</button
            >{/if}
          {#if run.gone !== undefined}<span class="soft">{run.gone} went</span>{/if}
        </td>
      </tr>
      {#if made?.run === run.id}<tr><td></td><td colspan="9"><Outcome of={made.of} /></td></tr>{/if}
      {#if open === run.id}
        <tr
          ><td colspan="10"
            >{#each run.report.failed as f, i (i)}<div><span class="num">{f.item ?? 'an item that is gone'}</span>: {f.reason}</div>{/each}
            {#if run.report.failed_count > run.report.failed.length}<div class="soft">
                and {run.report.failed_count - run.report.failed.length} more
              </div>{/if}</td
          ></tr
        >
      {/if}
    {/each}
  </tbody>
</table>

<style>
  .why {
    color: var(--accent-text);
    overflow-wrap: anywhere;
  }
  .acts {
    white-space: nowrap;
  }
</style>
