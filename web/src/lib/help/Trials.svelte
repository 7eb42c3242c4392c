<script lang="ts">
  /** Trials of models on accepted items: figures by class, what correcting would cost, the worst items first. The slider acts on what was measured. */
  import type { Schemas } from '$lib/api/client';
  import type { Words } from '$lib/words/words.svelte';
  import { Progressbar } from 'flowbite-svelte';
  import { goesOn, lasting, nameOfWord, type Help } from './help.svelte';
  import Whisker from './Whisker.svelte';

  let { help, words, href }: { help: Help; words: Words; href: (path: string) => string } = $props();
  /** Worst items shown before one asks for more. */
  const FIRST = 8;
  let all = $state(false);
  const shown = $derived(help.shown);
  const cost = $derived(shown?.figures.cost);
  const then = (t: Schemas['Trial']) =>
    t.then === null
      ? ''
      : t.then === 'outline'
        ? ', then outlined'
        : `, then ${help.models.find((m) => m.id === t.then)?.name ?? 'a model that is gone'}`;
  let timer: ReturnType<typeof setTimeout> | undefined;
  function from(value: number) {
    help.wanted = value;
    // asked for once the slider rests
    clearTimeout(timer);
    timer = setTimeout(() => shown && void help.show(shown, value), 120);
  }
  const gain = $derived(cost && cost.by_hand > 0 ? 1 - cost.seconds / cost.by_hand : 0);
</script>

<section class="mb-6" aria-label="trials">
  <h2>Trials <span class="soft">on accepted items, whose truth is known</span></h2>
  <div class="list" role="group" aria-label="trials">
    {#each help.trials as t (t.id)}
      <button class="trial" aria-pressed={shown?.id === t.id} onclick={() => help.show(shown?.id === t.id ? null : t)}>
        <b>{t.model}</b>{then(t)}
        {#if goesOn(t)}<span class="bar"><Progressbar progress={Math.round((100 * t.done) / Math.max(1, t.total))} size="h-2" /></span>
        {:else}<span class="soft num">{t.done} items{t.state === 'done' ? '' : `, ${t.state === 'failed' ? 'failed' : 'stopped'}`}</span
          >{/if}
      </button>
      {#if goesOn(t)}<button class="act link" onclick={() => help.stopTrial(t)}>stop</button>{/if}
    {/each}
  </div>
  {#if shown && cost}
    {#if shown.error !== ''}<p class="why">{shown.error}</p>{/if}
    <div class="row">
      <label class="slide"
        >from <input
          type="range"
          min="0"
          max="1"
          step="0.01"
          value={help.wanted ?? shown.figures.from}
          oninput={(e) => from(e.currentTarget.valueAsNumber)}
          aria-label="confidence of the trial"
        />
        <span class="num">{shown.figures.from.toFixed(2)}</span></label
      >
      <span role="status"
        ><span class="num">{cost.kept}</span> stay as they are, <span class="num">{cost.moved}</span> to move,
        <span class="num">{cost.dropped}</span>
        to drop,
        <span class="num">{cost.drawn}</span> to draw: <b class="num">{lasting(cost.seconds)}</b> instead of
        <span class="num">{lasting(cost.by_hand)}</span>
        by hand{#if gain > 0.02}, <b class="num">{Math.round(100 * gain)} %</b> less{:else if gain < -0.02}, <b>more than by hand</b
          >{/if}</span
      >
      <button class="act link" onclick={() => (help.wish.from = shown.figures.from)}>take this confidence into the sentence</button>
    </div>
    <table class="dense" aria-label="figures of the trial">
      <thead
        ><tr
          ><th>class</th><th>there</th><th>found</th><th>F1</th><th>precision</th><th>recall</th><th>AP 0.5</th><th>AP 0.5–0.95</th><th
            >alike</th
          ></tr
        ></thead
      >
      <tbody>
        {#each Object.entries(shown.figures.classes) as [key, f] (key)}
          <tr
            ><td>{words.nameOf(key)}</td><td class="num">{f.there}</td><td class="num">{f.found}</td
            >{#each ['f1', 'precision', 'recall', 'ap50', 'ap', 'alike'] as const as figure (figure)}<td
                ><Whisker of={f[figure]} label={figure} /></td
              >{/each}</tr
          >
        {/each}
        {#each Object.entries(shown.figures.words) as [word, f] (word)}
          <tr
            ><td>{nameOfWord(words, word)} <span class="soft">of the whole</span></td><td class="num">{f.there}</td><td class="num"
              >{f.found}</td
            >{#each ['f1', 'precision', 'recall', 'ap50'] as const as figure (figure)}<td><Whisker of={f[figure]} label={figure} /></td
              >{/each}<td></td><td></td></tr
          >
        {/each}
      </tbody>
    </table>
    {#if shown.figures.worst.length > 0}
      <table class="dense worst" aria-label="worst items">
        <thead><tr><th>most work</th><th>there</th><th>stay</th><th>to move</th><th>to drop</th><th>to draw</th><th>takes</th></tr></thead>
        <tbody>
          {#each shown.figures.worst.slice(0, all ? undefined : FIRST) as w (w.item)}
            <tr
              ><td
                >{#if w.path}<a class="link" href={href(w.path)}>{w.path}</a>{:else}an item that is gone{/if}</td
              ><td class="num">{w.there}</td><td class="num">{w.kept}</td><td class="num">{w.moved}</td><td class="num">{w.dropped}</td><td
                class="num">{w.drawn}</td
              ><td class="num">{lasting(w.seconds)}</td></tr
            >
          {/each}
        </tbody>
      </table>
      {#if !all && shown.figures.worst.length > FIRST}<button class="act link" onclick={() => (all = true)}
          >all {shown.figures.worst.length}</button
        >{/if}
    {/if}
    {#each shown.figures.failed as f (f.item)}<div class="why"><span class="num">{f.path ?? f.item}</span>: {f.reason}</div>{/each}
  {/if}
</section>

<style>
  h2 {
    font-size: 16px;
    font-weight: 650;
    margin-bottom: 6px;
  }
  h2 .soft {
    font-weight: 400;
    font-size: 14px;
  }
  .list {
    display: flex;
    flex-wrap: wrap;
    gap: 6px 8px;
    align-items: center;
    margin-bottom: 8px;
  }
  .trial {
    display: inline-flex;
    gap: 8px;
    align-items: center;
    border: 1px solid var(--line);
    border-radius: 4px;
    padding: 3px 9px;
    cursor: pointer;
  }
  .trial[aria-pressed='true'] {
    border-color: var(--primary);
    background: color-mix(in srgb, var(--primary) 10%, transparent);
  }
  .bar {
    display: inline-block;
    width: 90px;
  }
  .row {
    display: flex;
    flex-wrap: wrap;
    gap: 6px 16px;
    align-items: center;
    margin-bottom: 8px;
  }
  .slide {
    display: flex;
    gap: 8px;
    align-items: center;
  }
  .slide input {
    width: 180px;
    accent-color: var(--primary);
  }
  .worst {
    margin-top: 10px;
  }
  .why {
    color: var(--accent-text);
    overflow-wrap: anywhere;
  }
</style>
