/** A part of a line on the screen, in px of the block. */
export type Strip = { x: number; y: number; width: number; height: number };

/**
 * The rectangles of a range of letters, put together where they touch on one line: an engine gives one for each run of letters, and on a line that
 * is written both ways there may be several.
 */
export function stripsOf(rects: readonly Strip[]): Strip[] {
  const strips: Strip[] = [];
  for (const r of rects) {
    if (r.width <= 0) continue;
    const same = strips.find(
      (s) => Math.abs(s.y + s.height - r.y - r.height) < 3 && r.x <= s.x + s.width + 1.5 && s.x <= r.x + r.width + 1.5
    );
    if (!same) {
      strips.push({ ...r });
      continue;
    }
    const right = Math.max(same.x + same.width, r.x + r.width);
    same.x = Math.min(same.x, r.x);
    same.width = right - same.x;
  }
  return strips;
}
