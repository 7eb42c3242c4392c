import type { Box, Mark } from '$lib/words/mark';
import { bounds, shapeOf } from '$lib/plane/shapes';
import type { Size, View } from '$lib/plane/view';
import type { Attribute } from '$lib/words/codebook';

/** Of an object's longer side, how much is shown round a node an answer is to be seen at. */
const ROUND_NODE = 0.4;

/** The part of the picture an answer is to be seen on: the part or node the question names, else the object. */
export function lookBox(mark: Mark, question: Attribute | null): Box {
  const shape = shapeOf(mark);
  const all = bounds(shape);
  const at = question?.look_at;
  if (at?.node != null && shape.kind === 'skeleton') {
    const node = shape.geometry.nodes[at.node];
    const size = Math.max(all.width, all.height) * ROUND_NODE;
    // a node that is absent is looked for on the whole object
    if (node) return { x: node.x - size / 2, y: node.y - size / 2, width: size, height: size };
  }
  if (at?.width != null && at.height != null)
    return {
      x: all.x + (at.x ?? 0) * all.width,
      y: all.y + (at.y ?? 0) * all.height,
      width: at.width * all.width,
      height: at.height * all.height
    };
  return all;
}

/** A part of the picture in the middle of a stage, with a margin in shares of its longer side. */
export function closeUp(part: Box, stage: Size, margin: number): View {
  const size = Math.max(4, part.width, part.height) * (1 + 2 * margin);
  const scale = Math.min(40, Math.min(stage.width, stage.height) / size);
  return {
    scale,
    x: stage.width / 2 - (part.x + part.width / 2) * scale,
    y: stage.height / 2 - (part.y + part.height / 2) * scale
  };
}
