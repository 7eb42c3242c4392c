<script lang="ts">
  /** A text with lines under its words, for looking only: the lines are painted by the letters themselves, whichever way these run. */
  import { readable } from '$lib/text/blocks';
  import { Offsets } from '$lib/text/offsets';
  import Marker from '$lib/ui/Marker.svelte';
  import type { Words } from '$lib/words/words.svelte';
  import { pieces, type Line, type Piece } from './differences';

  let {
    text,
    lines,
    here = null,
    deep,
    look,
    words,
    label
  }: {
    text: string;
    lines: Line[];
    /** id of the line that is looked at */
    here?: string | null;
    /** how many lines may lie under each other: the same beside each other, so that rows lie beside each other too */
    deep: number;
    /** the place that is to be in sight, in code points; null: the beginning */
    look: number | null;
    words: Words;
    label: string;
  } = $props();

  /** Letters of a text that are shown at once, and before the place that is looked at. */
  const SHOWN = 6000;
  const BEFORE = 1500;
  /** px from one line to the next, and how thick a line is. */
  const STEP = 5;
  const THICK = 2.5;

  const offsets = $derived(new Offsets(text));
  const from = $derived(offsets.length <= SHOWN ? 0 : Math.max(0, Math.min((look ?? 0) - BEFORE, offsets.length - SHOWN)));
  const part = $derived({ start: from, end: Math.min(offsets.length, from + SHOWN) });
  const cut = $derived(pieces(offsets, lines, part));

  /** each line as a layer of the background: whole, or in strokes where the other side does not have it so */
  function painted(piece: Piece): string {
    if (piece.lines.length === 0) return '';
    const images = piece.lines.map(({ line }) => {
      const color = words.light(line.class);
      return line.way === 'right'
        ? `linear-gradient(${color},${color})`
        : `repeating-linear-gradient(90deg,${color} 0 6px,transparent 6px 9px)`;
    });
    const y = piece.lines.map(({ layer }) => `0 calc(100% - ${(deep - 1 - layer) * STEP}px)`);
    return `background-image:${images.join(',')};background-position:${y.join(',')};background-size:100% ${THICK}px`;
  }
  let box: HTMLElement;
  $effect(() => {
    void here;
    void cut;
    box.querySelector('.here')?.scrollIntoView({ block: 'nearest' });
  });
</script>

<div class="lined" bind:this={box} role="group" aria-label={label}>
  {#if part.start > 0}<p class="soft more"><span class="num">{part.start}</span> letters before</p>{/if}
  <p dir="auto" style:--room="{deep * STEP}px">
    {#each cut as piece, i (i)}{#each piece.begins as line, n (n)}<i class="sign" title={words.nameOf(line.class)}
          ><Marker marker={words.marker(line.class)} color={words.light(line.class)} size={8} /></i
        >{/each}<span
        class:lines={piece.lines.length > 0}
        class:differs={piece.lines.some(({ line }) => line.way !== 'right')}
        class:here={here !== null && piece.lines.some(({ line }) => line.id === here)}
        title={piece.lines.map(({ line }) => words.nameOf(line.class)).join(', ') || undefined}
        style={painted(piece)}>{readable(piece.text)}</span
      >{/each}
  </p>
  {#if part.end < offsets.length}<p class="soft more"><span class="num">{offsets.length - part.end}</span> letters more</p>{/if}
</div>

<style>
  .lined {
    overflow: auto;
    min-height: 0;
  }
  p {
    font-size: 16px;
    line-height: calc(1.5em + var(--room, 0px));
    white-space: pre-wrap;
    overflow-wrap: anywhere;
    max-width: 72ch;
    /* the lines under the last row, and what is round it */
    padding: 2px 2px 8px;
  }
  .lines {
    background-repeat: no-repeat;
    padding-bottom: calc(var(--room) + 1px);
    -webkit-box-decoration-break: clone;
    box-decoration-break: clone;
  }
  .differs {
    background-color: color-mix(in srgb, var(--accent) 9%, transparent);
  }
  .here {
    outline: 2px solid var(--accent);
    border-radius: 2px;
  }
  .sign {
    vertical-align: 6px;
    line-height: 0;
  }
  .more {
    font-size: 12.5px;
    line-height: 1.5;
  }
</style>
