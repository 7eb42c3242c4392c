<script lang="ts">
  /** The picture with its marks. Three canvases: picture, settled marks, and what is in hand; each is drawn only when it changed. */
  import type { Bench } from './bench.svelte';
  import { markAt, type StageTool } from './tools';
  import type { Point } from './types';
  import { handleAt, handles, toPicture, toScreen, zoomAt, fitBox } from './view';
  import { paintMarker } from './marker';
  import { untrack } from 'svelte';

  let { bench, tool }: { bench: Bench; tool: StageTool } = $props();
  let host: HTMLElement;
  let pictureLayer: HTMLCanvasElement;
  let markLayer: HTMLCanvasElement;
  let handLayer: HTMLCanvasElement;
  let width = $state(0);
  let height = $state(0);
  let pointer = $state<Point | null>(null);
  let panning = $state<Point | null>(null);
  let space = $state(false);
  let beat = $state(0);
  const dirty = { picture: true, marks: true, hand: true };
  let frame = 0;

  const inPicture = (e: { clientX: number; clientY: number }): Point => {
    const r = host.getBoundingClientRect();
    return toPicture(bench.view, { x: e.clientX - r.left, y: e.clientY - r.top });
  };

  function ask(...layers: (keyof typeof dirty)[]) {
    for (const layer of layers) dirty[layer] = true;
    if (!frame) frame = requestAnimationFrame(paint);
  }

  function sized(canvas: HTMLCanvasElement): CanvasRenderingContext2D {
    const ratio = devicePixelRatio;
    const [w, h] = [Math.round(width * ratio), Math.round(height * ratio)];
    if (canvas.width !== w || canvas.height !== h) [canvas.width, canvas.height] = [w, h];
    const context = canvas.getContext('2d')!;
    context.setTransform(ratio, 0, 0, ratio, 0, 0);
    context.clearRect(0, 0, width, height);
    return context;
  }

  function paint() {
    frame = 0;
    if (width === 0) return;
    if (dirty.picture) paintPicture();
    if (dirty.marks) paintMarks();
    if (dirty.hand) paintHand();
    dirty.picture = dirty.marks = dirty.hand = false;
  }

  function paintPicture() {
    const c = sized(pictureLayer);
    const { scale, x, y } = bench.view;
    c.imageSmoothingEnabled = scale < 3;
    c.imageSmoothingQuality = 'medium';
    if (bench.image) c.drawImage(bench.image, x, y, bench.picture.width * scale, bench.picture.height * scale);
    else {
      c.fillStyle = '#0d100f';
      c.fillRect(x, y, bench.picture.width * scale, bench.picture.height * scale);
    }
  }

  function paintMarks() {
    const c = sized(markLayer);
    if (bench.hidden) return;
    const inHand = tool.preview()?.id;
    const [left, top] = [-40, -40];
    for (const s of bench.packet.suggestions) {
      const a = toScreen(bench.view, s.geometry);
      c.setLineDash([6, 4]);
      c.lineWidth = 1.5;
      c.strokeStyle = bench.light(s.class);
      c.strokeRect(a.x, a.y, s.geometry.width * bench.view.scale, s.geometry.height * bench.view.scale);
    }
    c.setLineDash([]);
    for (const mark of bench.marks) {
      if (mark.id === inHand) continue;
      const a = toScreen(bench.view, mark.geometry);
      const [w, h] = [mark.geometry.width * bench.view.scale, mark.geometry.height * bench.view.scale];
      if (a.x > width || a.y > height || a.x + w < left || a.y + h < top) continue;
      const lit = mark.id === bench.selected || mark.id === bench.hovered;
      const color = bench.light(mark.class);
      // a dark rim keeps the line visible on bright pictures
      c.lineWidth = lit ? 4.5 : 3.5;
      c.strokeStyle = 'rgba(12,16,15,.55)';
      c.strokeRect(a.x, a.y, w, h);
      c.lineWidth = lit ? 2.5 : 1.5;
      c.strokeStyle = color;
      c.strokeRect(a.x, a.y, w, h);
      if (lit) {
        c.fillStyle = color + '1c';
        c.fillRect(a.x, a.y, w, h);
      }
      if (w > 14 && h > 14) paintMarker(c, bench.looks.get(mark.class)?.marker ?? 'circle', color, a.x + 1, a.y - 1, 5);
      if (bench.findings.some((f) => f.mark === mark.id)) {
        c.fillStyle = '#f0845a';
        c.beginPath();
        c.arc(a.x + w, a.y, 5, 0, 7);
        c.fill();
        c.fillStyle = '#171b1a';
        c.font = '700 9px Hanken Grotesk Variable';
        c.textAlign = 'center';
        c.textBaseline = 'middle';
        c.fillText('!', a.x + w, a.y + 0.5);
      }
    }
    bench.packet.pins.forEach((pin, i) => {
      const p = toScreen(bench.view, pin);
      c.fillStyle = pin.turn_id === bench.packet.turn.id ? '#f0845a' : '#d8b09c';
      c.strokeStyle = '#171b1a';
      c.lineWidth = 1.5;
      c.beginPath();
      c.arc(p.x, p.y - 13, 9, Math.PI * 0.75, Math.PI * 2.25);
      c.lineTo(p.x, p.y);
      c.closePath();
      c.fill();
      c.stroke();
      c.fillStyle = '#171b1a';
      c.font = '600 11px IBM Plex Mono';
      c.textAlign = 'center';
      c.textBaseline = 'middle';
      c.fillText(String(i + 1), p.x, p.y - 13);
    });
  }

  function paintHand() {
    const c = sized(handLayer);
    if (pointer && bench.tool === 'box' && bench.editable && !panning) {
      // guides to line up with the outermost points of the object
      const p = toScreen(bench.view, pointer);
      c.lineWidth = 1;
      c.strokeStyle = bench.light(bench.active) + 'b0';
      c.beginPath();
      c.moveTo(Math.round(p.x) + 0.5, 0);
      c.lineTo(Math.round(p.x) + 0.5, height);
      c.moveTo(0, Math.round(p.y) + 0.5);
      c.lineTo(width, Math.round(p.y) + 0.5);
      c.stroke();
    }
    const hand = tool.preview();
    const mark = bench.mark;
    const box = hand?.box ?? (mark && !bench.hidden ? mark.geometry : null);
    if (!box) return;
    const a = toScreen(bench.view, box);
    const color = hand?.color ?? bench.light(mark!.class);
    if (hand) {
      c.lineWidth = 2;
      c.strokeStyle = color;
      c.strokeRect(a.x, a.y, box.width * bench.view.scale, box.height * bench.view.scale);
    }
    if (mark && bench.editable && (!hand || hand.id === mark.id)) {
      for (const handle of handles) {
        const h = toScreen(bench.view, handleAt(box, handle));
        c.fillStyle = '#171b1a';
        c.fillRect(h.x - 4, h.y - 4, 8, 8);
        c.fillStyle = color;
        c.fillRect(h.x - 2.5, h.y - 2.5, 5, 5);
      }
    }
  }

  // each effect names what its layer depends on, and only asks for a frame
  $effect(() => {
    void [bench.view.scale, bench.view.x, bench.view.y, width, height];
    ask('picture', 'marks', 'hand');
  });
  $effect(() => {
    void bench.image;
    ask('picture');
  });
  $effect(() => {
    for (const m of bench.marks) void [m.class, m.geometry.x, m.geometry.y, m.geometry.width, m.geometry.height];
    void [bench.selected, bench.hovered, bench.hidden, bench.looks, bench.findings, bench.packet, beat];
    ask('marks', 'hand');
  });
  $effect(() => {
    void [pointer, bench.tool, bench.active, panning];
    ask('hand');
  });
  $effect(() => {
    const size = { width, height };
    untrack(() => bench.resize(size));
  });

  const tag = $derived.by(() => {
    void [beat, bench.selected, bench.active, bench.view];
    if (!pointer || panning) return null;
    if (bench.tool === 'hand' || space) return { word: 'pan', color: '' };
    return tool.tag(pointer);
  });
  const place = $derived(pointer ? toScreen(bench.view, pointer) : { x: 0, y: 0 });
  const cursor = $derived.by(() => {
    void beat;
    if (panning) return 'grabbing';
    if (bench.tool === 'hand' || space) return 'grab';
    return pointer ? tool.cursor(pointer) : 'default';
  });

  function down(e: PointerEvent) {
    host.focus({ preventScroll: true });
    host.setPointerCapture(e.pointerId);
    if (e.button === 1 || (e.button === 0 && (space || bench.tool === 'hand'))) {
      panning = { x: e.clientX, y: e.clientY };
      e.preventDefault();
    } else if (e.button === 0) {
      tool.down(inPicture(e));
      beat++;
    }
  }
  function move(e: PointerEvent) {
    pointer = inPicture(e);
    if (panning) {
      bench.view = { ...bench.view, x: bench.view.x + e.clientX - panning.x, y: bench.view.y + e.clientY - panning.y };
      panning = { x: e.clientX, y: e.clientY };
      return;
    }
    const before = tool.preview()?.id;
    tool.move(pointer);
    ask('hand');
    // the mark in hand leaves the settled layer once, not at every move
    if (tool.preview()?.id !== before) ask('marks');
  }
  function up(e: PointerEvent) {
    if (panning) panning = null;
    else if (e.button === 0) {
      tool.up(inPicture(e));
      beat++;
    }
  }
  function wheel(e: WheelEvent) {
    e.preventDefault();
    const r = host.getBoundingClientRect();
    bench.view = zoomAt(
      bench.view,
      { x: e.clientX - r.left, y: e.clientY - r.top },
      Math.exp(-Math.max(-200, Math.min(200, e.deltaY)) * 0.0018)
    );
    pointer = inPicture(e);
  }
  /** two presses look closer at the object under the pointer */
  function closer(e: MouseEvent) {
    if (bench.tool !== 'pick') return;
    const mark = markAt(bench, inPicture(e));
    if (mark) bench.view = fitBox(mark.geometry, bench.stage);
  }

  export function holdSpace(held: boolean) {
    space = held;
  }
  export function cancel(): boolean {
    const was = tool.cancel();
    beat++;
    return was;
  }
