<script lang="ts">
  /** Running text at a comfortable measure. Spans are lines below their words; relations run in the margin. */
  import { isSpan } from '$lib/text/spans.svelte';
  import { blockAt } from '$lib/text/blocks';
  import type { Range } from '$lib/text/tokens';
  import { onMount, tick } from 'svelte';
  import type { Surface } from '../kind';
  import { domRange, offsetAt } from './dom';
  import Joins from './Joins.svelte';
  import Part from './Part.svelte';
  import type { TextSurface } from './surface.svelte';

  let { surface, name }: { surface: Surface; name: string } = $props();
  const own = $derived(surface as TextSurface);
  const { running } = $derived(own);
  let scroller: HTMLElement | undefined = $state();
  let width = $state(0);

  /** How far from what is in sight lines are drawn, in px. */
  const NEAR = 400;
  /** Blocks that are laid out together: each by itself, a text of 1 MB had 2,500 of them to be looked after in every frame. */
  const PART = 12;
  const told = new WeakMap<Element, (near: boolean) => void>();
  let observer: IntersectionObserver | null = null;
  function watch(part: HTMLElement, tell: (near: boolean) => void): () => void {
    told.set(part, tell);
    observer ??= new IntersectionObserver(
      (seen) => {
        for (const { target, isIntersecting } of seen) told.get(target)?.(isIntersecting);
      },
      { root: part.closest('.text'), rootMargin: `${NEAR}px 0px` }
    );
    observer.observe(part);
    return () => observer?.unobserve(part);
  }

  let article: HTMLElement | undefined = $state();
  const blockOf = (offset: number): Element | undefined => {
    const index = blockAt(running.blocks, offset);
    return article?.children[Math.floor(index / PART)]?.children[index % PART];
  };
  function rectOf(range: Range): DOMRect | null {
    const block = running.blocks[blockAt(running.blocks, range.start)]!;
    const paragraph = blockOf(range.start)?.querySelector('p');
    if (!paragraph) return null;
    return domRange(paragraph, running.offsets, { start: range.start, end: Math.min(range.end, block.end) })?.getClientRects()[0] ?? null;
  }
  function reveal(range: Range): void {
    const block = blockOf(range.start);
    if (!block || !scroller) return;
    const view = scroller.getBoundingClientRect();
    let rect = rectOf(range);
    if (!rect || rect.height === 0) {
      block.scrollIntoView({ block: 'center' });
      rect = rectOf(range);
    }
    if (!rect) return;
    const margin = Math.min(90, view.height / 4);
    if (rect.top < view.top + margin || rect.bottom > view.bottom - margin)
      scroller.scrollTop += rect.top - view.top - view.height * (rect.top < view.top + margin ? 0.35 : 0.6);
  }
  function line(offset: number, by: 1 | -1): number | null {
    reveal({ start: offset, end: offset + 1 });
    const from = rectOf({ start: offset, end: offset + 1 });
    if (!from) return null;
    const x = from.left + 2;
    // the nearest line of words in that direction, however much room lies between
    for (let dy = from.height * 0.7; dy < 260; dy += 7) {
      const y = by > 0 ? from.bottom + dy : from.top - dy;
      const found = offsetAt(running.offsets, x, y);
      if (found === null) continue;
      const there = rectOf({ start: found, end: found + 1 });
      if (there && (by > 0 ? there.top > from.top + 4 : there.top < from.top - 4)) return found;
    }
    return by > 0 ? (running.blocks[blockAt(running.blocks, offset) + 1]?.start ?? null) : null;
  }
  onMount(() => {
    own.seen = { line, reveal };
    scroller?.focus({ preventScroll: true });
    void tick().then(() => own.range && reveal(own.range));
    return () => {
      own.seen = null;
      observer?.disconnect();
    };
  });

  /** What a press has begun: words, an edge of the span in hand, or a relation from a sign. */
  let begun: { at: number; x: number; y: number; edge: 'start' | 'end' | null; sign: string | null; letters: boolean } | null = null;
  let pulled = $state.raw<{ from: string; x: number; y: number } | null>(null);
  const closest = (e: Event, what: string): string | null =>
    (e.target as Element).closest<HTMLElement>(`[data-${what}]`)?.dataset[what] ?? null;

  function down(e: PointerEvent): void {
    if (e.button !== 0) return;
    scroller?.focus({ preventScroll: true });
    own.pointed();
    const sign = closest(e, 'sign');
    const edge = closest(e, 'edge') as 'start' | 'end' | null;
    const span = closest(e, 'span');
    const at = offsetAt(running.offsets, e.clientX, e.clientY);
    if (span && !sign && !edge) {
      e.preventDefault();
      take(span, e.shiftKey);
      return;
    }
    if (at === null && !sign && !edge) return;
    e.preventDefault();
    begun = { at: at ?? 0, x: e.clientX, y: e.clientY, edge, sign, letters: e.altKey };
    scroller?.setPointerCapture(e.pointerId);
  }
  function take(id: string, also: boolean): void {
    const { hand } = own.ports;
    if (own.relating.key !== null) {
      if (own.relating.candidates.some((m) => m.id === id)) own.join(id);
      return;
    }
    if (own.whole) {
      own.whole = false;
      own.ports.acts.partOf(id);
    } else if (also) hand.also(id);
    else hand.select(hand.selected === id ? null : id);
  }
  function over(from: number, to: number, letters: boolean): Range | null {
    const range = { start: Math.min(from, to), end: Math.max(from, to) };
    if (range.start === range.end) return null;
    return letters ? range : running.tokens.snapped(range);
  }
  function move(e: PointerEvent): void {
    if (!begun) return;
    if (begun.sign) {
      const box = scroller!.getBoundingClientRect();
      pulled = { from: begun.sign, x: e.clientX - box.left, y: e.clientY - box.top + scroller!.scrollTop };
      return;
    }
    const at = offsetAt(running.offsets, e.clientX, e.clientY);
    if (at === null) return;
    const letters = begun.letters || e.altKey;
    if (begun.edge) {
      const { one } = own.ports.hand;
      if (!isSpan(one)) return;
      const other = begun.edge === 'start' ? one.geometry.end : one.geometry.start;
      const place = letters ? at : (running.tokens.snapped({ start: Math.min(at, other), end: Math.max(at, other) })?.[begun.edge] ?? at);
      own.dragged =
        begun.edge === 'start' ? { start: Math.min(place, other - 1), end: other } : { start: other, end: Math.max(place, other + 1) };
    } else if (own.editable && Math.hypot(e.clientX - begun.x, e.clientY - begun.y) > 4) own.dragged = over(begun.at, at, letters);
  }
  function up(e: PointerEvent): void {
    const was = begun;
    const range = own.dragged;
    begun = null;
    own.dragged = null;
    if (!was) return;
    if (was.sign) {
      const target = document.elementFromPoint(e.clientX, e.clientY)?.closest<HTMLElement>('[data-span]')?.dataset['span'];
      const at = offsetAt(running.offsets, e.clientX, e.clientY);
      const to = target ?? (at === null ? undefined : own.spans.over({ start: at, end: at + 1 })[0]?.id);
      const dragged = pulled !== null;
      pulled = null;
      if (!dragged || to === was.sign) take(was.sign, e.shiftKey);
      else if (to) own.drawJoin(was.sign, to);
      return;
    }
    if (was.edge) {
      if (range) own.reach(range);
    } else if (range && !own.pinning && own.relating.key === null) own.draw(range);
    else own.press(was.at);
  }
  function twice(e: MouseEvent): void {
    const at = offsetAt(running.offsets, e.clientX, e.clientY);
    const token = at === null ? null : running.tokens.at(at);
    if (token === null || !own.editable || closest(e, 'span')) return;
    const range = running.tokens.range(token, token);
    // where a span lies the presses went through what is there
    if (own.spans.over(range).length === 0) own.draw(range);
  }

  const here = $derived(
    own.range
      ? `${own.said(own.range, 60)}${own.spans
          .over(own.range)
          .map((m) => `, ${own.ports.words.nameOf(m.class)}`)
          .join('')}`
      : ''
  );
  const parts = $derived.by(() => {
    const { blocks } = running;
    return Array.from({ length: Math.ceil(blocks.length / PART) }, (_, i) => ({
      first: i * PART,
      count: Math.min(PART, blocks.length - i * PART),
      start: blocks[i * PART]!.start
    }));
  });
