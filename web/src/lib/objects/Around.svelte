<script lang="ts">
  /** A span among the words round it, in the reading face; its own words underlined in the colour of its class. */
  import type { Mark } from '$lib/words/mark';
  import type { Found, ObjectEdits } from './edits.svelte';

  let {
    object,
    mark,
    edits,
    width,
    height,
    size
  }: { object: Found; mark: Mark; edits: ObjectEdits; width: number; height: number; /** px of a letter */ size: number } = $props();
  const { before, words, after } = $derived(object.words ?? { before: '', words: '', after: '' });
  // the words in the middle: what stands before them is cut from its beginning
  const room = $derived(Math.max(12, Math.floor((width * height) / (size * size * 1.1))));
  const lead = $derived(before.length > room / 3 ? `…${before.slice(-Math.floor(room / 3))}` : before);
  // a line is there or it is not: none is cut through
  const lines = $derived(Math.max(1, Math.floor((height - size) / (size * 1.4))));
</script>

<div class="around" style:width="{width}px" style:height="{height}px" style:font-size="{size}px" data-drawn="yes">
  <p dir="auto" style:max-height="{lines * 1.4}em">
    <span class="soft">{lead}</span><strong style:text-decoration-color={edits.words.light(mark.class)}>{words}</strong><span class="soft"
      >{after}</span
    >
  </p>
</div>

<style>
  .around {
    background: #171b1a;
    color: #e9e4d8;
    padding: 0.5em 0.6em;
    overflow: hidden;
    line-height: 1.4;
    text-align: left;
    box-sizing: border-box;
  }
  p {
    margin: 0;
    overflow: hidden;
    white-space: pre-wrap;
    overflow-wrap: anywhere;
  }
  strong {
    text-decoration: underline 3px;
    text-underline-offset: 3px;
    font-weight: 650;
  }
  .around .soft {
    color: #b1b5ae;
  }
</style>
