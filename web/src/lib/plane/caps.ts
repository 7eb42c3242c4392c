import type { Cap, Row } from '$lib/keys/caps';
import { shapes } from '$lib/words/codebook';
import type { FlatKind } from '$lib/words/mark';
import type { PaintMode, Stroke } from './drawing.svelte';
import type { Plane } from './plane.svelte';
import { SIDES } from './patches.svelte';
import { PaintTool } from './tools';
import { pointKeysOf, shapeOf } from './shapes';
import {
  Box as BoxIcon,
  Brush,
  Check,
  Circle,
  CircleDot,
  Copy,
  Diamond,
  Dot,
  Ellipsis,
  Eraser,
  Eye,
  EyeOff,
  FlipHorizontal2,
  GitCompare,
  Hand,
  Hash,
  Hexagon,
  Layers,
  Magnet,
  Maximize,
  Minus,
  MousePointer2,
  PaintBucket,
  PenLine,
  Pentagon,
  PersonStanding,
  Plus,
  Route,
  Ruler,
  Scan,
  ScanEye,
  ScanLine,
  ScissorsLineDashed,
  Sparkles,
  Spline,
  Split,
  SquareDashed,
  SquareMinus,
  SquarePlus,
  Trash2,
  Undo2,
  Ungroup
} from '@lucide/svelte';

const icons: Record<FlatKind, typeof Check> = {
  box: SquareDashed,
  turned_box: Diamond,
  polygon: Pentagon,
  polyline: Spline,
  ellipse: Circle,
  points: Dot,
  skeleton: PersonStanding,
  mask: Brush,
  cuboid_2d: BoxIcon
};
const LOOK = 'this item is only looked at';

/** What the deck does for a flat item. Keys the shell has for itself (submit, back, on, return) are not among them. */
export class PlaneCaps {
  constructor(
    private readonly plane: Plane,
    /** opens a page of the deck */
    private readonly page: (name: string | null) => void
  ) {}

