<script lang="ts">
  /** The picture with its marks. Three canvases: picture, settled marks, and what is in hand; each is drawn only when it changed. */
  import type { Bench } from './bench.svelte';
  import { coverage } from './coverage';
  import Loupe from './Loupe.svelte';
  import { paintMarker } from './marker';
  import { dots, paintMask, trace } from './paint';
  import { nearby } from './nearby';
  import { anchor, bounds, handlesOf, shapeOf } from './shapes';
  import { PaintTool, type StageTool } from './tools';
  import { markAt } from './tools/tool';
  import { fromServer, type Mark, type Point, type Shape } from './types';
  import { toPicture, toScreen, zoomAt, fitBox } from './view';
  import { untrack } from 'svelte';

  let { bench, tool, drawn }: { bench: Bench; tool: StageTool; drawn: () => void } = $props();
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

  /** A layer ready to be drawn on anew, in px of the stage; with a rim round what is shown where it is to be moved before it is drawn again. */
  function sized(canvas: HTMLCanvasElement, rim = 0): CanvasRenderingContext2D {
    const ratio = devicePixelRatio;
    const [w, h] = [Math.round((width + 2 * rim) * ratio), Math.round((height + 2 * rim) * ratio)];
    if (canvas.width !== w || canvas.height !== h) {
      [canvas.width, canvas.height] = [w, h];
      [canvas.style.width, canvas.style.height] = [`${width + 2 * rim}px`, `${height + 2 * rim}px`];
      canvas.style.left = canvas.style.top = `${-rim}px`;
    }
    const context = canvas.getContext('2d')!;
    context.setTransform(ratio, 0, 0, ratio, 0, 0);
    context.clearRect(0, 0, width + 2 * rim, height + 2 * rim);
    context.setTransform(ratio, 0, 0, ratio, rim * ratio, rim * ratio);
    return context;
  }

  /**
   * Picture and settled marks are drawn with a rim and then only moved and scaled as whole layers while the view changes; they are drawn
   * sharp again when it has come to rest. A frame of panning is then no work to speak of, whatever lies on the picture.
   */
  const air = 220;
  const drawnAt = { picture: { scale: 0, x: 0, y: 0 }, marks: { scale: 0, x: 0, y: 0 }, hand: { scale: 0, x: 0, y: 0 } };
  let rest: ReturnType<typeof setTimeout> | undefined;
  function follow() {
    for (const [name, canvas] of [
      ['picture', pictureLayer],
      ['marks', markLayer],
      ['hand', handLayer]
    ] as const) {
      const was = drawnAt[name];
      const rim = name === 'hand' ? 0 : air;
      const { scale, x, y } = bench.view;
      if (was.scale === 0) continue;
      const by = scale / was.scale;
      const same = by === 1 && was.x === x && was.y === y;
      canvas.style.transform = same ? '' : `translate(${x - by * (was.x + rim) + rim}px, ${y - by * (was.y + rim) + rim}px) scale(${by})`;
    }
    clearTimeout(rest);
    rest = setTimeout(() => {
      ask('picture', 'marks', 'hand');
      if (bench.image) bench.sight();
    }, 90);
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
    const c = sized(pictureLayer, air);
    drawnAt.picture = { ...bench.view };
    pictureLayer.style.transform = '';
    const { scale, x, y } = bench.view;
    c.imageSmoothingEnabled = scale < 3;
    c.imageSmoothingQuality = 'medium';
    if (bench.image) c.drawImage(bench.image, x, y, bench.picture.width * scale, bench.picture.height * scale);
    else {
      c.fillStyle = '#0d100f';
      c.fillRect(x, y, bench.picture.width * scale, bench.picture.height * scale);
    }
  }

  /** Marks on the part that is drawn, lowest in the stack first. */
  function shown(): { mark: Mark; shape: Shape; x: number; y: number; w: number; h: number }[] {
    const { scale, x, y } = bench.view;
    const inHand = tool.preview()?.id;
    const part = { x: (-x - air) / scale, y: (-y - air) / scale, width: (width + 2 * air) / scale, height: (height + 2 * air) / scale };
    return (
      nearby(bench.marks, part)
        // a mask in hand is drawn once, by itself: twice would be twice as dense
        .filter((mark) => mark.id !== inHand && !(mark.kind === 'mask' && mark.id === bench.selected))
        .map((mark) => {
          const shape = shapeOf(mark);
          const b = bounds(shape);
          return { mark, shape, x: b.x * scale + x, y: b.y * scale + y, w: b.width * scale, h: b.height * scale };
        })
        .sort((a, b) => bench.stackOf(a.mark) - bench.stackOf(b.mark))
    );
  }

  function paintMarks() {
    const c = sized(markLayer, air);
    drawnAt.marks = { ...bench.view };
    markLayer.style.transform = '';
    if (bench.coverage && !bench.hidden) {
      covered ??= coverage(bench.marks, bench.picture);
      const { scale, x, y } = bench.view;
      c.imageSmoothingEnabled = scale < 1;
      c.drawImage(covered, x, y, bench.picture.width * scale, bench.picture.height * scale);
    }
    if (bench.hidden) return;
    const all = shown();
    for (const { mark } of all)
      if (mark.kind === 'mask') paintMask(c, bench.view, mark.geometry, bench.light(mark.class), bench.opacity.all);
    const lines = all.filter((m) => m.shape.kind !== 'mask').map((m) => ({ ...m, path: pathOf(m.shape, m.mark.class) }));
    c.lineJoin = 'round';
    c.lineWidth = 1.5 * bench.weight + 2;
    c.strokeStyle = 'rgba(12,16,15,.55)';
    for (const m of lines) pen(c, m);
    c.lineWidth = 1.5 * bench.weight;
    let color = '';
    for (const m of lines) {
      const next = bench.light(m.mark.class);
      // setting the pen is not free
      if (next !== color) c.strokeStyle = color = next;
      pen(c, m);
    }
    for (const { mark, shape } of all)
      if (shape.kind === 'points' || shape.kind === 'skeleton')
        dots(c, bench.view, shape, bench.bones(mark.class), bench.light(mark.class), false);
    c.setLineDash([6, 4]);
    c.strokeStyle = '#e9e4d8';
    for (const s of bench.packet.suggestions) {
      const path = new Path2D();
      trace(path, bench.view, shapeOf(fromServer(s)), bench.bones(s.class));
      c.stroke(path);
    }
    c.setLineDash([]);
    const doubtful = new Set(bench.findings.map((f) => f.mark));
    for (const { mark, shape, x, y, w, h } of all) {
      // thousands of small marks are told apart by their lines alone
      if (Math.max(w, h) > 14 && (all.length < 600 || w + h > 160) && mark.kind !== 'skeleton' && mark.kind !== 'points') {
        const sign = toScreen(bench.view, anchor(shape));
        paintMarker(c, bench.looks.get(mark.class)?.marker ?? 'circle', bench.light(mark.class), sign.x + 1, sign.y - 1, 5);
      }
      if (doubtful.has(mark.id)) {
        c.fillStyle = '#f0845a';
        c.beginPath();
        c.arc(x + w, y, 5, 0, 7);
        c.fill();
        c.fillStyle = '#171b1a';
        c.font = '700 9px Hanken Grotesk Variable';
        c.textAlign = 'center';
        c.textBaseline = 'middle';
        c.fillText('!', x + w, y + 0.5);
      }
    }
    if (bench.names) paintNames(c, all);
    paintPins(c);
  }
  /** Which class a mark is of, written above its top left corner. */
  function paintNames(c: CanvasRenderingContext2D, all: { mark: Mark; x: number; y: number; w: number; h: number }[]) {
    c.font = '600 12px Hanken Grotesk Variable';
    c.textAlign = 'left';
    c.textBaseline = 'bottom';
    for (const { mark, x, y, w, h } of all) {
      if (Math.max(w, h) < 14) continue;
      const name = bench.nameOf(mark.class);
      c.fillStyle = 'rgba(23,27,26,.8)';
      c.fillRect(x + 7, y - 19, c.measureText(name).width + 8, 16);
      c.fillStyle = bench.light(mark.class);
      c.fillText(name, x + 11, y - 4);
    }
  }
  /** Boxes need no path; and many small paths are drawn sooner than one large one. */
  function pathOf(shape: Shape, key: string): Path2D | null {
    if (shape.kind === 'box') return null;
    const path = new Path2D();
    trace(path, bench.view, shape, bench.bones(key));
    return path;
  }
  function pen(c: CanvasRenderingContext2D, m: { path: Path2D | null; x: number; y: number; w: number; h: number }) {
    if (m.path) c.stroke(m.path);
    else c.strokeRect(m.x, m.y, m.w, m.h);
  }

  /** Everything but the marks in hand lies in shade. */
  function paintShade(c: CanvasRenderingContext2D) {
    c.fillStyle = 'rgba(10,13,12,.66)';
    c.fillRect(0, 0, width, height);
    for (const mark of bench.inHand) {
      const b = bounds(shapeOf(mark));
      const a = toScreen(bench.view, b);
      c.clearRect(a.x - 6, a.y - 6, b.width * bench.view.scale + 12, b.height * bench.view.scale + 12);
    }
  }
  /** What has not been on the screen close up yet. */
  function paintUnseen(c: CanvasRenderingContext2D) {
    const { scale, x, y } = bench.view;
    const side = bench.seen.cell * scale;
    c.fillStyle = 'rgba(28,40,66,.62)';
    for (let row = 0; row < bench.seen.rows; row++)
      for (let column = 0; column < bench.seen.columns; column++)
        if (!bench.seen.has(column, row)) {
          const [left, top] = [x + column * side, y + row * side];
          c.fillRect(
            left,
            top,
            Math.min(side, x + bench.picture.width * scale - left) + 0.5,
            Math.min(side, y + bench.picture.height * scale - top) + 0.5
          );
        }
  }

  /** The marks in hand and under the pointer, strong, over the settled ones. */
  function paintLit(c: CanvasRenderingContext2D) {
    if (bench.hidden) return;
    const ids = new Set([bench.selected, bench.hovered, ...bench.others]);
    const inHand = tool.preview()?.id;
    for (const mark of bench.marks) {
      if (!ids.has(mark.id) || mark.id === inHand) continue;
      const color = bench.light(mark.class);
      const shape = shapeOf(mark);
      if (shape.kind === 'mask') {
        paintMask(c, bench.view, shape.geometry, color, bench.opacity.hand);
        continue;
      }
      const path = new Path2D();
      trace(path, bench.view, shape, bench.bones(mark.class));
      if (shape.kind !== 'polyline' && shape.kind !== 'skeleton') {
        c.fillStyle = color + '1c';
        c.fill(path, 'evenodd');
      }
      stroke(c, path, color, true);
      dots(c, bench.view, shape, bench.bones(mark.class), color, true);
    }
  }

  function paintPins(c: CanvasRenderingContext2D) {
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

  /** The browser tones the picture's layer as a whole; the picture is not drawn again for it. */
  const filter = $derived.by(() => {
    const { brightness, contrast, gamma } = bench.tone;
    const parts = [
      ...(brightness !== 1 ? [`brightness(${brightness})`] : []),
      ...(contrast !== 1 ? [`contrast(${contrast})`] : []),
      ...(gamma !== 1 ? ['url(#gamma)'] : [])
    ];
    return parts.length > 0 ? parts.join(' ') : undefined;
  });

  let covered: HTMLCanvasElement | null = null;
  /** a dark rim keeps the line visible on bright pictures */
  function stroke(c: CanvasRenderingContext2D, path: Path2D, color: string, strong: boolean) {
    c.lineJoin = 'round';
    const width = (strong ? 2.5 : 1.5) * bench.weight;
    c.lineWidth = width + 2;
    c.strokeStyle = 'rgba(12,16,15,.55)';
    c.stroke(path);
    c.lineWidth = width;
    c.strokeStyle = color;
    c.stroke(path);
  }

  function paintHand() {
    const c = sized(handLayer);
    drawnAt.hand = { ...bench.view };
    handLayer.style.transform = '';
    const drawing = bench.tool === 'draw' && bench.editable;
    const color = bench.light(bench.mark && bench.painted ? bench.mark.class : bench.active);
    if (bench.unseenShown) paintUnseen(c);
    if (bench.shade && bench.inHand.length > 0 && !bench.hidden) paintShade(c);
    if (pointer && drawing && !panning && bench.shape !== 'mask') {
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
    paintLit(c);
    if (tool instanceof PaintTool) paintBrush(c, tool, color);
    const hand = tool.preview();
    if (bench.proposal) {
      const { shape } = bench.proposal;
      if (shape.kind === 'mask') paintMask(c, bench.view, shape.geometry, '#f0e05a', 0.5);
      const path = new Path2D();
      trace(path, bench.view, shape, []);
      c.setLineDash([5, 4]);
      c.lineWidth = 2;
      c.strokeStyle = '#f0e05a';
      c.stroke(path);
      c.setLineDash([]);
    }
    if (hand?.box) {
      const a = toScreen(bench.view, hand.box);
      c.setLineDash([4, 3]);
      c.lineWidth = 1.2;
      c.strokeStyle = hand.color;
      c.strokeRect(a.x, a.y, hand.box.width * bench.view.scale, hand.box.height * bench.view.scale);
      c.setLineDash([]);
    }
    if (hand?.shape) {
      const path = new Path2D();
      const bones = bench.bones(hand.id ? (bench.mark?.class ?? '') : bench.active);
      trace(path, bench.view, hand.shape, bones);
      if (hand.shape.kind === 'mask') paintMask(c, bench.view, hand.shape.geometry, hand.color, bench.opacity.hand);
      stroke(c, path, hand.color, false);
      dots(c, bench.view, hand.shape, bones, hand.color, true);
    }
    if (hand?.line) {
      const path = new Path2D();
      trace(path, bench.view, { kind: 'polyline', geometry: { points: hand.line } }, []);
      stroke(c, path, hand.color, false);
      if (hand.dots && hand.dots.length < 2000) {
        c.fillStyle = hand.color;
        for (let i = 0; i < hand.dots.length; i += 2) {
          const p = toScreen(bench.view, { x: hand.dots[i]!, y: hand.dots[i + 1]! });
          const r = i === 0 ? 5 : 2.5;
          c.fillRect(p.x - r, p.y - r, 2 * r, 2 * r);
        }
      }
    }
    const mark = bench.mark;
    if (mark && bench.editable && !bench.hidden && bench.others.length === 0 && !bench.painted && (!hand || hand.id === mark.id))
      paintHandles(c, hand?.shape ?? shapeOf(mark), bench.light(mark.class));
    if (mark && bench.air?.mark === mark.id) paintAir(c, mark);
  }

  function paintHandles(c: CanvasRenderingContext2D, shape: Shape, color: string) {
    for (const handle of handlesOf(shape, bench.view.scale)) {
      const h = toScreen(bench.view, handle.at);
      if (h.x < -8 || h.y < -8 || h.x > width + 8 || h.y > height + 8) continue;
      const taken = handle.key === bench.point;
      const r = handle.faint ? 2.5 : taken ? 6 : 4;
      c.globalAlpha = handle.faint ? 0.7 : 1;
      c.beginPath();
      if (handle.dot) c.arc(h.x, h.y, r, 0, 7);
      else c.rect(h.x - r, h.y - r, 2 * r, 2 * r);
      c.fillStyle = taken ? '#f7f3ea' : '#171b1a';
      c.fill();
      c.lineWidth = 1.6;
      c.strokeStyle = color;
      c.stroke();
      if (!handle.faint && !handle.hidden && !taken) {
        c.beginPath();
        if (handle.dot) c.arc(h.x, h.y, 2, 0, 7);
        else c.rect(h.x - 2, h.y - 2, 4, 4);
        c.fillStyle = color;
        c.fill();
      }
      c.globalAlpha = 1;
    }
  }

  const ink = { canvas: null as HTMLCanvasElement | null, drawn: 0, view: { scale: 0, x: 0, y: 0 } };
  function paintBrush(c: CanvasRenderingContext2D, paint: PaintTool, color: string) {
    const running = paint.running;
    if (!running) ink.drawn = 0;
    else {
      // only what came since the last frame is filled; the stroke so far is kept as a picture
      const { scale, x, y } = bench.view;
      const canvas = (ink.canvas ??= document.createElement('canvas'));
      const moved = ink.view.scale !== scale || ink.view.x !== x || ink.view.y !== y;
      if (ink.drawn === 0 || moved || canvas.width !== handLayer.width || canvas.height !== handLayer.height) {
        [canvas.width, canvas.height] = [handLayer.width, handLayer.height];
        ink.drawn = 0;
        ink.view = { scale, x, y };
      }
      const k = canvas.getContext('2d')!;
      k.setTransform(devicePixelRatio, 0, 0, devicePixelRatio, 0, 0);
      k.fillStyle = running.erase ? '#171b1a' : color;
      for (const ring of running.pieces.slice(ink.drawn)) {
        k.beginPath();
        trace(k, bench.view, { kind: 'polygon', geometry: { rings: [ring] } }, []);
        k.fill();
      }
      ink.drawn = running.pieces.length;
      c.globalAlpha = 0.6;
      c.drawImage(canvas, 0, 0, width, height);
      c.globalAlpha = 1;
    }
    if (!pointer || panning || (paint.mode !== 'paint' && paint.mode !== 'erase')) return;
    const p = toScreen(bench.view, pointer);
    c.beginPath();
    c.arc(p.x, p.y, Math.max(1.5, (bench.paint.size / 2) * bench.view.scale), 0, 7);
    c.lineWidth = 3;
    c.strokeStyle = 'rgba(12,16,15,.6)';
    c.stroke();
    c.setLineDash(paint.mode === 'erase' ? [5, 4] : []);
    c.lineWidth = 1.5;
    c.strokeStyle = paint.mode === 'erase' ? '#f0845a' : color;
    c.stroke();
    c.setLineDash([]);
  }

  /** Air around the object, side by side, as the core found it. */
  function paintAir(c: CanvasRenderingContext2D, mark: Mark) {
    const b = bounds(shapeOf(mark));
    const places = {
      left: [b.x, b.y + b.height / 2],
      right: [b.x + b.width, b.y + b.height / 2],
      top: [b.x + b.width / 2, b.y],
      bottom: [b.x + b.width / 2, b.y + b.height]
    } as const;
    c.font = '500 11px IBM Plex Mono';
    c.textAlign = 'center';
    c.textBaseline = 'middle';
    for (const [side, { air, verdict }] of Object.entries(bench.air!.sides)) {
      const [px, py] = places[side as keyof typeof places];
      const p = toScreen(bench.view, { x: px, y: py });
      const text = air === null ? '?' : `${air > 0 ? '+' : ''}${air}`;
      const [dx, dy] = side === 'left' ? [-24, 0] : side === 'right' ? [24, 0] : side === 'top' ? [0, -14] : [0, 14];
      c.fillStyle = 'rgba(23,27,26,.86)';
      c.fillRect(p.x + dx - 17, p.y + dy - 8, 34, 16);
      c.fillStyle = verdict === 'fits' ? '#6fc3a8' : verdict === 'unclear' ? '#c9c3b5' : '#f0845a';
      c.fillText(text, p.x + dx, p.y + dy);
    }
  }

  // each effect names what its layer depends on, and only asks for a frame
  $effect(() => {
    void [bench.view.scale, bench.view.x, bench.view.y];
    follow();
  });
  $effect(() => {
    void [width, height];
    ask('picture', 'marks', 'hand');
  });
  $effect(() => {
    const there = bench.image !== null;
    ask('picture');
    // what the picture opens with is looked at too
    if (there) setTimeout(() => bench.image && bench.sight(), 300);
  });
  $effect(() => {
    void bench.selected;
    if (untrack(() => bench.marks.some((m) => m.kind === 'mask'))) ask('marks');
  });
  $effect(() => {
    void [bench.marks, bench.coverage];
    covered = null;
  });
  $effect(() => {
    void [
      bench.marks,
      bench.hidden,
      bench.looks,
      bench.findings,
      bench.packet,
      bench.coverage,
      bench.opacity,
      bench.weight,
      bench.names,
      width,
      height
    ];
    ask('marks', 'hand');
  });
  $effect(() => {
    void [
      beat,
      bench.selected,
      bench.others,
      bench.hovered,
      pointer,
      bench.tool,
      bench.shape,
      bench.active,
      bench.point,
      bench.paint,
      bench.proposal,
      bench.air,
      bench.shade,
      bench.seen,
      bench.unseenShown,
      panning
    ];
    ask('hand');
  });
  $effect(() => {
    const size = { width, height };
    untrack(() => bench.resize(size));
  });

  const tag = $derived.by(() => {
    void [beat, bench.selected, bench.active, bench.doubt, bench.view, bench.shape, bench.stroke, bench.paint, bench.follow];
    if (!pointer || panning) return null;
    if (bench.tool === 'hand' || space) return { word: 'pan', color: '' };
    if (bench.doubt) {
      const own = bench.marks.find((m) => m.id === bench.doubt?.mark)?.class ?? '';
      return { word: `${bench.nameOf(own)}? looks like ${bench.nameOf(bench.doubt.class)}`, color: bench.light(bench.doubt.class) };
    }
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
      tool.down(inPicture(e), { shift: e.shiftKey });
      beat++;
    }
  }
  function move(e: PointerEvent) {
    if (panning) {
      // what lies under the pointer stays under it
      bench.view = { ...bench.view, x: bench.view.x + e.clientX - panning.x, y: bench.view.y + e.clientY - panning.y };
      panning = { x: e.clientX, y: e.clientY };
      return;
    }
    pointer = inPicture(e);
    byKeys = false;
    const before = tool.preview()?.id;
    // the browser gathers what the hand did between two frames: a quick stroke keeps its curve
    if (e.buttons & 1 && bench.tool === 'draw') for (const one of e.getCoalescedEvents?.() ?? []) tool.move(inPicture(one));
    tool.move(pointer);
    ask('hand');
    // the mark in hand leaves the settled layer once, not at every move
    handed(before);
  }
  function up(e: PointerEvent) {
    if (panning) panning = null;
    else if (e.button === 0) {
      const before = tool.preview()?.id;
      tool.up(inPicture(e));
      handed(before);
      beat++;
      drawn();
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
    if (mark) bench.view = fitBox(bounds(shapeOf(mark)), bench.stage);
  }

  /** The pointer moved by keys, in px of the picture; the view follows it. */
  export function step(by: Point) {
    const from = pointer ?? toPicture(bench.view, { x: width / 2, y: height / 2 });
    pointer = {
      x: Math.min(bench.picture.width, Math.max(0, from.x + by.x)),
      y: Math.min(bench.picture.height, Math.max(0, from.y + by.y))
    };
    const s = toScreen(bench.view, pointer);
    const [dx, dy] = [Math.min(0, width - 24 - s.x) + Math.max(0, 24 - s.x), Math.min(0, height - 24 - s.y) + Math.max(0, 24 - s.y)];
    if (dx !== 0 || dy !== 0) bench.view = { ...bench.view, x: bench.view.x + dx, y: bench.view.y + dy };
    const before = tool.preview()?.id;
    tool.move(pointer);
    ask('hand');
    handed(before);
    byKeys = true;
  }
  /** A press at the pointer by keys: once, or held until the next. */
  export function press(hold: boolean, shift: boolean) {
    step({ x: 0, y: 0 });
    const before = tool.preview()?.id;
    if (!holding) tool.down(pointer!, { shift });
    if (holding || !hold) tool.up(pointer!);
    holding = hold && !holding;
    handed(before);
    beat++;
    drawn();
  }
  let holding = $state(false);
  let byKeys = $state(false);
  /** a point is being set: the drag of a handle, or the far corner of what is drawn */
  const setting = $derived.by(() => {
    void [beat, pointer];
    const hand = tool.preview();
    return hand?.shape !== undefined && hand.shape.kind !== 'mask' && !hand.box;
  });

  export function holdSpace(held: boolean) {
    space = held;
  }
  /** The mark in hand leaves the settled ones when it is taken up, and comes back when it is let go. */
  function handed(before: string | null | undefined) {
    if ((tool.preview()?.id ?? null) === (before ?? null)) return;
    ask('marks');
  }

  /** Runs something on the tool in hand and shows what came of it. */
  function acted(act: () => boolean | undefined): boolean {
    const before = tool.preview()?.id;
    const was = act() ?? false;
    handed(before);
    beat++;
    return was;
  }
  export const isBusy = (): boolean => holding || (tool.busy?.() ?? false) || (tool.preview() !== null && tool.preview()!.id === null);
  export const cancel = (): boolean => {
    holding = false;
    return acted(() => tool.cancel());
  };
  export const finish = (): boolean => acted(() => tool.finish?.());
  export const takeBack = (): boolean => acted(() => tool.takeBack?.());
  export const refresh = (): void => void acted(() => true);
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
  <canvas bind:this={pictureLayer} style:filter></canvas>
  {#if bench.tone.gamma !== 1}
    <svg class="unseen" aria-hidden="true"
      ><filter id="gamma" color-interpolation-filters="sRGB"
        ><feComponentTransfer
          >{#each ['R', 'G', 'B'] as channel (channel)}<svelte:element
              this={`feFunc${channel}`}
              xmlns="http://www.w3.org/2000/svg"
              type="gamma"
              exponent={1 / bench.tone.gamma}
            />{/each}</feComponentTransfer
        ></filter
      ></svg
    >
  {/if}
  <canvas bind:this={markLayer}></canvas>
  <canvas bind:this={handLayer}></canvas>
  {#if bench.loupe && setting && pointer && bench.image && !panning && bench.view.scale < 4}
    <Loupe
      image={bench.image}
      picture={bench.picture}
      at={pointer}
      stage={{ ...place, width }}
      color={bench.light(bench.mark?.class ?? bench.active)}
    />
  {/if}
  {#if byKeys && pointer}<i class="aim" style:transform="translate({place.x - 9}px, {place.y - 9}px)" aria-hidden="true"></i>{/if}
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
    top: 0;
    left: 0;
    transform-origin: 0 0;
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
  .aim {
    position: absolute;
    top: 0;
    left: 0;
    width: 18px;
    height: 18px;
    border: 1.5px solid #f7f3ea;
    border-radius: 50%;
    pointer-events: none;
  }
  .tag i {
    width: 8px;
    height: 8px;
    border-radius: 2px;
  }
</style>
