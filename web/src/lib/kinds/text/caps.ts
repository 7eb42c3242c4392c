import type { Cap, Row } from '$lib/keys/caps';
import { letters } from '$lib/keys/bindings';
import { isSpan } from '$lib/text/spans.svelte';
import {
  ArrowDownToLine,
  ArrowLeft,
  ArrowRight,
  ArrowUpToLine,
  Check,
  CircleSlash,
  CornerUpLeft,
  Merge,
  MoveHorizontal,
  Scissors,
  Sparkle,
  Spline,
  Tag,
  Trash2,
  UnfoldHorizontal
} from '@lucide/svelte';
import type { BenchPorts, Caps } from '../kind';
import type { TextSurface } from './surface.svelte';

const LOOK = 'this item is only looked at';

/** What the deck does for a text. Q is always its left, W its right: of the words that are looked at, or of the span in hand. */
export class TextCaps {
  constructor(
    private readonly surface: TextSurface,
    private readonly ports: BenchPorts
  ) {}

  get #look(): string | undefined {
    return this.surface.editable ? undefined : LOOK;
  }
  caps(): Caps {
    const { surface } = this;
    if (surface.relating.key !== null) return this.#relating();
    const { held } = surface;
    const by = surface.shift ? 'letter' : 'word';
    const inHand = isSpan(this.ports.hand.one);
    const move = (edge: 'start' | 'end'): void => {
      const [out, back] = edge === 'start' ? ([-1, 1] as const) : ([1, -1] as const);
      if (held) surface.edge(edge, held === 'widen' ? out : back);
      else surface.step(edge === 'start' ? -1 : 1);
    };
    const word = (edge: 'start' | 'end') =>
      held ? `${held === 'widen' ? 'out' : 'in'} ${edge === 'start' ? 'before' : 'behind'}` : edge === 'start' ? 'word back' : 'word on';
    return {
      tools: [
        { code: 'KeyQ', word: word('start'), icon: ArrowLeft, again: true, press: () => move('start') },
        { code: 'KeyW', word: word('end'), icon: ArrowRight, again: true, press: () => move('end') },
        {
          code: 'KeyE',
          word: 'widen',
          icon: UnfoldHorizontal,
          lit: held === 'widen',
          off: inHand ? this.#look : undefined,
          hint: `hold it: Q and W widen by a ${by}`,
          press: () => surface.hold('widen')
        },
        {
          code: 'KeyT',
          word: 'narrow',
          icon: MoveHorizontal,
          lit: held === 'narrow',
          off: inHand ? this.#look : undefined,
          hint: `hold it: Q and W narrow by a ${by}`,
          press: () => surface.hold('narrow')
        }
      ],
      verbs: { name: 'verbs', caps: this.#verbs() },
      view: {
        name: 'view',
        caps: [
          { code: 'KeyZ', word: 'line up', icon: ArrowUpToLine, again: true, press: () => surface.line(-1) },
          { code: 'KeyX', word: 'line down', icon: ArrowDownToLine, again: true, press: () => surface.line(1) }
        ]
      }
    };
  }
  #verbs(): Cap[] {
    const { surface, ports } = this;
    const { hand, words } = ports;
    const offer = ports.mode === 'label' ? surface.alike.now : null;
    const caps: Cap[] = [];
    if (offer && surface.editable)
      caps.push({
        code: 'KeyA',
        word: `${words.nameOf(offer.class)}: ${surface.said(offer, 14)}`,
        icon: Sparkle,
        hint: `the same words were marked so; ${surface.alike.told} here`,
        press: () => surface.confirm(offer)
      });
    if (hand.size > 0) caps.push({ code: 'KeyD', word: 'remove', icon: Trash2, off: this.#look, press: () => ports.acts.remove() });
    else if (offer && surface.editable)
      caps.push({
        code: 'KeyD',
        word: 'not these',
        icon: CircleSlash,
        hint: 'they are not offered here again',
        press: () => surface.leave(offer)
      });
    const one = hand.one;
    if (isSpan(one) && ports.mode !== 'review' && surface.editable && words.relations.length > 0)
      caps.push({
        code: 'KeyG',
        word: 'relate…',
        icon: Spline,
        off: surface.relating.possible(one.class).length > 0 ? undefined : `no relation leads from ${words.nameOf(one.class)}`,
        press: () => ports.page('join')
      });
    return caps;
  }
  /** While a relation is drawn: to which span. */
  #relating(): Caps {
    const { surface } = this;
    return {
      tools: [
        { code: 'KeyQ', word: 'span before', icon: ArrowLeft, again: true, press: () => surface.target(-1) },
        { code: 'KeyW', word: 'next span', icon: ArrowRight, again: true, press: () => surface.target(1) },
        { code: 'KeyE', word: 'join', icon: Check, press: () => surface.join() }
      ],
      verbs: {
        name: this.ports.words.nameOf(surface.relating.key ?? ''),
        caps: [{ code: 'KeyD', word: 'leave', icon: CornerUpLeft, press: () => surface.relating.leave() }]
      },
      view: { name: 'view', caps: [] }
    };
  }
  ofMark(): Cap[] {
    const { surface, ports } = this;
    const one = isSpan(ports.hand.one) ? undefined : 'of one span';
    const done = (act: () => void) => () => {
      act();
      ports.page(null);
    };
    return [
      {
        code: 'KeyA',
        word: 'split',
        icon: Scissors,
        off: one,
        hint: 'where it joins two things, else behind its first word',
        press: done(() => surface.split())
      },
      {
        code: 'KeyD',
        word: 'one of both',
        icon: Merge,
        hint: 'the spans in hand, or this and the next of its class, become one',
        press: done(() => surface.joinSpans())
      },
      {
        code: 'KeyF',
        word: surface.named ? 'no names' : 'names',
        icon: Tag,
        hint: 'of classes, below their lines',
        press: done(() => (surface.named = !surface.named))
      }
    ];
  }
  readonly pages: Record<string, () => Row[]> = {
    join: () => {
      const { surface, ports } = this;
      const { one } = ports.hand;
      const to = surface.relating.target;
      const chosen = to === null ? null : surface.spans.get(to);
      const all = isSpan(one)
        ? surface.relating
            .possible(one.class)
            .filter((r) => surface.relating.key === null || !chosen || ports.words.relationOf(r.key)!.to.includes(chosen.class))
        : [];
      const codes = [...letters.Q, 'KeyA', 'KeyD', 'KeyF', 'KeyG', 'KeyZ', 'KeyX'];
      const caps = all.slice(0, codes.length).map((r, i): Cap => ({
        code: codes[i]!,
        word: r.name,
        icon: Spline,
        press: () => {
          // by a drag both ends are known already
          if (surface.relating.key !== null && to !== null) {
            surface.relating.key = r.key;
            surface.join(to);
          } else surface.relate(r.key);
          ports.page(null);
        }
      }));
      const row = (some: string[]) => caps.filter((c) => some.includes(c.code));
      return [
        { name: 'relate', caps: row(letters.Q) },
        { name: '', caps: row(letters.A) },
        { name: '', caps: row(letters.Z) }
      ];
    }
  };
}
