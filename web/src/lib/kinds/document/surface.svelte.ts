import type { Layer } from '$lib/keys/layers';
import type { Drawing } from '$lib/plane/drawing.svelte';
import { drawnOf, pen, RIM } from '$lib/plane/layers/pens';
import { dots, shapeOf } from '$lib/plane/shapes';
import { paintMask } from '$lib/plane/runs';
import type { Show } from '$lib/plane/show.svelte';
import { fit, type View } from '$lib/plane/view';
import type { Mark, Point } from '$lib/words/mark';
import { Flat } from '../flat/flat.svelte';
import { atPlace } from '../flat/place';
import type { Anchor, BenchPorts, Cap, Caps, Item, Surface, Todo } from '../kind';
import type { Book } from './book.svelte';
import { Behind } from './behind.svelte';
import { DocumentCaps } from './caps';
import Detail from './Detail.svelte';
import { PageMarks } from './marks';
import { Readings } from './reading.svelte';
import { PageSaid } from './said';
import { GAP } from './sheets';
import Note from './Note.svelte';
import Stage from './Stage.svelte';
import Strip from './Strip.svelte';

/** A document on the bench: its pages under each other, one of them in hand. */
export class DocumentSurface extends Flat implements Surface {
  readonly Stage = Stage;
  readonly noun = 'document';
  readonly Strip = Strip;
  readonly Detail = Detail;
  override readonly Note = Note;
  readonly marks: PageMarks;
  readonly said: PageSaid;
  readonly readings: Readings;
  readonly behind: Behind;
  readonly pagesCount: number;
  readonly keys: Layer;
  /** the page in hand, from 0 */
  page = $state(0);
  /** a number of a page is being typed */
  asking = $state(false);
  /** counts the changes of marks, for what is shown of all pages */
  #changes = $state(0);
  readonly #caps: DocumentCaps;
  readonly #lists: BenchPorts['overlays'];
  #ends: (() => void)[] = [];

