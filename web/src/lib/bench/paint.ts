import { columns } from './raster';
import { corners, pixels } from './shapes';
import type { Box, Mask, Ring, Shape } from './types';
import type { View } from './view';

/** Drawing shapes on a canvas: lines as one path for many marks, masks as pictures made once. */

type Pen = CanvasRenderingContext2D | Path2D;

function line(pen: Pen, v: View, points: Ring, closed: boolean): void {
  for (let i = 0; i < points.length; i += 2) {
    const [x, y] = [points[i]! * v.scale + v.x, points[i + 1]! * v.scale + v.y];
    if (i === 0) pen.moveTo(x, y);
    else pen.lineTo(x, y);
  }
  if (closed) pen.closePath();
}
const box = (pen: Pen, v: View, b: Box): void => pen.rect(b.x * v.scale + v.x, b.y * v.scale + v.y, b.width * v.scale, b.height * v.scale);

/** The lines of a shape. Masks have none; nodes and points are dots, drawn beside. */
export function trace(pen: Pen, v: View, s: Shape, bones: [string, string][]): void {
  switch (s.kind) {
    case 'box':
      return box(pen, v, s.geometry);
    case 'turned_box': {
      const ring = corners(s.geometry);
      line(pen, v, ring, true);
      // a tick on the first side says which way it is turned
      const [mx, my] = [(ring[0]! + ring[2]!) / 2, (ring[1]! + ring[3]!) / 2];
      const [cx, cy] = [s.geometry.cx, s.geometry.cy];
      const share = Math.min(0.35, 14 / Math.max(1, Math.hypot(mx - cx, my - cy) * v.scale));
      return line(pen, v, [mx, my, mx + (cx - mx) * share, my + (cy - my) * share], false);
    }
    case 'ellipse': {
      const { cx, cy, rx, ry, angle } = s.geometry;
      const [x, y, a] = [cx * v.scale + v.x, cy * v.scale + v.y, (angle * Math.PI) / 180];
      pen.moveTo(x + rx * v.scale * Math.cos(a), y + rx * v.scale * Math.sin(a));
      return pen.ellipse(x, y, rx * v.scale, ry * v.scale, a, 0, 2 * Math.PI);
    }
    case 'polygon':
      for (const ring of s.geometry.rings) line(pen, v, ring, true);
      return;
    case 'polyline':
      return line(pen, v, s.geometry.points, false);
    case 'cuboid_2d': {
      const { front: f, back: b } = s.geometry;
      box(pen, v, f);
      box(pen, v, b);
      line(pen, v, [f.x, f.y, b.x, b.y], false);
      line(pen, v, [f.x + f.width, f.y, b.x + b.width, b.y], false);
      line(pen, v, [f.x, f.y + f.height, b.x, b.y + b.height], false);
      return line(pen, v, [f.x + f.width, f.y + f.height, b.x + b.width, b.y + b.height], false);
    }
    case 'skeleton': {
      const n = s.geometry.nodes;
      for (const [a, b] of bones)
        if (n[a]?.state === 'visible' && n[b]?.state === 'visible') line(pen, v, [n[a].x, n[a].y, n[b].x, n[b].y], false);
      return;
    }
    case 'points':
    case 'mask':
      return;
  }
}

/** Points and nodes: visible ones filled, hidden ones a ring, their bones dashed. */
export function dots(c: CanvasRenderingContext2D, v: View, s: Shape, bones: [string, string][], color: string, lit: boolean): void {
  const r = lit ? 4.5 : 3.5;
  const dot = (x: number, y: number, hollow: boolean) => {
    c.beginPath();
    c.arc(x * v.scale + v.x, y * v.scale + v.y, r, 0, 7);
    c.fillStyle = hollow ? '#171b1a' : color;
    c.fill();
    c.lineWidth = hollow ? 2 : 1;
    c.strokeStyle = hollow ? color : '#171b1a';
    c.stroke();
  };
  if (s.kind === 'points')
    for (let i = 0; i < s.geometry.points.length; i += 2) dot(s.geometry.points[i]!, s.geometry.points[i + 1]!, false);
  if (s.kind !== 'skeleton') return;
  const n = s.geometry.nodes;
  c.setLineDash([4, 4]);
  c.beginPath();
  for (const [a, b] of bones)
    if (n[a] && n[b] && (n[a].state === 'hidden' || n[b].state === 'hidden')) line(c, v, [n[a].x, n[a].y, n[b].x, n[b].y], false);
  c.lineWidth = lit ? 2.5 : 1.5;
  c.strokeStyle = color;
  c.stroke();
  c.setLineDash([]);
  for (const node of Object.values(n)) dot(node.x, node.y, node.state === 'hidden');
}

const pictures = new WeakMap<Mask, Map<string, HTMLCanvasElement>>();

/** A mask as a picture of its extent, one colour, its rim a little stronger; made once for each mask and colour. */
export function pictureOf(mask: Mask, color: string): { canvas: HTMLCanvasElement; box: Box } | null {
  const { edges, box } = pixels(mask);
  if (box.width === 0) return null;
  let ofMask = pictures.get(mask);
  if (!ofMask) pictures.set(mask, (ofMask = new Map()));
  let canvas = ofMask.get(color);
  if (!canvas) {
    canvas = document.createElement('canvas');
    canvas.width = box.width;
    canvas.height = box.height;
    const c = canvas.getContext('2d')!;
    c.fillStyle = color;
    columns(edges, mask.size[0]!, (x, from, to) => c.fillRect(x - box.x, from - box.y, 1, to - from));
    ofMask.set(color, canvas);
  }
  return { canvas, box };
}

export function paintMask(c: CanvasRenderingContext2D, v: View, mask: Mask, color: string, opacity: number): void {
  const picture = pictureOf(mask, color);
  if (!picture) return;
  c.globalAlpha = opacity;
  c.imageSmoothingEnabled = v.scale < 1;
  const { box: b } = picture;
  c.drawImage(picture.canvas, b.x * v.scale + v.x, b.y * v.scale + v.y, b.width * v.scale, b.height * v.scale);
  c.globalAlpha = 1;
}

/** One object by itself, close up: its outline with a dark rim, a mask as no more than a tint, since what is asked about must be seen. */
export function paintAlone(c: CanvasRenderingContext2D, v: View, s: Shape, bones: [string, string][], color: string): void {
  if (s.kind === 'mask') paintMask(c, v, s.geometry, color, 0.3);
  const path = new Path2D();
  trace(path, v, s, bones);
  c.lineJoin = 'round';
  c.lineWidth = 3.25;
  c.strokeStyle = 'rgba(12,16,15,.5)';
  c.stroke(path);
  c.lineWidth = 1.5;
  c.strokeStyle = color;
  c.stroke(path);
  dots(c, v, s, bones, color, false);
}
