import type { Layer } from '$lib/keys/layers';
import type { Plane } from './plane.svelte';

const arrows: Record<string, [number, number]> = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };

/** What keys do on a flat item beside the deck. */
export function planeKeys(plane: Plane): Layer {
  let held = 0;
  const { sight, forms, pointer, nudge, assist, ports } = plane;

  function arrow(e: KeyboardEvent, [x, y]: [number, number]): void {
    // held down the pointer gathers way; marks in hand move by the pixel
    held = e.repeat ? held + 1 : 0;
    const nudging = ports.hand.size > 0 && plane.editable && !forms.painted && !pointer.holding && !plane.isDrawing;
    const by = (e.shiftKey ? 10 : 1) * (nudging ? 1 : Math.max(1, 1 / sight.view.scale) * Math.min(24, 1 + held));
    if (nudging) nudge.add({ x: x * by, y: y * by });
    else pointer.step({ x: x * by, y: y * by });
  }
  function chord(e: KeyboardEvent): boolean {
    if (e.code === 'KeyZ') return plane.acted(() => (e.shiftKey ? plane.tool.redo?.() : plane.tool.undo?.()));
    if (e.code === 'KeyC') {
      // text marked on the page is copied as text
      if ((getSelection()?.toString() ?? '') !== '') return false;
      forms.copy();
    } else if (e.code === 'KeyV') forms.paste();
    else return false;
    return true;
  }

  return {
    press(e) {
      const way = arrows[e.code];
      if (e.ctrlKey || e.metaKey) {
        nudge.end();
        return chord(e);
      }
      if (e.altKey) return false;
      if (way) {
        arrow(e, way);
        return true;
      }
      nudge.end();
      if (e.code === 'Space') pointer.space = true;
      else if (e.code === 'Delete' || e.code === 'Backspace') {
        if (!plane.acted(() => plane.tool.takeBack?.())) forms.remove();
      } else if (e.code === 'Period' || e.code === 'Comma') pointer.press(e.code === 'Comma', e.shiftKey);
      else if (e.code === 'Enter' || e.code === 'NumpadEnter') {
        // it finishes what is drawn; it never submits, since a shape may have finished by itself a moment before
        if (!assist.take()) plane.acted(() => plane.tool.finish?.());
      } else if (e.key === '+' || e.key === '-') sight.step(e.key === '+' ? 1 : -1);
      else return false;
      return true;
    },
    release(e) {
      if (e.code === 'Space') pointer.space = false;
      if (arrows[e.code]) nudge.end();
    },
    escape: () => {
      nudge.end();
      if (assist.clear()) return true;
      if (pointer.escape() || plane.cutout.leave()) return true;
      if (ports.hand.point !== null) {
        ports.hand.point = null;
        return true;
      }
      return false;
    }
  };
}
