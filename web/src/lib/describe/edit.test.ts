import { describe, expect, it } from 'vitest';
import type { Schemas } from '$lib/api/client';
import { adopt, keyOf, rekey } from './edit';

type Doc = Schemas['CodebookDocument'];
const from = (): Doc => ({
  skeno: 'codebook/1',
  classes: [
    { key: 'tree', name: 'Tree', shapes: ['polygon'] },
    { key: 'moth', name: 'Moth', shapes: ['skeleton'], skeleton: 'moth', attributes: ['wing'], part_of: ['tree'], shortcut: '4' }
  ],
  attributes: [
    { key: 'seen', name: 'Seen', type: 'yesno', scope: 'object' },
    {
      key: 'wing',
      name: 'Wing',
      type: 'one',
      scope: 'object',
      options: [{ key: 'a', name: 'A' }],
      when: [{ attribute: 'seen', any: [true] }]
    }
  ],
  skeletons: [{ key: 'moth', name: 'Moth', nodes: [{ key: 'head', name: 'Head', x: 0, y: 0 }], edges: [] }]
});

describe('a class of another project', () => {
  it('comes with the questions it asks, those they depend on, and its skeleton', () => {
    const doc: Doc = { skeno: 'codebook/1', classes: [] };
    expect(adopt(doc, from().classes[1]!, from(), '1')).toBe('moth');
    expect(doc.attributes!.map((a) => a.key)).toEqual(['seen', 'wing']);
    expect(doc.skeletons!.map((s) => s.key)).toEqual(['moth']);
    // the digit is one that is free here, and what it was a part of is not here
    expect(doc.classes[0]).toMatchObject({ shortcut: '1' });
    expect(doc.classes[0]!.part_of ?? []).toEqual([]);
  });
  it('takes another key where its own is taken, and leaves the questions that are here', () => {
    const doc: Doc = {
      skeno: 'codebook/1',
      classes: [{ key: 'moth', name: 'Night moth', shapes: ['box'] }],
      attributes: [{ key: 'wing', name: 'Wings here', type: 'text', scope: 'object' }]
    };
    expect(adopt(doc, from().classes[1]!, from(), undefined)).toBe('moth_2');
    expect(doc.attributes!.map((a) => a.name)).toEqual(['Wings here']);
    expect(doc.classes[1]!.shortcut).toBeUndefined();
  });
  it('is a copy: the other project stays as it is', () => {
    const other = from();
    const doc: Doc = { skeno: 'codebook/1', classes: [] };
    adopt(doc, other.classes[1]!, other, '1');
    doc.attributes![1]!.name = 'changed';
    doc.classes[0]!.name = 'changed';
    expect(other).toEqual(from());
  });
});

describe('keys', () => {
  it('are made of names and never twice the same', () => {
    expect(keyOf('Blütenknospe, groß!', [])).toMatch(/^[a-z][a-z0-9_]*$/);
    expect(keyOf('Apple', ['apple', 'apple_2'])).toBe('apple_3');
    expect(keyOf('123', [])).toMatch(/^[a-z]/);
  });
  it('of a question change wherever it is named', () => {
    const doc = from();
    rekey(doc, doc.attributes![0]!, 'visible');
    expect(doc.attributes![1]!.when![0]!.attribute).toBe('visible');
  });
});
