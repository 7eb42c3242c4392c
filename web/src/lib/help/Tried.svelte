<script lang="ts">
  /** One item with what a model would suggest on it: dashed from the confidence that is set, faint below. */
  import { drawnOf, pen, RIM } from '$lib/plane/layers/pens';
  import { paintMask } from '$lib/plane/runs';
  import { say } from '$lib/words/codebook';
  import { dots } from '$lib/plane/shapes';
  import type { Mark, Shape } from '$lib/words/mark';
  import type { Words } from '$lib/words/words.svelte';
  import type { Tried } from './help.svelte';

  let { tried, from, own = {}, words }: { tried: Tried; from: number; own?: Record<string, number>; words: Words } = $props();
  function told(w: Tried['words'][number]): string {
    if (!w.answer) return words.itemTags.find((t) => t.key === w.key)?.name ?? w.key;
    const question = words.document.attributes?.find((a) => a.key === w.key);
    return question ? `${question.name}: ${say(question, w.answer)}` : w.key;
  }
  const is = (t: Tried['things'][number]) => t.confidence >= (own[t.class] ?? from);
  let canvas: HTMLCanvasElement | undefined = $state();
  let width = $state(0);
  const scale = $derived(width / Math.max(1, tried.item.width));
  const height = $derived(Math.round(tried.item.height * scale));
  const sure = $derived(tried.things.filter(is));

  let lettered = $state(false);
  // a canvas does not wait for letters that are still on their way
  $effect(() => void document.fonts.load('600 10px "IBM Plex Mono"').then(() => (lettered = true)));
  $effect(() => {
    void lettered;
    const c = canvas?.getContext('2d');
    if (!c || width === 0) return;
    [c.canvas.width, c.canvas.height] = [width * devicePixelRatio, height * devicePixelRatio];
    c.setTransform(devicePixelRatio, 0, 0, devicePixelRatio, 0, 0);
    const view = { scale, x: 0, y: 0 };
    const part = { x: 0, y: 0, width: tried.item.width, height: tried.item.height };
    for (const thing of tried.things) {
      const shape = { kind: thing.kind, geometry: thing.geometry } as Shape;
      const chosen = is(thing);
      const color = words.light(thing.class);
      c.globalAlpha = chosen ? 1 : 0.55;
      if (shape.kind === 'mask') paintMask(c, view, shape.geometry, part, color, chosen ? 0.45 : 0.15);
      const drawn = drawnOf(thing as unknown as Mark, shape, view, words.bones(thing.class));
      c.setLineDash(chosen ? [5, 3] : [1.5, 4]);
      c.lineWidth = 3.4;
      c.strokeStyle = RIM;
      pen(c, drawn);
      c.lineWidth = 1.8;
      c.strokeStyle = color;
      pen(c, drawn);
      c.setLineDash([]);
      if (shape.kind === 'skeleton' || shape.kind === 'points') dots(c, view, shape, words.bones(thing.class), color, false);
      if (chosen) {
        c.font = '600 10px IBM Plex Mono';
        const text = thing.confidence.toFixed(2);
        c.fillStyle = 'rgba(23,27,26,.82)';
        c.fillRect(drawn.x, drawn.y - 12, c.measureText(text).width + 4, 12);
        c.fillStyle = color;
        c.fillText(text, drawn.x + 2, drawn.y - 3);
      }
    }
    c.globalAlpha = 1;
  });
</script>

<figure>
  <div class="picture" bind:clientWidth={width} style:aspect-ratio="{tried.item.width} / {tried.item.height}">
    <img src={tried.item.picture.screen} alt="" />
    <canvas bind:this={canvas} style:width="{width}px" style:height="{height}px"></canvas>
  </div>
  {#if tried.words.length > 0}<div class="words">
      {#each tried.words as w (w.key + (w.answer ? '' : '#'))}<span class:sure={w.confidence >= from}
          >{told(w)} <span class="num">{w.confidence.toFixed(2)}</span></span
        >{/each}
    </div>{/if}
  <figcaption>
    <span class="name">{tried.item.name}</span>
    {#if tried.found > 0 || tried.words.length === 0}<span class="num">{sure.length}</span> of
      <span class="num">{tried.things.length}</span>{/if}{#if tried.found > tried.things.length}
      <span class="soft">; {tried.found - tried.things.length} of no class here</span>{/if}
  </figcaption>
</figure>

<style>
  figure {
    margin: 0;
    min-width: 0;
  }
  .picture {
    position: relative;
    background: var(--stage);
    border-radius: 3px;
    overflow: hidden;
  }
  img,
  canvas {
    position: absolute;
    inset: 0;
    width: 100%;
    height: 100%;
  }
  figcaption {
    font-size: 12.5px;
    padding-top: 3px;
    display: flex;
    gap: 5px;
  }
  .words {
    display: flex;
    flex-wrap: wrap;
    gap: 3px;
    font-size: 12px;
    padding-top: 2px;
  }
  .words > span {
    border: 1px dashed var(--edge);
    border-radius: 4px;
    padding: 0 6px;
    opacity: 0.6;
  }
  .words > span.sure {
    opacity: 1;
    border-color: var(--primary);
  }
  .name {
    margin-right: auto;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
</style>
