import type { Mark, Shape } from '$lib/words/mark';
import type { Plane } from '../plane.svelte';
import { toMask } from '../raster';
import { KeptMask, paintMask } from '../runs';
import { bounds, dots, handlesOf, shapeOf, trace } from '../shapes';
import { PaintTool } from '../tools';
import { toScreen, type View } from '../view';
import { dot } from '../shapes/geometry';
import { pathOf, stroke } from './pens';

/** The marks in hand, strong, over the settled ones, and the shade round them. */
export class LitLayer {
  #mask = new KeptMask();
  constructor(private readonly plane: Plane) {}

  paint(c: CanvasRenderingContext2D, view: View, preview: ReadonlySet<string>): void {
    const { show, ports, looked, nudge, sight } = this.plane;
    if (looked.isShown) this.#unseen(c, view);
    const all = ports.hand.all;
    if (show.shade && all.length > 0 && !show.hidden) this.#shade(c, view, all);
    if (show.hidden) return;
    const part = sight.part(view, 0);
    for (const mark of all) {
      if (preview.has(mark.id)) continue;
      const shape = shapeOf(nudge.shown?.get(mark.id) ?? mark);
      const color = ports.words.light(mark.class);
      if (shape.kind === 'mask') this.#mask.paint(c, view, shape.geometry, part, color, show.opacity.hand);
      else lit(c, view, shape, ports.words.bones(mark.class), color, show.weight);
    }
    // what a point in hand moves along
    for (const [id, mark] of nudge.shown ?? [])
      if (!ports.hand.has(id)) lit(c, view, shapeOf(mark), ports.words.bones(mark.class), ports.words.light(mark.class), show.weight);
  }
  /** Everything but the marks in hand lies in shade. */
  #shade(c: CanvasRenderingContext2D, view: View, marks: Mark[]): void {
    const { width, height } = this.plane.sight.stage;
    c.fillStyle = 'rgba(10,13,12,.66)';
    c.fillRect(0, 0, width, height);
    for (const mark of marks) {
      const b = bounds(shapeOf(mark));
      const a = toScreen(view, b);
      c.clearRect(a.x - 6, a.y - 6, b.width * view.scale + 12, b.height * view.scale + 12);
    }
  }
  /** What has not been on the screen close up yet. */
  #unseen(c: CanvasRenderingContext2D, { scale, x, y }: View): void {
    const { seen } = this.plane.looked;
    const { picture } = this.plane.sight;
    const side = seen.cell * scale;
    c.fillStyle = 'rgba(28,40,66,.62)';
    for (let row = 0; row < seen.rows; row++)
      for (let column = 0; column < seen.columns; column++) {
        if (seen.has(column, row)) continue;
        const [left, top] = [x + column * side, y + row * side];
        c.fillRect(
          left,
          top,
          Math.min(side, x + picture.width * scale - left) + 0.5,
          Math.min(side, y + picture.height * scale - top) + 0.5
        );
      }
  }
}

export function lit(c: CanvasRenderingContext2D, view: View, shape: Shape, bones: [string, string][], color: string, weight: number): void {
  const path = pathOf(shape, view, bones);
  if (shape.kind !== 'polyline' && shape.kind !== 'skeleton') {
    c.fillStyle = color + '1c';
    c.fill(path, 'evenodd');
  }
  stroke(c, path, color, 2.5 * weight);
  dots(c, view, shape, bones, color, true);
}

/** What moves with the pointer: guides, what is being drawn, handles, the brush. */
export class HandLayer {
  #ink = { canvas: null as HTMLCanvasElement | null, drawn: 0, view: { scale: 0, x: 0, y: 0 } };
  #mask = new KeptMask();
  #laid = new KeptMask();
  constructor(private readonly plane: Plane) {}

