import { isDrawnOnWordsAlone, asAnswer, type Attribute, type Document } from '$lib/words/codebook';
import type { Words } from '$lib/words/words.svelte';
import { answerOptions, classOptions, setChoice, type Choice } from './filters';
import type { Plan } from './sweep.svelte';

type Tag = NonNullable<Document['tags']>[number];

/** What an address says a sweep is of: what is asked (`q:` a question, `every`, `look`, `g:` a group of tags, `t:` a single tag), over what. */
export class Asked {
  readonly what: string;
  readonly question: Attribute | null;
  readonly single: Tag | null;
  readonly group: string | null;
  readonly overItems: boolean;
  /** what is asked switches along clips: it is asked stretch by stretch */
  readonly overStretches: boolean;
  /** `open`, an answer, or nothing for all */
  readonly which: string;

  constructor(
    private readonly words: Words,
    private readonly params: URLSearchParams
  ) {
    const first = this.#objectQuestions[0] ?? this.#itemQuestions[0];
    this.what = params.get('ask') ?? (first ? `q:${first.key}` : 'look');
    const key = this.what.slice(2);
    this.question = (this.what.startsWith('q:') && words.document.attributes?.find((a) => a.key === key)) || null;
    this.single = (this.what.startsWith('t:') && [...this.#singles, ...this.#ofStretches].find((t) => t.key === key)) || null;
    this.group = this.what.startsWith('g:') ? key : null;
    this.overStretches =
      this.#ofPages ||
      this.question?.scope === 'frame' ||
      (this.question !== null && words.varies(this.question.key)) ||
      this.single?.scope === 'stretch';
    this.overItems = !this.overStretches && (this.group !== null || this.single !== null || this.question?.scope === 'item');
    const asks = this.question !== null || this.group !== null || this.single !== null;
    // of a tag there are only the stretches it is on
    const onlyOn = this.single?.scope === 'stretch' || this.single?.scope === 'page';
    this.which = this.what === 'every' ? 'open' : asks && !onlyOn ? (params.get('answer') ?? 'open') : '';
  }

  get #objectQuestions(): Attribute[] {
    const { attributes, classes } = this.words.document;
    return (attributes ?? []).filter((a) => a.scope === 'object' && classes.some((c) => c.attributes?.includes(a.key)));
  }
  get #itemQuestions(): Attribute[] {
    return (this.words.document.attributes ?? []).filter((a) => a.scope === 'item');
  }
  /** What is asked is asked of each page of documents. */
  get #ofPages(): boolean {
    return this.question?.scope === 'page' || this.single?.scope === 'page';
  }
  /** What an item is called: where things are said along clips, not all of them are pictures. */
  get #whole(): string {
    const { attributes, tags } = this.words.document;
    if (isDrawnOnWordsAlone(this.words.document)) return 'text';
    if (attributes?.some((a) => a.scope === 'page') || tags?.some((t) => t.scope === 'page')) return 'document';
    return attributes?.some((a) => a.scope === 'frame' || a.varies) || tags?.some((t) => t.scope === 'stretch') ? 'item' : 'picture';
  }
  get #frameQuestions(): Attribute[] {
    return (this.words.document.attributes ?? []).filter((a) => a.scope === 'frame' || a.scope === 'page');
  }
  get #ofStretches(): Tag[] {
    return (this.words.document.tags ?? []).filter((t) => t.scope === 'stretch' || t.scope === 'page');
  }
  get #singles(): Tag[] {
    return this.words.itemTags.filter((t) => !t.group);
  }
  /** Classes whose objects are asked this. */
  get #classes(): Document['classes'] {
    const { classes } = this.words.document;
    const { question } = this;
    return classes.filter((c) => (question ? c.attributes?.includes(question.key) : this.words.kindsOf(c.key).length > 0));
  }

  get plan(): Plan {
    const { question, params } = this;
    return {
      over: this.overStretches ? 'stretches' : this.overItems ? 'items' : 'objects',
      ...(question && { question: question.key }),
      ...(this.what === 'every' && { every: true }),
      ...(this.group !== null && { group: this.group }),
      ...(this.single && { tag: this.single.key }),
      ...(!this.overItems && this.#ofObjects && params.get('class') && { class: params.get('class')! }),
      ...(this.which !== '' && { answer: this.which }),
      ...(params.get('set') !== null && { set: params.get('set')! })
    };
  }
  get #ofObjects(): boolean {
    return this.question === null ? this.single === null && this.group === null : this.question.scope === 'object';
  }
  /** What is swept over, in a word. */
  noun(count: number): string {
    const [one, many] = this.#ofPages
      ? ['page', 'pages']
      : this.overStretches
        ? ['stretch', 'stretches']
        : this.overItems
          ? [this.#whole, `${this.#whole}s`]
          : ['object', 'objects'];
    return count === 1 ? one! : many!;
  }
  /** The sentence in which all of it is chosen. */
  choices(sets: readonly string[]): Choice[] {
    const { question, single, group, params } = this;
    const asks = this.#objectQuestions;
    const groups = [...new Set(this.words.itemTags.flatMap((t) => (t.group ? [t.group] : [])))];
    const classes = this.#classes;
    return [
      {
        name: 'ask',
        label: 'what is asked',
        lead: 'Ask',
        value: this.what,
        options: [
          ...asks.map((q) => ({ value: `q:${q.key}`, word: this.words.varies(q.key) ? `${q.name} (as it changes)` : q.name })),
          ...(asks.length > 1 ? [{ value: 'every', word: 'every open question' }] : []),
          ...this.#itemQuestions.map((q) => ({ value: `q:${q.key}`, word: `${q.name} (the ${this.#whole})` })),
          ...groups.map((g) => ({ value: `g:${g}`, word: `tags: ${g}` })),
          ...this.#frameQuestions.map((q) => ({
            value: `q:${q.key}`,
            word: `${q.name} (${q.scope === 'page' ? 'of each page' : 'along the clip'})`
          })),
          ...this.#ofStretches.map((t) => ({
            value: `t:${t.key}`,
            word: `tag: ${t.name} (${t.scope === 'page' ? 'on pages' : 'along the clip'})`
          })),
          ...this.#singles.map((t) => ({ value: `t:${t.key}`, word: `tag: ${t.name}` })),
          { value: 'look', word: 'nothing, only look' }
        ]
      },
      ...(this.overItems || !this.#ofObjects
        ? []
        : [
            {
              name: 'class',
              label: 'of which class',
              lead: 'of',
              value: params.get('class') ?? '',
              options: [
                { value: '', word: classes.length === 1 ? classes[0]!.name : 'all classes' },
                ...(classes.length > 1 ? classOptions(classes) : [])
              ]
            }
          ]),
      ...(question || group !== null || (single && !this.overStretches)
        ? [
            {
              name: 'answer',
              label: 'which of them',
              lead: this.#ofPages ? 'of pages' : this.overStretches ? 'of stretches' : this.overItems ? `of ${this.#whole}s` : '',
              value: this.which,
              options: [
                { value: 'open', word: single ? 'without it' : 'not answered' },
                { value: '', word: single ? 'with it or not' : 'answered or not' },
                ...this.#answers()
              ]
            }
          ]
        : []),
      ...setChoice(sets, params.get('set'), 'in')
    ];
  }
  #answers(): { value: string; word: string }[] {
    const { question, single, group } = this;
    if (question) return answerOptions(question, (answer) => `now “${answer}”`);
    if (single) return [{ value: asAnswer(single.key), word: 'with it' }];
    return this.words.itemTags.filter((t) => t.group === group).map((t) => ({ value: asAnswer(t.key), word: `now “${t.name}”` }));
  }
}