  get #look(): string | undefined {
    return this.plane.editable ? undefined : LOOK;
  }

  tools(): Cap[] {
    const { drawing, show, ports } = this.plane;
    const own = ports.words.kindsOf(ports.chosen.active);
    const drawn = drawing.mode === 'draw' && this.plane.editable;
    const next = drawn ? drawing.nextWay : null;
    return [
      { code: 'KeyQ', word: 'pick', icon: MousePointer2, lit: drawing.mode === 'pick', press: () => (drawing.mode = 'pick') },
      { code: 'KeyW', word: 'pan', icon: Hand, lit: drawing.mode === 'hand', press: () => (drawing.mode = 'hand') },
      {
        code: 'KeyE',
        word: drawing.cutting ? 'cut-out' : shapes[drawing.shape].replace('cuboid on a picture', 'cuboid'),
        icon: drawing.cutting ? ScissorsLineDashed : icons[drawing.shape],
        lit: drawn,
        off: this.#look ?? (own.length === 0 ? 'no class is drawn on pictures' : undefined),
        hint: next ? `again: ${next.cutting ? 'cut-out' : shapes[next.shape]}` : undefined,
        press: () => this.#draw()
      },
      {
        code: 'KeyT',
        word: show.hidden ? 'show' : 'hide',
        icon: show.hidden ? Eye : EyeOff,
        lit: show.hidden,
        press: () => (show.hidden = !show.hidden)
      }
    ];
  }
  #draw(): void {
    const { drawing, ports } = this.plane;
    drawing.takeShape();
    // a mask in hand is gone on with; another kind of mark is let go, so that the next drag draws
    if ((drawing.shape === 'mask' && ports.hand.mark?.kind !== 'mask') || drawing.cutting) ports.hand.select(null);
  }

  /** A, D, F, G: what is done with what is in hand. */
  verbs(): { name: string; caps: Cap[] } {
    const { drawing, ports } = this.plane;
    const drawn = drawing.mode === 'draw' && this.plane.editable;
    if (drawn && this.plane.isDrawing && this.plane.tool === this.plane.tools.outline) return { name: 'outline', caps: this.#outline() };
    if (drawn && this.plane.cutout.isOpen) return { name: 'cut-out', caps: this.#cutout() };
    if (drawn && drawing.shape === 'mask' && !drawing.cutting) return { name: 'mask', caps: this.#paint() };
    const { hand } = ports;
    const none = this.#look ?? (hand.size > 0 ? undefined : 'pick a mark first');
    const node = hand.one?.kind === 'skeleton' && hand.point?.startsWith('n:') ? hand.point.slice(2) : null;
    const pose = hand.one?.kind === 'skeleton' ? hand.one.geometry : null;
    const hidden = node !== null && pose?.nodes[node]?.state === 'hidden';
    return {
      name: 'verbs',
      caps: [
        ...(node !== null
          ? [
              {
                code: 'KeyA',
                word: hidden ? 'visible' : 'hidden',
                icon: hidden ? Eye : EyeOff,
                off: this.#look,
                press: () => this.plane.forms.toggleNode('hidden')
              }
            ]
          : (ports.mode === 'label' && (hand.size > 0 || !ports.overlays().some((o) => o.name === 'suggestions'))) || !this.plane.editable
            ? [{ code: 'KeyA', word: 'double', icon: Copy, off: none, press: () => this.plane.forms.duplicate() }]
            : []),
        {
          code: 'KeyD',
          word: node !== null ? 'absent' : hand.point !== null ? 'remove point' : 'remove',
          icon: Trash2,
          off: none,
          press: () => this.plane.forms.remove()
        },
        ...(drawn && !drawing.cutting && (drawing.shape === 'polygon' || drawing.shape === 'polyline') && hand.size === 0
          ? [this.#corners('KeyG')]
          : [])
      ]
    };
  }

  /** Z, X, B: how it is looked at. */
  view(): { name: string; caps: Cap[] } {
    const { drawing, sight, ports, looked, show } = this.plane;
    const drawn = drawing.mode === 'draw' && this.plane.editable;
    if (drawn && this.plane.cutout.isOpen) return { name: 'its edge', caps: this.#edge() };
    if (drawn && drawing.shape === 'mask' && !drawing.cutting) return { name: 'brush', caps: this.#brush() };
    const whole: Cap = { code: 'KeyZ', word: 'whole', icon: Maximize, hint: 'again: back to where you were', press: () => sight.toggle() };
    const over = ports.overlays();
    const mark = ports.hand.mark;
    const closer: Cap =
      !mark && over.length > 0
        ? {
            code: 'KeyX',
            word: over.map((o) => o.name).join(', '),
            icon: GitCompare,
            lit: show.over,
            press: () => (show.over = !show.over)
          }
        : { code: 'KeyX', word: 'closer', icon: Scan, off: mark ? undefined : 'pick a mark first', press: () => this.plane.to(mark) };
    if (drawn && this.plane.isDrawing && this.plane.tool === this.plane.tools.outline)
      return { name: 'view', caps: [whole, closer, this.#otherWay()] };
    if (looked.isShown)
      return { name: 'view', caps: [whole, closer, { code: 'KeyB', word: 'unseen', icon: ScanEye, press: () => looked.next() }] };
    const one = ports.hand.one;
    if (one && drawing.mode === 'pick' && (one.kind === 'skeleton' || one.kind === 'points') && pointKeysOf(shapeOf(one)).length > 1)
      return {
        name: 'view',
        caps: [
          whole,
          closer,
          {
            code: 'KeyB',
            word: one.kind === 'skeleton' ? 'next node' : 'next point',
            icon: CircleDot,
            again: true,
            press: () => this.plane.forms.nextPoint()
          }
        ]
      };
    return { name: 'view', caps: [whole, closer] };
  }

  /** While something is being cut out. */
  #cutout(): Cap[] {
    const { cutout, drawing } = this.plane;
    const says = (code: string, word: string, adds: boolean, icon: typeof Check): Cap => ({
      code,
      word,
      icon,
      lit: cutout.adds === adds,
      press: () => (cutout.adds = adds)
    });
    return [
      says('KeyA', 'add', true, SquarePlus),
      says('KeyD', 'take away', false, SquareMinus),
      {
        code: 'KeyF',
        word: drawing.shape === 'mask' ? 'as a mask' : 'as an outline',
        icon: drawing.shape === 'mask' ? Brush : Pentagon,
        hint: 'again: the other',
        off:
          this.plane.ports.words.kindsOf(this.plane.ports.chosen.active).filter((k) => k === 'polygon' || k === 'mask').length > 1
            ? undefined
            : 'the class has one only',
        press: () => {
          if (drawing.otherArea()) cutout.again();
        }
      }
    ];
  }
  #edge(): Cap[] {
    const { cutout } = this.plane;
    const loose = cutout.state?.loose ?? 0;
    return [
      { code: 'KeyZ', word: 'tighter', icon: Minus, again: true, hint: 'or Shift and wheel', press: () => cutout.dial(-0.5) },
      {
        code: 'KeyX',
        word: loose === 0 ? 'looser' : `looser: ${loose > 0 ? '+' : '−'}${Math.abs(loose)}`,
        icon: Plus,
        again: true,
        press: () => cutout.dial(0.5)
      },
      {
        code: 'KeyB',
        word: cutout.failed === '' ? 'take it' : 'try again',
        icon: Check,
        off: cutout.failed !== '' || cutout.found?.shape ? undefined : cutout.working ? 'it is being worked out' : 'nothing was found',
        press: () => void this.plane.acted(() => this.plane.tools.cutout.finish())
      }
    ];
  }
  /** While an outline is being drawn. */
  #outline(): Cap[] {
    const { drawing } = this.plane;
    const { outline } = this.plane.tools;
    const acted = (act: () => boolean | void) => () =>
      void this.plane.acted(() => {
        act();
        return true;
      });
    return [
      { code: 'KeyA', word: 'finish', icon: Check, press: acted(() => outline.finish()) },
      { code: 'KeyD', word: 'take back', icon: Undo2, press: acted(() => outline.takeBack()), again: true },
      { code: 'KeyF', word: 'follow', icon: Magnet, lit: drawing.follow, press: () => (drawing.follow = !drawing.follow) },
      this.#corners('KeyG')
    ];
  }
  /** Which way round a neighbour is followed, or which stretch of an outline goes: the shorter, or the other. */
  #otherWay(): Cap {
    const { drawing } = this.plane;
    const { outline } = this.plane.tools;
    const redraw = drawing.stroke === 'redraw';
    return {
      code: 'KeyB',
      word: 'other way',
      icon: Route,
      lit: redraw ? drawing.otherStretch : undefined,
      off: redraw || outline.followed ? undefined : 'only after a neighbour was followed',
      press: redraw
        ? () => (drawing.otherStretch = !drawing.otherStretch)
        : () =>
            void this.plane.acted(() => {
              outline.otherWay();
              return true;
            })
    };
  }
  #corners(code: string): Cap {
    const { drawing, ports } = this.plane;
    const rule = ports.words.pointsOf(ports.chosen.active, drawing.shape);
    const n = rule ?? drawing.corners;
    return {
      code,
      word: n === null ? 'any number' : `${n} points`,
      icon: Hash,
      lit: n !== null,
      off: rule === null ? undefined : 'the class says how many',
      press: () => (drawing.corners = drawing.corners === null ? 3 : drawing.corners < 8 ? drawing.corners + 1 : null)
    };
  }

  /** While masks are painted. */
  #paint(): Cap[] {
    const { drawing } = this.plane;
    const mode = (code: string, word: string, to: PaintMode, icon: typeof Check): Cap => ({
      code,
      word,
      icon,
      lit: drawing.paint.mode === to,
      press: () => drawing.setPaint({ mode: to })
    });
    const cuts = drawing.paint.mode === 'cut outline';
    const { mask: tool } = this.plane.tools.shapes;
    const patching = tool instanceof PaintTool && tool.isPatching;
    return [
      mode('KeyA', 'paint', 'paint', Brush),
      mode('KeyD', 'erase', 'erase', Eraser),
      patching
        ? {
            code: 'KeyF',
            word: 'split',
            icon: Split,
            hint: 'the patch under the pointer, where it holds two things',
            off: this.plane.patches.now ? undefined : 'the patches are not here yet',
            press: () => void tool.split()
          }
        : {
            ...mode('KeyF', cuts ? 'cut outline' : 'add outline', cuts ? 'cut outline' : 'add outline', cuts ? SquareMinus : SquarePlus),
            hint: `again: ${cuts ? 'add' : 'cut'}`,
            press: () => drawing.setPaint({ mode: drawing.paint.mode === 'add outline' ? 'cut outline' : 'add outline' })
          },
      {
        code: 'KeyG',
        word: 'patches',
        icon: Hexagon,
        lit: drawing.paint.patches,
        hint: 'regions that follow edges, in place of the brush',
        press: () => {
          const patches = !drawing.paint.patches;
          const drawn = drawing.paint.mode === 'paint' || drawing.paint.mode === 'erase';
          drawing.setPaint({ patches, ...(!drawn && { mode: 'paint' }) });
          if (patches) this.plane.patches.ahead();
        }
      }
    ];
  }
  #brush(): Cap[] {
    const { drawing, patches } = this.plane;
    const { mask: tool } = this.plane.tools.shapes;
    if (tool instanceof PaintTool && tool.isPatching)
      return [
        {
          code: 'KeyZ',
          word: 'smaller',
          icon: Minus,
          off: patches.size > 0 ? undefined : 'these are the smallest',
          hint: 'or Shift and wheel',
          press: () => patches.larger(-1)
        },
        {
          code: 'KeyX',
          word: `larger: ${SIDES[patches.size]}`,
          icon: Plus,
          off: patches.size < SIDES.length - 1 ? undefined : 'these are the largest',
          press: () => patches.larger(1)
        },
        { code: 'KeyB', word: 'mask…', icon: Ellipsis, press: () => this.page('mask') }
      ];
    return [
      { code: 'KeyZ', word: 'smaller', icon: Minus, again: true, press: () => drawing.larger(1 / 1.25) },
      { code: 'KeyX', word: `larger: ${drawing.paint.size}`, icon: Plus, again: true, press: () => drawing.larger(1.25) },
      { code: 'KeyB', word: 'mask…', icon: Ellipsis, press: () => this.page('mask') }
    ];
  }
  /** What is rarer while masks are painted. */
  maskPage(): Row[] {
    const { drawing, show, forms, assist } = this.plane;
    const done = (act: () => void) => () => {
      act();
      this.page(null);
    };
    return [
      {
        name: 'this mask',
        caps: [
          {
            code: 'KeyQ',
            word: drawing.paint.claim ? 'claims' : 'overlaps',
            icon: Layers,
            lit: drawing.paint.claim,
            press: () => drawing.setPaint({ claim: !drawing.paint.claim })
          },
          { code: 'KeyW', word: 'coverage', icon: ScanEye, lit: show.coverage, press: () => (show.coverage = !show.coverage) },
          {
            code: 'KeyE',
            word: 'mend',
            icon: Sparkles,
            off: forms.painted ? undefined : 'no mask is in hand',
            press: done(() => void assist.ask('mend', 4, 'mend up to 4 px'))
          },
          {
            code: 'KeyR',
            word: 'fill',
            icon: PaintBucket,
            lit: drawing.paint.mode === 'fill',
            press: done(() => drawing.setPaint({ mode: 'fill' }))
          },
          {
            code: 'KeyT',
            word: 'to outline',
            icon: Pentagon,
            off: forms.painted ? undefined : 'no mask is in hand',
            press: done(() => void assist.ask('outline', 1, 'as an outline'))
          }
        ]
      },
      { name: '', caps: [] },
      { name: '', caps: [] }
    ];
  }

  /** T, A, D, F, B, G of the page of the mark in hand: what its shape can be made into. */
  ofMark(): Cap[] {
    const { drawing, ports, assist, forms, posing } = this.plane;
    const one = ports.hand.one;
    const kind = one?.kind;
    const done = (act: () => void) => () => {
      act();
      this.page(null);
    };
    const redo = (word: string, code: string, stroke: Stroke, icon: typeof Check): Cap => ({
      code,
      word,
      icon,
      off: kind === 'polygon' ? undefined : 'only outlines',
      press: done(() => drawing.redraw(stroke))
    });
    return [
      kind === 'skeleton'
        ? { code: 'KeyT', word: 'mirror', icon: FlipHorizontal2, press: done(() => forms.mirror()) }
        : {
            code: 'KeyT',
            word: 'tight?',
            icon: Ruler,
            off: kind === 'box' ? undefined : 'only boxes',
            press: done(() => void assist.ask('tight', 0, 'tight'))
          },
      redo('add', 'KeyA', 'add', SquarePlus),
      redo('cut', 'KeyD', 'cut', SquareMinus),
      kind === 'skeleton'
        ? {
            code: 'KeyF',
            word: 'fit',
            icon: ScanLine,
            hint: 'its nodes are moved to where the picture shows them',
            off: posing.can(one ?? null) ? undefined : 'no skeletons of this class have been learned yet',
            press: done(() => void posing.start(one ?? null))
          }
        : redo('redraw', 'KeyF', 'redraw', PenLine),
      {
        code: 'KeyG',
        word: drawing.together ? 'together' : 'apart',
        icon: Ungroup,
        lit: drawing.together,
        hint: 'points that neighbours share move together',
        off: kind === 'polygon' || kind === 'polyline' ? undefined : 'only outlines share points',
        press: () => (drawing.together = !drawing.together)
      },
      kind === 'mask'
        ? { code: 'KeyB', word: 'to outline', icon: Pentagon, press: done(() => void assist.ask('outline', 1, 'as an outline')) }
        : {
            code: 'KeyB',
            word: 'to mask',
            icon: Brush,
            off: kind && ['polygon', 'ellipse', 'box', 'turned_box'].includes(kind) ? undefined : 'covers no area',
            press: done(() => void assist.ask('fill', 0, 'as a mask'))
          }
    ];
  }
}
