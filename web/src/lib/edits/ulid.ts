const digits = '0123456789ABCDEFGHJKMNPQRSTVWXYZ';
let lastTime = 0;
let lastTail: number[] = [];

/** A ULID; ids made within one millisecond still sort by age. */
export function ulid(now = Date.now()): string {
  if (now <= lastTime && lastTail.length > 0) {
    for (let i = 15; i >= 0; i--) {
      const next = ((lastTail[i] ?? 0) + 1) % 32;
      lastTail[i] = next;
      if (next !== 0) break;
    }
  } else {
    lastTime = now;
    lastTail = [...crypto.getRandomValues(new Uint8Array(16))].map((b) => b % 32);
    // room to count up within the millisecond
    lastTail[0] = (lastTail[0] ?? 0) & 15;
  }
  let time = '';
  for (let t = lastTime, i = 0; i < 10; i++, t = Math.floor(t / 32)) time = digits[t % 32] + time;
  return time + lastTail.map((d) => digits[d]).join('');
}
