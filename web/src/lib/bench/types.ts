import type { Schemas } from '$lib/api/client';
import type { Answer } from '$lib/state/codebook';

export type Box = { x: number; y: number; width: number; height: number };
export type Mark = {
  id: string;
  class: string;
  kind: 'box';
  geometry: Box;
  answers: Record<string, Answer>;
  stack: number | null;
  revision: number;
  author: number | null;
  source: string;
};
export type Packet = Schemas['Packet'];
export type Finding = Schemas['Finding'];
export type Point = { x: number; y: number };

export const fromServer = (m: Schemas['Mark']): Mark => ({
  id: m.id,
  class: m.class,
  kind: 'box',
  geometry: { ...m.geometry },
  answers: { ...m.answers },
  stack: m.stack,
  revision: m.revision,
  author: m.author_id,
  source: m.source
});
