import { letters } from '$lib/keys/bindings';
import { answersOf, digitPlaces, type Cap, type Row } from '$lib/keys/caps';
import type { Words } from '$lib/words/words.svelte';
import { Check, ChevronLeft, ChevronRight, CircleSlash, SquareArrowOutUpRight, Trash2 } from '@lucide/svelte';
import type { Asked } from './asked';
import type { Sweep } from './sweep.svelte';

/** What of the page the deck of a sweep reaches. */
export type SweepPorts = {
  words: Words;
  asked: Asked;
  /** goes to the field in which an answer is written */
  write: () => void;
  /** opens the item on the bench; null when nobody has been given it */
  bench: (() => void) | null;
};
const empty: Row = { name: '', caps: [] };
/** Where the tags of a group lie: all but the keys of back and on. */
const TAGS = [...letters.Q, ...letters.A, ...letters.Z.filter((code) => code !== 'KeyC' && code !== 'KeyV')];

/** The deck of a sweep: the answers themselves lie on it, and back and on lie where they lie on the bench. */
export class SweepDeck {
  constructor(
    private readonly sweep: Sweep,
    private readonly ports: SweepPorts
  ) {}

  get digits(): Row {
    const { words, asked } = this.ports;
    if (asked.overItems || asked.overStretches) return empty;
    const { mark } = this.sweep;
    const fit = words.document.classes.filter((c) => mark && words.kindsOf(c.key).includes(mark.kind));
    return {
      name: 'classes',
      caps: digitPlaces(fit).map(({ digit, key }) => ({
        code: `Digit${digit}`,
        word: words.nameOf(key),
        marker: { marker: words.marker(key), color: words.light(key) },
        lit: mark?.class === key,
        press: () => this.sweep.become(key)
      }))
    };
  }

  get rows(): Row[] {
    if (!this.sweep.subject) return [];
    const [upper, middle, lower] = this.#shown();
    return [upper!, middle!, { ...lower!, caps: [...lower!.caps, ...this.#moves(lower!.caps)].sort(byPlace) }];
  }
  #shown(): Row[] {
    const { sweep, ports } = this;
    if (sweep.question) {
      const { question } = sweep;
      return answersOf(question, sweep.answers[question.key], (answer, stay) => sweep.answer(answer, stay), ports.write);
    }
    const { asked } = ports;
    const { single, group } = asked;
    if (group !== null) return this.#group(group);
    if (single)
      return [
        {
          name: 'tag',
          caps: [
            {
              code: 'KeyQ',
              word: asked.overStretches ? `${single.name}, right` : single.name,
              icon: Check,
              lit: sweep.tags.includes(single.key),
              press: () => sweep.tag(single.key)
            },
            { code: 'KeyW', word: `not ${single.name}`, icon: CircleSlash, press: () => sweep.untag(single.key) }
          ]
        },
        empty,
        empty
      ];
    return [
      {
        name: '',
        caps: [
          {
            code: 'KeyE',
            word: 'on the bench',
            icon: SquareArrowOutUpRight,
            off: ports.bench ? undefined : 'nobody has been given this item',
            press: () => ports.bench?.()
          }
        ]
      },
      { name: '', caps: [{ code: 'KeyD', word: 'remove', icon: Trash2, press: () => sweep.remove() }] },
      empty
    ];
  }
  #group(group: string): Row[] {
    const { sweep } = this;
    const tags = this.ports.words.itemTags.filter((t) => t.group === group);
    const caps = tags.slice(0, TAGS.length).map((t, i): Cap => ({
      code: TAGS[i]!,
      word: t.name,
      lit: sweep.tags.includes(t.key),
      press: () => sweep.tag(t.key)
    }));
    return [0, 5, 10].map((at) => ({ name: at === 0 ? group : '', caps: caps.slice(at, at + 5) }));
  }
  /** Back and on: on the keys they have on the bench, or on others of the last row where answers lie on those. */
  #moves(taken: readonly Cap[]): Cap[] {
    const { sweep } = this;
    const back: Cap = {
      code: 'KeyC',
      word: 'back',
      icon: ChevronLeft,
      off: sweep.at > 0 || sweep.done.length > 0 ? undefined : 'this is the first',
      press: () => sweep.back()
    };
    const skip: Cap = { code: 'KeyV', word: 'skip', icon: ChevronRight, again: true, press: () => sweep.skip() };
    const free = letters.Z.filter((code) => !taken.some((c) => c.code === code));
    // which has its own key keeps it; the other takes what is left
    const kept = [back, skip].filter((cap) => free.includes(cap.code));
    const left = free.filter((code) => !kept.some((c) => c.code === code));
    return [back, skip].flatMap((cap): Cap[] => {
      const code = kept.includes(cap) ? cap.code : left.shift();
      return code === undefined ? [] : [{ ...cap, code }];
    });
  }
}
const byPlace = (a: Cap, b: Cap): number => letters.Z.indexOf(a.code) - letters.Z.indexOf(b.code);
