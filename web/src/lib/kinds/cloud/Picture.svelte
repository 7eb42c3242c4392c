<script lang="ts">
  /** What a camera beside the scanner saw of this frame, with the cuboids where they are on it. A press takes the nearest. */
  import { best, covers, outlineOn } from './camera';
  import type { CloudSurface } from './surface.svelte';

  let { own }: { own: CloudSurface } = $props();
  const cameras = $derived(own.cameras);
  /** the one somebody chose; what is in hand is shown by the one that sees it best */
  const n = $derived(own.camera ?? (own.cuboid ? best(cameras, own.place, own.cuboid) : null) ?? 0);
  const camera = $derived(cameras[n]!);
  const ending = $derived(camera.pictures[own.place] ?? '');
  const src = $derived(ending === '' ? null : own.cloud.path(`${own.place}-${own.numberOf(camera)}.${ending}`));
  let failed = $state<string | null>(null);
  // the next one is here when it is gone to
  $effect(() => {
    const next = camera.pictures[own.place + 1];
    if (next) new Image().src = own.cloud.path(`${own.place + 1}-${own.numberOf(camera)}.${next}`);
  });
  /** the nearest last, over the others */
  const shown = $derived(
    own.drawn
      .flatMap((drawn) => {
        const outline = outlineOn(camera, drawn.cuboid);
        return outline ? [{ drawn, outline }] : [];
      })
      .sort((a, b) => b.outline.far - a.outline.far)
  );
  const points = (of: { x: number; y: number }[]): string => of.map((p) => `${p.x},${p.y}`).join(' ');
  let svg = $state<SVGSVGElement>();
  const at = (e: PointerEvent) => {
    const p = new DOMPoint(e.clientX, e.clientY).matrixTransform(svg!.getScreenCTM()!.inverse());
    return { x: p.x, y: p.y };
  };
  const under = (e: PointerEvent) => shown.findLast(({ outline }) => covers(outline, at(e)))?.drawn ?? null;
  function press(e: PointerEvent) {
    if (e.button === 0) own.press(under(e), null, e.shiftKey);
  }
</script>

<figure>
  {#if src === null}
    <p>no picture of this frame</p>
  {:else if failed === src}
    <p role="alert">the picture could not be loaded <button type="button" onclick={() => (failed = null)}>try again</button></p>
  {:else}
    <svg
      bind:this={svg}
      viewBox="0 0 {camera.width} {camera.height}"
      role="img"
      aria-label="what {camera.name} saw"
      data-picture={camera.name}
      onpointerdown={press}
      onpointermove={(e) => own.ports.hand.hover(under(e)?.id ?? null)}
      onpointerleave={() => own.ports.hand.hover(null)}
    >
      <image href={src} width={camera.width} height={camera.height} preserveAspectRatio="none" onerror={() => (failed = src)} />
      <!-- what lies beside the picture is not on it -->
      <svg width={camera.width} height={camera.height}>
        {#each shown as { drawn, outline } (drawn.id)}
          <g style:color={drawn.color} class:held={drawn.held} class:over={drawn.over} class:dashed={drawn.dashed} data-cuboid={drawn.id}>
            {#if outline.front.length > 0}<polygon points={points(outline.front)} />{/if}
            {#each outline.edges as [a, b], i (i)}<line x1={a.x} y1={a.y} x2={b.x} y2={b.y} />{/each}
          </g>
        {/each}
      </svg>
    </svg>
  {/if}
  <figcaption>
    {#if cameras.length === 1}
      {camera.name}
    {:else}
      {#each cameras as one, k (one.name)}
        <button type="button" aria-pressed={k === n} onclick={() => (own.camera = own.camera === k ? null : k)}>{one.name}</button>
      {/each}
    {/if}
  </figcaption>
</figure>

<style>
  figure {
    position: absolute;
    inset: 0;
    margin: 0;
    background: var(--surround, #171b1a);
    display: flex;
    align-items: center;
    justify-content: center;
  }
  figure > svg {
    width: 100%;
    height: 100%;
    touch-action: none;
  }
  line {
    stroke: currentColor;
    stroke-width: 1.5px;
    vector-effect: non-scaling-stroke;
  }
  polygon {
    fill: currentColor;
    fill-opacity: 0.12;
  }
  .held line,
  .over line {
    stroke-width: 2.5px;
  }
  .held polygon {
    fill-opacity: 0.35;
  }
  .dashed line {
    stroke-dasharray: 5 4;
  }
  p {
    color: var(--soft);
    font-size: 12px;
    margin: 0;
  }
  figcaption {
    position: absolute;
    left: 4px;
    top: 4px;
    font-size: 11.5px;
    background: rgba(23, 27, 26, 0.86);
    color: #b9b4a6;
    border-radius: 3px;
    padding: 0 6px;
    display: flex;
    gap: 6px;
  }
  button {
    color: inherit;
    text-decoration: underline;
  }
  figcaption button {
    text-decoration: none;
  }
  button[aria-pressed='true'] {
    color: #e9e4d8;
    font-weight: 600;
  }
</style>
