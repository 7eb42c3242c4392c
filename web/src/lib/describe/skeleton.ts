import type { Schemas } from '$lib/api/client';
import { keyOf } from './edit';

export type Skeleton = Schemas['CodebookSkeleton'];
export type Node = Schemas['CodebookNode'];

/** To the thousandth of the guide's side. */
const share = (v: number): number => Math.round(Math.min(1, Math.max(0, v)) * 1000) / 1000;

export function placed(s: Skeleton, x: number, y: number, joinTo: string | null): Skeleton {
  const n = s.nodes.length + 1;
  const key = keyOf(
    `node_${n}`,
    s.nodes.map((o) => o.key)
  );
  return {
    ...s,
    nodes: [...s.nodes, { key, name: `Node ${n}`, x: share(x), y: share(y) }],
    edges: joinTo === null ? s.edges : [...s.edges, [joinTo, key]]
  };
}
export const movedNode = (s: Skeleton, key: string, x: number, y: number): Skeleton => ({
  ...s,
  nodes: s.nodes.map((n) => (n.key === key ? { ...n, x: share(x), y: share(y) } : n))
});
/** Joins two nodes, or parts them when they are joined. */
export function joined(s: Skeleton, a: string, b: string): Skeleton {
  if (a === b) return s;
  const there = s.edges.some((e) => e.includes(a) && e.includes(b));
  return { ...s, edges: there ? s.edges.filter((e) => !(e.includes(a) && e.includes(b))) : [...s.edges, [a, b]] };
}
export const withoutNode = (s: Skeleton, key: string): Skeleton => ({
  ...s,
  nodes: s.nodes.filter((n) => n.key !== key).map((n) => (n.twin === key ? without(n, 'twin') : n)),
  edges: s.edges.filter((e) => !e.includes(key))
});
function without<T extends object, K extends keyof T>(of: T, key: K): T {
  const rest = { ...of };
  delete rest[key];
  return rest;
}
export function renamed(s: Skeleton, key: string, name: string): Skeleton {
  const node = s.nodes.find((n) => n.key === key);
  // a key made from a name goes on following it; one that was chosen stays
  const auto = /^node_\d+$/.test(key);
  const next = auto
    ? keyOf(
        name,
        s.nodes.filter((n) => n !== node).map((n) => n.key)
      )
    : key;
  const swap = (k: string) => (k === key ? next : k);
  return {
    ...s,
    nodes: s.nodes.map((n) => ({ ...n, key: swap(n.key), name: n.key === key ? name : n.name, ...(n.twin && { twin: swap(n.twin) }) })),
    edges: s.edges.map((e) => e.map(swap))
  };
}
/** Two nodes become each other's mirror image; a twin of before is let go. */
export const twinned = (s: Skeleton, a: string, b: string | null): Skeleton => ({
  ...s,
  nodes: s.nodes.map((n) => {
    if (n.key === a) return b === null ? without(n, 'twin') : { ...n, twin: b };
    if (n.key === b) return { ...n, twin: a };
    return n.twin === a || (b !== null && n.twin === b) ? without(n, 'twin') : n;
  })
});
/** Nodes numbered in their order: for chains and points along an outline. */
export const numbered = (s: Skeleton, word: string): Skeleton => s.nodes.reduce((now, n, i) => renamed(now, n.key, `${word} ${i + 1}`), s);

