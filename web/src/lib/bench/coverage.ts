import { columns, scan, type Edges } from './raster';
import { outline, pixels, shapeOf } from './shapes';
import type { Mark } from './types';
import type { Size } from './view';

/**
 * Where nobody has labelled, and where two marks lie over each other: a picture of the item's size, unlabelled pixels dimmed, doubly
 * labelled ones bright. Boxes do not count: they are no regions.
 */
export function coverage(marks: Mark[], { width, height }: Size): HTMLCanvasElement {
  const count = new Uint8Array(width * height);
  const lay = (edges: Edges) =>
    columns(edges, height, (x, from, to) => {
      for (let y = from; y < to; y++) {
        const at = y * width + x;
        if (count[at]! < 2) count[at]!++;
      }
    });
  for (const mark of marks) {
    const s = shapeOf(mark);
    if (s.kind === 'mask') lay(pixels(s.geometry).edges);
    else if (s.kind === 'polygon' || s.kind === 'ellipse') lay(scan(outline(s)!, width, height));
  }
  const canvas = document.createElement('canvas');
  canvas.width = width;
  canvas.height = height;
  const c = canvas.getContext('2d')!;
  const image = c.createImageData(width, height);
  const view = new Uint32Array(image.data.buffer);
  // little endian: alpha, blue, green, red
  for (let i = 0; i < count.length; i++) if (count[i] !== 1) view[i] = count[i] === 0 ? 0x9c101413 : 0xc05a84f0;
  c.putImageData(image, 0, 0);
  return canvas;
}
