<script lang="ts">
  /** The keys of a track with where each came from; a press goes there. */
  import type { TrackKey } from '$lib/words/mark';
  let {
    keys,
    place,
    word,
    go,
    beyond = 0
  }: {
    keys: readonly TrackKey[];
    place: number;
    /** what a place is called: frame, slice */
    word: string;
    go: (place: number) => unknown;
    /** keys it has where it is not there */
    beyond?: number;
  } = $props();
  const sources = { hand: 'by hand', copied: 'carried', followed: 'followed', cutout: 'cut out', model: 'by a model' } as const;
  /** of a long list what lies round the place that is shown */
  const MOST = 60;
  const at = $derived(keys.findIndex((k) => k.place >= place));
  const from = $derived(Math.max(0, Math.min(keys.length - MOST, (at < 0 ? keys.length : at) - MOST / 2)));
  const said = (k: TrackKey): string => `${word} ${k.place + 1}, ${sources[k.source]}${k.hidden ? ', hidden' : ''}`;
</script>

<div class="keys" role="group" aria-label="keys">
  {#each keys.slice(from, from + MOST) as key (key.place)}
    <button
      class:here={key.place === place}
      class:open={key.source !== 'hand'}
      title={said(key)}
      aria-label="key at {said(key)}"
      onclick={() => void go(key.place)}><i></i>{key.place + 1}</button
    >
  {/each}
  {#if keys.length > MOST}<span class="soft">of {keys.length}</span>{/if}
  {#if beyond > 0}<span class="soft">and {beyond} beyond its ends</span>{/if}
</div>

<style>
  .keys {
    display: flex;
    flex-wrap: wrap;
    gap: 3px;
    padding: 2px 0 5px;
    font-size: 12px;
  }
  button {
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
  .here {
    border-color: var(--accent);
  }
  i {
    width: 7px;
    height: 7px;
    border-radius: 50%;
    background: var(--primary);
    border: 1.5px solid var(--primary);
  }
  .open i {
    background: none;
  }
</style>
