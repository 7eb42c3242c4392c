import type { Offsets } from './offsets';

/** A run of letters, or a sign that can't be seen and stands as a word of its own. `at` in code points. */
export type Piece = { at: number; length: number; text: string; sign: boolean };
/** A paragraph, or a part of a long one: laid out and drawn by itself. Its end is that of its line break, where it has one. */
export type Block = { start: number; end: number; pieces: Piece[]; goesOn: boolean };

/** Code points of a block at most: of a longer paragraph the next one follows behind a sentence, or a word. */
const LONGEST = 1500;

const bidi: Record<string, string> = {
  '\u202a': 'LRE',
  '\u202b': 'RLE',
  '\u202c': 'PDF',
  '\u202d': 'LRO',
  '\u202e': 'RLO',
  '\u2066': 'LRI',
  '\u2067': 'RLI',
  '\u2068': 'FSI',
  '\u2069': 'PDI',
  '\u200e': 'LRM',
  '\u200f': 'RLM',
  '\ufeff': 'BOM',
  '\u200b': 'ZWSP'
};
// controls other than tab and the ends of lines, and what turns the direction of writing or can't be seen
// eslint-disable-next-line no-control-regex -- these are what is looked for
const unseen = /[\u0000-\u0008\u000b\u000c\u000e-\u001f\u007f\u0080-\u009f\u200b\u200e\u200f\u202a-\u202e\u2066-\u2069\ufeff]/g;
const nameOf = (sign: string): string => bidi[sign] ?? `U+${sign.charCodeAt(0).toString(16).toUpperCase().padStart(4, '0')}`;

/** Words as they can be read anywhere: what can't be seen, or turns what stands behind it, as its name. */
export const readable = (words: string): string => words.replace(unseen, (sign) => `⟨${nameOf(sign)}⟩`);

/** The text in blocks, one after the other, none of it left out. */
export function blocksOf(offsets: Offsets): Block[] {
  const { body } = offsets;
  const blocks: Block[] = [];
  let unit = 0;
  while (unit < body.length) {
    const feed = body.indexOf('\n', unit);
    const line = feed < 0 ? body.length : feed + 1;
    let from = unit;
    while (from < line) {
      const to = line - from > LONGEST ? cut(body, from, line) : line;
      blocks.push(block(offsets, from, to, from > unit));
      from = to;
    }
    unit = line;
  }
  if (blocks.length === 0) blocks.push({ start: 0, end: 0, pieces: [], goesOn: false });
  return blocks;
}
/** Where a long line is parted: behind the last sentence that fits, else the last word, else anywhere but within a sign. */
function cut(body: string, from: number, line: number): number {
  const some = body.slice(from, from + LONGEST);
  for (const end of [/[.!?。！？]["')\]]?\s+(?=\S)/g, /\s+(?=\S)/g]) {
    let at = -1;
    for (const found of some.matchAll(end)) at = found.index + found[0].length;
    if (at > LONGEST / 3) return from + at;
  }
  const last = from + LONGEST;
  const unit = body.charCodeAt(last - 1);
  return Math.min(line, unit >= 0xd800 && unit < 0xdc00 ? last - 1 : last);
}
function block(offsets: Offsets, from: number, to: number, goesOn: boolean): Block {
  const { body } = offsets;
  // the end of the line is not drawn: the block is a line of its own
  let shown = to;
  while (shown > from && (body[shown - 1] === '\n' || body[shown - 1] === '\r')) shown--;
  const pieces: Piece[] = [];
  const add = (a: number, b: number, sign: boolean) => {
    if (b <= a) return;
    const at = offsets.offset(a);
    const text = body.slice(a, b);
    pieces.push({ at, length: offsets.offset(b) - at, text: sign ? nameOf(text) : text, sign });
  };
  let at = from;
  const words = body.slice(from, shown);
  for (const found of words.matchAll(unseen)) {
    add(at, from + found.index, false);
    add(from + found.index, from + found.index + 1, true);
    at = from + found.index + 1;
  }
  add(at, shown, false);
  return { start: offsets.offset(from), end: to >= body.length ? offsets.length : offsets.offset(to), pieces, goesOn };
}
/** The block a place is in. */
export function blockAt(blocks: readonly Block[], offset: number): number {
  let [low, high] = [0, blocks.length - 1];
  while (low < high) {
    const middle = (low + high + 1) >> 1;
    if (blocks[middle]!.start <= offset) low = middle;
    else high = middle - 1;
  }
  return low;
}
