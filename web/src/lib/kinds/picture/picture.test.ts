// @vitest-environment jsdom
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import type { Item } from '../kind';
import { Picture } from './picture.svelte';

/** Images that come when they are told to. */
class Late {
  static all: Late[] = [];
  onload: (() => void) | null = null;
  onerror: (() => void) | null = null;
  complete = false;
  src = '';
  constructor() {
    Late.all.push(this);
  }
}
const of = (src: string) => Late.all.find((image) => image.src === src)!;
const item = (width: number, height: number) =>
  ({ width, height, picture: { screen: '/screen', full: '/full', tiles: null } }) as unknown as Item;
/** What is drawn of it. */
const shown = (picture: Picture): string | null => {
  let drawn: string | null = null;
  const c = { drawImage: (image: { src: string }) => (drawn = image.src), fillRect: () => {} };
  picture.paint(c as never, { scale: 1, x: 0, y: 0 }, { x: 0, y: 0, width: 10, height: 10 });
  return drawn;
};
beforeEach(() => {
  Late.all = [];
  vi.stubGlobal('Image', Late);
});
afterEach(() => vi.unstubAllGlobals());

describe('a picture on the bench', () => {
  it('loaded ahead or not, has every pixel as soon as they are here, and never the small copy again', () => {
    const picture = new Picture(item(4000, 3000));
    expect([shown(picture), picture.ready]).toEqual([null, false]);
    of('/screen').onload!();
    expect([shown(picture), picture.ready]).toEqual(['/screen', true]);
    of('/full').onload!();
    expect(shown(picture)).toBe('/full');
    of('/screen').onload!();
    expect(shown(picture)).toBe('/full');
    // the other way round likewise
    const other = new Picture(item(4000, 3000));
    Late.all[3]!.onload!();
    Late.all[2]!.onload!();
    expect(shown(other)).toBe('/full');
  });
  it('that is no larger than the screen copy is asked for once', () => {
    new Picture(item(2048, 1536));
    expect(Late.all.map((image) => image.src)).toEqual(['/screen']);
  });
  it('has failed only when nothing of it is here', () => {
    const picture = new Picture(item(4000, 3000));
    of('/full').onerror!();
    expect(picture.failed).toBe(true);
    of('/screen').onload!();
    expect(picture.failed).toBe(false);
    of('/full').onerror!();
    expect(picture.failed).toBe(false);
  });
  it('gives up what is on its way when it is closed, and shows nothing that comes late', () => {
    const picture = new Picture(item(4000, 3000));
    const late = Late.all[1]!;
    picture.close();
    expect([Late.all.map((image) => image.src), late.onload, shown(picture)]).toEqual([['', ''], null, null]);
  });
});
