<script lang="ts">
  /** The field map: every item a small square, set by set, its state a shape and a colour. Only what is in sight is drawn. */
  import type { Schemas } from '$lib/api/client';
  import { themed } from '$lib/state/theme.svelte';
  import { Field } from './field';

  type Sets = { path: string; items: number[]; states: string; left: string }[];
  let { sets, picked, pick, open }: { sets: Sets; picked: number | null; pick: (item: number) => void; open: (item: number) => void } =
    $props();

  let host: HTMLElement | undefined = $state();
  let canvas: HTMLCanvasElement | undefined = $state();
  let width = $state(800);
  let height = $state(400);
  let top = $state(0);
  let hover = $state<number | null>(null);

  const all = $derived(sets.reduce((n, s) => n + s.items.length, 0));
  const filtered = $derived(sets.some((s) => s.left.includes('0')));
  const field = $derived(new Field(sets.map((s) => s.items.length), width)); // prettier-ignore
  const cell = $derived(field.cell);

  const signs: Record<string, { color: string; draw: 'hollow' | 'full' | 'half' | 'triangle' | 'cross' | 'bar' | 'dot' }> = {
    n: { color: '--edge', draw: 'dot' },
    w: { color: '--edge', draw: 'hollow' },
    o: { color: '--primary', draw: 'half' },
    r: { color: '--accent', draw: 'cross' },
    p: { color: '--accent', draw: 'bar' },
    s: { color: '--primary', draw: 'triangle' },
    a: { color: '--primary', draw: 'full' },
    x: { color: '--line', draw: 'full' }
  };
  const words: Record<string, Schemas['Item']['state']> = {
    n: 'new',
    w: 'waiting',
    o: 'open',
    r: 'returned',
    p: 'parked',
    s: 'submitted',
    a: 'accepted',
    x: 'archived'
  };

  let frame = 0;
  $effect(() => {
    void [field, sets, width, height, top, hover, picked, filtered, themed.now];
    cancelAnimationFrame(frame);
    frame = requestAnimationFrame(paint);
  });

  function sign(c: CanvasRenderingContext2D, state: string, x: number, y: number, s: number) {
    const { draw } = signs[state] ?? signs.n!;
    c.beginPath();
    switch (draw) {
      case 'full':
        return c.fillRect(x, y, s, s);
      case 'hollow':
        return c.strokeRect(x + 0.75, y + 0.75, s - 1.5, s - 1.5);
      case 'half':
        c.strokeRect(x + 0.75, y + 0.75, s - 1.5, s - 1.5);
        return c.fillRect(x, y + s / 2, s, s / 2);
      case 'triangle':
        c.moveTo(x + s / 2, y);
        c.lineTo(x + s, y + s);
        c.lineTo(x, y + s);
        return c.fill();
      case 'cross':
        c.moveTo(x + 1, y + 1);
        c.lineTo(x + s - 1, y + s - 1);
        c.moveTo(x + s - 1, y + 1);
        c.lineTo(x + 1, y + s - 1);
        c.lineWidth = Math.max(1.5, s / 5);
        c.stroke();
        c.lineWidth = 1.5;
        return;
      case 'bar':
        c.fillRect(x, y, s * 0.38, s);
        return c.fillRect(x + s * 0.62, y, s * 0.38, s);
      case 'dot':
        return c.fillRect(x + s * 0.3, y + s * 0.3, s * 0.4, s * 0.4);
    }
  }
  function paint() {
    if (!canvas || !host) return;
    const c = canvas.getContext('2d')!;
    const ratio = devicePixelRatio;
    const [w, h] = [Math.round(width * ratio), Math.round(height * ratio)];
    if (canvas.width !== w || canvas.height !== h) [canvas.width, canvas.height] = [w, h];
    c.setTransform(ratio, 0, 0, ratio, 0, 0);
    c.clearRect(0, 0, width, height);
    const style = getComputedStyle(host);
    const ink = Object.fromEntries(Object.values(signs).map((s) => [s.color, style.getPropertyValue(s.color)]));
    const s = cell - (cell > 8 ? 3 : 1);
    c.lineWidth = 1.5;
    c.textBaseline = 'middle';
    for (const plot of field.plots) {
      if (field.bottom(plot) < top || plot.y > top + height) continue;
      const set = sets[plot.set]!;
      const name = field.name(plot);
      c.globalAlpha = 1;
      c.fillStyle = style.getPropertyValue('--ink');
      c.font = '600 13px Hanken Grotesk Variable';
      c.fillText(set.path || '(top)', name.x, name.y - top);
      const after = name.x + 8 + c.measureText(set.path || '(top)').width;
      c.fillStyle = style.getPropertyValue('--soft');
      c.font = '12px IBM Plex Mono';
      const left = set.left.replaceAll('0', '').length;
      c.fillText(filtered ? `${left} of ${plot.count}` : String(plot.count), after, name.y - top);
      const { from, to } = field.between(plot, top, top + height);
      let pen = '';
      for (let i = from; i < to; i++) {
        const state = set.states[i]!;
        const color = ink[(signs[state] ?? signs.n!).color]!;
        if (color !== pen) c.fillStyle = c.strokeStyle = pen = color;
        c.globalAlpha = set.left[i] === '1' ? 1 : 0.18;
        const { x, y } = field.square(plot, i);
        sign(c, state, x, y - top, s);
      }
      c.globalAlpha = 1;
      for (const [item, color] of [
        [hover, '--ink'],
        [picked, '--accent']
      ] as const) {
        const i = item === null ? -1 : set.items.indexOf(item);
        if (i < 0) continue;
        const { x, y } = field.square(plot, i);
        c.strokeStyle = style.getPropertyValue(color);
        c.lineWidth = 2;
        c.strokeRect(x - 1.5, y - top - 1.5, s + 3, s + 3);
        c.lineWidth = 1.5;
      }
    }
  }

  function at(e: { clientX: number; clientY: number }): number | null {
    const r = canvas!.getBoundingClientRect();
    const found = field.at(e.clientX - r.left, e.clientY - r.top + top);
    return found ? sets[found.set]!.items[found.i]! : null;
  }
  /** arrows go from square to square, over the ends of sets */
  function key(e: KeyboardEvent) {
    const by = { ArrowLeft: -1, ArrowRight: 1, ArrowUp: -field.columns, ArrowDown: field.columns }[e.key];
    if (e.key === 'Enter' && picked !== null) return open(picked);
    if (by === undefined) return;
    e.preventDefault();
    const order = sets.flatMap((s) => s.items);
    const left = sets.map((s) => s.left).join('');
    const now = picked === null ? -1 : order.indexOf(picked);
    let to = now < 0 ? 0 : now + by;
    // over what the conditions have left out, on to the next that is left
    while (order[to] !== undefined && left[to] === '0') to += Math.sign(by);
    const next = order[to];
    if (next === undefined) return;
    pick(next);
    for (const plot of field.plots) {
      const i = sets[plot.set]!.items.indexOf(next);
      if (i < 0) continue;
      const { y } = field.square(plot, i);
      if (y < top + 4) host!.scrollTop = y - 40;
      else if (y + cell > top + height) host!.scrollTop = y + cell + 20 - height;
    }
  }
  const said = $derived.by(() => {
    for (const set of sets) {
      const i = picked === null ? -1 : set.items.indexOf(picked);
      if (i >= 0) return `${set.path || '(top)'}, item ${i + 1} of ${set.items.length}, ${words[set.states[i]!]}`;
    }
    return 'no item picked';
  });
