import type { Schemas } from '$lib/api/client';

type Sized = Pick<Schemas['Item'], 'width' | 'height' | 'volume' | 'cloud' | 'text' | 'document'>;
const many = (n: number, one: string): string => `${n.toLocaleString('en')} ${one}${n === 1 ? '' : 's'}`;

/** How large an item is, in what it is measured by. */
export function extentOf(item: Sized): string {
  if (item.cloud) {
    const points = many(
      item.cloud.points.reduce((a, b) => a + b, 0),
      'point'
    );
    return item.cloud.frames > 1 ? `${many(item.cloud.frames, 'frame')}, ${points}` : points;
  }
  if (item.text) return many(item.text.length, 'character');
  if (item.document && item.document.pages > 1) return `${item.width} × ${item.height}, ${many(item.document.pages, 'page')}`;
  return `${item.width} × ${item.height}${item.volume ? ` × ${item.volume.slices}` : ''}`;
}
