<script lang="ts">
  /** A class by a part of its name, for codebooks of more classes than a hand remembers. */
  import { focused } from '$lib/ui/focus';
  import Marker from '$lib/ui/Marker.svelte';
  import type { LabelClass } from './codebook';

  let {
    classes,
    looks,
    choose,
    done,
    propose
  }: {
    classes: LabelClass[];
    looks: Map<string, { light: string; marker: string }>;
    choose: (key: string) => void;
    done: () => void;
    propose?: (name: string) => void;
  } = $props();
  let word = $state('');
  let at = $state(0);
  const found = $derived(classes.filter((c) => `${c.name} ${c.key}`.toLowerCase().includes(word.trim().toLowerCase())).slice(0, 9));
  function take(key: string | undefined) {
    if (key === undefined) return;
    choose(key);
    done();
  }
</script>

<form
  class="find"
  role="search"
  aria-label="find a class"
  onsubmit={(e) => {
    e.preventDefault();
    take(found[at]?.key);
  }}
>
  <input
    class="field"
    data-field
    aria-label="name of the class"
    bind:value={word}
    {@attach focused}
    oninput={() => (at = 0)}
    onkeydown={(e) => {
      const by = { ArrowDown: 1, ArrowUp: -1 }[e.key];
      if (by === undefined) return;
      e.preventDefault();
      at = Math.min(found.length - 1, Math.max(0, at + by));
    }}
  />
  {#each found as c, i (c.key)}
    <button type="button" class:first={i === at} onclick={() => take(c.key)}
      ><Marker marker={looks.get(c.key)?.marker ?? 'circle'} color={looks.get(c.key)?.light ?? '#d5d8da'} />{c.name}</button
    >
  {:else}<p class="soft">no class has this in its name</p>
    {#if propose}<button type="button" onclick={() => propose(word.trim())}>propose “{word.trim()}” to the manager</button>{/if}{/each}
</form>

<style>
  .find {
    position: absolute;
    left: 12px;
    bottom: 118px;
    width: 260px;
    background: var(--panel);
    border: 1px solid var(--edge);
    border-radius: 4px;
    box-shadow: 0 8px 28px rgb(0 0 0 / 0.4);
    padding: 8px;
    display: grid;
    gap: 2px;
    z-index: 5;
  }
  button {
    display: flex;
    gap: 8px;
    align-items: center;
    padding: 3px 6px;
    border-radius: 4px;
    text-align: left;
    cursor: pointer;
  }
  .first,
  button:hover {
    background: color-mix(in srgb, var(--primary) 20%, transparent);
  }
</style>
