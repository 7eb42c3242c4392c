import { describe, expect, it } from 'vitest';
import { boxBetween, fit, fitBox, handleAt, handles, isWhole, resized, restaged, toPicture, toScreen, zoomAt } from './view';

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
  it('stays whole when the stage changes, and closer in keeps the middle', () => {
    const picture = { width: 1280, height: 960 };
    const [was, now] = [
      { width: 1000, height: 700 },
      { width: 760, height: 700 }
    ];
    expect(restaged(fit(picture, was), picture, was, now)).toEqual(fit(picture, now));
    const close = zoomAt(fit(picture, was), { x: 300, y: 200 }, 4);
    expect(isWhole(close, picture, was)).toBe(false);
    const middle = toPicture(close, { x: 500, y: 350 });
    const after = restaged(close, picture, was, now);
    expect(after.scale).toBe(close.scale);
    expect(toPicture(after, { x: 380, y: 350 }).x).toBeCloseTo(middle.x, 9);
    expect(toPicture(after, { x: 380, y: 350 }).y).toBeCloseTo(middle.y, 9);
    // a person who has moved the whole picture aside has chosen that
    expect(isWhole({ ...fit(picture, was), x: 60 }, picture, was)).toBe(false);
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
