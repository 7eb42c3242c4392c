<script lang="ts">
  /** One of the two planes that stand on the large one, in line with it: what is shared lies at the same place, at the same scale. */
  import { drawRuns } from '$lib/plane/runs';
  import { Maximize2 } from '@lucide/svelte';
  import { onMount } from 'svelte';
  import type { Axis, Spot } from './facing';
  import type { Direction } from './planes';
  import type { VolumeSurface } from './surface.svelte';

  let { surface, role }: { surface: VolumeSurface; role: 'right' | 'below' } = $props();
  let width = $state(0);
  let height = $state(0);
  let canvas: HTMLCanvasElement;
  let host: HTMLElement;
  let raf = 0;
  const scratch = document.createElement('canvas');
  const { plane, volume } = $derived(surface);
  const { words, hand, chosen, editor } = $derived(plane.ports);

  const NAMES: Record<Direction, string> = { xy: 'slice', xz: 'from the front', yz: 'from the side' };
  /** Which axes it has: one it shares with the large plane, and the one that is looked along there. */
  const axes = $derived.by((): { across: Axis; down: Axis; through: Axis; direction: Direction } | null => {
    const large = surface.facing;
    if (!large) return null;
    const [across, down] = role === 'right' ? [large.through, large.down] : [large.across, large.through];
    const through = (3 - across - down) as Axis;
    return { across, down, through, direction: through === 0 ? 'yz' : through === 1 ? 'xz' : 'xy' };
  });
  /** Where an axis lies on the screen: from which px on, px a voxel, and whether it counts from the other end. */
  const lies = $derived.by(() => {
    const large = surface.facing;
    const { index } = volume;
    if (!large || !axes || !index) return null;
    const { view } = plane.sight;
    const deep = axes.across === large.through ? axes.across : axes.down;
    const px = (view.scale * index.spacing[deep]) / large.mm;
    const turned = role === 'below' && deep === 2 && (index.letters?.[2] === 'S' || index.letters?.[2] === 'A');
    const middle = role === 'right' ? width / 2 : height / 2;
    const n = index.sizes[deep];
    const cross = volume.cross[deep];
    const at = turned ? n - 1 - cross : cross;
    const depth = { from: middle - (at + 0.5) * px, px, turned, n };
    const shared =
      role === 'right'
        ? { from: view.y, px: view.scale * large.scale.down, turned: large.turned.down, n: index.sizes[large.down] }
        : { from: view.x, px: view.scale * large.scale.across, turned: large.turned.across, n: index.sizes[large.across] };
    return role === 'right' ? { across: depth, down: shared } : { across: shared, down: depth };
  });
  const letters = $derived.by(() => {
    const all = volume.index?.letters;
    if (!all || !axes || !lies) return null;
    const other = (l: string) => ({ L: 'R', R: 'L', A: 'P', P: 'A', S: 'I', I: 'S' })[l] ?? '';
    const [right, low] = [all[axes.across]!, all[axes.down]!];
    return {
      right: lies.across.turned ? other(right) : right,
      left: lies.across.turned ? right : other(right),
      low: lies.down.turned ? other(low) : low,
      up: lies.down.turned ? low : other(low)
    };
  });
  const pixel = (on: { from: number; px: number; turned: boolean; n: number }, voxel: number): number =>
    on.from + ((on.turned ? on.n - 1 - voxel : voxel) + 0.5) * on.px;
  const cross = $derived(
    lies && axes ? { x: pixel(lies.across, volume.cross[axes.across]), y: pixel(lies.down, volume.cross[axes.down]) } : null
  );

  onMount(() => {
    const ask = () => {
      if (raf === 0)
        raf = requestAnimationFrame(() => {
          raf = 0;
          paint();
        });
    };
    again = ask;
    ask();
    return () => {
      cancelAnimationFrame(raf);
      raf = -1;
    };
  });
  let again = () => {};
  $effect(() => {
    void [
      lies,
      width,
      height,
      volume.version,
      volume.cross,
      volume.window.version,
      surface.changes,
      hand.selected,
      hand.hovered,
      surface.growing.found,
      plane.show.hidden,
      plane.show.opacity,
      words.looks
    ];
    again();
  });

  function paint() {
    if (width === 0 || height === 0 || !canvas) return;
    const ratio = devicePixelRatio;
    const [w, h] = [Math.round(width * ratio), Math.round(height * ratio)];
    if (canvas.width !== w || canvas.height !== h) [canvas.width, canvas.height] = [w, h];
    const c = canvas.getContext('2d')!;
    c.setTransform(1, 0, 0, 1, 0, 0);
    c.clearRect(0, 0, w, h);
    if (!axes || !lies) return;
    const facing = volume.facings![axes.direction];
    const picture = volume.picture(axes.direction);
    if (!picture) return;
    /** From px of a picture of this direction, `across` and `down` of them a voxel, to the screen. */
    const place = (across: number, down: number) => {
      // on a picture the facing's axes go across and down; here they may lie the other way round
      const swapped = facing.across !== axes!.across;
      const along = (axis: Axis, of: 'across' | 'down', scale: number) => {
        const on = axis === axes!.across ? lies!.across : lies!.down;
        const flips = on.turned !== facing.turned[of];
        const px = on.px / scale;
        return { px: flips ? -px : px, from: flips ? on.from + on.n * on.px : on.from };
      };
      const a = along(facing.across, 'across', across);
      const d = along(facing.down, 'down', down);
      if (swapped) c.setTransform(0, a.px * ratio, d.px * ratio, 0, d.from * ratio, a.from * ratio);
      else c.setTransform(a.px * ratio, 0, 0, d.px * ratio, a.from * ratio, d.from * ratio);
    };
    place(1, 1);
    c.imageSmoothingEnabled = Math.max(lies.across.px, lies.down.px) < 6;
    c.drawImage(picture, 0, 0);
    if (plane.show.hidden) return;
    place(facing.scale.across, facing.scale.down);
    const whole = { x: 0, y: 0, width: facing.width, height: facing.height };
    const lay = (edges: number[], color: string, opacity: number) => {
      if (edges.length === 0) return;
      const drawn = drawRuns(scratch, edges, facing.height, whole, whole, 1, color);
      if (!drawn) return;
      c.globalAlpha = opacity;
      c.imageSmoothingEnabled = false;
      c.drawImage(drawn.canvas, drawn.x, drawn.y);
      c.globalAlpha = 1;
    };
    const { solids, sizes } = surface;
    for (const mark of [...editor.marks.all()].sort((a, b) => words.stackOf(a) - words.stackOf(b)))
      lay(
        solids.cut(mark, facing, sizes, volume.cross),
        words.light(mark.class),
        hand.has(mark.id) || hand.hovered === mark.id ? plane.show.opacity.hand : plane.show.opacity.all
      );
    lay(surface.grownOn(facing, volume.cross), words.light(chosen.active), 0.5);
  }

  // --- by hand
  let pressed = false;
  function spot(e: PointerEvent): Spot | null {
    if (!axes || !lies) return null;
    const r = host.getBoundingClientRect();
    const voxel = (on: { from: number; px: number; turned: boolean; n: number }, p: number) => {
      const v = Math.max(0, Math.min(on.n - 1, Math.floor((p - on.from) / on.px)));
      return on.turned ? on.n - 1 - v : v;
    };
    const next: Spot = [...volume.cross];
    next[axes.across] = voxel(lies.across, e.clientX - r.left);
    next[axes.down] = voxel(lies.down, e.clientY - r.top);
    return next;
  }
  /** the view stays while one drags, so that what is meant does not run away from the pointer */
  function go(e: PointerEvent) {
    const to = spot(e);
    if (to) void surface.meet(to);
  }
  const label = $derived(axes ? NAMES[axes.direction] : '');
