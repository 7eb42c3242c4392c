import type { Flag } from '$lib/words/mark';
import { answersOf, digitPlaces, type Cap, type Row } from '$lib/keys/caps';
import { letters } from '$lib/keys/bindings';
import type { Bench } from './bench.svelte';
import type { Opened } from './opened.svelte';
import { isWord } from './suggestions.svelte';
import {
  ArrowDown,
  ArrowUp,
  BadgeCheck,
  BringToFront,
  Check,
  ChevronLeft,
  ChevronRight,
  CirclePause,
  CircleSlash,
  CornerUpLeft,
  Crosshair,
  Ellipsis,
  Flag as FlagIcon,
  History,
  Link,
  ListChecks,
  Lock,
  MapPin,
  MessageCircleQuestion,
  Pencil,
  SendToBack,
  SkipForward,
  Sparkle,
  Trash2
} from '@lucide/svelte';

/** What of the page the deck changes. */
export type DeckPorts = {
  /** pages of the class board, or null when it is closed */
  board: number | null;
  setBoard: (page: number | null) => void;
  /** Shift is held: the board shows the page after this */
  shift: boolean;
  /** goes to the field in which an answer is written */
  write: () => void;
};

const left = [...letters.Q, ...letters.A, ...letters.Z];
/** Caps of the class board: four rows of five under the left hand. */
const boardKeys = ['Digit1', 'Digit2', 'Digit3', 'Digit4', 'Digit5', ...left];
const LOOK = 'this item is only looked at';

/** The deck of the bench: classes on the digits, acts on the letters. S, C, V (and G in review) never change their meaning. */
export class BenchDeck {
  constructor(
    private readonly bench: Bench,
    private readonly opened: Opened,
    private readonly ports: DeckPorts
  ) {}

