<script lang="ts">
  /** A paragraph with its spans as lines below the words, the shorter ones nearer to them. It is told of its own spans alone. */
  import { layersOf } from '$lib/text/layers';
  import { isSpan } from '$lib/text/spans.svelte';
  import type { Range } from '$lib/text/tokens';
  import Lines, { type Line } from './Lines.svelte';
  import type { TextSurface } from './surface.svelte';

  let {
    surface,
    index,
    width,
    near
  }: {
    surface: TextSurface;
    index: number;
    /** px of the stage */
    width: number;
    /** to what is in sight: else only its words are there */
    near: boolean;
  } = $props();

  /** px of a line with the name of its class, and without. */
  const NAMED = 15;
  const BARE = 6;

  const block = $derived(surface.running.blocks[index]!);
  let paragraph: HTMLElement | undefined = $state();

  const inside = ({ start, end }: Range) => start < block.end && block.start < end;
  // what says the same is the same: else every paragraph in sight was drawn anew with each word the cursor went on
  let before: Line[] = [];
  const lines = $derived.by((): Line[] => {
    const now = near ? here() : [];
    const same =
      now.length === before.length &&
      now.every((l, i) => {
        const b = before[i]!;
        return (
          l.id === b.id &&
          l.class === b.class &&
          l.way === b.way &&
          l.strong === b.strong &&
          l.range.start === b.range.start &&
          l.range.end === b.range.end
        );
      });
    return same ? before : (before = now);
  });
  function here(): Line[] {
    const own = surface.spans.in(index).flatMap((id): Line[] => {
      const m = surface.spans.get(id);
      return m ? [{ id, class: m.class, range: m.geometry, way: 'own', strong: false }] : [];
    });
    const over = surface.ports
      .overlays()
      .flatMap((o) =>
        o.marks.flatMap((m): Line[] =>
          isSpan(m) && inside(m.geometry)
            ? [{ id: `over ${o.name} ${m.id}`, class: m.class, range: m.geometry, way: o.line, strong: o.strong === m.id }]
            : []
        )
      );
    const offers = surface.ports.mode === 'label' ? surface.alike.offers : [];
    const alike = offers.flatMap((o): Line[] =>
      inside(o) ? [{ id: `alike ${o.start} ${o.class}`, class: o.class, range: o, way: 'dashed', strong: o === surface.alike.now }] : []
    );
    return [...own, ...over, ...alike];
  }
  const layers = $derived(layersOf(lines.map((l) => l.range)));
  const depth = $derived(lines.length === 0 ? 0 : Math.max(...layers) + 1);
  const step = $derived(surface.named ? NAMED : BARE);
  const room = $derived(depth * step);
</script>

<div class="block" class:goeson={surface.running.blocks[index + 1]?.goesOn} data-block={index} style:--room="{room}px">
  <!-- prettier-ignore -->
  <p dir="auto" bind:this={paragraph}>{#each block.pieces as piece (piece.at)}{#if piece.sign}<b data-at={piece.at} title="a sign that can not be seen">{piece.text}</b>{:else}<span data-at={piece.at}>{piece.text}</span>{/if}{/each}</p>
  {#if near && paragraph}<Lines {surface} {block} {paragraph} {lines} {layers} {step} {width} {room} />{/if}
</div>

<style>
  .block {
    position: relative;
    margin: 0 0 0.7em;
    pointer-events: auto;
  }
  /* (the one behind is a part of the same paragraph) */
  .block.goeson {
    margin-bottom: 0;
  }
  p {
    margin: 0;
    white-space: pre-wrap;
    overflow-wrap: anywhere;
    tab-size: 4;
    line-height: calc(1.62em + var(--room));
    min-height: 1.62em;
    unicode-bidi: plaintext;
  }
  /* the words stand at the top of their lines, what lies below them has its room there */
  p > :global(*) {
    position: relative;
    top: calc(var(--room) / -2);
  }
  b {
    font: 600 11px var(--font-mono);
    border: 1px solid var(--accent);
    color: var(--accent-text);
    border-radius: 3px;
    padding: 0 2px;
    unicode-bidi: isolate;
  }
</style>
