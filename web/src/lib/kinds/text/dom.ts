import type { Offsets } from '$lib/text/offsets';
import type { Range } from '$lib/text/tokens';

/** The element a place is in, and its unit there; of a sign that is written out before it or behind it. */
function place(paragraph: HTMLElement, offsets: Offsets, offset: number): [Node, number] | null {
  const pieces = paragraph.children;
  let [low, high] = [0, pieces.length - 1];
  if (high < 0) return null;
  while (low < high) {
    const middle = (low + high + 1) >> 1;
    if (Number((pieces[middle] as HTMLElement).dataset['at']) <= offset) low = middle;
    else high = middle - 1;
  }
  const piece = pieces[low] as HTMLElement;
  const at = Number(piece.dataset['at']);
  if (piece.tagName === 'B') return [paragraph, childIndex(paragraph, piece) + (offset > at ? 1 : 0)];
  const text = piece.firstChild;
  if (!text) return null;
  return [text, Math.max(0, Math.min(text.nodeValue!.length, offsets.unit(offset) - offsets.unit(at)))];
}
const childIndex = (parent: Node, child: Node): number => [...parent.childNodes].indexOf(child as ChildNode);

/** A range of letters as the page has it; null where none of it is drawn. */
export function domRange(paragraph: HTMLElement, offsets: Offsets, { start, end }: Range): globalThis.Range | null {
  const [from, to] = [place(paragraph, offsets, start), place(paragraph, offsets, end)];
  if (!from || !to || end <= start) return null;
  const range = document.createRange();
  range.setStart(...from);
  range.setEnd(...to);
  return range;
}

/** The code point at a place of the page; null where no words are. */
export function offsetAt(offsets: Offsets, x: number, y: number): number | null {
  const caret = document.caretPositionFromPoint?.(x, y);
  const [node, unit] = caret ? [caret.offsetNode, caret.offset] : [null, 0];
  const piece = (node instanceof Element ? node : node?.parentElement)?.closest<HTMLElement>('[data-at]');
  if (!node || !piece) return null;
  const at = Number(piece.dataset['at']);
  return piece.tagName === 'B' ? at : offsets.offset(offsets.unit(at) + unit);
}
