import { answersOf, digitPlaces, type Row } from '$lib/keys/caps';
import type { Answer, Attribute } from '$lib/words/codebook';
import type { Words } from '$lib/words/words.svelte';
import {
  Eraser,
  Expand,
  KeyRound,
  MessageCircleQuestion,
  Shrink,
  SkipForward,
  SquareArrowOutUpRight,
  SquareCheck,
  SquareDashed,
  Trash2,
  Undo2,
  ZoomIn,
  ZoomOut
} from '@lucide/svelte';
import type { Found, ObjectEdits } from './edits.svelte';
import type { Listed } from './listed';
import type { Sheet } from './sheet.svelte';

/** How the objects are shown: side of one in CSS px, what is round it as a share of its extent, and whether it is outlined. */
export type Looks = { side: number; margin: number; outline: boolean };

/** What of the page the deck of a sheet reaches. */
export type SheetPorts = {
  words: Words;
  listed: Listed;
  mayChange: boolean;
  looks: Looks;
  show: (change: Partial<Looks>) => void;
  question: Attribute | null;
  ask: (question: Attribute) => void;
  answer: (answer: Answer | null, stay?: boolean) => void;
  /** goes to the field in which an answer is written */
  write: () => void;
  go: (place: number) => void;
  choose: (place: number) => void;
  open: (object: Found | undefined) => void;
  become: (key: string) => void;
  remove: () => void;
  takeBack: () => void;
  /** widens a track to every key of it; null: back to all */
  widen: (mark: string | null) => void;
};
const SIDE = { least: 64, most: 240, step: 16 };
const MARGIN = { most: 0.6, step: 0.1 };

export class SheetDeck {
  constructor(
    private readonly sheet: Sheet,
    private readonly edits: ObjectEdits,
    private readonly ports: SheetPorts
  ) {}

  get #look(): string | undefined {
    return this.ports.mayChange ? undefined : 'you may only look';
  }
  /** What varies is not one answer of a whole track. */
  #along(question: Attribute): string | undefined {
    const { words, listed } = this.ports;
    return words.varies(question.key) && !listed.byKey && this.sheet.inHand.some((o) => o.key)
      ? 'it changes along the clip: show every key, or sweep over its stretches'
      : undefined;
  }
  get #first() {
    const [first] = this.sheet.inHand;
    return first ? this.edits.now(first) : null;
  }
  get digits(): Row {
    const { words, listed } = this.ports;
    const first = this.#first;
    return {
      name: 'classes',
      caps: digitPlaces(listed.classes).map(({ digit, key }) => ({
        code: `Digit${digit}`,
        word: words.nameOf(key),
        marker: { marker: words.marker(key), color: words.light(key) },
        lit: first?.class === key,
        off: this.#look,
        press: () => this.ports.become(key)
      }))
    };
  }

  get rows(): Row[] {
    const { question, answer, write } = this.ports;
    const first = this.#first;
    if (question && first) return answersOf(question, first.answers[question.key], answer, write);
    const none = this.sheet.inHand.length > 0 ? undefined : 'there is no object';
    return [this.#objects(none), this.#right(none), this.#view()];
  }
  #objects(none: string | undefined): Row {
    const { sheet, ports } = this;
    const { listed, looks } = ports;
    const here = sheet.get(sheet.at);
    return {
      name: 'objects',
      caps: [
        { code: 'KeyQ', word: 'choose', icon: SquareCheck, off: none, press: () => ports.choose(sheet.at) },
        {
          code: 'KeyW',
          word: 'let go',
          icon: SquareDashed,
          off: sheet.chosen.size > 0 ? undefined : 'nothing is chosen',
          press: () => sheet.chosen.clear()
        },
        {
          code: 'KeyE',
          word: 'on the bench',
          icon: SquareArrowOutUpRight,
          off: none ?? (here?.turn === null ? 'nobody has been given this item' : undefined),
          press: () => ports.open(here)
        },
        {
          code: 'KeyR',
          word: listed.question?.name ?? 'answer',
          icon: MessageCircleQuestion,
          off:
            this.#look ??
            none ??
            (listed.questions.length === 0 ? 'this class asks nothing' : this.#along(listed.question ?? listed.questions[0]!)),
          press: () => ports.ask((listed.question ?? listed.questions[0])!)
        },
        {
          code: 'KeyT',
          word: looks.outline ? 'no outline' : 'outline',
          icon: Eraser,
          press: () => ports.show({ outline: !looks.outline })
        }
      ]
    };
  }
  #right(none: string | undefined): Row {
    const { sheet, edits, ports } = this;
    const here = sheet.get(sheet.at);
    const widened = ports.listed.mark !== null;
    return {
      name: 'put right',
      caps: [
        {
          code: 'KeyA',
          word: 'looks like',
          icon: SkipForward,
          off: sheet.nextDoubt() === null ? 'no other here looks like another class' : undefined,
          press: () => ports.go(sheet.nextDoubt() ?? sheet.at)
        },
        { code: 'KeyD', word: ports.listed.byKey ? 'remove key' : 'remove', icon: Trash2, off: this.#look ?? none, press: ports.remove },
        ...(widened || here?.key
          ? [
              {
                code: 'KeyF',
                word: widened ? 'all tracks' : 'its keys',
                icon: KeyRound,
                lit: widened,
                hint: widened ? 'back to the list this track is of' : `every key of this track: ${here?.keys ?? 0}`,
                press: () => ports.widen(widened ? null : (here?.mark.id ?? null))
              }
            ]
          : []),
        {
          code: 'KeyG',
          word: 'take back',
          icon: Undo2,
          off: edits.canUndo ? undefined : 'nothing was changed',
          press: ports.takeBack
        }
      ]
    };
  }
  #view(): Row {
    const { show } = this.ports;
    const { side, margin } = this.ports.looks;
    const round = (by: number) => show({ margin: Math.min(MARGIN.most, Math.max(0, Math.round((margin + by) * 10) / 10)) });
    const sized = (by: number) => show({ side: Math.min(SIDE.most, Math.max(SIDE.least, side + by)) });
    return {
      name: 'view',
      caps: [
        {
          code: 'KeyZ',
          word: 'smaller',
          icon: ZoomOut,
          again: true,
          off: side > SIDE.least ? undefined : 'as small as it goes',
          press: () => sized(-SIDE.step)
        },
        {
          code: 'KeyX',
          word: 'larger',
          icon: ZoomIn,
          again: true,
          off: side < SIDE.most ? undefined : 'as large as it goes',
          press: () => sized(SIDE.step)
        },
        {
          code: 'KeyC',
          word: 'less round it',
          icon: Shrink,
          again: true,
          off: margin > 0 ? undefined : 'nothing round it',
          press: () => round(-MARGIN.step)
        },
        {
          code: 'KeyV',
          word: 'more round it',
          icon: Expand,
          again: true,
          off: margin < MARGIN.most ? undefined : 'all there is',
          press: () => round(MARGIN.step)
        }
      ]
    };
  }
}
