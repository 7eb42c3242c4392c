<script lang="ts">
  /** An object, or a whole picture, close up on a stage of its own. The picture is there already, so the next one is up with the key. */
  import { paintAlone } from '$lib/plane/paint';
  import { shapeOf } from '$lib/plane/shapes';
  import type { Mark } from '$lib/words/mark';
  import type { Attribute } from '$lib/words/codebook';
  import type { ObjectEdits } from './edits.svelte';
  import { closeUp, lookBox } from './look';
  import type { Pictures, Shown } from './pictures.svelte';

  let {
    item,
    mark,
    question,
    edits,
    pictures,
    margin,
    width,
    height,
    outline = true
  }: {
    item: Shown & { width: number; height: number };
    mark: Mark | null;
    question: Attribute | null;
    edits: ObjectEdits;
    pictures: Pictures;
    margin: number;
    width: number;
    height: number;
    outline?: boolean;
  } = $props();
  let canvas: HTMLCanvasElement;
  const image = $derived(pictures.get(item));

  $effect(() => {
    const c = canvas.getContext('2d')!;
    const ratio = devicePixelRatio;
    const [w, h] = [Math.round(width * ratio), Math.round(height * ratio)];
    if (canvas.width !== w || canvas.height !== h) [canvas.width, canvas.height] = [w, h];
    c.setTransform(ratio, 0, 0, ratio, 0, 0);
    c.fillStyle = '#171b1a';
    c.fillRect(0, 0, width, height);
    // (a cloud is as large as its picture from above)
    const whole = { width: item.width || (image?.naturalWidth ?? 1), height: item.height || (image?.naturalHeight ?? 1) };
    const part = mark ? lookBox(mark, question) : { x: 0, y: 0, ...whole };
    const view = mark
      ? closeUp(part, { width, height }, margin)
      : (() => {
          const scale = Math.min(width / whole.width, height / whole.height);
          return { scale, x: (width - whole.width * scale) / 2, y: (height - whole.height * scale) / 2 };
        })();
    if (image) {
      c.imageSmoothingEnabled = view.scale < 4;
      c.imageSmoothingQuality = 'high';
      c.drawImage(image, view.x, view.y, whole.width * view.scale, whole.height * view.scale);
    }
    if (!mark || !outline) return;
    const shape = shapeOf(mark);
    paintAlone(c, view, shape, edits.words.bones(mark.class), edits.words.light(mark.class));
  });
</script>

<canvas bind:this={canvas} style:width="{width}px" style:height="{height}px" data-drawn={image ? 'yes' : 'no'}></canvas>

<style>
  canvas {
    display: block;
  }
</style>