  constructor(
    item: Item,
    readonly book: Book,
    ports: BenchPorts,
    drawing: Drawing,
    shows: Show
  ) {
    const on = {
      id: item.id,
      get width() {
        return book.sheets.size(book.page).width;
      },
      get height() {
        return book.sheets.size(book.page).height;
      }
    };
    const own = {
      ...atPlace(
        ports,
        () => this.page,
        () => this.#over()
      ),
      scrolls: true,
      under: (at: Point) => this.#under(at),
      drawn: (mark: Mark) => void this.readings.read(mark, true)
    };
    super(item, own, drawing, shows, on);
    this.#lists = ports.overlays;
    this.pagesCount = book.sheets.count;
    this.marks = new PageMarks(ports.editor);
    this.said = new PageSaid(ports.words, ports.asking, this.pagesCount);
    this.behind = new Behind(ports.project, item.id, ports.say);
    void this.behind.look();
    this.readings = new Readings({
      words: ports.words,
      editor: ports.editor,
      asking: ports.asking,
      ask: (mark) => ports.compute(mark, { op: 'words', n: 0, place: mark.place ?? this.page }),
      reshape: (mark, shape) => this.plane.forms.reshape(mark, shape),
      say: ports.say
    });
    ports.asking.along = {
      questions: () => this.said.questions(this.page),
      answers: () => this.said.answers(this.page),
      give: (question, answer) => this.said.give(question, answer, this.page)
    };
    book.still = (c, view, page) => this.#still(c, view, page);
    this.#ends.push(
      ports.editor.marks.on(() => {
        this.#changes++;
        // those of other pages are painted with their pages
        book.version++;
      })
    );
    // what is taken from the list is gone to
    ports.hand.on(() => {
      const mark = ports.hand.mark;
      if (mark && mark.place !== null && mark.place !== this.page) this.turn(mark.place, true);
    });
    this.#caps = new DocumentCaps(this, this.planeCaps, ports);
    this.keys = this.#layer();
    this.keyMap.splice(
      this.keyMap.findIndex((k) => k.keys === 'wheel'),
      1,
      { keys: 'wheel', what: 'along the pages; with Ctrl closer and wider, with Shift sideways' },
      { keys: 'Z, X', what: 'a page back, a page on; with Shift ten' },
      { keys: 'Page Up, Page Down', what: 'a stage further up or down' }
    );
    Object.assign(this.pages, this.#caps.pages);
    const begun = ports.kept.get<number>('page');
    if (begun !== null && begun > 0 && begun < this.pagesCount) {
      book.open(begun);
      this.turn(begun);
    }
  }
  close(): void {
    for (const end of this.#ends) end();
    this.book.still = null;
    this.readings.close();
    this.behind.close();
    this.marks.close();
    this.ports.asking.along = null;
    this.plane.close();
    this.book.close();
  }

  get place(): number {
    return this.page;
  }
  async go(page: number): Promise<void> {
    this.turn(page, true);
  }
  /** Another page is in hand. @param show it is brought into sight; else everything stays where it lies */
  turn(page: number, show = false): void {
    const to = Math.max(0, Math.min(this.pagesCount - 1, page));
    if (to !== this.page) {
      const { sight } = this.plane;
      const view = this.book.viewOf(sight.view, to);
      // what was begun on a page stays on it
      this.plane.nudge.end();
      this.book.page = this.page = to;
      sight.turn(this.book.sheets.size(to), view);
      this.marks.show(to);
      if (this.ports.hand.mark && this.ports.hand.mark.place !== to) this.ports.hand.select(null);
      this.ports.kept.set('page', to);
      this.book.version++;
    }
    if (show) this.#bring();
  }
  /** The top of the page in hand, at the zoom there is; narrower when it is wider than the stage. */
  #bring(): void {
    const { sight } = this.plane;
    const { width, height } = sight.picture;
    if (sight.stage.width <= 100) return sight.whole();
    const { scale } = sight.view;
    const fits = height * scale <= sight.stage.height - GAP * scale;
    sight.view = {
      scale,
      x:
        width * scale <= sight.stage.width
          ? (sight.stage.width - width * scale) / 2
          : Math.min(14, Math.max(sight.view.x, sight.stage.width - width * scale - 14)),
      y: fits ? (sight.stage.height - height * scale) / 2 : 14
    };
  }
  /** As wide as the stage. */
  wide(): void {
    const { sight } = this.plane;
    const scale = (sight.stage.width - 60) / sight.picture.width;
    sight.view = { scale, x: 36, y: 14 };
  }
  /** The stage has moved over the pages: the one under its middle is in hand, and the table never leaves it. */
  moved(): void {
    const { sight, pointer } = this.plane;
    const { view, stage } = sight;
    if (stage.width <= 100 || view.scale <= 0) return;
    const at = this.book.sheets.place(this.page);
    const top = view.y - at.y * view.scale;
    const most = stage.height / 2;
    const least = stage.height / 2 - this.book.sheets.height * view.scale;
    const kept = Math.min(most, Math.max(least, top));
    if (Math.abs(kept - top) > 0.5) {
      sight.pan(0, kept - top);
      return;
    }
    if (this.plane.isDrawing || pointer.isDown || this.ports.hand.size > 0) return;
    const middle = (stage.height / 2 - view.y) / view.scale + at.y;
    const page = this.book.sheets.at(middle);
    if (page !== this.page) this.turn(page);
  }
  /** A press on another page takes that one in hand first. */
  #under({ y }: Point): void {
    if (this.plane.isDrawing) return;
    const page = this.book.sheets.at(y + this.book.sheets.place(this.page).y);
    if (page !== this.page) this.turn(page);
  }
  /** Marks on a page that is not in hand. */
  #still(c: CanvasRenderingContext2D, view: View, page: number): void {
    const { words } = this.ports;
    if (this.shows.hidden) return;
    const { width, height } = this.book.sheets.size(page);
    const whole = { x: 0, y: 0, width, height };
    c.save();
    c.globalAlpha = 0.75;
    for (const mark of this.marks.on(page)) {
      const shape = shapeOf(mark);
      const color = words.light(mark.class);
      if (shape.kind === 'mask') {
        paintMask(c, view, shape.geometry, whole, color, this.shows.opacity.all);
        continue;
      }
      const d = drawnOf(mark, shape, view, words.bones(mark.class));
      c.lineWidth = 1.5 * this.shows.weight + 2;
      c.strokeStyle = RIM;
      pen(c, d);
      c.lineWidth = 1.5 * this.shows.weight;
      c.strokeStyle = color;
      pen(c, d);
      dots(c, view, shape, words.bones(mark.class), color, false);
    }
    c.restore();
  }
  /** What lies over the marks of the page in hand. */
  #over() {
    return this.#lists().map((o) => ({ ...o, marks: o.marks.filter((m) => (m.place ?? 0) === this.page) }));
  }

  /** How many marks are on a page. */
  count(page: number): number {
    void this.#changes;
    return this.marks.on(page).length;
  }
  /** Pages that lack an answer, each once. */
  readonly open = $derived.by(() => new Set(this.said.missing().flatMap((m) => m.pages)));

  show(what: Mark | Anchor | null): void {
    if (what === null) return this.plane.sight.whole();
    if (typeof what.place === 'number' && what.place !== this.page) this.turn(what.place);
    if ('kind' in what) this.plane.to(what);
    else if (what.x !== null && what.y !== null) this.plane.sight.centre({ x: what.x, y: what.y });
    else this.#bring();
  }
  caps(): Caps {
    return this.#caps.caps();
  }
  ofMark(): Cap[] {
    return this.planeCaps.ofMark();
  }
  words = (mark: Mark): string => (this.pagesCount > 1 && mark.place !== null ? `page ${mark.place + 1}: ` : '') + this.plane.words(mark);
  short = (mark: Mark): string => (this.pagesCount > 1 && mark.place !== null ? `p. ${mark.place + 1} · ` : '') + this.plane.short(mark);
  /** A mark is known by its page; what is written under it stands behind, as its answer. */
  lead = (mark: Mark): string => (this.pagesCount > 1 && mark.place !== null ? `p. ${mark.place + 1} ` : '');
  facts(): string[] {
    const { pages, resolution, format } = this.item.document!;
    const { width, height } = this.book.sheets.size(this.page);
    return [
      `page ${this.page + 1} of ${pages}`,
      `${width} × ${height} px`,
      ...(resolution > 0 ? [`${resolution} px an inch`] : []),
      format
    ];
  }
  todo(): Todo[] {
    return this.said.missing().map(({ question, pages }) => ({
      word: `${question.name}: ${pages.length === 1 ? 'page' : 'pages'}`,
      count: pages.length,
      lead: () => {
        this.ports.hand.select(null);
        this.turn(pages.find((p) => p > this.page) ?? pages[0]!, true);
        this.ports.asking.question = question.key;
      }
    }));
  }
  get isShown(): boolean {
    return this.book.ready;
  }
  /** The whole page in hand. */
  whole(): void {
    const { sight } = this.plane;
    sight.view = fit(sight.picture, sight.stage);
  }
  #layer(): Layer {
    const { planeKeys } = this;
    return {
      ...planeKeys,
      press: (e) => {
        if (e.ctrlKey || e.metaKey || e.altKey) return planeKeys.press!(e);
        if (e.code === 'PageDown' || e.code === 'PageUp') {
          this.plane.sight.pan(0, (e.code === 'PageDown' ? -0.85 : 0.85) * this.plane.sight.stage.height);
          return true;
        }
        if (e.shiftKey && (e.code === 'KeyZ' || e.code === 'KeyX') && !this.plane.isDrawing) {
          this.turn(this.page + (e.code === 'KeyZ' ? -10 : 10), true);
          return true;
        }
        return planeKeys.press!(e);
      }
    };
  }
}