  #class(code: string, key: string, press: () => void): Cap {
    const { words, chosen } = this.bench;
    return {
      code,
      word: words.nameOf(key),
      marker: { marker: words.marker(key), color: words.light(key) },
      lit: chosen.active === key,
      press
    };
  }
  get digits(): Row {
    const { drawable } = this.bench.words;
    const { board } = this.ports;
    if (board !== null) return { name: 'class board', caps: [this.#boardCap(), ...this.#boardCaps().slice(0, 5)] };
    const caps = digitPlaces(drawable).map(({ digit, key }) => this.#class(`Digit${digit}`, key, () => this.opened.choose(key)));
    if (drawable.length > 10) caps.unshift(this.#boardCap());
    return { name: 'classes', caps };
  }
  #boardCap(): Cap {
    const { board, shift, setBoard } = this.ports;
    const pages = Math.ceil(this.bench.words.drawable.length / boardKeys.length);
    const now = board ?? -1;
    // two pages are under the hand at once (the second with Shift), so the key goes on by two
    return {
      code: 'Backquote',
      word: board === null ? 'board' : `${now + 1 + (shift ? 1 : 0)} of ${pages}`,
      icon: ListChecks,
      lit: board !== null,
      press: () => setBoard(board === null ? 0 : now + 2 < pages ? now + 2 : null)
    };
  }
  /** All classes under the left hand, twenty a page, places fixed by the codebook; the next twenty with Shift. */
  #boardCaps(): Cap[] {
    const { board, shift, setBoard } = this.ports;
    const from = ((board ?? 0) + (shift ? 1 : 0)) * boardKeys.length;
    return this.bench.words.drawable.slice(from, from + boardKeys.length).map((c, i) =>
      this.#class(boardKeys[i]!, c.key, () => {
        this.opened.choose(c.key);
        setBoard(null);
      })
    );
  }

  get rows(): Row[] {
    const { opened, bench } = this;
    if (this.ports.board !== null) {
      const caps = this.#boardCaps();
      return [5, 10, 15].map((at) => ({ name: '', caps: caps.slice(at, at + 5) }));
    }
    const question = opened.asking.open;
    if (question && opened.editable)
      return answersOf(
        question,
        opened.asking.answers[question.key],
        (answer, stay) => opened.asking.answer(question, answer, stay),
        this.ports.write
      );
    if (bench.page !== null && opened.editable) return this.#fixed(this.#page(bench.page));
    const caps = opened.surface.caps();
    return this.#fixed([
      { name: 'tools', caps: filled(caps.tools, [this.#questions()]) },
      { name: caps.verbs.name, caps: filled(caps.verbs.caps, this.#verbs()) },
      { name: caps.view.name, caps: filled(caps.view.caps, [this.#nextOpen()]) }
    ]);
  }

  /** Done, back, on, and in review return, lie where they always lie. */
  #fixed([upper, middle, lower]: Row[]): Row[] {
    const { bench, opened } = this;
    const look = opened.editable ? undefined : LOOK;
    const half = opened.surface.isDrawing ? 'something is half drawn: finish it, or leave it with Esc' : undefined;
    const review = opened.mode === 'review';
    const done: Cap = review
      ? { code: 'KeyS', word: 'accept', icon: BadgeCheck, off: half, press: () => void bench.decide('accept', '') }
      : { code: 'KeyS', word: 'submit', icon: Check, off: look ?? half, press: () => void bench.submit(false) };
    const back: Cap[] = review
      ? [{ code: 'KeyG', word: 'return', icon: CornerUpLeft, off: half, press: () => opened.talk.open('return') }]
      : [];
    return [
      upper!,
      { ...middle!, caps: filled([done, ...back], middle!.caps) },
      {
        ...lower!,
        caps: filled(
          [
            { code: 'KeyC', word: 'back', icon: ChevronLeft, press: () => bench.neighbour(-1) },
            { code: 'KeyV', word: 'on', icon: ChevronRight, press: () => bench.neighbour(1) }
          ],
          lower!.caps
        )
      }
    ];
  }
  #questions(): Cap {
    const { opened, bench } = this;
    const { hand, asking } = opened;
    const none = hand.size > 0 && asking.questions.length === 0 ? 'this class asks nothing' : undefined;
    return {
      code: 'KeyR',
      word: hand.size > 0 ? 'answer' : opened.surface.noun,
      icon: MessageCircleQuestion,
      off: (opened.editable ? undefined : LOOK) ?? none,
      press: () => {
        if (hand.size > 0) asking.question = asking.questions[0]?.key ?? null;
        else bench.page = 'item';
      }
    };
  }
  #verbs(): Cap[] {
    const { opened, bench } = this;
    const look = opened.editable ? undefined : LOOK;
    const page: Cap = { code: 'KeyF', word: 'mark…', icon: Ellipsis, press: () => (bench.page = 'mark') };
    if (opened.mode === 'review') {
      const { surface } = opened;
      const pin: Cap = {
        code: 'KeyF',
        word: 'pin',
        icon: MapPin,
        lit: surface.pinning,
        press: () => (surface.pinning = !surface.pinning)
      };
      const doubts = opened.findings.all.length;
      return [
        {
          code: 'KeyA',
          word: 'next doubt',
          icon: SkipForward,
          off: doubts === 0 ? 'the check found nothing' : undefined,
          press: () => opened.nextFinding()
        },
        opened.hand.size > 0 && !surface.pinning ? page : pin
      ];
    }
    return [
      ...(opened.suggestions.list.length > 0 && opened.hand.size === 0
        ? [
            {
              code: 'KeyA',
              word: `suggested: ${opened.suggestions.list.length}`,
              icon: Sparkle,
              off: look,
              hint: 'one after the other, the most doubtful first',
              press: () => {
                bench.page = 'suggestions';
                if (!opened.suggestions.now) opened.suggestions.step(1);
              }
            }
          ]
        : []),
      opened.hand.size > 0 && !look
        ? page
        : {
            code: 'KeyF',
            word: 'nothing here',
            icon: CircleSlash,
            off: look ?? (opened.editor.marks.size > 0 ? 'there are marks on this item' : undefined),
            press: () => void bench.submit(true)
          },
      {
        code: 'KeyG',
        word: 'take back',
        icon: CornerUpLeft,
        off: bench.canTakeBack ? undefined : 'nothing submitted that could be taken back',
        press: () => void bench.takeBack()
      }
    ];
  }
  #nextOpen(): Cap {
    return { code: 'KeyB', word: 'next open', icon: Crosshair, press: () => this.bench.neighbour(1, true) };
  }

  #page(name: string): Row[] {
    if (name === 'suggestions') return this.#suggestions();
    if (name === 'flags' && this.opened.hand.size > 0) return this.#flags();
    if (name === 'mark' || name === 'flags') return this.opened.hand.size > 0 ? this.#mark() : this.#item();
    return this.opened.surface.pages[name]?.() ?? this.#item();
  }
  /** What is rarer than a verb: stack, links, other forms of the mark in hand. */
  #mark(): Row[] {
    const { opened, bench } = this;
    const { hand, acts, surface } = opened;
    const one = hand.one;
    const done = (act: () => void) => () => {
      act();
      bench.page = null;
    };
    const wholes = one ? (bench.words.classOf(one.class)?.part_of ?? []) : [];
    const own = surface.ofMark();
    const at = (...codes: string[]) => own.filter((c) => codes.includes(c.code));
    return [
      {
        name: 'this mark',
        caps: [
          { code: 'KeyQ', word: 'to front', icon: BringToFront, press: () => acts.restack(true) },
          { code: 'KeyW', word: 'to back', icon: SendToBack, press: () => acts.restack(false) },
          {
            code: 'KeyE',
            word: hand.all.every((m) => hand.locked.has(m.id)) ? 'unlock' : 'lock',
            icon: Lock,
            press: done(() => hand.toggleLock())
          },
          {
            code: 'KeyR',
            word: 'part of',
            icon: Link,
            off: wholes.length > 0 ? undefined : 'its class is a part of nothing',
            press: done(() => surface.wholing())
          },
          ...at('KeyT')
        ]
      },
      { name: 'its form', caps: at('KeyA', 'KeyD', 'KeyF', 'KeyG') },
      {
        name: '',
        caps: [
          {
            code: 'KeyZ',
            word: 'history',
            icon: History,
            off: one ? undefined : 'of one mark',
            press: done(() => one && void opened.talk.showStory(one.id))
          },
          { code: 'KeyX', word: 'flags…', icon: FlagIcon, press: () => (bench.page = 'flags') },
          ...at('KeyB')
        ]
      }
    ];
  }
  /** What a model has proposed, one after the other. */
  #suggestions(): Row[] {
    const { opened, bench } = this;
    const { suggestions } = opened;
    const { now, above, threshold, unsaid } = suggestions;
    const from = unsaid ? '' : ` from ${threshold.toFixed(2)} on`;
    const word = now !== null && isWord(now);
    const none = now ? undefined : suggestions.list.length > 0 ? 'none is looked at: go on to the next' : 'all are decided';
    const by = (step: number) => () => (suggestions.threshold = Math.max(0, Math.min(1, Math.round((threshold + step) * 100) / 100)));
    return [
      {
        name: 'suggestions',
        caps: [
          { code: 'KeyQ', word: 'the one before', icon: ChevronLeft, again: true, off: none, press: () => suggestions.step(-1) },
          {
            code: 'KeyW',
            word: 'the next',
            icon: ChevronRight,
            again: true,
            off: suggestions.list.length > 0 ? undefined : 'all are decided',
            press: () => suggestions.step(1)
          },
          {
            code: 'KeyE',
            word: 'change it',
            icon: Pencil,
            off: none,
            hint: word ? 'what is said is chosen by hand' : 'it becomes a mark and is in hand; a digit confirms it as another class',
            press: () => {
              if (now && suggestions.edit(now)) {
                bench.page = word ? 'item' : null;
                if (!word) opened.surface.picking();
              }
            }
          },
          {
            code: 'KeyT',
            word: 'look at it',
            icon: Crosshair,
            off: none ?? (word ? 'it is about the whole' : undefined),
            press: () => now && suggestions.look(now.id)
          }
        ]
      },
      {
        name: now ? opened.surface.noun : '',
        caps: [
          {
            code: 'KeyA',
            word: 'right',
            icon: Check,
            off: none,
            hint: word ? 'it is said, and on to the next' : 'it becomes a mark, and on to the next',
            press: () => void (now && suggestions.confirm(now))
          },
          {
            code: 'KeyD',
            word: 'wrong',
            icon: Trash2,
            off: none,
            hint: 'it is not offered here again',
            press: () => now && suggestions.drop(now)
          },
          {
            code: 'KeyF',
            word: `all ${above.length}`,
            icon: ListChecks,
            off: above.length > 0 ? undefined : unsaid ? 'all are decided' : 'none is as sure as that',
            hint: unsaid ? 'all become labels; how sure they are nobody has said' : `all${from} become labels`,
            press: () => {
              const n = suggestions.confirmAbove();
              opened.say(`${n} confirmed${from}`);
            }
          }
        ]
      },
      {
        name: unsaid ? '' : `sure: ${threshold.toFixed(2)}`,
        caps: [
          {
            code: 'KeyZ',
            word: 'less sure',
            icon: ArrowDown,
            again: true,
            off: unsaid ? 'how sure they are nobody has said' : undefined,
            hint: 'from which confidence on all are confirmed together',
            press: by(-0.05)
          },
          {
            code: 'KeyX',
            word: 'surer',
            icon: ArrowUp,
            again: true,
            off: unsaid ? 'how sure they are nobody has said' : undefined,
            press: by(0.05)
          },
          {
            code: 'KeyB',
            word: 'leave',
            icon: CornerUpLeft,
            press: () => {
              suggestions.look(null);
              bench.page = null;
            }
          }
        ]
      }
    ];
  }
  #flags(): Row[] {
    const marks = this.opened.hand.all;
    const flag = (code: string, word: string, f: Flag): Cap => ({
      code,
      word,
      lit: marks.length > 0 && marks.every((m) => m.flags.includes(f)),
      press: () => this.opened.acts.toggleFlag(f)
    });
    return [
      {
        name: 'flags',
        caps: [
          flag('KeyQ', 'cut off', 'cut_off'),
          flag('KeyW', 'hidden', 'hidden'),
          flag('KeyE', 'hard', 'hard'),
          flag('KeyR', 'crowd', 'crowd')
        ]
      },
      { name: '', caps: [] },
      { name: '', caps: [] }
    ];
  }
  /** What is said of the item: its questions on the upper row, its tags on what is free of the others. */
  #item(): Row[] {
    const { opened, bench } = this;
    const { asking, mode } = opened;
    const tags = bench.words.itemTags;
    const free = ['KeyA', 'KeyD', 'KeyF', ...(mode === 'review' ? [] : ['KeyG']), 'KeyZ', 'KeyX'];
    const caps = tags.slice(0, free.length).map((t, i): Cap => ({
      code: free[i]!,
      word: t.name,
      lit: asking.said.tags.includes(t.key),
      press: () => asking.tag(t.key)
    }));
    const row = (codes: string[]) => caps.filter((c) => codes.includes(c.code));
    return [
      {
        name: `the ${opened.surface.noun}`,
        caps: [
          ...asking.ofItem.slice(0, 4).map((a, i): Cap => ({
            code: letters.Q[i]!,
            word: a.name,
            lit: asking.said.answers[a.key] !== undefined,
            press: () => (asking.question = a.key)
          })),
          { code: 'KeyT', word: 'ask', icon: MessageCircleQuestion, press: () => opened.talk.open('ask') }
        ]
      },
      { name: tags.length > 0 ? 'tags' : '', caps: row(letters.A) },
      {
        name: row(letters.Z).length > 0 ? 'tags' : '',
        caps: [
          ...row(letters.Z),
          {
            code: 'KeyB',
            word: 'park',
            icon: CirclePause,
            off: mode === 'label' ? undefined : 'only your own work',
            press: () => opened.talk.open('park')
          }
        ]
      }
    ];
  }
}

/** Caps in the order of their keys; of two on one key the first list's counts. */
function filled(first: Cap[], then: Cap[]): Cap[] {
  const taken = new Set(first.map((c) => c.code));
  return [...first, ...then.filter((c) => !taken.has(c.code))].sort((a, b) => left.indexOf(a.code) - left.indexOf(b.code));
}

/** What the keyboard does beside the letters, shown by `?`. */
export const shellKeys: { keys: string; what: string }[] = [
  { keys: 'Enter', what: 'finish what is drawn, or go on from a question' },
  { keys: 'Esc', what: 'one step back' },
  { keys: 'Delete', what: 'remove the mark, or its point' },
  { keys: 'Ctrl Z', what: 'undo' },
  { keys: 'Ctrl Shift Z', what: 'redo' },
  { keys: 'Page ↓ ↑', what: 'next mark, mark before' },
  { keys: 'Tab', what: 'to the next control' },
  { keys: '/', what: 'find a class by name' },
  { keys: 'End', what: 'go to an item by number or name' },
  { keys: '?', what: 'this map' }
];
