import type { Item, Kind } from './kind';

/** The kinds of items there are. The code of each is loaded when the first such item opens. */
const kinds: Record<Item['kind'], () => Promise<{ begin: (ports: KindPorts) => Kind }>> = {
  picture: () => import('./picture'),
  clip: () => import('./clip'),
  volume: () => import('./volume'),
  cloud: () => import('./cloud'),
  document: () => import('./document'),
  text: () => import('./text')
};
export type KindPorts = { words: import('$lib/words/words.svelte').Words; chosen: import('$lib/edits/hand.svelte').Chosen };

export const kindOf = async (kind: Item['kind'], ports: KindPorts): Promise<Kind> => (await kinds[kind]()).begin(ports);
