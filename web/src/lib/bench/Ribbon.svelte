<script lang="ts">
  /** The queue around this item. */
  import type { Bench } from './bench.svelte';
  import type { Opened } from './opened.svelte';
  let { bench, opened }: { bench: Bench; opened: Opened } = $props();
  let strip: HTMLElement | undefined = $state();
  const here = $derived(opened.packet.turn.id);
  const Badge = $derived(opened.surface.Badge);
  $effect(() => {
    void [here, bench.queue];
    strip?.querySelector('[aria-current]')?.scrollIntoView({ block: 'nearest', inline: 'center' });
  });
  const sign: Record<string, string> = { waiting: '', open: '◐', returned: '↩', submitted: '▲', accepted: '✓', parked: 'Ⅱ' };
</script>

<nav class="ribbon" aria-label="queue" bind:this={strip}>
  {#each bench.queue?.data ?? [] as row (row.turn)}
    <button
      class="cell"
      aria-current={row.turn === here ? 'true' : undefined}
      title="{row.name}: {row.state}"
      aria-label="{row.name}, {row.state}"
      onclick={() => row.turn !== here && bench.goTo(row.turn)}
    >
      <img src={row.thumb} alt="" loading="lazy" width="64" height="46" draggable="false" />
      {#if row.turn === here && Badge}<Badge surface={opened.surface} />{/if}
      {#if sign[row.state]}<span class="sign" data-state={row.state}>{sign[row.state]}</span>{/if}
    </button>
  {/each}
</nav>

<style>
  .ribbon {
    display: flex;
    gap: 3px;
    overflow-x: auto;
    scrollbar-width: none;
    background: var(--sunk);
    border-top: 1px solid var(--line);
    padding: 4px 8px;
    height: 58px;
  }
  .cell {
    position: relative;
    flex: none;
    border-radius: 3px;
    overflow: hidden;
    opacity: 0.62;
    cursor: pointer;
    border: 2px solid transparent;
    height: 50px;
  }
  .cell:hover,
  .cell[aria-current] {
    opacity: 1;
  }
  .cell[aria-current] {
    border-color: var(--accent);
  }
  img {
    width: 64px;
    height: 46px;
    object-fit: cover;
  }
  .sign {
    position: absolute;
    right: 2px;
    bottom: 2px;
    font-size: 11px;
    line-height: 15px;
    width: 15px;
    text-align: center;
    border-radius: 2px;
    background: rgba(23, 27, 26, 0.85);
    color: #e9e4d8;
  }
</style>
