<script lang="ts">
  /** How marks are shown to this person: kept with the account. */
  import { session } from '$lib/state/session.svelte';
  import type { Bench } from './bench.svelte';

  let { bench }: { bench: Bench } = $props();
  let timer: ReturnType<typeof setTimeout> | undefined;
  function keep() {
    clearTimeout(timer);
    timer = setTimeout(() => {
      session
        .set({ mask_opacity: bench.opacity.all, hand_opacity: bench.opacity.hand, loupe: bench.loupe })
        .catch((e: Error) => (bench.message = e.message));
    }, 400);
  }
</script>

<section class="view" role="group" aria-label="view">
  {#each [['all', 'masks'], ['hand', 'the one in hand']] as const as [which, word] (which)}
    <label
      >{word}
      <input
        type="range"
        min="0.05"
        max="1"
        step="0.05"
        value={bench.opacity[which]}
        oninput={(e) => {
          bench.opacity = { ...bench.opacity, [which]: e.currentTarget.valueAsNumber };
          keep();
        }}
      /><span class="num">{Math.round(bench.opacity[which] * 100)} %</span></label
    >
  {/each}
  <label class="check"
    ><input
      type="checkbox"
      checked={bench.loupe}
      onchange={(e) => {
        bench.loupe = e.currentTarget.checked;
        keep();
      }}
    /> enlarge the point being set</label
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