  paint(c: CanvasRenderingContext2D, view: View, screen: HTMLCanvasElement): void {
    const { tool, forms, ports, drawing, show, assist, nudge } = this.plane;
    const { words, hand, chosen } = ports;
    const painted = forms.painted;
    if (drawing.mode === 'draw' && forms.editable && (drawing.cutting ? !this.plane.cutout.isOpen : drawing.shape !== 'mask'))
      this.#guides(c, view);
    this.#hovered(c, view);
    if (tool instanceof PaintTool && tool.isPatching) this.#patches(c, view, tool, words.light(painted?.class ?? chosen.active));
    else if (tool instanceof PaintTool) this.#brush(c, view, tool, words.light(painted?.class ?? chosen.active), screen);
    const preview = tool.preview();
    if (assist.proposal) this.#proposal(c, view, assist.proposal.shape);
    if (preview?.box) {
      const a = toScreen(view, preview.box);
      c.setLineDash([4, 3]);
      c.lineWidth = 1.2;
      c.strokeStyle = preview.color;
      c.strokeRect(a.x, a.y, preview.box.width * view.scale, preview.box.height * view.scale);
      c.setLineDash([]);
    }
    if (preview?.shape) {
      const bones = words.bones(preview.id ? (hand.mark?.class ?? '') : chosen.active);
      if (preview.shape.kind === 'mask')
        this.#mask.paint(
          c,
          view,
          preview.shape.geometry,
          this.plane.sight.part(view, 0),
          preview.color,
          // what is being cut out has to be seen under it
          preview.strokes ? Math.min(0.4, show.opacity.hand) : show.opacity.hand
        );
      stroke(c, pathOf(preview.shape, view, bones), preview.color, 1.5 * show.weight);
      dots(c, view, preview.shape, bones, preview.color, true);
    }
    for (const { id, shape } of preview?.also ?? []) {
      const mark = ports.editor.marks.get(id);
      stroke(c, pathOf(shape, view, []), words.light(mark?.class ?? ''), 1.5 * show.weight);
    }
    for (const { adds, points } of preview?.strokes ?? []) this.#stroke(c, view, adds, points, preview!.color);
    if (preview?.line) this.#line(c, view, preview.line, preview.dots ?? [], preview.color);
    const mark = hand.one;
    if (!mark || show.hidden) return;
    if (forms.editable && !painted && (!preview || preview.id === mark.id))
      this.#handles(c, view, preview?.shape ?? shapeOf(nudge.shown?.get(mark.id) ?? mark), words.light(mark.class));
    if (assist.air?.mark === mark.id) this.#air(c, view, mark);
    this.#doubts(c, view, mark);
  }

  /** Nodes nobody is sure of are hollow, with a ring round them. */
  #doubts(c: CanvasRenderingContext2D, view: View, mark: Mark): void {
    if (mark.kind !== 'skeleton') return;
    const color = this.plane.ports.words.light(mark.class);
    for (const key of this.plane.posing.doubtful(mark)) {
      const node = mark.geometry.nodes[key]!;
      dot(c, view, node.x, node.y, color, true, true);
      c.setLineDash([2, 3]);
      c.lineWidth = 1.5;
      c.beginPath();
      c.arc(node.x * view.scale + view.x, node.y * view.scale + view.y, 10, 0, 7);
      c.stroke();
      c.setLineDash([]);
    }
  }
  /** Lines to line up with the outermost points of the object. */
  #guides(c: CanvasRenderingContext2D, view: View): void {
    const { pointer, ports, sight } = this.plane;
    if (!pointer.at || pointer.panning) return;
    const p = toScreen(view, pointer.at);
    c.lineWidth = 1;
    c.strokeStyle = ports.words.light(ports.chosen.active) + 'b0';
    c.beginPath();
    c.moveTo(Math.round(p.x) + 0.5, 0);
    c.lineTo(Math.round(p.x) + 0.5, sight.stage.height);
    c.moveTo(0, Math.round(p.y) + 0.5);
    c.lineTo(sight.stage.width, Math.round(p.y) + 0.5);
    c.stroke();
  }
  #hovered(c: CanvasRenderingContext2D, view: View): void {
    const { ports, show, sight } = this.plane;
    const mark = ports.editor.marks.get(ports.hand.hovered);
    if (!mark || show.hidden || ports.hand.has(mark.id)) return;
    const color = ports.words.light(mark.class);
    if (mark.kind === 'mask') this.#mask.paint(c, view, mark.geometry, sight.part(view, 0), color, show.opacity.hand);
    else lit(c, view, shapeOf(mark), ports.words.bones(mark.class), color, show.weight);
  }
  #proposal(c: CanvasRenderingContext2D, view: View, shape: Shape): void {
    if (shape.kind === 'mask') paintMask(c, view, shape.geometry, this.plane.sight.part(view, 0), '#f0e05a', 0.5);
    c.setLineDash([5, 4]);
    c.lineWidth = 2;
    c.strokeStyle = '#f0e05a';
    c.stroke(pathOf(shape, view, []));
    c.setLineDash([]);
  }
  #line(c: CanvasRenderingContext2D, view: View, line: number[], points: number[], color: string): void {
    stroke(c, pathOf({ kind: 'polyline', geometry: { points: line } }, view, []), color, 1.5 * this.plane.show.weight);
    if (points.length >= 2000) return;
    c.fillStyle = color;
    for (let i = 0; i < points.length; i += 2) {
      const p = toScreen(view, { x: points[i]!, y: points[i + 1]! });
      const r = i === 0 ? 5 : 2.5;
      c.fillRect(p.x - r, p.y - r, 2 * r, 2 * r);
    }
  }
  /** What a hand has said of a spot: a plus or a minus where it began, a line where it went on. */
  #stroke(c: CanvasRenderingContext2D, view: View, adds: boolean, points: readonly number[], color: string): void {
    const ink = adds ? color : '#f0845a';
    const p = toScreen(view, { x: points[0]!, y: points[1]! });
    if (points.length > 2) stroke(c, pathOf({ kind: 'polyline', geometry: { points: [...points] } }, view, []), ink, 3);
    c.beginPath();
    c.arc(p.x, p.y, 6, 0, 7);
    c.fillStyle = 'rgba(23,27,26,.86)';
    c.fill();
    c.lineWidth = 1.5;
    c.strokeStyle = ink;
    c.stroke();
    c.beginPath();
    c.moveTo(p.x - 3, p.y);
    c.lineTo(p.x + 3, p.y);
    if (adds) {
      c.moveTo(p.x, p.y - 3);
      c.lineTo(p.x, p.y + 3);
    }
    c.stroke();
  }
  #handles(c: CanvasRenderingContext2D, view: View, shape: Shape, color: string): void {
    const { stage } = this.plane.sight;
    const { point } = this.plane.ports.hand;
    for (const handle of handlesOf(shape, view.scale)) {
      const h = toScreen(view, handle.at);
      if (h.x < -8 || h.y < -8 || h.x > stage.width + 8 || h.y > stage.height + 8) continue;
      const taken = handle.key === point;
      const r = handle.faint ? 2.5 : taken ? 6 : 4;
      const dot = (size: number) => {
        c.beginPath();
        if (handle.dot) c.arc(h.x, h.y, size, 0, 7);
        else c.rect(h.x - size, h.y - size, 2 * size, 2 * size);
      };
      c.globalAlpha = handle.faint ? 0.7 : 1;
      dot(r);
      c.fillStyle = taken ? '#f7f3ea' : '#171b1a';
      c.fill();
      c.lineWidth = 1.6;
      c.strokeStyle = color;
      c.stroke();
      if (!handle.faint && !handle.hidden && !taken) {
        dot(2);
        c.fillStyle = color;
        c.fill();
      }
      c.globalAlpha = 1;
    }
  }
  #brush(c: CanvasRenderingContext2D, view: View, tool: PaintTool, color: string, screen: HTMLCanvasElement): void {
    const ink = this.#ink;
    const { pointer, drawing, sight } = this.plane;
    const running = tool.running;
    if (!running) ink.drawn = 0;
    else {
      // only what came since the last frame is filled; the stroke so far is kept as a picture
      const canvas = (ink.canvas ??= document.createElement('canvas'));
      const moved = ink.view.scale !== view.scale || ink.view.x !== view.x || ink.view.y !== view.y;
      if (ink.drawn === 0 || moved || canvas.width !== screen.width || canvas.height !== screen.height) {
        [canvas.width, canvas.height] = [screen.width, screen.height];
        [ink.drawn, ink.view] = [0, view];
      }
      const k = canvas.getContext('2d')!;
      k.setTransform(devicePixelRatio, 0, 0, devicePixelRatio, 0, 0);
      k.fillStyle = running.erase ? '#171b1a' : color;
      for (const ring of running.pieces.slice(ink.drawn)) {
        k.beginPath();
        trace(k, view, { kind: 'polygon', geometry: { rings: [ring] } }, []);
        k.fill();
      }
      ink.drawn = running.pieces.length;
      c.globalAlpha = 0.6;
      c.drawImage(canvas, 0, 0, sight.stage.width, sight.stage.height);
      c.globalAlpha = 1;
    }
    if (!pointer.at || pointer.panning || (tool.mode !== 'paint' && tool.mode !== 'erase')) return;
    const p = toScreen(view, pointer.at);
    c.beginPath();
    c.arc(p.x, p.y, Math.max(1.5, (drawing.paint.size / 2) * view.scale), 0, 7);
    c.lineWidth = 3;
    c.strokeStyle = 'rgba(12,16,15,.6)';
    c.stroke();
    c.setLineDash(tool.mode === 'erase' ? [5, 4] : []);
    c.lineWidth = 1.5;
    c.strokeStyle = tool.mode === 'erase' ? '#f0845a' : color;
    c.stroke();
    c.setLineDash([]);
  }
  /** Lines between patches, and the ones a press would lay. */
  #patches(c: CanvasRenderingContext2D, view: View, tool: PaintTool, color: string): void {
    const { patches, sight } = this.plane;
    const { now } = patches;
    if (!now) return;
    const { x, y, step } = now.part;
    const a = toScreen(view, { x, y });
    c.globalAlpha = patches.strength;
    c.imageSmoothingEnabled = view.scale * step < 1;
    c.drawImage(now.lines(), a.x, a.y, now.columns * step * view.scale, now.rows * step * view.scale);
    c.imageSmoothingEnabled = true;
    c.globalAlpha = 1;
    const laid = tool.patched();
    if (!laid || laid.edges.length === 0) return;
    const { width, height } = sight.picture;
    this.#laid.paint(c, view, toMask(laid.edges, width, height), sight.part(view, 0), tool.mode === 'erase' ? '#f0845a' : color, 0.55);
  }
  /** Air around the object, side by side, as the core found it. */
  #air(c: CanvasRenderingContext2D, view: View, mark: Mark): void {
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
    for (const [side, { air, verdict }] of Object.entries(this.plane.assist.air!.sides)) {
      const [px, py] = places[side as keyof typeof places];
      const p = toScreen(view, { x: px, y: py });
      const text = air === null ? '?' : `${air > 0 ? '+' : ''}${air}`;
      const [dx, dy] = side === 'left' ? [-24, 0] : side === 'right' ? [24, 0] : side === 'top' ? [0, -14] : [0, 14];
      c.fillStyle = 'rgba(23,27,26,.86)';
      c.fillRect(p.x + dx - 17, p.y + dy - 8, 34, 16);
      c.fillStyle = verdict === 'fits' ? '#6fc3a8' : verdict === 'unclear' ? '#c9c3b5' : '#f0845a';
      c.fillText(text, p.x + dx, p.y + dy);
    }
  }
}
