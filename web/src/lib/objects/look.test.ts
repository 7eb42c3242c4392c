import { describe, expect, it } from 'vitest';
import { closeUp, lookBox } from './look';
import type { Mark } from '$lib/words/mark';
import type { Attribute } from '$lib/words/codebook';

const box = { kind: 'box', geometry: { x: 100, y: 50, width: 40, height: 20 } } as Mark;
const moth = {
  kind: 'skeleton',
  geometry: { nodes: { head: { x: 10, y: 10, state: 'visible' }, tail: { x: 10, y: 110, state: 'visible' } } }
} as unknown as Mark;
const asks = (look_at: Attribute['look_at']) => ({ key: 'q', name: 'Q', type: 'one', scope: 'object', look_at }) as Attribute;

describe('where an answer is to be seen', () => {
  it('is the object where the question does not say', () => {
    expect(lookBox(box, null)).toEqual({ x: 100, y: 50, width: 40, height: 20 });
    expect(lookBox(box, asks(undefined))).toEqual({ x: 100, y: 50, width: 40, height: 20 });
  });
  it('is a part of its box in shares of it', () => {
    expect(lookBox(box, asks({ x: 0.5, y: 0, width: 0.5, height: 0.25 }))).toEqual({ x: 120, y: 50, width: 20, height: 5 });
  });
  it('is round a node, or the object where that is absent or none', () => {
    expect(lookBox(moth, asks({ node: 'head' }))).toEqual({ x: -10, y: -10, width: 40, height: 40 });
    expect(lookBox(moth, asks({ node: 'wing' })).height).toBe(100);
    expect(lookBox(box, asks({ node: 'head' })).width).toBe(40);
  });
});

describe('a close-up', () => {
  it('has the part in the middle, as large as the margin leaves it', () => {
    const view = closeUp({ x: 100, y: 50, width: 40, height: 20 }, { width: 800, height: 400 }, 0.5);
    // 40 px and half as much on either side on 400 px
    expect(view.scale).toBe(5);
    expect([120 * view.scale + view.x, 60 * view.scale + view.y]).toEqual([400, 200]);
  });
  it('does not blow up a dot', () => {
    expect(closeUp({ x: 0, y: 0, width: 0, height: 0 }, { width: 800, height: 800 }, 0).scale).toBe(40);
  });
});
