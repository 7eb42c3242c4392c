import { noValues, type Attribute } from '$lib/state/codebook';
import type { Bench } from './bench.svelte';
import {
  Check,
  ChevronLeft,
  ChevronRight,
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

/** A keycap: the key it lies on (by position), one word, an icon or a marker, and what a press does. */
export type Cap = {
  code: string;
  word: string;
  icon?: typeof Check;
  marker?: { marker: string; color: string };
  lit?: boolean;
  off?: string;
  press: () => void;
};
export type Row = { name: string; caps: Cap[] };

export const letters: Record<'Q' | 'A' | 'Z', string[]> = {
  Q: ['KeyQ', 'KeyW', 'KeyE', 'KeyR', 'KeyT'],
  A: ['KeyA', 'KeyS', 'KeyD', 'KeyF', 'KeyG'],
  Z: ['KeyZ', 'KeyX', 'KeyC', 'KeyV', 'KeyB']
};
const left = [...letters.Q, ...letters.A, ...letters.Z];
export const keyName = (code: string): string => code.replace(/^(Key|Digit)/, '').replace('Backquote', '`');

export type DeckPage = { board: number | null; setBoard: (page: number | null) => void; returning: () => void; nothing: () => void };

/** The classes on the digits: by their own key first, the others on what is free, in order. */
export function digitClasses(bench: Bench): { digit: string; key: string }[] {
  const classes = bench.document.classes.filter((c) => c.shapes.includes('box'));
  const taken = new Map(classes.filter((c) => c.shortcut).map((c) => [c.shortcut!, c.key]));
  const free = '1234567890'.split('').filter((d) => !taken.has(d));
  for (const c of classes) {
    if (c.shortcut) continue;
    const digit = free.shift();
    if (digit) taken.set(digit, c.key);
  }
  return '1234567890'.split('').flatMap((digit) => (taken.has(digit) ? [{ digit, key: taken.get(digit)! }] : []));
}

export function digitRow(bench: Bench, page: DeckPage): Row {
  const classes = bench.document.classes.filter((c) => c.shapes.includes('box'));
  const caps: Cap[] = digitClasses(bench).map(({ digit, key }) => ({
    code: `Digit${digit}`,
    word: bench.nameOf(key),
    marker: { marker: bench.looks.get(key)?.marker ?? 'circle', color: bench.light(key) },
    lit: bench.active === key,
    press: () => bench.choose(key)
  }));
  if (classes.length > 10)
    caps.unshift({
      code: 'Backquote',
      word: 'board',
      icon: ListChecks,
      lit: page.board !== null,
      press: () => page.setBoard(page.board === null ? 0 : (page.board + 1) * left.length < classes.length ? page.board + 1 : null)
    });
  return { name: 'classes', caps };
}

/** All classes under the left hand, fifteen a page, places fixed by the codebook. */
function boardRows(bench: Bench, page: DeckPage): Row[] {
  const classes = bench.document.classes
    .filter((c) => c.shapes.includes('box'))
    .slice((page.board ?? 0) * left.length, ((page.board ?? 0) + 1) * left.length);
  const caps = classes.map((c, i) => ({
    code: left[i]!,
    word: c.name,
    marker: { marker: bench.looks.get(c.key)?.marker ?? 'circle', color: bench.light(c.key) },
    lit: bench.active === c.key,
    press: () => {
      bench.choose(c.key);
      page.setBoard(null);
    }
  }));
  return [0, 5, 10].map((at) => ({ name: at === 0 ? 'class board' : '', caps: caps.slice(at, at + 5) }));
}

/** The answers of an open question on the letter rows. */
function answerRows(bench: Bench, attribute: Attribute): Row[] {
  const mark = bench.mark!;
  const now = mark.answers[attribute.key];
  const value = now && 'value' in now ? now.value : undefined;
  const none = (attribute.no_value ?? []).map((n) => ({
    word: noValues[n],
    icon: CircleSlash,
    lit: now !== undefined && 'no_value' in now && now.no_value === n,
    press: () => bench.answer(attribute, { no_value: n })
  }));
  let options: Omit<Cap, 'code'>[] = [];
  if (attribute.type === 'one')
    options = (attribute.options ?? []).map((o) => ({
      word: o.name,
      lit: value === o.key,
      press: () => bench.answer(attribute, { value: o.key })
    }));
  else if (attribute.type === 'yesno')
    options = [true, false].map((v) => ({ word: v ? 'yes' : 'no', lit: value === v, press: () => bench.answer(attribute, { value: v }) }));
  else if (attribute.type === 'many') {
    const chosen = Array.isArray(value) ? value : [];
    options = (attribute.options ?? []).map((o) => ({
      word: o.name,
      lit: chosen.includes(o.key),
      press: () => {
        const next = chosen.includes(o.key) ? chosen.filter((k) => k !== o.key) : [...chosen, o.key];
        bench.answer(attribute, next.length > 0 ? { value: next } : null, true);
      }
    }));
  } else if (attribute.type === 'number') {
    const step = attribute.step ?? 1;
    const [min, max] = [attribute.min ?? -1e9, attribute.max ?? 1e9];
    const current = typeof value === 'number' ? value : typeof attribute.default === 'number' ? attribute.default : (attribute.min ?? 0);
    const set = (n: number) => bench.answer(attribute, { value: Math.round(Math.min(max, Math.max(min, n)) * 1e6) / 1e6 }, true);
    options = [
      { word: `− ${step}`, press: () => set(current - step) },
      { word: `+ ${step}`, press: () => set(current + step) },
      { word: `− ${step * 5}`, press: () => set(current - step * 5) },
      { word: `+ ${step * 5}`, press: () => set(current + step * 5) },
      { word: `keep ${current}`, lit: value !== undefined, press: () => bench.answer(attribute, { value: current }) }
    ];
  }
  // options fill the upper rows; ways of having no value stay together on the lowest while there is room
  const wide = options.length <= 10 ? 10 : 15 - none.length;
  const rows: Row[] = [0, 5].map((at) => ({
    name: at === 0 ? attribute.name : '',
    caps: options.slice(at, Math.min(wide, at + 5)).map((o, i) => ({ ...o, code: left[at + i]! }))
  }));
  const rest = [...options.slice(10, 15 - none.length), ...none].slice(0, 5);
  rows.push({ name: none.length > 0 ? 'no value' : '', caps: rest.map((o, i) => ({ ...o, code: letters.Z[i]! })) });
  return rows;
}

export function letterRows(bench: Bench, page: DeckPage): Row[] {
  if (page.board !== null) return boardRows(bench, page);
  const question = bench.openQuestion;
  if (question && bench.editable) return answerRows(bench, question);
  const look = bench.editable ? undefined : 'this item is only looked at';
  const noMark = look ?? (bench.mark ? undefined : 'pick a mark first');
  const review = bench.mode === 'review';
  const tools: Cap[] = [
    { code: 'KeyQ', word: 'pick', icon: MousePointer2, lit: bench.tool === 'pick', press: () => (bench.tool = 'pick') },
    { code: 'KeyW', word: 'pan', icon: Hand, lit: bench.tool === 'hand', press: () => (bench.tool = 'hand') },
    { code: 'KeyE', word: 'box', icon: SquareDashed, lit: bench.tool === 'box', off: look, press: () => (bench.tool = 'box') },
    {
      code: 'KeyR',
      word: 'answer',
      icon: MessageCircleQuestion,
      off: noMark ?? (bench.mark && bench.questionsOf(bench.mark).length === 0 ? 'this class asks nothing' : undefined),
      press: () => (bench.question = bench.questionsOf(bench.mark!)[0]?.key ?? null)
    },
    {
      code: 'KeyT',
      word: bench.hidden ? 'show' : 'hide',
      icon: bench.hidden ? Eye : EyeOff,
      lit: bench.hidden,
      press: () => (bench.hidden = !bench.hidden)
    }
  ];
  const verbs: Cap[] = review
    ? [
        { code: 'KeyA', word: 'accept', icon: BadgeCheck, press: () => void bench.decide('accept', '') },
        { code: 'KeyS', word: 'return', icon: CornerUpLeft, press: page.returning },
        { code: 'KeyD', word: 'remove', icon: Trash2, off: noMark, press: () => bench.remove() },
        { code: 'KeyF', word: 'pin', icon: MapPin, lit: bench.tool === 'pin', press: () => (bench.tool = 'pin') },
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
        { code: 'KeyD', word: 'remove', icon: Trash2, off: noMark, press: () => bench.remove() },
        {
          code: 'KeyF',
          word: 'nothing here',
          icon: CircleSlash,
          off: look ?? (bench.marks.length > 0 ? 'there are marks on this item' : undefined),
          press: page.nothing
        },
        {
          code: 'KeyG',
          word: 'take back',
          icon: CornerUpLeft,
          off: bench.lastSubmitted === null && !bench.packet.turn.can_take_back ? 'nothing submitted that could be taken back' : undefined,
          press: () => void bench.takeBack()
        }
      ];
  const view: Cap[] = [
    { code: 'KeyZ', word: 'fit', icon: Maximize, press: () => bench.fitView() },
    { code: 'KeyX', word: 'closer', icon: Scan, off: bench.mark ? undefined : 'pick a mark first', press: () => bench.toObject() },
    { code: 'KeyC', word: 'back', icon: ChevronLeft, press: () => bench.neighbour(-1) },
    { code: 'KeyV', word: 'on', icon: ChevronRight, press: () => bench.neighbour(1) },
    { code: 'KeyB', word: 'next open', icon: Crosshair, press: () => bench.neighbour(1, true) }
  ];
  return [
    { name: 'tools', caps: tools },
    { name: 'verbs', caps: verbs },
    { name: 'view', caps: view }
  ];
}

/** What the keyboard does beside the letters, shown by `?`. */
export const others: { keys: string; what: string }[] = [
  { keys: 'Enter', what: 'finish a question, or submit' },
  { keys: 'Esc', what: 'one step back' },
  { keys: 'Delete', what: 'remove the mark' },
  { keys: 'Ctrl Z', what: 'undo' },
  { keys: 'Ctrl Shift Z', what: 'redo' },
  { keys: 'arrows', what: 'nudge by 1 px, with Shift by 10' },
  { keys: 'wheel, + −', what: 'zoom at the pointer' },
  { keys: 'Space or middle button', what: 'hold to pan' },
  { keys: 'Tab', what: 'next mark' },
  { keys: '?', what: 'this map' }
];
