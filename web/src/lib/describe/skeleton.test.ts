// @vitest-environment jsdom
import { describe, expect, it } from 'vitest';
import { fromSvg, joined, movedNode, numbered, placed, renamed, toSvg, twinned, withoutNode, type Skeleton } from './skeleton';

const moth: Skeleton = {
  key: 'moth',
  name: 'Moth "grey" <small>',
  nodes: [
    { key: 'head', name: 'Head', x: 0.5, y: 0.05 },
    { key: 'l', name: 'Left & fore', x: 0.02, y: 0.3, twin: 'r' },
    { key: 'r', name: 'Right', x: 0.98, y: 0.3, twin: 'l' }
  ],
  edges: [
    ['head', 'l'],
    ['head', 'r']
  ]
};

describe('a skeleton', () => {
  it('grows node by node, joined in a chain, and loses what hangs on a node', () => {
    let s = placed(moth, 0.5, 0.9, 'head');
    s = placed(s, 2, -1, s.nodes[3]!.key);
    expect(s.nodes.slice(3)).toEqual([
      { key: 'node_4', name: 'Node 4', x: 0.5, y: 0.9 },
      { key: 'node_5', name: 'Node 5', x: 1, y: 0 }
    ]);
    expect(s.edges.slice(2)).toEqual([
      ['head', 'node_4'],
      ['node_4', 'node_5']
    ]);
    const less = withoutNode(s, 'l');
    expect(less.edges).not.toContainEqual(['head', 'l']);
    expect(less.nodes.find((n) => n.key === 'r')).not.toHaveProperty('twin');
  });
  it('joins and parts, moves, and keeps twins pointing at each other', () => {
    expect(joined(moth, 'l', 'r').edges).toHaveLength(3);
    expect(joined(moth, 'l', 'head').edges).toEqual([['head', 'r']]);
    expect(movedNode(moth, 'head', 0.12345, 7).nodes[0]).toMatchObject({ x: 0.123, y: 1 });
    const other = twinned(placed(moth, 0.1, 0.1, null), 'l', 'node_4');
    expect(other.nodes.map((n) => n.twin)).toEqual([undefined, 'node_4', undefined, 'l']);
    expect(twinned(other, 'l', null).nodes.map((n) => n.twin)).toEqual([undefined, undefined, undefined, undefined]);
  });
  it('gives new nodes keys after their names, and leaves chosen keys alone', () => {
    const s = renamed(placed(moth, 0.5, 0.9, 'head'), 'node_4', 'Tail tip');
    expect(s.nodes[3]).toMatchObject({ key: 'tail_tip', name: 'Tail tip' });
    expect(s.edges[2]).toEqual(['head', 'tail_tip']);
    expect(renamed(moth, 'head', 'Crown').nodes[0]).toMatchObject({ key: 'head', name: 'Crown' });
    expect(numbered(moth, 'Point').nodes.map((n) => n.name)).toEqual(['Point 1', 'Point 2', 'Point 3']);
  });
  it('comes back from its own SVG as it was', () => {
    const { skeleton, notes } = fromSvg(toSvg(moth), []);
    expect(skeleton).toEqual(moth);
    expect(notes).toEqual([]);
    expect(fromSvg(toSvg(moth), ['moth']).skeleton.key).toBe('moth_2');
  });
  it('is read from what a drawing program makes: lines find the circles at their ends', () => {
    const svg =
      '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 200 100"><g><circle cx="0" cy="0" r="4"/><circle cx="200" cy="100" r="4" id="Big Toe"/></g><line x1="3" y1="2" x2="199" y2="98"/></svg>';
    const { skeleton } = fromSvg(svg, []);
    expect(skeleton.nodes.map((n) => [n.key, n.x, n.y])).toEqual([
      ['node_1', 0, 0],
      ['big_toe', 1, 1]
    ]);
    expect(skeleton.edges).toEqual([['node_1', 'big_toe']]);
  });
  it('takes nothing else from an SVG: no script, no picture, no handler, no entity', () => {
    const svg = `<svg xmlns="http://www.w3.org/2000/svg" onload="window.hacked = true" viewBox="0 0 10 10"><script>window.hacked = true</script><image href="https://example.invalid/x.png"/><foreignObject><b>x</b></foreignObject><circle cx="1" cy="1" r="1" onclick="hacked = 1"/></svg>`;
    const { skeleton, notes } = fromSvg(svg, []);
    expect(skeleton.nodes).toHaveLength(1);
    expect(notes.join(' ')).toMatch(/<script>.*<image>.*<foreignObject>/);
    expect((window as unknown as { hacked?: boolean }).hacked).toBeUndefined();
    for (const [bad, words] of [
      ['<!DOCTYPE svg [<!ENTITY a "b">]><svg xmlns="http://www.w3.org/2000/svg"/>', 'document type'],
      ['<html><body/></html>', 'no SVG'],
      ['<svg xmlns="http://www.w3.org/2000/svg"></svg>', '0 circles'],
      ['<svg xmlns="http://www.w3.org/2000/svg"><circle cx="NaN" cy="1"/></svg>', 'no cx'],
      ['not xml at all', 'no SVG'],
      [`<svg xmlns="http://www.w3.org/2000/svg">${'<circle cx="1" cy="1"/>'.repeat(501)}</svg>`, '501 circles']
    ] as const)
      expect(() => fromSvg(bad, []), bad).toThrow(words);
  });
});
