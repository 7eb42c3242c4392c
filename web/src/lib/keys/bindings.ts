/** The letters of the deck as they lie under the left hand. */
export const letters: Record<'Q' | 'A' | 'Z', string[]> = {
  Q: ['KeyQ', 'KeyW', 'KeyE', 'KeyR', 'KeyT'],
  A: ['KeyA', 'KeyS', 'KeyD', 'KeyF', 'KeyG'],
  Z: ['KeyZ', 'KeyX', 'KeyC', 'KeyV', 'KeyB']
};
const signs: Record<string, string> = { Backquote: '`', Semicolon: ';', Quote: "'", BracketLeft: '[', BracketRight: ']', Backslash: '\\' };
/** What is written on a key; `bound` says where one person has put the places of the deck. */
export const keyName = (place: string, bound: Record<string, string> = {}): string => {
  const code = bound[place] ?? place;
  return signs[code] ?? code.replace(/^(Key|Digit)/, '');
};

/** Where the fingers lie: a place of the deck and the key it is on, for those who have moved some. */
export type Bindings = Record<string, string>;

/** The places of the deck, each named by the key it is on to begin with. */
export const places = [...letters.Q, ...letters.A, ...letters.Z];

/** Keys that may take a place: letters, and the signs right of them. Digits are classes, the rest has a meaning of its own. */
export const bindable = (code: string): boolean =>
  /^Key[A-Z]$/.test(code) || ['Semicolon', 'Quote', 'BracketLeft', 'BracketRight', 'Backslash'].includes(code);

/** The left half of the keyboard seen in a mirror: for a pointer in the left hand. */
export const mirrored: Bindings = Object.fromEntries(
  [
    ['KeyP', 'KeyO', 'KeyI', 'KeyU', 'KeyY'],
    ['Semicolon', 'KeyL', 'KeyK', 'KeyJ', 'KeyH'],
    ['Quote', 'BracketLeft', 'BracketRight', 'KeyM', 'KeyN']
  ].flatMap((row, r) => row.map((code, i) => [places[r * 5 + i]!, code]))
);

/** The place a pressed key stands for; null for a key whose place has moved away. */
export function placeOf(code: string, bound: Bindings): string | null {
  const place = Object.entries(bound).find(([, key]) => key === code)?.[0];
  if (place) return place;
  return places.includes(code) && bound[code] !== undefined && bound[code] !== code ? null : code;
}

/** The place that is on a key already, other than the one asked about. */
export const clash = (place: string, code: string, bound: Bindings): string | null =>
  places.find((p) => p !== place && (bound[p] ?? p) === code) ?? null;

/** A place put on a key; the place that was there takes the key that becomes free. */
export function bind(place: string, code: string, bound: Bindings): Bindings {
  const other = clash(place, code, bound);
  const next = { ...bound, [place]: code, ...(other && { [other]: bound[place] ?? place }) };
  return Object.fromEntries(Object.entries(next).filter(([p, key]) => p !== key));
}
