/** A picture's path as a message of the server names it: at its beginning or after a space, up to a colon. */
const NAMED = /(^|[\s(])((?:[^\s:]+\/)?[^\s:/]+\.(?:jpe?g|png|webp|bmp|tiff?|gif))(?=: )/gi;

export type Piece = { text: string; name?: string };

/** A message in pieces, those that name a picture told apart, so that they can be links to it. */
export function pieces(message: string): Piece[] {
  const found: Piece[] = [];
  let at = 0;
  for (const match of message.matchAll(NAMED)) {
    const start = match.index + match[1]!.length;
    if (start > at) found.push({ text: message.slice(at, start) });
    found.push({ text: match[2]!, name: match[2]! });
    at = start + match[2]!.length;
  }
  if (at < message.length) found.push({ text: message.slice(at) });
  return found;
}

/** The items page with only what has this in its name. */
export const itemsNamed = (project: number, name: string) => `/p/${project}/items?${new URLSearchParams({ f: `name:${name}` })}`;