</script>

<div
  class="stage"
  role="application"
  aria-label="picture {bench.packet.item.name}, {bench.picture.width} × {bench.picture.height} pixels"
  aria-describedby="stage-view"
  tabindex="-1"
  bind:this={host}
  bind:clientWidth={width}
  bind:clientHeight={height}
  style:cursor
  onpointerdown={down}
  onpointermove={move}
  onpointerup={up}
  onpointercancel={() => {
    tool.cancel();
    panning = null;
  }}
  onpointerleave={() => {
    pointer = null;
    bench.hovered = null;
  }}
  onwheel={wheel}
  ondblclick={closer}
  oncontextmenu={(e) => e.preventDefault()}
>
  <canvas bind:this={pictureLayer}></canvas>
  <canvas bind:this={markLayer}></canvas>
  <canvas bind:this={handLayer}></canvas>
  <span id="stage-view" class="unseen"
    >zoom {bench.view.scale.toFixed(5)}, picture at {bench.view.x.toFixed(3)}
    {bench.view.y.toFixed(3)}, {bench.image ? 'shown' : 'loading'}</span
  >
  {#if tag}
    <div class="tag" style:transform="translate({place.x + 14}px, {place.y + 16}px)">
      {#if tag.color}<i style:background={tag.color}></i>{/if}{tag.word}
    </div>
  {/if}
</div>

<style>
  .stage {
    position: relative;
    overflow: hidden;
    background: var(--stage);
    width: 100%;
    height: 100%;
    touch-action: none;
    outline: none;
  }
  canvas {
    position: absolute;
    inset: 0;
    width: 100%;
    height: 100%;
    pointer-events: none;
  }
  .tag {
    position: absolute;
    top: 0;
    left: 0;
    pointer-events: none;
    display: flex;
    gap: 5px;
    align-items: center;
    background: rgba(23, 27, 26, 0.86);
    color: #e9e4d8;
    border-radius: 3px;
    padding: 1px 7px;
    font-size: 12px;
    white-space: nowrap;
  }
  .tag i {
    width: 8px;
    height: 8px;
    border-radius: 2px;
  }
</style>
