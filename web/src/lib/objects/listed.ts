import { isDrawnOnWordsAlone, say, type Attribute, type Document } from '$lib/words/codebook';
import type { Mark } from '$lib/words/mark';
import type { Words } from '$lib/words/words.svelte';
import type { Found } from './edits.svelte';
import { answerOptions, classOptions, setChoice, type Choice } from './filters';
import type { Query } from './sheet.svelte';

type Measure = 'points' | 'distance' | 'length';
/** Ranges of what is measured of cuboids, as an address has them, in words. */
const RANGES: Record<Measure, [string, string][]> = {
  points: [
    ['0-0', 'without points'],
    ['1-9', 'of 1 to 9 points'],
    ['10-49', 'of 10 to 49 points'],
    ['50-', 'of 50 points and more']
  ],
  distance: [
    ['-5', 'within 5 m'],
    ['5-10', '5 to 10 m away'],
    ['10-20', '10 to 20 m away'],
    ['20-40', '20 to 40 m away'],
    ['40-', '40 m away and more']
  ],
  length: [
    ['-0.5', 'up to 0.5 m long'],
    ['0.5-2', '0.5 to 2 m long'],
    ['2-5', '2 to 5 m long'],
    ['5-', '5 m long and more']
  ]
};
const ALL: Record<Measure, string> = { points: 'of any points', distance: 'at any distance', length: 'of any length' };

/** What an address says a contact sheet shows: of which class, in which order, narrowed how. */
export class Listed {
  readonly class: string;
  readonly sort: string;
  /** questions the class is asked */
  readonly questions: Attribute[];
  /** a track stands there once for every key of it */
  readonly byKey: boolean;
  /** only this track */
  readonly mark: string | null;
  /** the one it is narrowed by */
  readonly question: Attribute | undefined;

