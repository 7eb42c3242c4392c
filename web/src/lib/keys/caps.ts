import { noValues, type Answer, type Attribute, type LabelClass } from '$lib/words/codebook';
import { letters } from './bindings';
import { CircleSlash, Pencil, type Check } from '@lucide/svelte';

/** A keycap: the key it lies on (by position), one word, an icon or a marker, and what a press does. */
export type Cap = {
  code: string;
  word: string;
  icon?: typeof Check;
  marker?: { marker: string; color: string };
  lit?: boolean;
  off?: string;
  /** said on hover beside the word */
  hint?: string;
  /** goes on while the key is held */
  again?: boolean;
  press: () => void;
};
export type Row = { name: string; caps: Cap[] };

/** The classes on the digits: by their own key first, the others on what is free, in order. */
export function digitPlaces(classes: LabelClass[]): { digit: string; key: string }[] {
  const taken = new Map(classes.filter((c) => c.shortcut).map((c) => [c.shortcut!, c.key]));
  const free = '1234567890'.split('').filter((d) => !taken.has(d));
  for (const c of classes) {
    if (c.shortcut) continue;
    const digit = free.shift();
    if (digit) taken.set(digit, c.key);
  }
  return '1234567890'.split('').flatMap((digit) => (taken.has(digit) ? [{ digit, key: taken.get(digit)! }] : []));
}

const left = [...letters.Q, ...letters.A, ...letters.Z];

/**
 * The answers to a question on the letter rows.
 *
 * @param give takes an answer; `stay`: there may be more to say to the same question
 * @param write goes to the field, where the answer is written
 */
export function answersOf(
  attribute: Attribute,
  now: Answer | undefined,
  give: (answer: Answer | null, stay?: boolean) => void,
  write: () => void
): Row[] {
  const value = now && 'value' in now ? now.value : undefined;
  const none = (attribute.no_value ?? []).map((n) => ({
    word: noValues[n],
    icon: CircleSlash,
    lit: now !== undefined && 'no_value' in now && now.no_value === n,
    press: () => give({ no_value: n })
  }));
  let options: Omit<Cap, 'code'>[] = [];
  if (attribute.type === 'one')
    options = (attribute.options ?? []).map((o) => ({
      word: o.name,
      lit: value === o.key,
      press: () => give({ value: o.key })
    }));
  else if (attribute.type === 'yesno')
    options = [true, false].map((v) => ({ word: v ? 'yes' : 'no', lit: value === v, press: () => give({ value: v }) }));
  else if (attribute.type === 'many') {
    const chosen = Array.isArray(value) ? value : [];
    options = (attribute.options ?? []).map((o) => ({
      word: o.name,
      lit: chosen.includes(o.key),
      press: () => {
        const next = chosen.includes(o.key) ? chosen.filter((k) => k !== o.key) : [...chosen, o.key];
        give(next.length > 0 ? { value: next } : null, true);
      }
    }));
  } else if (attribute.type === 'number') {
    const step = attribute.step ?? 1;
    const [min, max] = [attribute.min ?? -1e9, attribute.max ?? 1e9];
    const current = typeof value === 'number' ? value : typeof attribute.default === 'number' ? attribute.default : (attribute.min ?? 0);
    const set = (n: number) => give({ value: Math.round(Math.min(max, Math.max(min, n)) * 1e6) / 1e6 }, true);
    options = [
      { word: `− ${step}`, press: () => set(current - step) },
      { word: `+ ${step}`, press: () => set(current + step) },
      { word: `− ${step * 5}`, press: () => set(current - step * 5) },
      { word: `+ ${step * 5}`, press: () => set(current + step * 5) },
      { word: `keep ${current}`, lit: value !== undefined, press: () => give({ value: current }) }
    ];
  } else options = [{ word: 'write', icon: Pencil, press: write }];
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
