import { describe, expect, it } from 'vitest';
import type { Document } from '$lib/words/codebook';
import { Words } from '$lib/words/words.svelte';
import { Asked } from './asked';
import type { Found } from './edits.svelte';
import { narrowed } from './filters';
import { Listed } from './listed';

const document = {
  skeno: 'codebook/1',
  classes: [
    { key: 'apple', name: 'Apple', shapes: ['box'], attributes: ['ripe', 'scab'] },
    { key: 'leaf', name: 'Leaf', shapes: ['polygon'], attributes: ['scab'] },
    { key: 'tree', name: 'Tree', shapes: ['box'] },
    { key: 'bin', name: 'Bin', shapes: ['cuboid'] }
  ],
  attributes: [
    { key: 'ripe', name: 'Ripeness', type: 'one', scope: 'object', no_value: ['unsure'], options: [{ key: 'green', name: 'Green' }] },
    { key: 'scab', name: 'Scab', type: 'yesno', scope: 'object' },
    { key: 'usable', name: 'Usable', type: 'yesno', scope: 'item' },
    { key: 'nobody', name: 'Asked of nothing', type: 'yesno', scope: 'object' }
  ],
  tags: [
    { key: 'dull', name: 'Dull', group: 'light' },
    { key: 'bright', name: 'Bright', group: 'light' },
    { key: 'wet', name: 'Wet' }
  ]
} as unknown as Document;
/** The keys an option may have without being taken for a word of the sentence. */
const gate = {
  skeno: 'codebook/1',
  classes: [{ key: 'gate', name: 'Gate', shapes: ['box'], attributes: ['stands'] }],
  attributes: [
    { key: 'stands', name: 'Stands', type: 'one', scope: 'object', options: [{ key: 'open', name: 'Open' }, { key: 'shut', name: 'Shut' }] } // prettier-ignore
  ],
  tags: [
    { key: 'open', name: 'Open', group: 'sky' },
    { key: 'grey', name: 'Grey', group: 'sky' }
  ]
} as unknown as Document;
const words = (d: Document = document) => {
  const w = new Words(3);
  w.take({ document: d, version: 1, looks: [] });
  return w;
};
const asked = (search: string, d?: Document) => new Asked(words(d), new URLSearchParams(search));
const listed = (search: string) => new Listed(words(), new URLSearchParams(search));
const option = (choices: { name: string; options: readonly { value: string; word: string }[] }[], name: string) =>
  choices.find((c) => c.name === name)?.options.map((o) => `${o.value}=${o.word}`);

describe('what a sweep is of', () => {
  it('begins with the first question objects are asked, where it is open', () => {
    expect(asked('').plan).toEqual({ over: 'objects', question: 'ripe', answer: 'open' });
    const only = { ...document, attributes: document.attributes!.slice(2, 3) };
    expect(asked('', only).plan).toEqual({ over: 'items', question: 'usable', answer: 'open' });
    expect(asked('', { ...document, attributes: [], tags: [] }).plan).toEqual({ over: 'objects' });
  });
  it.each([
    ['ask=q:scab&class=leaf&answer=yes', { over: 'objects', question: 'scab', class: 'leaf', answer: 'yes' }],
    ['ask=q:scab&answer=', { over: 'objects', question: 'scab' }],
    ['ask=every&class=apple', { over: 'objects', every: true, class: 'apple', answer: 'open' }],
    ['ask=look&answer=open', { over: 'objects' }],
    // a set may have no name
    ['ask=look&set=', { over: 'objects', set: '' }],
    ['ask=q:usable&class=apple', { over: 'items', question: 'usable', answer: 'open' }],
    ['ask=g:light', { over: 'items', group: 'light', answer: 'open' }],
    ['ask=t:wet&answer=wet', { over: 'items', tag: 'wet', answer: 'wet' }],
    // what the codebook does not have is nothing to ask
    ['ask=q:gone', { over: 'objects' }],
    ['ask=t:dull', { over: 'objects' }]
  ])('%s', (search, plan) => expect(asked(search).plan).toEqual(plan));
  it('offers what can be asked, of the classes that are asked it', () => {
    expect(option(asked('').choices([]), 'ask')).toEqual([
      'q:ripe=Ripeness',
      'q:scab=Scab',
      'every=every open question',
      'q:usable=Usable (the picture)',
      'g:light=tags: light',
      't:wet=tag: Wet',
      'look=nothing, only look'
    ]);
    expect(option(asked('').choices([]), 'class')).toEqual(['=Apple']);
    expect(option(asked('ask=q:scab').choices([]), 'class')).toEqual(['=all classes', 'apple=Apple', 'leaf=Leaf']);
    expect(option(asked('ask=look').choices([]), 'class')).toEqual(['=all classes', 'apple=Apple', 'leaf=Leaf', 'tree=Tree', 'bin=Bin']);
    expect(option(asked('ask=g:light').choices([]), 'class')).toBeUndefined();
    expect(option(asked('ask=look').choices([]), 'answer')).toBeUndefined();
  });
  it('says answers as what they are now', () => {
    expect(option(asked('').choices([]), 'answer')).toEqual([
      'open=not answered',
      '=answered or not',
      'green=now “Green”',
      expect.stringMatching(/^no:unsure=now “/)
    ]);
    expect(option(asked('ask=g:light').choices([]), 'answer')).toContain('bright=now “Bright”');
    expect(option(asked('ask=t:wet').choices([]), 'answer')).toEqual(['open=without it', '=with it or not', 'wet=with it']);
  });
  it('offers sets where there are several', () => {
    expect(option(asked('').choices(['a']), 'set')).toBeUndefined();
    expect(option(asked('').choices(['', 'a']), 'set')).toEqual(['*=all sets', '=(top)', 'a=a']);
  });
});

