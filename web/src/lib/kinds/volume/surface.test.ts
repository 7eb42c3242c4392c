// @vitest-environment jsdom
import { toMask } from '$lib/plane/raster';
import { pixels } from '$lib/plane/shapes/mask';
import type { Mask } from '$lib/words/mark';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { kept, opened, SIZES } from '../../../test/volume';

beforeEach(() => {
  sessionStorage.clear();
  localStorage.clear();
});
afterEach(() => vi.unstubAllGlobals());
const H = SIZES[1];
const run = (x: number, y0: number, y1: number) => [x * H + y0, x * H + y1];

describe('a volume on the bench', () => {
  it('opens in its middle, and says what is measured where', async () => {
    const { surface, volume } = await opened();
    expect(volume.cross).toEqual([10, 8, 4]);
    expect(volume.measured([3, 5, 4])).toBe(kept(3, 5, 4) - 1000);
    expect(surface.facts()[0]).toBe('20 × 16 × 8 voxels');
    expect(surface.spot({ x: 3.2, y: 5.9 })).toEqual([3, 5, 4]);
    expect(surface.spot({ x: -1, y: 5 })).toBeNull();
    surface.close();
  });
  it('goes through its planes by steps, whichever is the large one, and keeps where they meet', async () => {
    const { surface, volume, settled, caps, key } = await opened();
    caps()['KeyX']!.press();
    await settled();
    expect([surface.clock.frame, volume.cross]).toEqual([5, [10, 8, 5]]);
    key('KeyZ', { shiftKey: true });
    await settled();
    // the longer step is ten: it ends at the first
    expect(surface.clock.frame).toBe(0);
    await surface.go(4);
    surface.turn('xz');
    await settled();
    expect(surface.plane.sight.picture).toEqual({ width: 20, height: 16 });
    caps()['KeyX']!.press();
    await settled();
    expect(volume.cross).toEqual([10, 9, 4]);
    expect(caps()['KeyX']!.word).toBe('plane on');
    // slices are two pixels high, the last at the top
    expect(surface.spot({ x: 2.5, y: 0.5 })).toEqual([2, 9, 7]);
    surface.close();
  });
  it('sets a pin on a voxel, on whichever plane, and shows it on those that hold it', async () => {
    const { surface, pinned, settled } = await opened({
      pins: () =>
        [
          { id: 1, x: 10.5, y: 3.5, place: 6, turn_id: 5 },
          { id: 2, x: 1.5, y: 1.5, place: 4, turn_id: 5 }
        ] as never
    });
    expect(surface.plane.ports.pins().map((p) => p.id)).toEqual([2]);
    surface.turn('yz');
    await settled();
    // x 10 holds the first
    const [pin] = surface.plane.ports.pins();
    expect([pin!.id, surface.plane.ports.pins().length]).toEqual([1, 1]);
    expect(surface.spot({ x: pin!.x!, y: pin!.y! })).toEqual([10, 3, 6]);
    surface.plane.ports.pin({ x: 5.5, y: 2.5, mark: null });
    expect(pinned).toEqual([{ x: 10.5, y: 5.5, place: 6, mark: null }]);
    // and is led to on its slice
    surface.show({ x: 10.5, y: 3.5, place: 6, mark: null });
    await settled();
    expect([surface.volume.direction, surface.clock.frame]).toEqual(['xy', 6]);
    surface.close();
  });
  it('asks of the large plane what looks at the picture, and refuses elsewhere what works on shapes, with what to do', async () => {
    const cutOut = vi.fn(() => Promise.resolve({} as never));
    const patches = vi.fn(() => Promise.resolve({} as never));
    const { surface, settled } = await opened({ cutOut, patches });
    const stop = new AbortController().signal;
    await surface.plane.ports.cutOut({} as never, stop);
    expect(cutOut).toHaveBeenLastCalledWith({}, stop, 4, undefined);
    surface.turn('xz');
    await settled();
    await surface.plane.ports.cutOut({} as never, stop);
    expect(cutOut).toHaveBeenLastCalledWith({}, stop, undefined, 'xz-8');
    await surface.plane.ports.patches({} as never, 9, stop);
    expect(patches).toHaveBeenLastCalledWith({}, 9, stop, undefined, 'xz-8');
    await expect(surface.plane.ports.compute({} as never, { op: 'mend', n: 1 })).rejects.toThrow('on slices only');
    // patches of a slice are not taken for those of another plane
    const places = [surface.plane.ports.place!()];
    surface.turn('yz', [8, 8, 4]);
    await settled();
    places.push(surface.plane.ports.place!());
    expect(places.every((p) => p! < 0)).toBe(true);
    expect(new Set(places).size).toBe(2);
    surface.close();
  });
  it('says how large an object is, in voxels, ml and mm²', async () => {
    const { surface, editor, hand } = await opened();
    surface.plane.forms.painting({ kind: 'mask', geometry: toMask(run(3, 2, 6), 20, 16) }, []);
    const mark = editor.marks.get(hand.selected)!;
    expect(surface.extent(mark)).toEqual({ voxels: 4, ml: (4 * 0.25) / 1000, slice: 4, mm2: 1, slices: 1 });
    expect(surface.short(mark)).toBe('5');
    expect(surface.words(mark)).toContain('slice 5');
    surface.close();
  });
  it('takes what the core made of an object, a step that can be taken back; not when it was changed meanwhile', async () => {
    let answer: (found: unknown) => void = () => {};
    const solid = vi.fn(() => new Promise((resolve) => (answer = resolve)));
    const { surface, editor, hand, messages, settled, page } = await opened({ solid: solid as never });
    surface.plane.forms.painting({ kind: 'mask', geometry: toMask(run(3, 2, 6), 20, 16) }, []);
    const id = hand.selected!;
    page('space')['KeyD']!.press();
    expect(page('space')['KeyD']!.off).toBe('it is being worked on');
    answer({ slices: [{ place: 4, geometry: toMask(run(3, 3, 5), 20, 16) }], parts: null });
    await settled();
    expect(pixels(editor.marks.get(id)!.geometry as Mask).edges).toEqual(run(3, 3, 5));
    editor.undo();
    expect(pixels(editor.marks.get(id)!.geometry as Mask).edges).toEqual(run(3, 2, 6));
    page('space')['KeyF']!.press();
    surface.plane.forms.painting({ kind: 'mask', geometry: toMask(run(3, 2, 9), 20, 16) }, []);
    answer({ slices: [{ place: 4, geometry: toMask(run(3, 3, 5), 20, 16) }], parts: 2 });
    await settled();
    expect(pixels(editor.marks.get(id)!.geometry as Mask).edges).toEqual(run(3, 2, 9));
    expect(messages.at(-1)).toContain('changed meanwhile');
    page('space')['KeyG']!.press();
    answer({ slices: [], parts: null });
    await settled();
    expect(messages.at(-1)).toBe('nothing would be left of it');
    surface.close();
  });
  it('subtracts what the second in hand covers from the first, on every slice', async () => {
    const { surface, editor, hand, settled, messages } = await opened();
    surface.plane.forms.painting({ kind: 'mask', geometry: toMask(run(3, 2, 8), 20, 16) }, []);
    const first = hand.selected!;
    hand.select(null);
    surface.plane.forms.painting({ kind: 'mask', geometry: toMask(run(3, 5, 12), 20, 16) }, []);
    const second = hand.selected!;
    surface.subtract(editor.marks.get(first)!, editor.marks.get(second)!);
    await settled();
    expect(pixels(editor.marks.get(first)!.geometry as Mask).edges).toEqual(run(3, 2, 5));
    surface.subtract(editor.marks.get(first)!, editor.marks.get(second)!);
    expect(messages.at(-1)).toBe('they have nothing in common');
    surface.close();
  });
  it('leaves what a press does one by one: what is grown, what is held, what was measured', async () => {
    const { surface, key } = await opened();
    surface.growing.begin(80, 10);
    surface.hold = 'measure';
    surface.measured = [
      [0, 0, 4],
      [6, 8, 4]
    ];
    expect(surface.distance).toBe(5);
    const escape = () => surface.keys.escape!();
    escape();
    expect([surface.growing.active, surface.hold, surface.measured !== null]).toEqual([false, 'measure', true]);
    escape();
    escape();
    expect([surface.hold, surface.measured]).toEqual([null, null]);
    expect(key('Enter')).toBe(true);
    surface.close();
  });
  it('draws boxes on slices alone', async () => {
    const { surface, chosen, caps, settled } = await opened();
    chosen.active = 'spot';
    surface.chose();
    surface.drawing();
    expect(caps()['KeyE']!.off).toBeUndefined();
    surface.turn('yz');
    await settled();
    expect(caps()['KeyE']!.off).toBe('only masks are drawn here');
    surface.close();
  });
});
