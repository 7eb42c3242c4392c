<script lang="ts" module>
  import type { Range } from '$lib/text/tokens';

  /** A span, a suggestion or an offer as a line below its words. */
  export type Line = { id: string; class: string; range: Range; way: 'own' | 'dashed' | 'dotted'; strong: boolean };
</script>

<script lang="ts">
  /** What lies below the words of a paragraph and on them: the lines of its spans, the words that are looked at, pins. Only where it is in sight. */
  import type { Block } from '$lib/text/blocks';
  import { stripsOf, type Strip } from '$lib/text/lines';
  import { isSpan } from '$lib/text/spans.svelte';
  import Marker from '$lib/ui/Marker.svelte';
  import { domRange } from './dom';
  import type { TextSurface } from './surface.svelte';

  let {
    surface,
    block,
    paragraph,
    lines,
    layers,
    step,
    width,
    room
  }: {
    surface: TextSurface;
    block: Block;
    paragraph: HTMLElement;
    lines: Line[];
    /** of each line, from 0 */
    layers: number[];
    /** px from one layer to the next */
    step: number;
    /** px of the stage, and those below the words: with others the words stand elsewhere */
    width: number;
    room: number;
  } = $props();

  /** px of a letter of a name, about. */
  const LETTER = 5.6;
  const { words, hand } = $derived(surface.ports);
  const inside = ({ start, end }: Range) => start < block.end && block.start < end;

  type Drawn = Line & { layer: number; strips: Strip[]; begins: boolean; ends: boolean; rtl: boolean; name: boolean };
  let drawn = $state.raw<Drawn[]>([]);
  let cursor = $state.raw<Strip[]>([]);
  let dragged = $state.raw<Strip[]>([]);
  let pins = $state.raw<{ n: number; strip: Strip }[]>([]);

  const rtl = /[\u0590-\u08ff\ufb1d-\ufdff\ufe70-\ufefc]/;
  function strips(range: Range): Strip[] {
    const cut = { start: Math.max(range.start, block.start), end: Math.min(range.end, block.end) };
    const found = domRange(paragraph, surface.running.offsets, cut);
    if (!found) return [];
    const at = paragraph.parentElement!.getBoundingClientRect();
    return stripsOf([...found.getClientRects()].map((r) => ({ x: r.left - at.left, y: r.top - at.top, width: r.width, height: r.height })));
  }
  // (after the room for the lines is there: the words stand elsewhere then)
  $effect(() => {
    void width;
    void room;
    drawn = lines.flatMap((line, i): Drawn[] => {
      const parts = strips(line.range);
      if (parts.length === 0) return [];
      const backwards = rtl.test(surface.running.words(line.range.start, Math.min(line.range.end, line.range.start + 40)));
      const begins = line.range.start >= block.start;
      return [
        {
          ...line,
          layer: layers[i]!,
          strips: parts,
          begins,
          ends: line.range.end <= block.end,
          rtl: backwards,
          name: surface.named && begins && parts[0]!.width > 16 + words.nameOf(line.class).length * LETTER
        }
      ];
    });
  });
  $effect(() => {
    void width;
    void room;
    const { range } = surface.cursor;
    cursor = range && inside(range) && !isSpan(hand.one) ? strips(range) : [];
  });
  $effect(() => {
    void room;
    const range = surface.dragged;
    dragged = range && inside(range) ? strips(range) : [];
  });
  $effect(() => {
    void width;
    void room;
    const here = surface.ports
      .pins()
      .flatMap((p, i) =>
        typeof p.offset === 'number' && inside({ start: p.offset, end: p.offset + 1 }) ? [{ n: i + 1, offset: p.offset }] : []
      );
    pins = here.flatMap(({ n, offset }) => strips({ start: offset, end: offset + 1 }).map((strip) => ({ n, strip })));
  });
  const target = $derived(surface.relating.target);
</script>

