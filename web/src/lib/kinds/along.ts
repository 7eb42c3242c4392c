import type { Cap, Row } from '$lib/keys/caps';
import { changes, nextOf } from '$lib/time/goto';
import { ArrowLeftRight, ArrowRightFromLine, ArrowRightToLine, KeyRound, Merge, Scissors } from '@lucide/svelte';
import type { Axis } from './axis.svelte';
import { askedRow, tagCaps } from './flat/saying';
import type { BenchPorts } from './kind';

/** What the deck does along an axis, whatever lies on it: frames, slices. */
export type OnAxis = Pick<Axis, 'tracks' | 'clock' | 'timeline' | 'acts' | 'sayings'>;

/** The next key or end of what is in hand, be it tracks or a stretch, else the next change of any; round to the first. */
export function toNextChange(axis: OnAxis, { hand, say, editor }: BenchPorts): void {
  const { tracks, clock, timeline, sayings } = axis;
  const stretch = hand.size === 0 ? sayings.inHand : null;
  const ids = stretch ? [] : hand.size > 0 ? hand.all.map((m) => m.id) : timeline.lanes;
  const said = stretch ? [stretch] : hand.size > 0 ? [] : sayings.said.stretches;
  const places = changes(
    ids.flatMap((id) => tracks.of(id)?.keys.map((k) => k.place) ?? []),
    [...ids.flatMap((id) => editor.marks.get(id)?.stretches ?? []), ...said.map((s): [number, number] => [s.first, s.last])]
  );
  const next = nextOf(places, clock.heading, 1);
  if (next === null) return say('nothing changes anywhere');
  void clock.go(next);
}
/** Goes there by a key. @param off why it can't */
export function nextCap(axis: OnAxis, ports: BenchPorts, off?: string): Cap {
  const stretch = ports.hand.size === 0 && axis.sayings.inHand !== null;
  return {
    code: 'KeyB',
    word: ports.hand.size > 0 ? 'next key' : stretch ? 'its ends' : 'next change',
    icon: KeyRound,
    again: true,
    ...(off !== undefined && { off }),
    press: () => toNextChange(axis, ports)
  };
}

/** What is said: of this place, from here to there, of the item as a whole. */
export function sayingRows(
  axis: OnAxis,
  ports: BenchPorts,
  { places, icon, hint, whole }: { places: string; icon: NonNullable<Cap['icon']>; hint: string; whole: string }
): Row[] {
  const { sayings, clock } = axis;
  const caps = tagCaps(
    ports,
    sayings.tags.map((t) => {
      const here = sayings.at(`tag ${t.key}`, clock.frame) !== undefined;
      const begun = sayings.begun?.tag === t.key;
      return {
        word: begun ? `${t.name} to here` : here ? `${t.name} ends` : `${t.name} from here`,
        icon: begun || here ? ArrowRightToLine : ArrowRightFromLine,
        lit: begun || here,
        press: () => sayings.tag(t.key, clock.frame)
      };
    }),
    ['KeyZ', 'KeyX']
  );
  const row = (codes: string[]) => caps.filter((c) => codes.includes(c.code));
  return [
    askedRow(ports, { scope: 'frame', icon, hint, whole }),
    { name: caps.length > 0 ? 'tags' : '', caps: row(['KeyA', 'KeyD', 'KeyF', 'KeyG']) },
    { name: '', caps: [...row(['KeyZ', 'KeyX']), { code: 'KeyB', word: `${places}…`, icon, press: () => ports.page(null) }] }
  ];
}

/**
 * Where the track in hand begins and ends, and how tracks are parted and joined.
 *
 * @param look why nothing may be changed
 */
export function trackCaps(
  axis: OnAxis,
  { hand, say, page }: BenchPorts,
  word: string,
  look: string | undefined
): Record<'exchange' | 'begins' | 'ends' | 'split' | 'join', Cap> {
  const { acts, clock } = axis;
  const one = hand.one;
  const [a, b] = hand.all;
  const only = look ?? (one ? undefined : 'of one mark');
  const two = look ?? (hand.size === 2 ? undefined : 'take two into hand, with Shift');
  const done = (act: () => unknown) => () => {
    act();
    page(null);
  };
  return {
    exchange: {
      code: 'KeyT',
      word: 'exchange',
      icon: ArrowLeftRight,
      off: two,
      hint: `from this ${word} on each is the other`,
      press: done(() => a && b && acts.swap(a, b))
    },
    begins: { code: 'KeyA', word: 'begins here', icon: ArrowRightFromLine, off: only, press: done(() => one && acts.startHere(one)) },
    ends: { code: 'KeyD', word: 'ends here', icon: ArrowRightToLine, off: only, press: done(() => one && acts.endHere(one)) },
    split: {
      code: 'KeyG',
      word: 'split',
      icon: Scissors,
      off: only ?? (clock.frame === 0 ? `not at the first ${word}` : undefined),
      press: done(() => {
        const id = one && acts.split(one);
        if (id) {
          hand.select(id);
          say('split here: the second one is in hand');
        }
      })
    },
    join: {
      code: 'KeyB',
      word: 'join',
      icon: Merge,
      off: two,
      press: done(() => a && b && acts.join(a, b))
    }
  };
}