</script>

<!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_no_noninteractive_element_interactions -->
<div
  class="map"
  role="application"
  aria-label="field map of {all} items: {said}"
  tabindex="0"
  bind:this={host}
  style:height="min({field.height + 4}px, 440px, 52vh)"
  bind:clientWidth={width}
  bind:clientHeight={height}
  onscroll={(e) => (top = e.currentTarget.scrollTop)}
  onkeydown={key}
  onpointermove={(e) => (hover = at(e))}
  onpointerleave={() => (hover = null)}
  onclick={(e) => {
    const item = at(e);
    if (item !== null) pick(item);
  }}
  ondblclick={(e) => {
    const item = at(e);
    if (item !== null) open(item);
  }}
>
  <canvas bind:this={canvas} style:width="{width}px" style:height="{height}px"></canvas>
  <div style:height="{Math.max(0, field.height - height)}px"></div>
</div>
<div class="key" aria-hidden="true">
  {#each Object.entries(words) as [letter, word] (letter)}
    {@const color = signs[letter]!.color}
    <span
      ><svg width="11" height="11" viewBox="0 0 10 10" style:color="var({color})">
        {#if signs[letter]!.draw === 'full'}<rect width="10" height="10" fill="currentColor" />
        {:else if signs[letter]!.draw === 'hollow'}<rect
            x=".8"
            y=".8"
            width="8.4"
            height="8.4"
            fill="none"
            stroke="currentColor"
            stroke-width="1.5"
          />
        {:else if signs[letter]!.draw === 'half'}<rect
            x=".8"
            y=".8"
            width="8.4"
            height="8.4"
            fill="none"
            stroke="currentColor"
            stroke-width="1.5"
          /><rect y="5" width="10" height="5" fill="currentColor" />
        {:else if signs[letter]!.draw === 'triangle'}<path d="M5 0 10 10H0Z" fill="currentColor" />
        {:else if signs[letter]!.draw === 'cross'}<path d="M1 1l8 8M9 1 1 9" stroke="currentColor" stroke-width="2" />
        {:else if signs[letter]!.draw === 'bar'}<path d="M0 0h4v10H0zM6 0h4v10H6z" fill="currentColor" />
        {:else}<rect x="3" y="3" width="4" height="4" fill="currentColor" />{/if}
      </svg>{word}</span
    >
  {/each}
</div>

<style>
  .map {
    position: relative;
    overflow-y: auto;
    background: var(--panel);
    border: 1px solid var(--line);
    border-radius: 4px;
    min-height: 60px;
    cursor: pointer;
  }
  canvas {
    position: sticky;
    top: 0;
    display: block;
  }
  .key {
    display: flex;
    flex-wrap: wrap;
    gap: 14px;
    padding: 6px 2px;
    font-size: 12.5px;
    color: var(--soft);
  }
  .key span {
    display: inline-flex;
    gap: 5px;
    align-items: center;
  }
</style>
