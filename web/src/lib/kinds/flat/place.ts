import type { BenchPorts, Overlay } from '../kind';

/** The bench's ports as a plane has them that shows one place of the item's axis: a frame, a page. */
export function atPlace(ports: BenchPorts, place: () => number, overlays: () => readonly Overlay[]): BenchPorts & { place: () => number } {
  return {
    ...ports,
    // what was looked at close up is asked of pictures
    seen: { cells: '', zoom: 0, required: false },
    pins: () => ports.pins().filter((pin) => pin.place === null || pin.place === place()),
    overlays,
    compute: (mark, what) => ports.compute(mark, { ...what, place: place() }),
    cutOut: (wish, signal) => ports.cutOut(wish, signal, place()),
    pose: (wish, signal) => ports.pose(wish, signal, place()),
    patches: (part, side, signal) => ports.patches(part, side, signal, place()),
    place,
    tellSeen: () => Promise.resolve(),
    pin: (anchor) => ports.pin(anchor && { ...anchor, place: place() })
  };
}
