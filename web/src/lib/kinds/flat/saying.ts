import type { Cap, Row } from '$lib/keys/caps';
import { Hash, MessageCircleQuestion } from '@lucide/svelte';
import type { BenchPorts } from '../kind';

type Icon = NonNullable<Cap['icon']>;
/** What can be said of a place on the item's axis, beside what is said of the whole. */
export type Along = { scope: 'frame' | 'page'; icon: Icon; hint: string; whole: string };

/** The questions that are asked here, on the upper row of the deck. */
export const askedRow = ({ asking }: BenchPorts, along: Along): Row => ({
  name: 'what is said',
  caps: asking.about.slice(0, 5).map((a, i): Cap => ({
    code: ['KeyQ', 'KeyW', 'KeyE', 'KeyR', 'KeyT'][i]!,
    word: a.name,
    icon: a.scope === along.scope ? along.icon : MessageCircleQuestion,
    lit: asking.answersAbout[a.key] !== undefined,
    hint: a.scope === along.scope ? along.hint : along.whole,
    press: () => (asking.question = a.key)
  }))
});

/**
 * Tags of the place, then those of the whole, on the keys that are free.
 *
 * @param more keys after those of the middle row
 */
export function tagCaps({ asking, words, mode }: BenchPorts, here: readonly Omit<Cap, 'code'>[], more: readonly string[] = []): Cap[] {
  const free = ['KeyA', 'KeyD', 'KeyF', ...(mode === 'review' ? [] : ['KeyG']), ...more];
  const whole = words.itemTags.map((t) => ({
    word: t.name,
    icon: Hash,
    lit: asking.said.tags.includes(t.key),
    press: () => asking.tag(t.key)
  }));
  return [...here, ...whole].slice(0, free.length).map((t, i): Cap => ({ ...t, code: free[i]! }));
}
