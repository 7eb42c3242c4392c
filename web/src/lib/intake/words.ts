import type { Schemas } from '$lib/api/client';

/** What became of a file. */
export const words: Record<string, string> = {
  taken: 'taken',
  known: 'already there',
  refused: 'refused',
  passed: 'passed over',
  receiving: 'arriving',
  received: 'being read',
  failed: 'not taken in, and kept'
};

/** How far an import is. */
export const states: Record<Schemas['Import']['state'], string> = {
  receiving: 'arriving',
  working: 'being read',
  done: 'done',
  failed: 'stopped by an error; what had come in by then stays',
  cancelled: 'stopped by hand; what had come in by then stays'
};
