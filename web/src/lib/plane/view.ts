import type { Box, Point } from '$lib/words/mark';

/** How the picture lies on the stage: scale in screen px per picture px, and where its top-left corner is. */
export type View = { scale: number; x: number; y: number };
export type Size = { width: number; height: number };

export const toScreen = (v: View, p: Point): Point => ({ x: p.x * v.scale + v.x, y: p.y * v.scale + v.y });
export const toPicture = (v: View, p: Point): Point => ({ x: (p.x - v.x) / v.scale, y: (p.y - v.y) / v.scale });

/** The picture as large as it goes, centred, with a little air. */
export function fit(picture: Size, stage: Size, air = 14): View {
  const scale = Math.min((stage.width - 2 * air) / picture.width, (stage.height - 2 * air) / picture.height);
  return { scale, x: (stage.width - picture.width * scale) / 2, y: (stage.height - picture.height * scale) / 2 };
}

/** Whether the whole picture is what shows. */
export function isWhole(view: View, picture: Size, stage: Size): boolean {
  const whole = fit(picture, stage);
  return Math.abs(view.scale / whole.scale - 1) < 0.01 && Math.abs(view.x - whole.x) < 2 && Math.abs(view.y - whole.y) < 2;
}
/** The view after the stage has another size: the whole picture stays whole; closer in, what was in the middle stays there. */
export function restaged(view: View, picture: Size, was: Size, now: Size): View {
  if (isWhole(view, picture, was)) return fit(picture, now);
  return { scale: view.scale, x: view.x + (now.width - was.width) / 2, y: view.y + (now.height - was.height) / 2 };
}
/** An object in the middle, about half the stage. */
export function fitBox(box: Box, stage: Size): View {
  const scale = Math.min(24, (0.5 * stage.width) / Math.max(box.width, 4), (0.5 * stage.height) / Math.max(box.height, 4));
  return { scale, x: stage.width / 2 - (box.x + box.width / 2) * scale, y: stage.height / 2 - (box.y + box.height / 2) * scale };
}

/** Zooms so that what is under the pointer stays there. */
export function zoomAt(v: View, at: Point, factor: number): View {
  const scale = Math.min(40, Math.max(0.02, v.scale * factor));
  const f = scale / v.scale;
  return { scale, x: at.x - (at.x - v.x) * f, y: at.y - (at.y - v.y) * f };
}

/** Screen px for a px of the picture, step by step; at 1 every pixel is as it is. */
export const zoomSteps = [1 / 8, 1 / 6, 1 / 4, 1 / 3, 1 / 2, 2 / 3, 1, 1.5, 2, 3, 4, 6, 8, 12, 16, 24, 32];

/** The next step in or out, what is at a place staying there; `least`: at least this far in. */
export function stepZoom(v: View, at: Point, by: 1 | -1, least = 0): View {
  const next =
    by > 0
      ? (zoomSteps.find((s) => s > v.scale * 1.01 && s >= least) ?? zoomSteps.at(-1)!)
      : (zoomSteps.findLast((s) => s < v.scale / 1.01) ?? zoomSteps[0]!);
  return zoomAt(v, at, next / v.scale);
}

export const clampPoint = (p: Point, picture: Size): Point => ({
  x: Math.min(picture.width, Math.max(0, p.x)),
  y: Math.min(picture.height, Math.max(0, p.y))
});

/** To the hundredth of a pixel, which is as exact as a hand at any zoom. */
export const round = (n: number): number => Math.round(n * 100) / 100;

export function boxBetween(a: Point, b: Point): Box {
  const x = round(Math.min(a.x, b.x));
  const y = round(Math.min(a.y, b.y));
  return { x, y, width: round(Math.max(a.x, b.x) - x), height: round(Math.max(a.y, b.y) - y) };
}

/** The eight handles: which edges each moves. */
export const handles = ['nw', 'n', 'ne', 'e', 'se', 's', 'sw', 'w'] as const;
export type Handle = (typeof handles)[number];

export const handleAt = (box: Box, handle: Handle): Point => ({
  x: box.x + (handle.includes('w') ? 0 : handle.includes('e') ? box.width : box.width / 2),
  y: box.y + (handle.includes('n') ? 0 : handle.includes('s') ? box.height : box.height / 2)
});

/** A box with one handle pulled to a place; pulled across, it turns over. */
export function resized(box: Box, handle: Handle, to: Point): Box {
  const [x1, x2] = handle.includes('w') ? [to.x, box.x + box.width] : handle.includes('e') ? [box.x, to.x] : [box.x, box.x + box.width];
  const [y1, y2] = handle.includes('n') ? [to.y, box.y + box.height] : handle.includes('s') ? [box.y, to.y] : [box.y, box.y + box.height];
  return boxBetween({ x: x1, y: y1 }, { x: x2, y: y2 });
}
