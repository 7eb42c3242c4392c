<script lang="ts">
  /** The strip of keycaps: what each left-hand key does now. A press on the key and on the cap are the same act. */
  import Marker from '$lib/ui/Marker.svelte';
  import type { Cap, Row } from './caps';
  import { keyName, type Bindings } from './bindings';
  import { ChevronDown, ChevronUp } from '@lucide/svelte';

  let {
    digits,
    rows,
    named,
    folded,
    fold,
    keys
  }: { digits: Row; rows: Row[]; named: boolean; folded: boolean; fold: (folded: boolean) => void; keys: Bindings } = $props();
</script>

{#snippet cap(c: Cap, tall: boolean)}
  <button
    class="cap"
    class:tall
    class:lit={c.lit}
    aria-pressed={c.lit ?? undefined}
    aria-disabled={c.off !== undefined}
    title={c.off ?? (c.hint ? `${c.word}; ${c.hint}` : c.word)}
    onclick={() => c.off === undefined && c.press()}
  >
    <span class="top"
      ><kbd>{keyName(c.code, keys)}</kbd>{#if c.marker}<Marker
          marker={c.marker.marker}
          color={c.marker.color}
          size={12}
        />{:else if c.icon}<c.icon size={15} strokeWidth={1.75} aria-hidden="true" />{/if}</span
    >
    <span class="word">{c.word}</span>
  </button>
{/snippet}

<div class="deck" class:folded role="toolbar" aria-label="deck">
  {#if digits.caps.length > 0 || digits.name !== ''}
    <div class="digits" role="group" aria-label={digits.name}>
      {#each digits.caps as c (c.code)}{@render cap(c, false)}{:else}<span class="none"
          >the codebook has no class that is drawn on this kind of item</span
        >{/each}
    </div>
  {/if}
  <button class="fold" aria-label={folded ? 'unfold the deck' : 'fold the deck'} onclick={() => fold(!folded)}
    >{#if folded}<ChevronUp size={15} />{:else}<ChevronDown size={15} />{/if}</button
  >
  {#if !folded}
    <div class="rows">
      {#each rows as row, i (i)}
        <div class="row" role="group" aria-label={row.name || 'more answers'}>
          {#if named && row.name}<span class="name">{row.name}</span>{/if}
          {#each row.caps as c (c.code)}{@render cap(c, true)}{/each}
        </div>
      {/each}
    </div>
  {/if}
</div>

<style>
  .deck {
    position: relative;
    background: var(--panel);
    border-top: 1px solid var(--line);
    padding: 6px 10px 7px;
    display: grid;
    gap: 5px;
  }
  .digits,
  .row {
    display: flex;
    gap: 4px;
    align-items: center;
    min-width: 0;
  }
  .digits {
    padding-right: 30px;
  }
  .rows {
    display: grid;
    grid-template-columns: auto auto auto;
    justify-content: space-between;
    gap: 10px;
  }
  .name {
    font-size: 11.5px;
    color: var(--soft);
    margin-right: 3px;
    max-width: 84px;
    line-height: 1.15;
  }
  .cap {
    display: inline-flex;
    align-items: center;
    gap: 5px;
    border: 1px solid var(--edge);
    border-bottom-width: 3px;
    border-radius: 4px;
    background: var(--ground);
    padding: 3px 6px 2px 4px;
    min-height: 32px;
    cursor: pointer;
    font-size: 12.5px;
    color: var(--ink);
    min-width: 0;
    overflow: hidden;
  }
  .cap:hover {
    border-color: var(--primary);
  }
  .cap.lit {
    border-color: var(--primary);
    background: color-mix(in srgb, var(--primary) 24%, var(--ground));
  }
  .cap[aria-disabled='true'] {
    border-style: dashed;
    border-bottom-width: 1px;
    color: var(--soft);
    cursor: default;
  }
  .top {
    display: inline-flex;
    align-items: center;
    gap: 6px;
  }
  .cap.tall {
    flex-direction: column;
    gap: 1px;
    min-width: 73px;
    min-height: 46px;
    justify-content: center;
    padding: 3px 7px 2px;
    max-width: 120px;
  }
  .tall .word {
    max-width: 100%;
    line-height: 1.25;
  }
  kbd {
    font-size: 11px;
    min-width: 15px;
    text-align: center;
    border-radius: 3px;
    background: var(--panel);
    padding: 0 3px;
    color: var(--soft);
  }
  .lit kbd {
    color: var(--ink);
  }
  .word {
    white-space: nowrap;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  .none {
    color: var(--soft);
  }
  @media (max-width: 1200px) {
    .cap.tall {
      min-width: 58px;
      max-width: 62px;
      padding-inline: 3px;
      font-size: 11.5px;
    }
    .row {
      gap: 3px;
    }
    .name {
      max-width: 60px;
    }
  }
  .fold {
    position: absolute;
    top: 8px;
    right: 8px;
    padding: 4px;
    color: var(--soft);
    cursor: pointer;
  }
</style>
