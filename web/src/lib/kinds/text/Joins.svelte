<script lang="ts">
  /**
   * Relations: from the marker of one span to that of another, out to the margin in the room below the words, along it, and in again. What runs
   * beside others gets a lane of its own.
   */
  import { blockAt } from '$lib/text/blocks';
  import { domRange } from './dom';
  import type { TextSurface } from './surface.svelte';
  import { tick } from 'svelte';

  let { surface, width, pulled }: { surface: TextSurface; width: number; pulled: { from: string; x: number; y: number } | null } = $props();
  const { words, hand } = $derived(surface.ports);
  let svg: SVGSVGElement | undefined = $state();
  type Way = { id: string; class: string; path: string; tip: string; name: boolean; anchor: 'middle' | 'end'; y: number; x: number };
  let ways = $state.raw<Way[]>([]);
  let pull = $state('');

  /** px of the margin, of a lane, and what a marker stands below the words. */
  const MARGIN = 96;
  const LANE = 11;
  /** Relations drawn at most. */
  const MOST = 400;

  /** Where the line of a span begins, in px of the article. */
  function begin(id: string): { x: number; y: number; bottom: number } | null {
    const span = surface.spans.get(id);
    const article = svg?.parentElement;
    if (!span || !article) return null;
    const at = article.getBoundingClientRect();
    const sign = article.querySelector<HTMLElement>(`[data-sign="${id}"]`);
    if (sign) {
      const r = sign.getBoundingClientRect();
      return { x: r.left - at.left + 4, y: r.top - at.top + 5, bottom: r.bottom - at.top + 3 };
    }
    const paragraph = article.querySelector<HTMLElement>(`[data-block="${blockAt(surface.running.blocks, span.geometry.start)}"] p`);
    const r = paragraph
      ? domRange(paragraph, surface.running.offsets, { start: span.geometry.start, end: span.geometry.start + 1 })?.getBoundingClientRect()
      : null;
    return r && r.height > 0 ? { x: r.left - at.left, y: r.bottom - at.top + 4, bottom: r.bottom - at.top + 10 } : null;
  }
  function drawn(): Way[] {
    const found = surface.spans.joins.slice(0, MOST).flatMap((j) => {
      const [a, b] = [begin(j.geometry.from), begin(j.geometry.to)];
      return a && b ? [{ j, a, b, top: Math.min(a.bottom, b.bottom), end: Math.max(a.bottom, b.bottom) }] : [];
    });
    // on one line they go straight across, below the words; the others by the margin, the shorter ones nearer to the words
    found.sort((p, q) => p.end - p.top - (q.end - q.top));
    const lanes: { top: number; end: number }[][] = [];
    const below = new Map<number, number>();
    return found.map(({ j, a, b, top, end }) => {
      if (Math.abs(a.bottom - b.bottom) < 5) {
        const beside = below.get(Math.round(a.bottom)) ?? 0;
        below.set(Math.round(a.bottom), beside + 1);
        const y = Math.max(a.bottom, b.bottom) + 1 + Math.min(beside, 2) * 3;
        const on = b.x >= a.x;
        return {
          id: j.id,
          class: j.class,
          path: `M${a.x},${a.bottom - 1} V${y} H${b.x}`,
          tip: `M${b.x - 3.5},${y + 1} l3.5,-6 l3.5,6 Z`,
          name: Math.abs(b.x - a.x) > 24 + words.nameOf(j.class).length * 6,
          anchor: 'middle' as const,
          x: (a.x + b.x) / 2 + (on ? 6 : -6),
          y: y + 1
        };
      }
      let lane = lanes.findIndex((l) => l.every((o) => o.end < top - 4 || o.top > end + 4));
      if (lane < 0) lane = lanes.length;
      (lanes[lane] ??= []).push({ top, end });
      const x = MARGIN - 14 - Math.min(lane, 6) * LANE;
      return {
        id: j.id,
        class: j.class,
        path: `M${a.x},${a.bottom} H${x + 5} Q${x},${a.bottom} ${x},${a.bottom + (b.bottom >= a.bottom ? 5 : -5)} V${b.bottom - (b.bottom >= a.bottom ? 5 : -5)} Q${x},${b.bottom} ${x + 5},${b.bottom} H${b.x - 7}`,
        tip: `M${b.x - 8},${b.bottom - 3.5} l6,3.5 l-6,3.5 Z`,
        name: true,
        anchor: 'end' as const,
        x: x - 4,
        y: (a.bottom + b.bottom) / 2 + 3
      };
    });
  }
  $effect(() => {
    void width;
    void surface.spans.version;
    void surface.running;
    void surface.named;
    void surface.alike.offers;
    // markers stand where they will when the lines have been drawn
    void tick().then(() => requestAnimationFrame(() => (ways = svg ? drawn() : [])));
  });
  $effect(() => {
    const from = pulled ? begin(pulled.from) : null;
    const left = svg?.parentElement?.offsetLeft ?? 0;
    pull = from && pulled ? `M${from.x},${from.bottom} L${pulled.x - left},${pulled.y}` : '';
  });
</script>

<svg bind:this={svg} aria-hidden="true">
  {#each ways as w (w.id)}
    {@const on = hand.has(w.id) || hand.isOver(w.id)}
    <g class:on>
      <path class="way" d={w.path} />
      <path class="tip" d={w.tip} />
      {#if w.name}<text x={w.x} y={w.y} text-anchor={w.anchor}>{words.nameOf(w.class)}</text>{/if}
    </g>
  {/each}
  {#if pull}<path class="way pull" d={pull} />{/if}
</svg>

<style>
  svg {
    position: absolute;
    inset: 0;
    width: 100%;
    height: 100%;
    overflow: visible;
    pointer-events: none;
  }
  .way {
    fill: none;
    stroke: color-mix(in srgb, var(--ink) 55%, transparent);
    stroke-width: 1.3;
  }
  .tip {
    fill: color-mix(in srgb, var(--ink) 70%, transparent);
  }
  text {
    font-size: 11px;
    fill: color-mix(in srgb, var(--ink) 80%, transparent);
    paint-order: stroke;
    stroke: var(--ground);
    stroke-width: 3px;
  }
  .on .way {
    stroke: var(--accent);
    stroke-width: 2;
  }
  .on .tip,
  .on text {
    fill: var(--accent-text);
  }
  .pull {
    stroke-dasharray: 4 3;
  }
</style>
