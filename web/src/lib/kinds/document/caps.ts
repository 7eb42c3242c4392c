import type { Cap, Row } from '$lib/keys/caps';
import type { PlaneCaps } from '$lib/plane/caps';
import {
  ArrowDownToLine,
  ArrowUpToLine,
  BookOpen,
  Eye,
  EyeOff,
  FileQuestionMark,
  FileText,
  GitCompare,
  Hash,
  Maximize,
  MoveHorizontal,
  Scan,
  StepBack,
  StepForward,
  TextSelect
} from '@lucide/svelte';
import { askedRow, tagCaps } from '../flat/saying';
import type { BenchPorts, Caps } from '../kind';
import type { DocumentSurface } from './surface.svelte';

/** What the deck does for a document, over what it does for any plane. */
export class DocumentCaps {
  constructor(
    private readonly surface: DocumentSurface,
    private readonly plane: PlaneCaps,
    private readonly ports: BenchPorts
  ) {}
  #done(act: () => unknown): () => void {
    return () => {
      act();
      this.ports.page(null);
    };
  }

  caps(): Caps {
    const { surface, plane } = this;
    const verbs = plane.verbs();
    const view = plane.view();
    const tools = plane.tools().filter((c) => c.code !== 'KeyT');
    return {
      tools: [...tools, { code: 'KeyT', word: 'pages…', icon: BookOpen, press: () => this.ports.page('pages') }],
      verbs: verbs.name === 'verbs' ? { name: 'verbs', caps: [...verbs.caps, ...this.#read(verbs.caps)] } : verbs,
      view: view.name !== 'view' || surface.plane.isDrawing ? view : { name: 'pages', caps: this.#steps() }
    };
  }
  /** What is written under the mark in hand, read once more. */
  #read(there: Cap[]): Cap[] {
    const { readings } = this.surface;
    const { hand } = this.ports;
    const one = hand.one;
    if (!one || !this.surface.plane.editable || !readings.questionOf(one.class) || there.some((c) => c.code === 'KeyG')) return [];
    return [
      {
        code: 'KeyG',
        word: readings.reading.has(one.id) ? 'reading' : 'read it',
        icon: TextSelect,
        hint: 'what is written under it is offered as the answer',
        press: () => {
          this.ports.asking.question = readings.questionOf(one.class)!.key;
          void readings.read(one, false);
        }
      }
    ];
  }
  #steps(): Cap[] {
    const { surface } = this;
    const { page, pagesCount } = surface;
    const only = pagesCount === 1 ? 'there is one page' : undefined;
    const open = surface.open.size > 0;
    return [
      {
        code: 'KeyZ',
        word: 'page back',
        icon: StepBack,
        again: true,
        off: only ?? (page === 0 ? 'this is the first' : undefined),
        press: () => surface.turn(page - 1, true)
      },
      {
        code: 'KeyX',
        word: 'page on',
        icon: StepForward,
        again: true,
        off: only ?? (page === pagesCount - 1 ? 'this is the last' : undefined),
        press: () => surface.turn(page + 1, true)
      },
      open
        ? {
            code: 'KeyB',
            word: 'next open',
            icon: FileQuestionMark,
            again: true,
            hint: 'the next page that lacks an answer',
            press: () => {
              const next = surface.said.nextOpen(page);
              if (next === null) return;
              this.ports.hand.select(null);
              surface.turn(next, true);
              this.ports.asking.openNext(true);
            }
          }
        : { code: 'KeyB', word: 'whole page', icon: Maximize, press: () => surface.whole() }
    ];
  }

  /** What is said: of this page, of the document as a whole. */
  #saying(): Row[] {
    const { surface } = this;
    const { said, page } = surface;
    const caps = tagCaps(
      this.ports,
      said.tags.map((t) => ({
        word: t.name,
        icon: FileText,
        lit: said.isTagged(t.key, page),
        hint: 'of this page',
        press: () => said.tag(t.key, page)
      }))
    );
    return [
      askedRow(this.ports, { scope: 'page', icon: FileText, hint: 'of this page', whole: 'of the whole document' }),
      { name: caps.length > 0 ? 'tags' : '', caps },
      // pages are turned while they are answered
      { name: 'pages', caps: this.#steps() }
    ];
  }

  readonly pages: Record<string, () => Row[]> = {
    item: () => this.#saying(),
    pages: () => {
      const { surface } = this;
      const { plane } = surface;
      const { hand } = this.ports;
      const over = surface.plane.ports.overlays();
      return [
        {
          name: 'pages',
          caps: [
            { code: 'KeyQ', word: 'first page', icon: ArrowUpToLine, press: () => surface.turn(0, true) },
            { code: 'KeyW', word: 'last page', icon: ArrowDownToLine, press: () => surface.turn(surface.pagesCount - 1, true) },
            { code: 'KeyE', word: 'to page…', icon: Hash, press: this.#done(() => (surface.asking = true)) },
            { code: 'KeyR', word: 'whole page', icon: Maximize, press: () => surface.whole() },
            { code: 'KeyT', word: 'as wide', icon: MoveHorizontal, hint: 'as the stage', press: () => surface.wide() }
          ]
        },
        {
          name: 'marks',
          caps: [
            {
              code: 'KeyA',
              word: plane.show.hidden ? 'show' : 'hide',
              icon: plane.show.hidden ? Eye : EyeOff,
              lit: plane.show.hidden,
              press: () => (plane.show.hidden = !plane.show.hidden)
            },
            {
              code: 'KeyD',
              word: 'closer',
              icon: Scan,
              off: hand.mark ? undefined : 'pick a mark first',
              press: () => plane.to(hand.mark)
            },
            ...(over.length > 0
              ? [
                  {
                    code: 'KeyF',
                    word: over.map((o) => o.name).join(', '),
                    icon: GitCompare,
                    lit: plane.show.over,
                    press: () => (plane.show.over = !plane.show.over)
                  } satisfies Cap
                ]
              : [])
          ]
        },
        {
          name: 'ten at a time',
          caps: [
            { code: 'KeyZ', word: '10 back', icon: StepBack, again: true, press: () => surface.turn(surface.page - 10, true) },
            { code: 'KeyX', word: '10 on', icon: StepForward, again: true, press: () => surface.turn(surface.page + 10, true) }
          ]
        }
      ];
    }
  };
}
