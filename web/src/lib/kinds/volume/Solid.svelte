<script lang="ts">
  /** The object in hand as a body one turns, in the corner of the sheet. It is only looked at, so what a browser can't show is said. */
  import { onMount } from 'svelte';
  import type { View } from './solid-view';
  import type { VolumeSurface } from './surface.svelte';
  import { surface as surfaceOf } from './solid';

  let { surface }: { surface: VolumeSurface } = $props();
  const { plane } = $derived(surface);
  const { hand, words } = $derived(plane.ports);
  /** the one in hand, else the largest there is */
  const mark = $derived.by(() => {
    void surface.changes;
    return hand.one?.stretches ? hand.one : null;
  });
  let canvas: HTMLCanvasElement;
  let width = $state(0);
  let height = $state(0);
  let view = $state.raw<View | null>(null);
  let failed = $state('');
  let empty = $state(true);
  let closed = false;

  onMount(() => {
    // loaded with the first volume, and only where there is something to show
    void import('./solid-view').then(
      ({ View }) => {
        if (closed) return;
        try {
          view = new View(canvas);
        } catch {
          failed = 'this browser shows no bodies: WebGL 2 is off. Turn on hardware acceleration, or use another browser; all else works.';
        }
      },
      (e: Error) => (failed = `what shows bodies could not be loaded: ${e.message}`)
    );
    return () => {
      closed = true;
      view?.close();
    };
  });
  $effect(() => view?.resize(width, height));
  // a stroke is followed a moment later: the body is for a look, the stroke for now
  $effect(() => {
    void [mark, surface.changes, surface.volume.index];
    const shown = view;
    if (!shown) return;
    const timer = setTimeout(() => {
      const { index } = surface.volume;
      const track = mark && surface.solids.of(mark.id);
      if (!index || !mark || !track) {
        empty = true;
        return shown.clear();
      }
      const of = surface.solids.slices(mark, track);
      const slices = new Map<number, number[]>();
      for (const [first, last] of mark.stretches ?? []) for (let z = first; z <= last; z++) slices.set(z, of(z));
      const body = surfaceOf(slices, index.sizes[1], index.spacing);
      empty = body.triangles.length === 0;
      shown.show(body, words.light(mark.class), mark.id, index.letters !== null && (index.letters[2] === 'S' || index.letters[2] === 'A'));
    }, 160);
    return () => clearTimeout(timer);
  });
</script>

<div class="solid" bind:clientWidth={width} bind:clientHeight={height}>
  <canvas bind:this={canvas} aria-label={mark ? `${words.nameOf(mark.class)} as a body` : 'no object is in hand'} class:empty></canvas>
  {#if failed !== ''}<p role="note">{failed}</p>{:else if empty}<p class="soft">take an object into hand to see it as a body</p>{/if}
</div>

<style>
  .solid {
    position: absolute;
    inset: 0;
  }
  canvas {
    width: 100%;
    height: 100%;
    display: block;
    touch-action: none;
    cursor: grab;
  }
  .empty {
    visibility: hidden;
  }
  p {
    position: absolute;
    inset: 0;
    display: grid;
    place-content: center;
    text-align: center;
    padding: 0 24px;
    font-size: 12.5px;
    pointer-events: none;
  }
</style>
