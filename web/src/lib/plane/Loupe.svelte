<script lang="ts">
  /** What lies under the point being pulled, enlarged, so that a corner is set to the pixel without zooming there and back. */
  import type { Point } from '$lib/words/mark';
  import type { Ground } from './ground';

  let {
    ground,
    at,
    stage,
    color
  }: {
    ground: Ground;
    at: Point;
    stage: { x: number; y: number; width: number };
    color: string;
  } = $props();
  const side = 132;
  /** picture px across */
  const span = 22;
  let canvas: HTMLCanvasElement;
  // it stands beside the pointer, never on what is being set
  const left = $derived(stage.x + 28 + side > stage.width ? stage.x - 28 - side : stage.x + 28);
  const top = $derived(stage.y - 24 - side < 4 ? stage.y + 40 : stage.y - 24 - side);

  $effect(() => {
    const c = canvas.getContext('2d')!;
    const px = (side * devicePixelRatio) / span;
    canvas.width = canvas.height = side * devicePixelRatio;
    c.imageSmoothingEnabled = false;
    ground.cut(c, { x: at.x - span / 2, y: at.y - span / 2, width: span, height: span }, canvas.width);
    c.strokeStyle = color;
    c.lineWidth = devicePixelRatio;
    c.beginPath();
    const middle = (span / 2) * px;
    c.moveTo(middle, 0);
    c.lineTo(middle, canvas.height);
    c.moveTo(0, middle);
    c.lineTo(canvas.width, middle);
    c.stroke();
  });
</script>

<canvas
  class="loupe"
  bind:this={canvas}
  style:transform="translate({left}px, {top}px)"
  style:width="{side}px"
  style:height="{side}px"
  aria-hidden="true"
></canvas>

<style>
  .loupe {
    position: absolute;
    top: 0;
    left: 0;
    pointer-events: none;
    border: 1px solid var(--edge);
    border-radius: 4px;
    background: var(--stage);
  }
</style>
