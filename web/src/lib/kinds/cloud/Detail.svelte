<script lang="ts">
  /** The cuboid in hand by its numbers, and its keys with where each came from. */
  import type { Mark } from '$lib/words/mark';
  import KeyList from '../KeyList.svelte';
  import type { Surface } from '../kind';
  import { sized, upright } from './cuboid';
  import { isCuboid, type CloudSurface } from './surface.svelte';

  let { surface, mark: m }: { surface: Surface; mark: Mark } = $props();
  const own = $derived(surface as CloudSurface);
  const cuboid = $derived(own.ports.hand.one?.id === m.id ? own.cuboid : isCuboid(m) && !m.away ? m.geometry : null);
  const count = $derived(cuboid ? own.count(cuboid) : 0);
  const keys = $derived((m.stretches && own.axis.tracks.of(m.id)?.keys) ?? []);
  const names = ['length', 'width', 'height'] as const;
  let first = $state<HTMLInputElement | null>(null);
  $effect(() => {
    if (own.typing && first) {
      first.focus();
      first.select();
    }
  });

  function set(field: HTMLInputElement, take: (n: number) => void): void {
    const n = Number(field.value.replace(',', '.'));
    if (field.value.trim() !== '' && Number.isFinite(n)) take(n);
    // what is no number stays what it was, and that is shown
    if (cuboid) field.value = field.dataset.was ?? '';
  }
  function key(e: KeyboardEvent & { currentTarget: HTMLInputElement }): void {
    e.stopPropagation();
    if (e.key === 'Enter') e.currentTarget.blur();
    if (e.key === 'Escape') {
      e.currentTarget.value = e.currentTarget.dataset.was ?? '';
      e.currentTarget.blur();
    }
    if (e.key === 'Enter' || e.key === 'Escape') own.typing = false;
  }
</script>

{#if cuboid}
  <div class="numbers num">
    <label
      >heading <input
        bind:this={first}
        class="field"
        inputmode="decimal"
        aria-label="heading in degrees"
        disabled={!own.editable}
        value={cuboid.heading.toFixed(1)}
        data-was={cuboid.heading.toFixed(1)}
        onkeydown={key}
        onchange={(e) => set(e.currentTarget, (n) => own.change((c) => ({ ...c, heading: upright(n) })))}
      /></label
    >
    {#each names as name, axis (name)}
      <label
        >{name}
        <input
          class="field"
          inputmode="decimal"
          aria-label="{name} in metres"
          disabled={!own.editable}
          value={cuboid.size[axis]!.toFixed(2)}
          data-was={cuboid.size[axis]!.toFixed(2)}
          onkeydown={key}
          onchange={(e) =>
            set(
              e.currentTarget,
              (n) =>
                n > 0 &&
                n < 1000 &&
                own.change((c) =>
                  sized(
                    c,
                    c.size.map((s, i) => (i === axis ? n : s))
                  )
                )
            )}
        /></label
      >
    {/each}
  </div>
  <div class="num size" aria-label="points inside" class:none={count === 0}>{count.toLocaleString('en')} points inside</div>
{:else}
  <div class="num soft size">not there at this frame</div>
{/if}
{#if own.axis.clock.last > 0}
  <KeyList {keys} place={own.place} word="frame" go={(place) => own.go(place)} />
{/if}

<style>
  .numbers {
    display: grid;
    grid-template-columns: 1fr 1fr;
    gap: 3px 10px;
    font-size: 12px;
    padding: 2px 0 4px;
  }
  label {
    display: flex;
    align-items: baseline;
    gap: 4px;
    color: var(--soft);
  }
  input {
    width: 50px;
    margin-left: auto;
    padding: 1px 4px;
    font-family: var(--font-mono);
    font-size: 12px;
    text-align: right;
  }
  .size {
    font-size: 12px;
    padding-bottom: 3px;
  }
  .none {
    color: var(--accent-text, var(--accent));
  }
</style>
