<script lang="ts">
  /** An object close up with its outline, from the square the server has cut. */
  import type { Mark } from '$lib/words/mark';
  import { paintAlone } from '$lib/plane/paint';
  import { bounds, shapeOf } from '$lib/plane/shapes';
  import type { Found, ObjectEdits } from './edits.svelte';

  let {
    object,
    mark,
    edits,
    side,
    margin,
    outline
  }: { object: Found; mark: Mark; edits: ObjectEdits; side: number; margin: number; outline: boolean } = $props();

  /** picture on each side of an object in the server's squares, as a share of its longer side */
  const AROUND = 0.6;
  let canvas: HTMLCanvasElement;
  let image = $state.raw<HTMLImageElement | null>(null);
  $effect(() => {
    const next = new Image();
    next.onload = () => (image = next);
    next.src = object.crop;
    return () => (next.onload = null);
  });
  $effect(() => {
    const c = canvas.getContext('2d')!;
    const ratio = devicePixelRatio;
    canvas.width = canvas.height = Math.round(side * ratio);
    c.setTransform(ratio, 0, 0, ratio, 0, 0);
    c.fillStyle = '#171b1a';
    c.fillRect(0, 0, side, side);
    if (mark.kind === 'cuboid') {
      // (its outline is drawn in its views already)
      if (image) c.drawImage(image, 0, 0, side, side);
      return;
    }
    const shape = shapeOf(mark);
    const b = bounds(shape);
    const size = Math.max(8, b.width, b.height);
    const scale = side / (size * (1 + 2 * margin));
    const view = { scale, x: side / 2 - (b.x + b.width / 2) * scale, y: side / 2 - (b.y + b.height / 2) * scale };
    const shown = size * (1 + 2 * AROUND) * scale;
    if (image) {
      c.imageSmoothingQuality = 'high';
      c.drawImage(image, (side - shown) / 2, (side - shown) / 2, shown, shown);
    }
    if (!outline) return;
    paintAlone(c, view, shape, edits.words.bones(mark.class), edits.words.light(mark.class));
  });
</script>

<canvas bind:this={canvas} style:width="{side}px" style:height="{side}px" data-drawn={image ? 'yes' : 'no'}></canvas>

<style>
  canvas {
    display: block;
  }
</style>
