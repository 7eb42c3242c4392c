import type { FrameTimes } from './clock.svelte';

/** The frame a person means: its number from 1, or a time (`0:04.5`, `4.5 s`). null when it is neither. */
export function placeOf(said: string, times: FrameTimes): number | null {
  const text = said.trim().toLowerCase();
  const clock = /^(?:(\d+):)?(\d{1,2}):(\d{1,2}(?:[.,]\d+)?)$/.exec(text);
  const seconds = clock
    ? Number(clock[1] ?? 0) * 3600 + Number(clock[2]) * 60 + Number(clock[3]!.replace(',', '.'))
    : /^\d+(?:[.,]\d+)?\s*s$/.test(text)
      ? Number(text.replace(/\s*s$/, '').replace(',', '.'))
      : null;
  if (seconds !== null) return seconds <= times.endsAt ? times.at(seconds) : null;
  if (!/^\d+$/.test(text)) return null;
  const frame = Number(text) - 1;
  return frame >= 0 && frame < times.count ? frame : null;
}

/** The places at which something changes: keys, and where stretches begin and end; in order, each once. */
export function changes(keys: Iterable<number>, stretches: Iterable<readonly [first: number, last: number]>): number[] {
  const places = new Set(keys);
  for (const [first, last] of stretches) places.add(first).add(last);
  return [...places].sort((a, b) => a - b);
}
/** The next of some places on one side, round to the other end; null where there is none. */
export function nextOf(places: readonly number[], at: number, by: 1 | -1): number | null {
  return (by > 0 ? (places.find((p) => p > at) ?? places[0]) : (places.findLast((p) => p < at) ?? places.at(-1))) ?? null;
}
