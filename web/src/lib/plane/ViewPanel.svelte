<script lang="ts">
  /** How marks and picture are shown to this person: kept with the account. */
  import type { Looked } from './looked.svelte';
  import type { Show } from './show.svelte';

  let { show, looked, keep }: { show: Show; looked: Looked; keep: () => void } = $props();
</script>

<section class="view" role="group" aria-label="view">
  {#each [['brightness', 'brightness', 0.2, 3], ['contrast', 'contrast', 0.2, 3], ['gamma', 'gamma', 0.2, 4]] as const as [which, word, min, max] (which)}
    <label
      >{word}
      <input
        type="range"
        {min}
        {max}
        step="0.05"
        value={show.tone[which]}
        oninput={(e) => {
          show.tone = { ...show.tone, [which]: e.currentTarget.valueAsNumber };
          keep();
        }}
      /><span class="num">{show.tone[which].toFixed(2)}</span></label
    >
  {/each}
  <label
    >lines
    <input
      type="range"
      min="0.5"
      max="4"
      step="0.25"
      value={show.weight}
      oninput={(e) => {
        show.weight = e.currentTarget.valueAsNumber;
        keep();
      }}
    /><span class="num">{show.weight.toFixed(2)}</span></label
  >
  {#each [['all', 'masks'], ['hand', 'the one in hand']] as const as [which, word] (which)}
    <label
      >{word}
      <input
        type="range"
        min="0.05"
        max="1"
        step="0.05"
        value={show.opacity[which]}
        oninput={(e) => {
          show.opacity = { ...show.opacity, [which]: e.currentTarget.valueAsNumber };
          keep();
        }}
      /><span class="num">{Math.round(show.opacity[which] * 100)} %</span></label
    >
  {/each}
  <label class="check"
    ><input
      type="checkbox"
      checked={show.shade}
      onchange={(e) => {
        show.shade = e.currentTarget.checked;
        keep();
      }}
    /> shade all but the mark in hand</label
  >
  <label class="check"
    ><input
      type="checkbox"
      checked={show.names}
      onchange={(e) => {
        show.names = e.currentTarget.checked;
        keep();
      }}
    /> write the class at every mark</label
  >
  <label class="check"
    ><input
      type="checkbox"
      checked={show.loupe}
      onchange={(e) => {
        show.loupe = e.currentTarget.checked;
        keep();
      }}
    /> enlarge the point being set</label
  >
  <label class="check"><input type="checkbox" bind:checked={looked.shown} /> shade what has not been seen close up</label>
  <button
    class="act"
    onclick={() => {
      show.tone = { brightness: 1, contrast: 1, gamma: 1 };
      show.weight = 1;
      show.shade = show.names = false;
      keep();
    }}>As it is</button
  >
</section>

<style>
  .view {
    position: absolute;
    top: 44px;
    right: 12px;
    z-index: 6;
    width: 290px;
    background: var(--panel);
    border: 1px solid var(--edge);
    border-radius: 4px;
    box-shadow: 0 8px 28px rgb(0 0 0 / 0.4);
    padding: 10px 12px;
    display: grid;
    gap: 7px;
    font-size: 13.5px;
  }
  label {
    display: grid;
    grid-template-columns: 104px minmax(0, 1fr) 52px;
    gap: 8px;
    align-items: center;
  }
  .check {
    display: block;
  }
  input[type='range'] {
    width: 100%;
    min-width: 0;
  }
  .num {
    white-space: nowrap;
    text-align: right;
  }
</style>