/** A plain SVG of circles and lines, which any drawing program opens: names in `data-name`, twins in `data-twin`. */
export function toSvg(s: Skeleton): string {
  const text = (v: string) => v.replace(/&/g, '&amp;').replace(/</g, '&lt;').replace(/"/g, '&quot;');
  const at = new Map(s.nodes.map((n) => [n.key, n]));
  const n = (v: number) => Math.round(v * 1000);
  return `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 1000 1000" data-key="${text(s.key)}" data-name="${text(s.name)}">
${s.edges.map(([a, b]) => `<line x1="${n(at.get(a!)!.x)}" y1="${n(at.get(a!)!.y)}" x2="${n(at.get(b!)!.x)}" y2="${n(at.get(b!)!.y)}" data-from="${text(a!)}" data-to="${text(b!)}" stroke="#20302b" stroke-width="6"/>`).join('\n')}
${s.nodes.map((o) => `<circle cx="${n(o.x)}" cy="${n(o.y)}" r="12" id="${text(o.key)}" data-name="${text(o.name)}"${o.twin ? ` data-twin="${text(o.twin)}"` : ''} fill="#1e6150"/>`).join('\n')}
</svg>
`;
}

const MOST_BYTES = 2_000_000;

/**
 * Reads our own profile of SVG: circles are nodes, lines bones (by `data-from`/`data-to`, else by the circles at their ends). The text is
 * parsed as data: nothing in it is put into the page, executed or fetched. Anything else in it is left out with a word.
 */
export function fromSvg(text: string, taken: string[]): { skeleton: Skeleton; notes: string[] } {
  if (text.length > MOST_BYTES) throw new Error('the file is larger than 2 MB');
  if (/<!DOCTYPE|<!ENTITY/i.test(text)) throw new Error('the file declares a document type or entities, which is not taken');
  const doc = new DOMParser().parseFromString(text, 'image/svg+xml');
  const root = doc.documentElement;
  if (doc.querySelector('parsererror') || root.localName !== 'svg') throw new Error('the file is no SVG');
  const notes = new Map<string, number>();
  const skip = (what: string) => notes.set(what, (notes.get(what) ?? 0) + 1);
  const number = (e: Element, name: string): number => {
    const v = Number(e.getAttribute(name) ?? 'x');
    if (!Number.isFinite(v)) throw new Error(`a ${e.localName} has no ${name}`);
    return v;
  };
  const circles: { e: Element; x: number; y: number }[] = [];
  const lines: Element[] = [];
  const all = [...root.querySelectorAll('*')];
  if (all.length > 5000) throw new Error('the file has more than 5000 elements');
  for (const e of all) {
    if (e.localName === 'circle') circles.push({ e, x: number(e, 'cx'), y: number(e, 'cy') });
    else if (e.localName === 'line') lines.push(e);
    else if (e.localName !== 'g' && e.localName !== 'title') skip(`<${e.localName}>`);
    if (e.hasAttribute('transform')) skip('transform');
  }
  if (circles.length < 1 || circles.length > 500) throw new Error(`the file has ${circles.length} circles; a skeleton has 1 to 500 nodes`);
  const box = (root.getAttribute('viewBox') ?? '').split(/[\s,]+/).map(Number);
  const framed = box.length === 4 && box.every(Number.isFinite) && box[2]! > 0 && box[3]! > 0;
  const [x0, y0, w, h] = framed
    ? (box as [number, number, number, number])
    : [
        Math.min(...circles.map((c) => c.x)),
        Math.min(...circles.map((c) => c.y)),
        Math.max(1, spread(circles.map((c) => c.x))),
        Math.max(1, spread(circles.map((c) => c.y)))
      ];
  const keys: string[] = [];
  for (const { e } of circles) {
    const id = e.getAttribute('id') ?? '';
    keys.push(/^[a-z][a-z0-9_]{0,63}$/.test(id) && !keys.includes(id) ? id : keyOf(id || `node_${keys.length + 1}`, keys));
  }
  const nodes = circles.map(({ e, x, y }, i): Node => ({
    key: keys[i]!,
    name: (e.getAttribute('data-name') ?? e.getAttribute('id') ?? `Node ${i + 1}`).slice(0, 120),
    x: share((x - x0) / w),
    y: share((y - y0) / h)
  }));
  circles.forEach(({ e }, i) => {
    const twin = e.getAttribute('data-twin');
    const other = twin === null ? -1 : keys.indexOf(twin);
    if (other >= 0 && other !== i && circles[other]!.e.getAttribute('data-twin') === keys[i]) nodes[i]!.twin = keys[other];
  });
  const nearest = (x: number, y: number) =>
    circles.reduce((best, c, i) => (Math.hypot(c.x - x, c.y - y) < Math.hypot(circles[best]!.x - x, circles[best]!.y - y) ? i : best), 0);
  const edges: string[][] = [];
  for (const e of lines) {
    const [from, to] = [e.getAttribute('data-from'), e.getAttribute('data-to')];
    const named = from !== null && to !== null && keys.includes(from) && keys.includes(to);
    const [a, b] = named
      ? [from, to]
      : [keys[nearest(number(e, 'x1'), number(e, 'y1'))]!, keys[nearest(number(e, 'x2'), number(e, 'y2'))]!];
    if (a === b) skip('a line from a node to itself');
    else if (!edges.some((edge) => edge.includes(a) && edge.includes(b))) edges.push([a, b]);
  }
  const name = (root.getAttribute('data-name') ?? 'Skeleton').slice(0, 120);
  return {
    skeleton: { key: keyOf(root.getAttribute('data-key') ?? name, taken), name, nodes, edges },
    notes: [...notes].map(([what, n]) => `${n} × ${what} left out`)
  };
}
const spread = (values: number[]): number => Math.max(...values) - Math.min(...values);