describe('what a sheet shows', () => {
  it('begins with the odd ones of the first class', () => {
    expect(listed('').query).toEqual({ class: 'apple', sort: 'oddness' });
    expect(listed('').order).toBe('desc');
    expect(listed('sort=size').order).toBe('asc');
    expect(listed('sort=size&order=desc').order).toBe('desc');
  });
  it('takes all conditions from the address', () => {
    expect(listed('class=leaf&sort=time&order=asc&question=scab&answer=yes&author=4&set=').query).toEqual({
      class: 'leaf',
      sort: 'time',
      order: 'asc',
      question: 'scab',
      answer: 'yes',
      author: 4,
      set: ''
    });
  });
  it('offers an order by answer, and answers, only once a question is chosen', () => {
    expect(option(listed('').what, 'sort')).not.toContain('answer=answer');
    expect(option(listed('question=scab').what, 'sort')).toContain('answer=answer');
    expect(option(listed('').which([], []), 'answer')).toBeUndefined();
    expect(option(listed('question=scab').which([], []), 'answer')).toEqual(['=asked of', 'open=not answered', 'yes=yes', 'no=no']);
    // a question the class is not asked is none
    expect(listed('class=leaf&question=ripe').question).toBeUndefined();
    expect(option(listed('class=tree').which([{ id: 4, name: 'Mei' }], []), 'author')).toEqual(['=by anybody', '4=Mei']);
  });
  it('lets what depends on a choice go with it', () => {
    const change = (search: string, name: string, value: string) =>
      narrowed(new URLSearchParams(search), listed(search).chosen(name, value)).toString();
    expect(change('class=apple&question=scab&answer=yes', 'class', 'leaf')).toBe('class=leaf');
    expect(change('question=scab&answer=yes&sort=answer', 'question', 'ripe')).toBe('question=ripe');
    expect(change('question=scab&answer=yes', 'answer', '')).toBe('question=scab');
    expect(change('set=a', 'set', '*')).toBe('');
    expect(change('', 'set', '')).toBe('set=');
  });
  const object = {
    mark: { id: 'A', class: 'apple', confidence: 0.456, place: null, stretches: null },
    item: { name: 'tree-1.jpg' },
    oddness: 3.14,
    looks_like: 'leaf',
    author: 'Mei',
    size: [30, 20],
    measures: null
  } as unknown as Found;
  const mark = { class: 'apple', answers: { scab: { value: true } } } as never;
  it.each([
    ['', '3.1'],
    ['sort=size', '30 × 20'],
    ['sort=aspect', '1.50'],
    ['sort=author', 'Mei'],
    ['sort=confidence', '46 %'],
    ['sort=item', 'tree-1.jpg'],
    ['question=scab&sort=answer', 'yes'],
    ['question=ripe&answer=open', 'open']
  ])('%s stands under an object as %s', (search, figure) => expect(listed(search).figure(object, mark)).toBe(figure));
  it('narrows cuboids by what is measured of them, and nothing else', () => {
    expect(option(listed('class=bin').which([], []), 'points')).toEqual([
      '=of any points',
      '0-0=without points',
      '1-9=of 1 to 9 points',
      '10-49=of 10 to 49 points',
      '50-=of 50 points and more'
    ]);
    expect(option(listed('class=bin').what, 'sort')).toEqual(
      expect.arrayContaining(['points=points', 'distance=distance', 'length=length'])
    );
    expect(listed('class=bin&points=0-0&distance=20-40').query).toMatchObject({ points: '0-0', distance: '20-40' });
    // a range somebody wrote into the address stays a choice
    expect(option(listed('class=bin&length=1-3').which([], []), 'length')!.at(-1)).toBe('1-3=length 1-3');
    expect(option(listed('class=apple').which([], []), 'points')).toBeUndefined();
    expect(listed('class=apple&points=0-0').query).not.toHaveProperty('points');
    expect(listed('class=bin&points=0-0&sort=distance').chosen('class', 'apple')).toMatchObject({ points: null, sort: null });
    const bin = { ...object, measures: { points: 1234, distance: 12.34, length: 1.2 } } as Found;
    const figure = (search: string) => listed(`class=bin&${search}`).figure(bin, mark);
    expect([
      figure('sort=points'),
      figure('sort=distance'),
      figure('sort=size'),
      figure('points=50-'),
      figure('distance=10-20&sort=item')
    ]).toEqual(['1,234 points', '12.3 m away', '1.20 m long', '1,234 points', '12.3 m away']);
  });
  it('says an object in words', () => {
    expect(listed('').name(object, mark)).toBe('Apple on tree-1.jpg, oddness 3.1, looks like Leaf');
    expect(listed('').name(object, null)).toBe('Apple, removed, on tree-1.jpg, oddness 3.1');
    const at = (place: number, stretches: [number, number][] | null) =>
      ({ ...object, oddness: null, mark: { ...object.mark, place, stretches } }) as Found;
    expect(listed('').name(at(2, null), null)).toContain('on tree-1.jpg, page 3');
    expect(listed('').name(at(7, [[4, 9]]), null)).toContain('on tree-1.jpg, frame 8');
    expect(listed('question=scab').name({ ...object, oddness: null, looks_like: null } as never, mark)).toBe(
      'Apple on tree-1.jpg, Scab yes'
    );
    expect(listed('').name(object, { ...(mark as object), class: 'leaf' } as never)).toBe('Leaf on tree-1.jpg, oddness 3.1');
  });
});

