import { shapes, type Attribute } from '$lib/state/codebook';
import { answersOf, digitPlaces, type Cap, type Row } from './caps';
import type { Bench } from './bench.svelte';
import { letters } from './keys';
import { OutlineTool, type StageTool } from './tools';
import type { Flag, Kind } from './types';
import {
  Box as BoxIcon,
  BringToFront,
  Brush,
  Check,
  Circle,
  Diamond,
  Dot,
  Ellipsis,
  Eraser,
  FlipHorizontal2,
  Hash,
  History,
  Layers,
  Link,
  Lock,
  Magnet,
  Minus,
  PaintBucket,
  PenLine,
  Pentagon,
  PersonStanding,
  Plus,
  Route,
  Ruler,
  ScanEye,
  SendToBack,
  Sparkles,
  Spline,
  SquareMinus,
  SquarePlus,
  Undo2,
  ChevronLeft,
  ChevronRight,
  CirclePause,
  CircleSlash,
  Copy,
  Crosshair,
  CornerUpLeft,
  Eye,
  EyeOff,
  Hand,
  ListChecks,
  MapPin,
  Maximize,
  MessageCircleQuestion,
  MousePointer2,
  Scan,
  SquareDashed,
  Trash2,
  BadgeCheck,
  SkipForward
} from '@lucide/svelte';

const left = [...letters.Q, ...letters.A, ...letters.Z];

export type DeckPage = {
  board: number | null;
  /** Shift is held: the board shows the page after this */
  shift: boolean;
  setBoard: (page: number | null) => void;
  returning: () => void;
  nothing: () => void;
  find: () => void;
  history: () => void;
  asking: () => void;
  parking: () => void;
  tool: StageTool;
  refresh: () => void;
};

const classCap = (bench: Bench, code: string, key: string, press: () => void): Cap => ({
  code,
  word: bench.nameOf(key),
  marker: { marker: bench.looks.get(key)?.marker ?? 'circle', color: bench.light(key) },
  lit: bench.active === key,
  press
});

/** Caps of the class board: four rows of five under the left hand. */
const boardKeys = ['Digit1', 'Digit2', 'Digit3', 'Digit4', 'Digit5', ...left];

export function digitRow(bench: Bench, page: DeckPage): Row {
  const many = bench.drawable.length > 10;
  if (page.board !== null) return { name: 'class board', caps: [boardCap(bench, page), ...boardCaps(bench, page).slice(0, 5)] };
  const caps = digitPlaces(bench.drawable).map(({ digit, key }) => classCap(bench, `Digit${digit}`, key, () => bench.choose(key)));
  if (many) caps.unshift(boardCap(bench, page));
  return { name: 'classes', caps };
}

function boardCap(bench: Bench, page: DeckPage): Cap {
  const pages = Math.ceil(bench.drawable.length / boardKeys.length);
  const now = page.board ?? -1;
  // two pages are under the hand at once (the second with Shift), so the key goes on by two
  return {
    code: 'Backquote',
    word: page.board === null ? 'board' : `${now + 1 + (page.shift ? 1 : 0)} of ${pages}`,
    icon: ListChecks,
    lit: page.board !== null,
    press: () => page.setBoard(page.board === null ? 0 : now + 2 < pages ? now + 2 : null)
  };
}

/** All classes under the left hand, twenty a page, places fixed by the codebook; the next twenty with Shift. */
function boardCaps(bench: Bench, page: DeckPage): Cap[] {
  const from = ((page.board ?? 0) + (page.shift ? 1 : 0)) * boardKeys.length;
  return bench.drawable.slice(from, from + boardKeys.length).map((c, i) =>
    classCap(bench, boardKeys[i]!, c.key, () => {
      bench.choose(c.key);
      page.setBoard(null);
    })
  );
}

function boardRows(bench: Bench, page: DeckPage): Row[] {
  const caps = boardCaps(bench, page);
  return [5, 10, 15].map((at) => ({ name: '', caps: caps.slice(at, at + 5) }));
}

