import { describe, expect, it } from 'vitest';
import { bind, bindable, clash, mirrored, placeOf, places } from './bindings';

describe('keys of one person', () => {
  it('a key is its own place until it is moved', () => {
    expect(placeOf('KeyS', {})).toBe('KeyS');
    expect(placeOf('Enter', {})).toBe('Enter');
    expect(placeOf('KeyP', {})).toBe('KeyP');
  });
  it('a moved place is found by its new key, and its old key is silent', () => {
    const bound = bind('KeyS', 'KeyJ', {});
    expect(placeOf('KeyJ', bound)).toBe('KeyS');
    expect(placeOf('KeyS', bound)).toBeNull();
  });
  it('a clash is named, and taking the key all the same swaps the two', () => {
    expect(clash('KeyS', 'KeyF', {})).toBe('KeyF');
    expect(clash('KeyS', 'KeyS', {})).toBeNull();
    const bound = bind('KeyS', 'KeyF', {});
    expect(bound).toEqual({ KeyS: 'KeyF', KeyF: 'KeyS' });
    expect([placeOf('KeyF', bound), placeOf('KeyS', bound)]).toEqual(['KeyS', 'KeyF']);
    expect(bind('KeyS', 'KeyS', bound)).toEqual({});
  });
  it('however keys are moved, every place has one key and every key one place', () => {
    let bound = {};
    let seed = 5;
    const any = (list: string[]) => list[(seed = (seed * 48271) % 2147483647) % list.length]!;
    const all = [...places, 'KeyJ', 'KeyK', 'Semicolon'];
    for (let i = 0; i < 200; i++) {
      bound = bind(any(places), any(all), bound);
      const keys = places.map((p) => (bound as Record<string, string>)[p] ?? p);
      expect(new Set(keys).size).toBe(places.length);
      for (const [n, key] of keys.entries()) expect(placeOf(key, bound)).toBe(places[n]);
    }
  });
  it('the mirror puts every place on a key of its own that may be taken', () => {
    expect(Object.keys(mirrored)).toEqual(places);
    expect(new Set(Object.values(mirrored)).size).toBe(15);
    expect(Object.values(mirrored).every(bindable)).toBe(true);
    for (const reserved of ['Digit1', 'Enter', 'Escape', 'Space', 'Period', 'Comma', 'Slash', 'Minus', 'ArrowUp', 'Backquote'])
      expect(bindable(reserved)).toBe(false);
  });
});
