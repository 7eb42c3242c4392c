<script lang="ts">
  /** One object of a contact sheet, as it was listed and as it is now. */
  import Marker from '$lib/ui/Marker.svelte';
  import { fromServer } from '$lib/words/mark';
  import Around from './Around.svelte';
  import Crop from './Crop.svelte';
  import type { Found, ObjectEdits } from './edits.svelte';
  import type { Listed } from './listed';
  import type { Looks } from './sheet-deck';

  let { object, edits, listed, looks }: { object: Found; edits: ObjectEdits; listed: Listed; looks: Looks } = $props();
  const { words } = $derived(edits);
  const mark = $derived(edits.now(object));
</script>

<div class:gone={mark === null}>
  <span class="unseen">{listed.name(object, mark)}</span>
  {#if object.words}<Around
      {object}
      mark={mark ?? fromServer(object.mark)}
      {edits}
      width={looks.side}
      height={looks.side}
      size={Math.max(12, Math.round(looks.side / 10))}
    />
  {:else}<Crop
      {object}
      mark={mark ?? fromServer(object.mark)}
      {edits}
      side={looks.side}
      margin={looks.margin}
      outline={looks.outline}
    />{/if}
  <div class="foot" aria-hidden="true">
    {#if mark === null}<span>removed</span>
    {:else if mark.class !== object.mark.class}<Marker marker={words.marker(mark.class)} color={words.light(mark.class)} size={10} /><strong
        >{words.nameOf(mark.class)}</strong
      >
    {:else}<span class="num">{listed.figure(object, mark)}</span>{#if object.looks_like !== null}<span
          class="like"
          title="looks like {words.nameOf(object.looks_like)}"
          ><Marker marker={words.marker(object.looks_like)} color={words.light(object.looks_like)} size={10} /><span
            >{words.nameOf(object.looks_like)}?</span
          ></span
        >{/if}{/if}
  </div>
</div>

<style>
  .gone :global(canvas) {
    opacity: 0.25;
  }
  .foot {
    height: 20px;
    padding: 0 6px;
    display: flex;
    gap: 5px;
    align-items: center;
    font-size: 12px;
    white-space: nowrap;
    overflow: hidden;
  }
  .like {
    color: var(--accent-text);
    display: flex;
    gap: 3px;
    align-items: center;
    overflow: hidden;
    margin-left: auto;
  }
  .like span {
    overflow: hidden;
    text-overflow: ellipsis;
  }
  :global([aria-selected='true']) .like,
  :global([aria-selected='true']) .num {
    color: inherit;
  }
</style>