<div class="under" aria-hidden="true">
  {#each cursor as s, i (i)}<i class="cursor" style="left:{s.x - 3}px;top:{s.y - 1}px;width:{s.width + 6}px;height:{s.height + 2}px"
    ></i>{/each}
  {#each dragged as s, i (i)}<i class="dragged" style="left:{s.x}px;top:{s.y}px;width:{s.width}px;height:{s.height}px"></i>{/each}
  {#each drawn as l (l.id)}
    {@const color = words.light(l.class)}
    {@const held = l.way === 'own' && hand.has(l.id)}
    {#each l.strips as s, i (i)}
      {#if held}<i class="held" style="left:{s.x - 1}px;top:{s.y}px;width:{s.width + 2}px;height:{s.height}px;--c:{color}"></i>{/if}
      <i
        class="line {l.way}"
        class:held
        class:lit={l.way === 'own' && hand.isOver(l.id)}
        class:strong={l.strong || target === l.id}
        data-span={l.way === 'own' ? l.id : undefined}
        style="left:{s.x}px;top:{s.y + s.height + l.layer * step}px;width:{s.width}px;--c:{color};--h:{step}px"
      ></i>
    {/each}
    {#if l.begins}
      {@const s = l.strips[0]!}
      <i
        class="sign"
        class:hollow={l.way !== 'own'}
        data-span={l.way === 'own' ? l.id : undefined}
        data-sign={l.way === 'own' ? l.id : undefined}
        style="{l.rtl ? `left:${s.x + s.width - 9}px` : `left:${s.x}px`};top:{s.y + s.height + l.layer * step + (surface.named ? 4 : -1)}px"
        ><Marker marker={words.marker(l.class)} {color} size={9} />{#if l.name}<em style="color:{color}">{words.nameOf(l.class)}</em
          >{/if}</i
      >
    {/if}
    {#if held && l.way === 'own' && surface.editable}
      {@const first = l.strips[0]!}
      {@const last = l.strips.at(-1)!}
      {#if l.begins}<i class="edge" data-edge="start" style="left:{first.x - 5}px;top:{first.y}px;height:{first.height}px;--c:{color}"
        ></i>{/if}
      {#if l.ends}<i class="edge" data-edge="end" style="left:{last.x + last.width - 3}px;top:{last.y}px;height:{last.height}px;--c:{color}"
        ></i>{/if}
    {/if}
  {/each}
  {#each pins as p (p.n)}<i class="pin num" style="left:{p.strip.x - 6}px;top:{p.strip.y - 13}px">{p.n}</i>{/each}
</div>

<style>
  .under {
    position: absolute;
    inset: 0;
    pointer-events: none;
  }
  .under i {
    position: absolute;
    display: block;
    font-style: normal;
  }
  .cursor {
    border: 1.5px solid var(--ink);
    border-radius: 4px;
  }
  .dragged {
    background: color-mix(in srgb, var(--ink) 22%, transparent);
  }
  .held:not(.line) {
    background: color-mix(in srgb, var(--c) 24%, transparent);
    border-radius: 2px;
  }
  .line {
    height: var(--h);
    border-top: 2.5px solid var(--c);
    pointer-events: auto;
    cursor: pointer;
  }
  .line.dashed {
    border-top-style: dashed;
    opacity: 0.75;
    pointer-events: none;
  }
  .line.dotted {
    border-top-style: dotted;
    opacity: 0.75;
    pointer-events: none;
  }
  .line.held,
  .line.lit,
  .line.strong {
    border-top-width: 4px;
    opacity: 1;
  }
  .sign {
    display: flex !important;
    gap: 3px;
    align-items: center;
    pointer-events: auto;
    cursor: pointer;
    height: 10px;
    white-space: nowrap;
  }
  .sign.hollow {
    opacity: 0.65;
  }
  .sign em {
    font: 500 10.5px/10px var(--font-sans);
    font-style: normal;
  }
  .edge {
    width: 8px;
    pointer-events: auto;
    cursor: ew-resize;
  }
  .edge::after {
    content: '';
    position: absolute;
    inset: 0 3px;
    background: var(--c);
    border-radius: 1px;
  }
  .pin {
    background: var(--accent);
    color: #171b1a;
    font-size: 10.5px;
    font-weight: 700;
    border-radius: 3px;
    padding: 0 4px;
  }
</style>