  constructor(
    private readonly words: Words,
    private readonly params: URLSearchParams,
    /** the project has clips, whose objects are tracks */
    private readonly hasTracks = false
  ) {
    const { classes, attributes } = words.document;
    this.class = params.get('class') ?? classes[0]?.key ?? '';
    this.sort = params.get('sort') ?? 'oddness';
    this.byKey = params.get('each') === 'key';
    this.mark = params.get('mark');
    const asks = words.classOf(this.class)?.attributes ?? [];
    this.questions = (attributes ?? []).filter((a) => asks.includes(a.key));
    this.question = this.questions.find((q) => q.key === params.get('question'));
  }
  /** Classes that are drawn. */
  get classes(): Document['classes'] {
    return this.words.document.classes.filter((c) => this.words.kindsOf(c.key).length > 0);
  }
  /** The odd ones first, all else from below. */
  get order(): string {
    return this.params.get('order') ?? (this.sort === 'oddness' ? 'desc' : 'asc');
  }
  /** What lists of cuboids can be narrowed by. */
  get #measures(): readonly Measure[] {
    return this.words.kindsOf(this.class).includes('cuboid') ? ['points', 'distance', 'length'] : [];
  }
  get #isText(): boolean {
    return isDrawnOnWordsAlone(this.words.document);
  }
  get query(): Query {
    const { params } = this;
    return {
      class: this.class,
      sort: this.sort as Query['sort'],
      ...(this.byKey && { each: 'key' as const }),
      ...(this.mark !== null && { mark: this.mark }),
      ...(params.get('order') && { order: params.get('order') as Query['order'] }),
      ...(params.get('question') && { question: params.get('question')! }),
      ...(params.get('answer') && { answer: params.get('answer')! }),
      ...(params.get('author') && { author: Number(params.get('author')) }),
      ...(params.get('set') !== null && { set: params.get('set')! }),
      ...Object.fromEntries(this.#measures.flatMap((m) => (params.get(m) ? [[m, params.get(m)!]] : [])))
    };
  }

  /** Of which class, in which order. */
  get what(): Choice[] {
    const sorts = [
      ['oddness', 'oddness'],
      ['size', 'size'],
      ...this.#measures.map((m) => [m, m]),
      ...(this.byKey || this.#isText ? [] : [['aspect', 'width to height']]),
      ['time', 'time'],
      ['author', 'author'],
      ['confidence', 'confidence'],
      ...(this.question && !this.byKey ? [['answer', 'answer']] : []),
      ['item', this.hasTracks || this.byKey ? 'item' : this.#isText ? 'text' : 'picture']
    ] as [string, string][];
    return [
      { name: 'class', label: 'class', lead: 'all', value: this.class, options: classOptions(this.classes) },
      { name: 'sort', label: 'sorted by', lead: 'by', value: this.sort, options: sorts.map(([value, word]) => ({ value, word })) }
    ];
  }
  /** Which of them. */
  which(people: readonly { id: number; name: string }[], sets: readonly string[]): Choice[] {
    const { params, question } = this;
    const choice = (name: string, value: string, all: string, options: { value: string; word: string }[]): Choice => ({
      name,
      label: name,
      value,
      options: [{ value: '', word: all }, ...options]
    });
    return [
      ...(this.hasTracks || this.byKey
        ? [{ name: 'each', label: 'tracks', value: this.byKey ? 'key' : '', options: [{ value: '', word: 'a track once' }, { value: 'key', word: 'every key of a track' }] }] // prettier-ignore
        : []),
      ...(this.questions.length > 0
        ? [choice('question', question?.key ?? '', 'any answers', this.questions.map((q) => ({ value: q.key, word: q.name })))] // prettier-ignore
        : []),
      ...(question
        ? [choice('answer', params.get('answer') ?? '', 'asked of', [{ value: 'open', word: 'not answered' }, ...answerOptions(question)])]
        : []),
      ...(people.length > 0
        ? [choice('author', params.get('author') ?? '', 'by anybody', people.map((p) => ({ value: String(p.id), word: p.name })))] // prettier-ignore
        : []),
      ...this.#measures.map((m) => {
        const value = params.get(m) ?? '';
        const known = RANGES[m].some(([range]) => range === value) || value === '';
        const options = [...RANGES[m], ...(known ? [] : ([[value, `${m} ${value}`]] as [string, string][]))];
        return choice(m, value, ALL[m], options.map(([range, word]) => ({ value: range, word }))); // prettier-ignore
      }),
      ...setChoice(sets, params.get('set'))
    ];
  }
  /** What changes in the address with a choice. */
  chosen(name: string, value: string): Record<string, string | null> {
    if (name === 'class')
      return {
        class: value,
        question: null,
        answer: null,
        mark: null,
        ...(!this.words.kindsOf(value).includes('cuboid') && {
          points: null,
          distance: null,
          length: null,
          ...(['points', 'distance', 'length'].includes(this.sort) && { sort: null })
        })
      };
    if (name === 'each')
      return { each: value === 'key' ? 'key' : null, mark: null, ...(['aspect', 'answer'].includes(this.sort) && { sort: null }) };
    if (name === 'question') return { question: value, answer: null, ...(this.sort === 'answer' && { sort: null }) };
    return { [name]: name === 'answer' && value === '' ? null : value };
  }

  /** An object in words, for those who hear the sheet. @param mark as it is now; null when it was removed */
  name(object: Found, mark: Mark | null): string {
    const { words, question } = this;
    return [
      `${words.nameOf((mark ?? object.mark).class)}${mark === null ? ', removed,' : ''} on ${object.item.name}${this.#at(object)}`,
      ...(object.oddness !== null ? [`oddness ${object.oddness.toFixed(1)}`] : []),
      ...(object.looks_like !== null && mark !== null && mark.class !== object.looks_like
        ? [`looks like ${words.nameOf(object.looks_like)}`]
        : []),
      ...(question && mark ? [`${question.name} ${say(question, mark.answers[question.key]) || 'open'}`] : [])
    ].join(', ');
  }
  /** Of a track, at which frame it is shown; on a document, the page. */
  #at(object: Found): string {
    if (object.mark.place === null) return '';
    return object.mark.stretches ? `, frame ${object.mark.place + 1}` : `, page ${object.mark.place + 1}`;
  }
  /** What stands under an object: what the list is sorted or narrowed by. */
  figure(object: Found, mark: Mark | null): string {
    const { question, sort } = this;
    if (question && mark && (sort === 'answer' || this.params.get('answer'))) return say(question, mark.answers[question.key]) || 'open';
    const [w, h] = object.size ?? [];
    const { measures } = object;
    if (measures && (sort === 'points' || (sort !== 'distance' && sort !== 'length' && this.params.get('points'))))
      return measures.points === null ? '' : `${measures.points.toLocaleString('en')} points`;
    if (measures && (sort === 'distance' || (sort !== 'length' && this.params.get('distance'))))
      return `${measures.distance.toFixed(1)} m away`;
    if (measures && (sort === 'length' || sort === 'size')) return `${measures.length.toFixed(2)} m long`;
    if (object.words && sort === 'size' && w !== undefined) return `${Math.round(w)} letters`;
    if (sort === 'size' && w !== undefined && h !== undefined) return `${Math.round(w)} × ${Math.round(h)}`;
    if (sort === 'aspect' && w !== undefined && h !== undefined) return (w / Math.max(0.01, h)).toFixed(2);
    if (sort === 'author') return object.author ?? '';
    if (sort === 'confidence') return object.mark.confidence === null ? 'by hand' : `${Math.round(100 * object.mark.confidence)} %`;
    // the frame first: of a long name only the beginning is in sight
    if (this.byKey && object.mark.place !== null && (this.mark !== null || sort === 'item' || object.oddness === null))
      return `frame ${object.mark.place + 1}${this.mark === null ? `, ${object.item.name}` : ''}`;
    if (sort === 'item') return object.item.name;
    return object.oddness === null ? '' : object.oddness.toFixed(1);
  }
}