</script>

<!-- svelte-ignore a11y_no_noninteractive_tabindex -->
<div
  class="text"
  class:pinning={own.pinning}
  role="application"
  aria-label="text {name}"
  tabindex="0"
  bind:this={scroller}
  bind:clientWidth={width}
  onpointerdown={down}
  onpointermove={move}
  onpointerup={up}
  onpointercancel={() => {
    begun = null;
    own.dragged = pulled = null;
  }}
  ondblclick={twice}
>
  {#if own.file.failed}<p class="failed" role="alert">{own.file.failed}</p>{/if}
  <article class="measure" bind:this={article}>
    {#each parts as { first, count, start } (start)}<Part surface={own} {first} {count} {width} {watch} />{/each}
    <Joins surface={own} {width} {pulled} />
  </article>
  <p class="sr" aria-live="polite">{here}</p>
</div>

<style>
  .text {
    height: 100%;
    overflow-y: auto;
    background: var(--ground);
    position: relative;
    outline: none;
    user-select: none;
    cursor: text;
    touch-action: none;
  }
  .text.pinning {
    cursor: crosshair;
  }
  .measure {
    position: relative;
    max-width: 42em;
    margin: 0 auto;
    padding: 34px 30px 40vh 110px;
    font-size: 17px;
    color: var(--ink);
  }
  .failed {
    margin: 12px;
    background: var(--panel);
    border-left: 3px solid var(--accent);
    padding: 7px 10px;
    border-radius: 4px;
  }
  .sr {
    position: absolute;
    width: 1px;
    height: 1px;
    overflow: hidden;
    clip-path: inset(50%);
  }
</style>