it('an option called open is told from what is not answered', () => {
  const values = (choices: readonly { name: string; options: readonly { value: string }[] }[]) =>
    choices.find((c) => c.name === 'answer')!.options.map((o) => o.value);
  const listed = new Listed(words(gate), new URLSearchParams('class=gate&question=stands'));
  expect(values(listed.which([], []))).toEqual(['', 'open', 'is:open', 'shut']);
  expect(values(new Asked(words(gate), new URLSearchParams('ask=q:stands')).choices([]))).toEqual(['open', '', 'is:open', 'shut']);
  expect(values(new Asked(words(gate), new URLSearchParams('ask=g:sky')).choices([]))).toEqual(['open', '', 'is:open', 'grey']);
});

it('texts are called so, and have no width', () => {
  const scouts = words({
    skeno: 'codebook/1',
    classes: [{ key: 'pest', name: 'Pest', shapes: ['span'] }],
    attributes: [{ key: 'urgent', name: 'Urgent', type: 'yesno', scope: 'item' }]
  } as Document);
  expect(option(new Asked(scouts, new URLSearchParams('ask=q:urgent')).choices([]), 'ask')).toContain('q:urgent=Urgent (the text)');
  const sorts = option(new Listed(scouts, new URLSearchParams()).what, 'sort');
  expect(sorts).toContain('item=text');
  expect(sorts?.some((s) => s.startsWith('aspect='))).toBe(false);
});
