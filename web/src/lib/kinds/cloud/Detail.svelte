<script lang="ts">
  /** The cuboid in hand by its numbers, and its keys with where each came from. */
  import type { Mark } from '$lib/words/mark';
  import type { Surface } from '../kind';
  import { sized, upright } from './cuboid';
  import { isCuboid, type CloudSurface } from './surface.svelte';

  let { surface, mark: m }: { surface: Surface; mark: Mark } = $props();
  const own = $derived(surface as CloudSurface);
  const cuboid = $derived(own.ports.hand.one?.id === m.id ? own.cuboid : isCuboid(m) && !m.away ? m.geometry : null);
  const count = $derived(cuboid ? own.count(cuboid) : 0);
  const keys = $derived((m.stretches && own.axis.tracks.of(m.id)?.keys) ?? []);
  const sources = { hand: 'by hand', copied: 'carried', followed: 'followed', cutout: 'cut out', model: 'by a model' } as const;
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
  <div class="keys" role="group" aria-label="keys">
    {#each keys as k (k.place)}
      <button
        class:here={k.place === own.place}
        class:open={k.source !== 'hand'}
        title="frame {k.place + 1}, {sources[k.source]}"
        aria-label="key at frame {k.place + 1}, {sources[k.source]}"
        onclick={() => void own.go(k.place)}><i></i>{k.place + 1}</button
      >
    {/each}
  </div>
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
  .keys {
    display: flex;
    flex-wrap: wrap;
    gap: 3px;
    padding: 2px 0 5px;
  }
  .keys button {
    display: inline-flex;
    gap: 4px;
    align-items: center;
    border: 1px solid var(--edge);
    border-radius: 4px;
    padding: 0 5px;
    font-family: var(--font-mono);
    font-size: 11.5px;
    cursor: pointer;
  }
  .keys .here {
    border-color: var(--accent);
  }
  .keys i {
    width: 7px;
    height: 7px;
    border-radius: 50%;
    background: var(--primary);
    border: 1.5px solid var(--primary);
  }
  .keys .open i {
    background: none;
  }
</style>