</script>

<div
  class="side {role}"
  role="group"
  aria-label="plane {label}"
  bind:this={host}
  bind:clientWidth={width}
  bind:clientHeight={height}
  onpointerdown={(e) => {
    if (e.button !== 0 || (e.target as HTMLElement).closest('button')) return;
    host.setPointerCapture(e.pointerId);
    pressed = true;
    go(e);
  }}
  onpointermove={(e) => pressed && go(e)}
  onpointerup={() => (pressed = false)}
  onpointercancel={() => (pressed = false)}
  ondblclick={() => axes && surface.turn(axes.direction)}
  onwheel={(e) => {
    e.preventDefault();
    if (!axes || e.deltaY === 0) return;
    const next: Spot = [...volume.cross];
    next[axes.through] += e.deltaY > 0 ? 1 : -1;
    void surface.meet(next);
  }}
>
  <canvas bind:this={canvas}></canvas>
  {#if cross && !plane.show.hidden}
    <svg aria-hidden="true" style:color={words.light(hand.mark?.class ?? chosen.active)}>
      <line x1={cross.x} y1={0} x2={cross.x} y2={height} /><line x1={0} y1={cross.y} x2={width} y2={cross.y} />
    </svg>
  {/if}
  {#if letters}
    <b style:left="9px" style:top="50%">{letters.left}</b><b style:right="3px" style:top="50%">{letters.right}</b>
    <b style:left="50%" style:top="11px">{letters.up}</b><b style:left="50%" style:bottom="-4px">{letters.low}</b>
  {/if}
  {#if axes}
    <button class="name" title="make this the large plane" aria-label="make large: {label}" onclick={() => surface.turn(axes!.direction)}>
      {label}
      <span class="num">{volume.cross[axes.through] + 1}</span><Maximize2 size={12} />
    </button>
  {/if}
</div>

<style>
  .side {
    position: relative;
    overflow: hidden;
    min-width: 0;
    min-height: 0;
    background: var(--stage);
    cursor: crosshair;
    touch-action: none;
    user-select: none;
  }
  canvas,
  svg {
    position: absolute;
    inset: 0;
    width: 100%;
    height: 100%;
    pointer-events: none;
  }
  line {
    stroke: currentColor;
    stroke-width: 1;
    opacity: 0.5;
  }
  b {
    position: absolute;
    transform: translate(-50%, -50%);
    color: #d8d2c2;
    font-size: 12px;
    pointer-events: none;
    text-shadow: 0 0 3px #000;
  }
  .name {
    position: absolute;
    top: 5px;
    right: 5px;
    display: flex;
    gap: 6px;
    align-items: center;
    font-size: 12px;
    color: #d8d2c2;
    background: rgba(23, 27, 26, 0.8);
    border-radius: 3px;
    padding: 2px 6px;
    cursor: pointer;
  }
  .name:hover {
    color: #fff;
  }
</style>
