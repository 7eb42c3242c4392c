import { describe, expect, it } from 'vitest';
import { ulid } from './ulid';

describe('ids', () => {
  it('are well formed, unique, and sort by age also within one millisecond', () => {
    const ids = Array.from({ length: 2000 }, (_, i) => ulid(1_790_000_000_000 + Math.floor(i / 500)));
    for (const id of ids) expect(id).toMatch(/^[0-7][0-9A-HJKMNP-TV-Z]{25}$/);
    expect(new Set(ids).size).toBe(2000);
    expect([...ids].sort()).toEqual(ids);
  });
});
