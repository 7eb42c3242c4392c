/** Whether two values say the same, whatever the order of their keys. */
export function same(a: unknown, b: unknown): boolean {
  if (a === b) return true;
  if (typeof a !== 'object' || typeof b !== 'object' || a === null || b === null) return false;
  const [p, q] = [a as Record<string, unknown>, b as Record<string, unknown>];
  const keys = Object.keys(p);
  return keys.length === Object.keys(q).length && keys.every((k) => k in q && same(p[k], q[k]));
}
