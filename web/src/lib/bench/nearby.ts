import RBush from 'rbush';
import { bounds, shapeOf } from './shapes';
import type { Box, Mark } from './types';

type Entry = { minX: number; minY: number; maxX: number; maxY: number; mark: Mark; i: number };
const trees = new WeakMap<Mark[], RBush<Entry>>();

/** The marks whose extent meets a box, in the order of the list; found by a tree that is built once for each list. */
export function nearby(marks: Mark[], box: Box): Mark[] {
  let tree = trees.get(marks);
  if (!tree) {
    tree = new RBush<Entry>();
    tree.load(
      marks.map((mark, i) => {
        const b = bounds(shapeOf(mark));
        return { minX: b.x, minY: b.y, maxX: b.x + b.width, maxY: b.y + b.height, mark, i };
      })
    );
    trees.set(marks, tree);
  }
  return tree
    .search({ minX: box.x, minY: box.y, maxX: box.x + box.width, maxY: box.y + box.height })
    .sort((a, b) => a.i - b.i)
    .map((e) => e.mark);
}
export const around = (p: { x: number; y: number }, by: number): Box => ({ x: p.x - by, y: p.y - by, width: 2 * by, height: 2 * by });