/** The answers of an open question on the letter rows. */
const answerRows = (bench: Bench, attribute: Attribute): Row[] =>
  answersOf(attribute, bench.answers[attribute.key], (answer, stay) => bench.answer(attribute, answer, stay));

/** What is said of the picture: its questions on the upper row, its tags on the others. */
function pictureRows(bench: Bench, page: DeckPage): Row[] {
  const tags = bench.document.tags?.filter((t) => (t.scope ?? 'item') === 'item') ?? [];
  const caps = (from: number, to: number, row: 'A' | 'Z'): Cap[] =>
    tags
      .slice(from, to)
      .map((t, i) => ({ code: letters[row][i]!, word: t.name, lit: bench.said.tags.includes(t.key), press: () => bench.tag(t.key) }));
  return [
    {
      name: 'the picture',
      caps: bench.itemQuestions.slice(0, 5).map((a, i) => ({
        code: letters.Q[i]!,
        word: a.name,
        lit: bench.said.answers[a.key] !== undefined,
        press: () => (bench.question = a.key)
      }))
    },
    { name: tags.length > 0 ? 'tags' : '', caps: caps(0, 5, 'A') },
    {
      name: '',
      caps: [
        ...caps(5, 8, 'Z'),
        { code: 'KeyV', word: 'ask', icon: MessageCircleQuestion, press: page.asking },
        {
          code: 'KeyB',
          word: 'park',
          icon: CirclePause,
          off: bench.mode === 'label' ? undefined : 'only your own work',
          press: page.parking
        }
      ]
    }
  ];
}

