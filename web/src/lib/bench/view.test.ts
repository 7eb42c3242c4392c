import { describe, expect, it } from 'vitest';
import { boxBetween, fit, fitBox, handleAt, handles, resized, toPicture, toScreen, zoomAt } from './view';

describe('the view', () => {
  it('maps there and back', () => {
    const v = { scale: 1.7, x: 31, y: -12 };
    const p = toPicture(v, toScreen(v, { x: 123.25, y: 45.5 }));
    expect(p.x).toBeCloseTo(123.25, 9);
    expect(p.y).toBeCloseTo(45.5, 9);
  });
  it('keeps what is under the pointer there while zooming', () => {
    const v = { scale: 0.6, x: 10, y: 20 };
    const at = { x: 300, y: 200 };
    const before = toPicture(v, at);
    for (const factor of [1.2, 0.3, 9]) {
      const after = toPicture(zoomAt(v, at, factor), at);
      expect(after.x).toBeCloseTo(before.x, 9);
      expect(after.y).toBeCloseTo(before.y, 9);
    }
    expect(zoomAt(v, at, 1e9).scale).toBe(40);
  });
  it('fits and centres', () => {
    const v = fit({ width: 1280, height: 960 }, { width: 1000, height: 700 });
    expect(v.scale).toBeCloseTo(0.7, 9);
    expect(toScreen(v, { x: 640, y: 480 })).toEqual({ x: 500, y: 350 });
    expect(toScreen(fitBox({ x: 10, y: 20, width: 30, height: 10 }, { width: 800, height: 600 }), { x: 25, y: 25 })).toEqual({
      x: 400,
      y: 300
    });
  });
});

describe('boxes under the hand', () => {
  it('are drawn in any direction', () => {
    expect(boxBetween({ x: 9, y: 8 }, { x: 1.234, y: 2 })).toEqual({ x: 1.23, y: 2, width: 7.77, height: 6 });
  });
  it('are pulled by each handle, the opposite side staying', () => {
    const box = { x: 10, y: 10, width: 20, height: 20 };
    for (const handle of handles) {
      const at = handleAt(box, handle);
      const pulled = resized(box, handle, { x: at.x + 3, y: at.y + 4 });
      expect(pulled.x + (handle.includes('w') ? 0 : pulled.width)).toBe(handle.includes('w') ? 13 : handle.includes('e') ? 33 : 30);
      expect(pulled.y + (handle.includes('n') ? 0 : pulled.height)).toBe(handle.includes('n') ? 14 : handle.includes('s') ? 34 : 30);
    }
    expect(resized(box, 'e', { x: 4, y: 0 })).toEqual({ x: 4, y: 10, width: 6, height: 20 });
  });
});
