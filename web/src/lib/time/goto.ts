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
