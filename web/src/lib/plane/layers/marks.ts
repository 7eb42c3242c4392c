import type { Box, Mark } from '$lib/words/mark';
import type { Findings } from '$lib/edits/findings.svelte';
import { paintMarker } from '$lib/words/marker';
import type { Plane } from '../plane.svelte';
import { paintMask, paintRuns } from '../runs';
import { anchor, bounds, dots, isDotted, shapeOf } from '../shapes';
import { toScreen, type View } from '../view';
import type { Layer } from './layer';
import { drawnOf, pen, RIM, type Drawn } from './pens';

/** Parts drawn anew one by one; more of them and all is drawn at once. */
const MOST_PARTS = 24;
/** Screen px by which lines, signs and names reach over the extent of a mark. */
const REACH = 16;
const NAME = 240;

/** The settled marks: all of them when the view has changed, else only where something is not as it was drawn. */
export class MarksLayer {
  #all = true;
  #parts: Box[] = [];
  /** marks that are drawn elsewhere, because they are in hand */
  #left = new Map<string, Box>();

  constructor(
    private readonly layer: Layer,
    private readonly plane: Plane,
    private readonly findings: Findings
  ) {}

  invalidate(): void {
    this.#all = true;
    this.#parts = [];
  }
  /** A mark has come, gone or changed: where it was, and where it is. */
  changed(...marks: (Mark | null)[]): void {
    if (this.#all) return;
    for (const mark of marks) if (mark) this.#parts.push(bounds(shapeOf(mark)));
    if (this.#parts.length > MOST_PARTS) this.invalidate();
  }
  /** Marks that are drawn by the hand, and so not here. */
  leave(marks: readonly Mark[]): void {
    const now = new Map(marks.map((m) => [m.id, bounds(shapeOf(m))]));
    for (const [id, box] of [...this.#left, ...now]) if (this.#left.has(id) !== now.has(id) && !this.#all) this.#parts.push(box);
    this.#left = now;
    if (this.#parts.length > MOST_PARTS) this.invalidate();
  }
  get isDirty(): boolean {
    return this.#all || this.#parts.length > 0;
  }

  paint(view: View): void {
    const { stage } = this.plane.sight;
    if (this.#all || this.layer.drawn === null) {
      const c = this.layer.begin(view, stage);
      this.#draw(c, view, this.plane.sight.part(view, this.layer.rim));
    } else
      for (const box of this.#parts) {
        const drawn = this.layer.drawn;
        const at = toScreen(drawn, box);
        const right = this.plane.show.names ? NAME : REACH;
        const [x, y] = [Math.floor(at.x - REACH), Math.floor(at.y - REACH - (this.plane.show.names ? 8 : 0))];
        const w = Math.ceil(at.x + box.width * drawn.scale + right) - x;
        const h = Math.ceil(at.y + box.height * drawn.scale + REACH) - y;
        const c = this.layer.again();
        c.save();
        c.beginPath();
        c.rect(x, y, w, h);
        c.clip();
        c.clearRect(x, y, w, h);
        // what reaches into the part from beside it is drawn too
        const wide = right + REACH;
        this.#draw(c, drawn, {
          x: (x - wide - drawn.x) / drawn.scale,
          y: (y - 2 * REACH - drawn.y) / drawn.scale,
          width: (w + wide + REACH) / drawn.scale,
          height: (h + 4 * REACH) / drawn.scale
        });
        c.restore();
      }
    this.#all = false;
    this.#parts = [];
  }

  #draw(c: CanvasRenderingContext2D, view: View, part: Box): void {
    const { words, pins, turn } = this.plane.ports;
    const { show } = this.plane;
    if (show.hidden) return;
    this.#coverage(c, view, part);
    this.#overlays(c, view, part);
    const all = this.plane.nearby
      .find(part)
      .filter((mark) => !this.#left.has(mark.id))
      .map((mark) => drawnOf(mark, shapeOf(mark), view, words.bones(mark.class)))
      .sort((a, b) => words.stackOf(a.mark) - words.stackOf(b.mark));
    for (const { mark, shape } of all)
      if (shape.kind === 'mask') paintMask(c, view, shape.geometry, part, words.light(mark.class), show.opacity.all);
    c.lineJoin = 'round';
    c.lineWidth = 1.5 * show.weight + 2;
    c.strokeStyle = RIM;
    for (const d of all) if (!d.mark.veiled) pen(c, d);
    c.lineWidth = 1.5 * show.weight;
    let color = '';
    for (const d of all) {
      c.setLineDash(d.mark.veiled ? [5, 4] : []);
      const next = words.light(d.mark.class);
      // setting the pen is not free
      if (next !== color) c.strokeStyle = color = next;
      pen(c, d);
    }
    c.setLineDash([]);
    for (const { mark, shape } of all) dots(c, view, shape, words.bones(mark.class), words.light(mark.class), false);
    this.#signs(c, view, all);
    if (show.names) this.#names(c, all);
    pins().forEach(({ x, y, turn_id }, i) => x !== null && y !== null && paintPin(c, view, { x, y }, i + 1, turn_id === turn));
  }

  #coverage(c: CanvasRenderingContext2D, view: View, part: Box): void {
    const covered = this.plane.covered;
    if (!covered) return;
    const { width, height } = this.plane.sight.picture;
    const whole = { x: 0, y: 0, width, height };
    paintRuns(c, view, covered.none, height, whole, part, '#131410', 0.61);
    paintRuns(c, view, covered.twice, height, whole, part, '#f0845a', 0.75);
  }
  /** Marks that are only looked at: dimmed, and told apart by their line. */
  #overlays(c: CanvasRenderingContext2D, view: View, part: Box): void {
    const { words } = this.plane.ports;
    for (const over of this.plane.over) {
      c.setLineDash(over.line === 'dashed' ? [6, 4] : [1.5, 4]);
      c.lineCap = over.line === 'dotted' ? 'round' : 'butt';
      for (const mark of over.marks) {
        const shape = shapeOf(mark);
        const d = drawnOf(mark, shape, view, words.bones(mark.class));
        const color = words.light(mark.class);
        if (shape.kind === 'mask') {
          paintMask(c, view, shape.geometry, part, color, over.filled?.has(mark.id) ? 0.36 : 0.22);
          c.lineWidth = over.strong === mark.id ? 3 : 1.5;
          c.strokeStyle = color;
          c.strokeRect(d.x, d.y, d.w, d.h);
          continue;
        }
        const strong = over.strong === mark.id;
        if (over.filled?.has(mark.id) && !isDotted(shape)) {
          c.fillStyle = color + '2e';
          c.fillRect(d.x, d.y, d.w, d.h);
        }
        c.globalAlpha = strong ? 1 : 0.8;
        c.lineWidth = strong ? 5 : 3.2;
        c.strokeStyle = RIM;
        pen(c, d);
        c.lineWidth = strong ? 3 : over.line === 'dotted' ? 2.4 : 1.7;
        c.strokeStyle = color;
        pen(c, d);
        c.globalAlpha = 0.6;
        dots(c, view, shape, words.bones(mark.class), color, false);
        c.globalAlpha = 1;
        c.setLineDash(over.line === 'dashed' ? [6, 4] : [1.5, 4]);
      }
      c.setLineDash([]);
      c.lineCap = 'butt';
    }
  }
  #signs(c: CanvasRenderingContext2D, view: View, all: Drawn[]): void {
    const { words } = this.plane.ports;
    for (const { mark, shape, x, y, w, h } of all) {
      // thousands of small marks are told apart by their lines alone
      if (Math.max(w, h) > 14 && (all.length < 600 || w + h > 160) && !isDotted(shape)) {
        const sign = toScreen(view, anchor(shape));
        paintMarker(c, words.marker(mark.class), words.light(mark.class), sign.x + 1, sign.y - 1, 5);
      }
      if (this.findings.of(mark.id).length === 0) continue;
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
  /** Which class a mark is of, written above its top left corner. */
  #names(c: CanvasRenderingContext2D, all: Drawn[]): void {
    const { words } = this.plane.ports;
    c.font = '600 12px Hanken Grotesk Variable';
    c.textAlign = 'left';
    c.textBaseline = 'bottom';
    for (const { mark, x, y, w, h } of all) {
      if (Math.max(w, h) < 14) continue;
      const name = words.nameOf(mark.class);
      c.fillStyle = 'rgba(23,27,26,.8)';
      c.fillRect(x + 7, y - 19, c.measureText(name).width + 8, 16);
      c.fillStyle = words.light(mark.class);
      c.fillText(name, x + 11, y - 4);
    }
  }
}

function paintPin(c: CanvasRenderingContext2D, view: View, at: { x: number; y: number }, n: number, now: boolean): void {
  const p = toScreen(view, at);
  c.fillStyle = now ? '#f0845a' : '#d8b09c';
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
  c.fillText(String(n), p.x, p.y - 13);
}