const kindIcons: Record<Kind, typeof Check> = {
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

/** While an outline is being drawn. */
function outlineVerbs(bench: Bench, page: DeckPage): Cap[] {
  const tool = page.tool instanceof OutlineTool ? page.tool : null;
  // which stretch of the outline goes: the shorter, or the other
  const redraw = bench.stroke === 'redraw';
  const acted = (act: () => void) => () => {
    act();
    page.refresh();
  };
  return [
    { code: 'KeyA', word: 'finish', icon: Check, press: acted(() => tool?.finish()) },
    {
      code: 'KeyS',
      word: 'other way',
      icon: Route,
      lit: redraw ? bench.otherStretch : undefined,
      off: redraw || tool?.followed ? undefined : 'only after a neighbour was followed',
      press: redraw ? () => (bench.otherStretch = !bench.otherStretch) : acted(() => tool?.otherWay())
    },
    { code: 'KeyD', word: 'take back', icon: Undo2, press: acted(() => tool?.takeBack()), again: true },
    { code: 'KeyF', word: 'follow', icon: Magnet, lit: bench.follow, press: () => (bench.follow = !bench.follow) },
    cornersCap(bench)
  ];
}
const cornersCap = (bench: Bench): Cap => {
  const rule = bench.pointsOf(bench.active, bench.shape);
  const n = rule ?? bench.corners;
  return {
    code: 'KeyG',
    word: n === null ? 'any number' : `${n} points`,
    icon: Hash,
    lit: n !== null,
    off: rule === null ? undefined : 'the class says how many',
    press: () => (bench.corners = bench.corners === null ? 3 : bench.corners < 8 ? bench.corners + 1 : null)
  };
};

/** While masks are painted. */
function paintRows(bench: Bench): { verbs: Cap[]; view: Cap[] } {
  const set = (change: Partial<Bench['paint']>) => () => (bench.paint = { ...bench.paint, wide: false, ...change });
  const mode = (code: string, word: string, to: Bench['paint']['mode'], icon: typeof Check): Cap => ({
    code,
    word,
    icon,
    lit: bench.paint.mode === to,
    press: set({ mode: to })
  });
  const size = bench.paint.size;
  return {
    verbs: [
      mode('KeyA', 'paint', 'paint', Brush),
      mode('KeyS', 'erase', 'erase', Eraser),
      mode('KeyD', 'add outline', 'add outline', SquarePlus),
      mode('KeyF', 'cut outline', 'cut outline', SquareMinus),
      mode('KeyG', 'fill', 'fill', PaintBucket)
    ],
    view: [
      { code: 'KeyZ', word: `smaller`, icon: Minus, again: true, press: set({ size: Math.max(1, Math.round(size / 1.25 - 0.5)) }) },
      {
        code: 'KeyX',
        word: `larger: ${size}`,
        icon: Plus,
        again: true,
        press: set({ size: Math.min(600, Math.round(size * 1.25 + 0.5)) })
      },
      {
        code: 'KeyC',
        word: bench.paint.claim ? 'claims' : 'overlaps',
        icon: Layers,
        lit: bench.paint.claim,
        press: set({ claim: !bench.paint.claim })
      },
      { code: 'KeyV', word: 'coverage', icon: ScanEye, lit: bench.coverage, press: () => (bench.coverage = !bench.coverage) },
      {
        code: 'KeyB',
        word: 'mend',
        icon: Sparkles,
        off: bench.painted ? undefined : 'no mask is in hand',
        press: () => void bench.compute('mend', 4, 'mend up to 4 px')
      }
    ]
  };
}

/** What is rarer than a verb: stack, links, flags, other forms of the mark in hand. */
function markRows(bench: Bench, page: DeckPage): Row[] {
  const marks = bench.inHand;
  const one = bench.mark && marks.length === 1 ? bench.mark : null;
  const kind = one?.kind;
  const done = (press: () => void) => () => {
    press();
    bench.page = false;
  };
  const redo = (word: string, code: string, stroke: Bench['stroke'], icon: typeof Check): Cap => ({
    code,
    word,
    icon,
    off: kind === 'polygon' ? undefined : 'only outlines',
    press: done(() => {
      bench.tool = 'draw';
      bench.shape = 'polygon';
      bench.stroke = stroke;
      bench.otherStretch = false;
    })
  });
  const flag = (code: string, word: string, f: Flag): Cap => ({
    code,
    word,
    lit: marks.length > 0 && marks.every((m) => m.flags.includes(f)),
    press: () => bench.toggleFlag(f)
  });
  const wholes = one ? (bench.classOf(one.class)?.part_of ?? []) : [];
  return [
    {
      name: 'this mark',
      caps: [
        { code: 'KeyQ', word: 'to front', icon: BringToFront, press: () => bench.restack(true) },
        { code: 'KeyW', word: 'to back', icon: SendToBack, press: () => bench.restack(false) },
        {
          code: 'KeyE',
          word: marks.every((m) => bench.locked.has(m.id)) ? 'unlock' : 'lock',
          icon: Lock,
          press: done(() => bench.toggleLock())
        },
        {
          code: 'KeyR',
          word: 'part of',
          icon: Link,
          off: wholes.length > 0 ? undefined : 'its class is a part of nothing',
          press: done(() => (bench.tool = 'whole'))
        },
        kind === 'skeleton'
          ? { code: 'KeyT', word: 'mirror', icon: FlipHorizontal2, press: done(() => bench.mirror()) }
          : {
              code: 'KeyT',
              word: 'tight?',
              icon: Ruler,
              off: kind === 'box' ? undefined : 'only boxes',
              press: done(() => void bench.compute('tight', 0, 'tight'))
            }
      ]
    },
    {
      name: '',
      caps: [
        redo('add', 'KeyA', 'add', SquarePlus),
        redo('cut', 'KeyS', 'cut', SquareMinus),
        redo('redraw', 'KeyD', 'redraw', PenLine),
        kind === 'mask'
          ? { code: 'KeyF', word: 'to outline', icon: Pentagon, press: done(() => void bench.compute('outline', 1, 'as an outline')) }
          : {
              code: 'KeyF',
              word: 'to mask',
              icon: Brush,
              off: kind && ['polygon', 'ellipse', 'box', 'turned_box'].includes(kind) ? undefined : 'covers no area',
              press: done(() => void bench.compute('fill', 0, 'as a mask'))
            },
        { code: 'KeyG', word: 'history', icon: History, off: one ? undefined : 'of one mark', press: done(page.history) }
      ]
    },
    {
      name: 'flags',
      caps: [
        flag('KeyZ', 'cut off', 'cut_off'),
        flag('KeyX', 'hidden', 'hidden'),
        flag('KeyC', 'hard', 'hard'),
        flag('KeyV', 'crowd', 'crowd')
      ]
    }
  ];
}

export function letterRows(bench: Bench, page: DeckPage): Row[] {
  if (page.board !== null) return boardRows(bench, page);
  const question = bench.openQuestion;
  if (question && bench.editable) return answerRows(bench, question);
  if (bench.page && bench.editable) return bench.inHand.length > 0 ? markRows(bench, page) : pictureRows(bench, page);
  const look = bench.editable ? undefined : 'this item is only looked at';
  const hand = bench.inHand;
  const noMark = look ?? (hand.length > 0 ? undefined : 'pick a mark first');
  const review = bench.mode === 'review';
  const drawing = bench.tool === 'draw' && bench.editable;
  const kinds = bench.kindsOf(bench.active);
  const next = drawing ? kinds[(kinds.indexOf(bench.shape) + 1) % Math.max(1, kinds.length)] : undefined;
  const noQuestion = hand.length > 0 ? (bench.questions.length === 0 ? 'this class asks nothing' : undefined) : undefined;
  const tools: Cap[] = [
    { code: 'KeyQ', word: 'pick', icon: MousePointer2, lit: bench.tool === 'pick', press: () => (bench.tool = 'pick') },
    { code: 'KeyW', word: 'pan', icon: Hand, lit: bench.tool === 'hand', press: () => (bench.tool = 'hand') },
    {
      code: 'KeyE',
      word: shapes[bench.shape].replace('cuboid on a picture', 'cuboid'),
      icon: kindIcons[bench.shape],
      lit: drawing,
      off: look ?? (kinds.length === 0 ? 'no class is drawn on pictures' : undefined),
      hint: next && next !== bench.shape ? `again: ${shapes[next]}` : undefined,
      press: () => bench.takeShape()
    },
    {
      code: 'KeyR',
      word: hand.length > 0 ? 'answer' : 'picture',
      icon: MessageCircleQuestion,
      off: look ?? noQuestion,
      press: () => {
        if (hand.length > 0) bench.question = bench.questions[0]?.key ?? null;
        else bench.page = true;
      }
    },
    {
      code: 'KeyT',
      word: bench.hidden ? 'show' : 'hide',
      icon: bench.hidden ? Eye : EyeOff,
      lit: bench.hidden,
      press: () => (bench.hidden = !bench.hidden)
    }
  ];
  if (drawing && page.tool instanceof OutlineTool && page.tool.busy())
    return [
      { name: 'tools', caps: tools },
      { name: 'outline', caps: outlineVerbs(bench, page) },
      { name: 'view', caps: viewCaps(bench) }
    ];
  if (drawing && bench.shape === 'mask') {
    const paint = paintRows(bench);
    return [
      { name: 'tools', caps: tools },
      { name: 'mask', caps: paint.verbs },
      { name: 'brush', caps: paint.view }
    ];
  }
  const markCap: Cap = { code: 'KeyF', word: 'mark…', icon: Ellipsis, press: () => (bench.page = true) };
  const verbs: Cap[] = review
    ? [
        { code: 'KeyA', word: 'accept', icon: BadgeCheck, press: () => void bench.decide('accept', '') },
        { code: 'KeyS', word: 'return', icon: CornerUpLeft, press: page.returning },
        { code: 'KeyD', word: bench.point !== null ? 'remove point' : 'remove', icon: Trash2, off: noMark, press: () => bench.remove() },
        hand.length > 0 && bench.tool === 'pick'
          ? markCap
          : { code: 'KeyF', word: 'pin', icon: MapPin, lit: bench.tool === 'pin', press: () => (bench.tool = 'pin') },
        {
          code: 'KeyG',
          word: 'next doubt',
          icon: SkipForward,
          off: bench.findings.length === 0 ? 'the check found nothing' : undefined,
          press: () => bench.nextFinding()
        }
      ]
    : [
        { code: 'KeyA', word: 'double', icon: Copy, off: noMark, press: () => bench.duplicate() },
        { code: 'KeyS', word: 'submit', icon: Check, off: look, press: () => void bench.submit(false) },
        { code: 'KeyD', word: bench.point !== null ? 'remove point' : 'remove', icon: Trash2, off: noMark, press: () => bench.remove() },
        hand.length > 0 && !look
          ? markCap
          : {
              code: 'KeyF',
              word: 'nothing here',
              icon: CircleSlash,
              off: look ?? (bench.marks.length > 0 ? 'there are marks on this item' : undefined),
              press: page.nothing
            },
        drawing && (bench.shape === 'polygon' || bench.shape === 'polyline') && hand.length === 0
          ? cornersCap(bench)
          : {
              code: 'KeyG',
              word: 'take back',
              icon: CornerUpLeft,
              off:
                bench.lastSubmitted === null && !bench.packet.turn.can_take_back ? 'nothing submitted that could be taken back' : undefined,
              press: () => void bench.takeBack()
            }
      ];
  return [
    { name: 'tools', caps: tools },
    { name: 'verbs', caps: verbs },
    { name: 'view', caps: viewCaps(bench) }
  ];
}

const viewCaps = (bench: Bench): Cap[] => [
  { code: 'KeyZ', word: 'whole', icon: Maximize, hint: 'again: back to where you were', press: () => bench.toggleZoom() },
  { code: 'KeyX', word: 'closer', icon: Scan, off: bench.mark ? undefined : 'pick a mark first', press: () => bench.toObject() },
  { code: 'KeyC', word: 'back', icon: ChevronLeft, press: () => bench.neighbour(-1) },
  { code: 'KeyV', word: 'on', icon: ChevronRight, press: () => bench.neighbour(1) },
  bench.unseenShown
    ? { code: 'KeyB', word: 'unseen', icon: ScanEye, press: () => bench.toUnseen() }
    : { code: 'KeyB', word: 'next open', icon: Crosshair, press: () => bench.neighbour(1, true) }
];

/** What the keyboard does beside the letters, shown by `?`. */
export const others: { keys: string; what: string }[] = [
  { keys: 'Enter', what: 'finish what is drawn, a question, or submit' },
  { keys: 'E, again', what: 'the next shape of the class' },
  { keys: 'Esc', what: 'one step back' },
  { keys: 'Delete', what: 'remove the mark' },
  { keys: 'Ctrl Z', what: 'undo' },
  { keys: 'Ctrl Shift Z', what: 'redo' },
  { keys: 'arrows', what: 'nudge what is in hand, or its point, by 1 px, with Shift by 10; else move the pointer' },
  { keys: '.', what: 'press at the pointer' },
  { keys: ',', what: 'press and hold, and let go' },
  { keys: 'wheel', what: 'zoom at the pointer' },
  { keys: '+ −', what: 'zoom by steps; at 1 a pixel is a pixel' },
  { keys: 'Space or middle button', what: 'hold to pan' },
  { keys: 'Tab', what: 'next mark' },
  { keys: 'Shift and press', what: 'one more mark in hand' },
  { keys: 'Ctrl C, Ctrl V', what: 'copy marks, also to another item' },
  { keys: '/', what: 'find a class by name' },
  { keys: 'End', what: 'go to an item by number or name' },
  { keys: '?', what: 'this map' }
];
