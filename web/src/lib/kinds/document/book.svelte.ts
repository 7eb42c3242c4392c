import type { Ground } from '$lib/plane/ground';
import type { View } from '$lib/plane/view';
import type { Box } from '$lib/words/mark';
import type { Item, Media } from '../kind';
import { Sheets } from './sheets';

/** Pages that are kept decoded; those furthest from what is in sight go first. */
const MOST = 12;
/** Longest side of the copy for the screen, in px. */
const SCREEN = 2048;
const PAPER = '#fdfcf8';

type Page = { image: HTMLImageElement; size: 'screen' | 'full'; ready: boolean; failed: boolean };

/** The pages of a document as pictures: those in sight and their neighbours, however many there are. */
export class Book implements Media, Ground {
  readonly sheets: Sheets;
  /** the page the view is in px of */
  page = 0;
  version = $state(0);
  #pages = new Map<number, Page>();
  #closed = false;
  /** draws the marks of a page that is not the one in hand */
  still: ((c: CanvasRenderingContext2D, view: View, page: number) => void) | null = null;

  constructor(private readonly item: Item) {
    this.sheets = new Sheets(item.document!.sheets);
    this.#want([0]);
  }
  address(page: number, size: 'thumb' | 'screen' | 'full'): string {
    return `${this.item.document!.path}&place=${page}&size=${size}`;
  }
  /** Begins to load what is shown first. */
  open(page: number): void {
    this.page = page;
    this.#want([page]);
  }
  get ready(): boolean {
    void this.version;
    return this.#pages.get(this.page)?.ready ?? false;
  }
  get failed(): boolean {
    void this.version;
    return this.#pages.get(this.page)?.failed ?? false;
  }
  /** How many pages are held, for tests. */
  get held(): number {
    return this.#pages.size;
  }

  #load(page: number, size: 'screen' | 'full'): void {
    const image = new Image();
    const was = this.#pages.get(page);
    const entry: Page = { image, size, ready: false, failed: false };
    image.onload = () => {
      entry.ready = true;
      if (this.#pages.get(page) !== entry && size === 'full' && this.#pages.has(page)) this.#pages.set(page, entry);
      if (!this.#closed) this.version++;
    };
    image.onerror = () => {
      entry.failed = true;
      if (!this.#closed) this.version++;
    };
    if (page === this.page) image.fetchPriority = 'high';
    image.src = this.address(page, size);
    // a sharper copy takes the place of the other when it is here
    if (!was || size === 'screen') this.#pages.set(page, entry);
  }
  #want(pages: number[]): void {
    for (const page of pages) if (!this.#pages.has(page)) this.#load(page, 'screen');
    if (this.#pages.size <= MOST) return;
    const far = (page: number) => Math.min(...pages.map((p) => Math.abs(p - page)));
    for (const page of [...this.#pages.keys()].sort((a, b) => far(b) - far(a)).slice(0, this.#pages.size - MOST)) this.#drop(page);
  }
  #drop(page: number): void {
    const entry = this.#pages.get(page);
    if (!entry || page === this.page) return;
    entry.image.onload = entry.image.onerror = null;
    // what is still on its way is not wanted any more
    if (!entry.ready) entry.image.src = '';
    this.#pages.delete(page);
    this.#sharper.delete(page);
  }

  /** The view of another page, such that all of them lie as they do on the table. */
  viewOf(view: View, page: number): View {
    const [here, there] = [this.sheets.place(this.page), this.sheets.place(page)];
    return { scale: view.scale, x: view.x + (there.x - here.x) * view.scale, y: view.y + (there.y - here.y) * view.scale };
  }

  paint(c: CanvasRenderingContext2D, view: View, part: Box): void {
    const { y } = this.sheets.place(this.page);
    const seen = this.sheets.within(part.y + y, part.y + part.height + y);
    c.imageSmoothingEnabled = view.scale < 3;
    c.imageSmoothingQuality = 'medium';
    for (const page of seen) {
      const size = this.sheets.size(page);
      const at = this.viewOf(view, page);
      const [width, height] = [size.width * view.scale, size.height * view.scale];
      c.fillStyle = 'rgba(0,0,0,.35)';
      c.fillRect(at.x + 3, at.y + 3, width, height);
      c.fillStyle = PAPER;
      c.fillRect(at.x, at.y, width, height);
      const entry = this.#pages.get(page);
      if (entry?.ready) c.drawImage(entry.image, at.x, at.y, width, height);
      else this.#say(c, entry?.failed ? `page ${page + 1} could not be drawn` : `page ${page + 1}`, at, width, height);
      if (page !== this.page) this.still?.(c, at, page);
      else if (this.sheets.count > 1) {
        c.fillStyle = '#f0845a';
        c.fillRect(at.x - 6, at.y, 3, height);
      }
      if (width > 60) {
        c.fillStyle = '#b9b4a6';
        c.font = '500 11px IBM Plex Mono';
        c.textAlign = 'right';
        c.textBaseline = 'top';
        c.fillText(String(page + 1), at.x - 10, at.y + 2);
      }
    }
    const [first, last] = [seen[0] ?? this.page, seen.at(-1) ?? this.page];
    const near = [...seen, first - 1, last + 1, last + 2].filter((p) => p >= 0 && p < this.sheets.count);
    // the page in hand before the others
    this.#want([this.page, ...near.filter((p) => p !== this.page)].slice(0, MOST));
    const { width, height } = this.sheets.size(this.page);
    const side = Math.max(width, height);
    if (
      side > SCREEN &&
      view.scale * devicePixelRatio > SCREEN / side &&
      this.#pages.get(this.page)?.size === 'screen' &&
      this.ready &&
      !this.#sharper.has(this.page)
    ) {
      this.#sharper.add(this.page);
      this.#load(this.page, 'full');
    }
  }
  #sharper = new Set<number>();
  #say(c: CanvasRenderingContext2D, words: string, at: View, width: number, height: number): void {
    c.fillStyle = '#6c675b';
    c.font = '500 14px Hanken Grotesk Variable';
    c.textAlign = 'center';
    c.textBaseline = 'middle';
    c.fillText(words, at.x + width / 2, at.y + Math.min(height / 2, 200));
  }
  cut(c: CanvasRenderingContext2D, part: Box, side: number): void {
    const entry = this.#pages.get(this.page);
    if (!entry?.ready) return;
    const size = this.sheets.size(this.page);
    const k = side / part.width;
    c.drawImage(entry.image, -part.x * k, -part.y * k, size.width * k, size.height * k);
  }
  close(): void {
    this.#closed = true;
    for (const [, entry] of this.#pages) {
      entry.image.onload = entry.image.onerror = null;
      if (!entry.ready) entry.image.src = '';
    }
    this.#pages.clear();
  }
}
