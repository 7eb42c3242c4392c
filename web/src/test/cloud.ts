import type { BenchPorts, Item } from '$lib/kinds/kind';
import type { Camera } from '$lib/kinds/cloud/camera';
import { Cloud } from '$lib/kinds/cloud/cloud.svelte';
import type { Index } from '$lib/kinds/cloud/frame';
import { CloudLooks } from '$lib/kinds/cloud/looks.svelte';
import { CloudSurface } from '$lib/kinds/cloud/surface.svelte';
import type { Document } from '$lib/words/codebook';
import type { Cuboid } from '$lib/words/mark';
import { vi } from 'vitest';
import { onBench, PICTURE } from './plane';

export const FRAMES = 3;
/** Points of a frame: a row of them a metre apart at x = 0 … 9, y = the frame, z = 1; and one on the ground. */
const POINTS = 11;
const row: Document = {
  skeno: 'codebook/1',
  classes: [
    { key: 'bin', name: 'Bin', shapes: ['cuboid'] },
    { key: 'leaf', name: 'Leaf', shapes: ['box'] }
  ]
};
const origin: [number, number, number] = [100, 0, 0];

function points(frame: number): Uint8Array<ArrayBuffer> {
  const bytes = new Uint8Array(POINTS * 16);
  const view = new DataView(bytes.buffer);
  for (let i = 0; i < POINTS; i++) {
    const ground = i === POINTS - 1;
    [ground ? 0 : i, frame, ground ? 0.25 : 1].forEach((m, axis) => view.setFloat32(i * 16 + axis * 4, m, true));
    bytes[i * 16 + 14] = ground ? 1 : 0;
  }
  return bytes;
}

/** A cloud as it lies on the bench, without bench or server. */
export async function opened(more: Partial<BenchPorts> = {}, frames = FRAMES, cameras: Camera[] = []) {
  const end = { points: POINTS, unseen: 0, levels: [1, 2, 3, 4, 5, 6, 8, POINTS], least: [100, 0, 0.25], most: [109, 2, 1] };
  const index = {
    origin,
    record: 16,
    intensity: null,
    has_class: false,
    has_colour: false,
    least: [100, 0, 0.25],
    most: [109, 2, 1],
    frames: Array.from({ length: frames }, () => end)
  } as unknown as Index;
  const fetched = vi.fn((path: string) => {
    const file = path.split('/').pop()!.split('?')[0]!;
    return Promise.resolve(file === 'index.json' ? new Response(JSON.stringify(index)) : new Response(points(parseInt(file))));
  });
  vi.stubGlobal('fetch', fetched);
  const it = onBench({ document: row, active: 'bin' });
  const item = {
    ...PICTURE,
    name: 'pass-1',
    kind: 'cloud',
    cloud: {
      frames,
      points: Array(frames).fill(POINTS),
      least: [100, 0, 0.25],
      most: [109, 2, 1],
      cameras,
      format: 'frames',
      path: '/cloud',
      query: 'v=1'
    }
  } as unknown as Item;
  const pinned: unknown[] = [];
  const asked: unknown[] = [];
  const said: string[] = [];
  const found: Cuboid = { center: [102, 0, 1], size: [2, 1, 1.5], heading: 90 };
  const ports = {
    ...it,
    project: 3,
    user: 1,
    turn: 5,
    mode: 'label',
    pins: () => [],
    overlays: () => [],
    fitCuboid: (wish: unknown) => {
      asked.push(wish);
      return Promise.resolve({ geometry: found, points: 4, found: true });
    },
    follow: (
      _mark: unknown,
      from: { place: number; geometry: Cuboid },
      last: { place: number; geometry: Cuboid } | null,
      frames: number
    ) => {
      const at = last ?? from;
      const next = { ...at.geometry, center: [at.geometry.center[0]! - 0.5, at.geometry.center[1]!, at.geometry.center[2]!] };
      return Promise.resolve({ found: frames > 0 ? [{ place: at.place + 1, geometry: next, certainty: 0.9 }] : [], unsure: null });
    },
    thin: (_mark: unknown, shapes: { place: number }[]) => Promise.resolve([shapes[0]!.place, shapes.at(-1)!.place]),
    page: () => {},
    say: (message: string) => void said.push(message),
    pin: (at: unknown) => void pinned.push(at),
    ...more
  } as unknown as BenchPorts;
  const cloud = new Cloud(item);
  const sizes = new Map<string, number[][]>();
  const surface = new CloudSurface(item, cloud, ports, new CloudLooks(), sizes);
  const settled = async () => {
    for (let i = 0; i < 20; i++) await new Promise((go) => setTimeout(go));
  };
  await settled();
  const key = (code: string, keys: Partial<KeyboardEventInit> = {}) => surface.keys.press!(new KeyboardEvent('keydown', { code, ...keys }));
  const caps = () => {
    const { tools, verbs, view } = surface.caps();
    return Object.fromEntries([...tools, ...verbs.caps, ...view.caps].map((c) => [c.code, c]));
  };
  const page = (name: string) =>
    Object.fromEntries(
      surface.pages[name]!()
        .flatMap((r) => r.caps)
        .map((c) => [c.code, c])
    );
  const cuboid = () => it.hand.one!.geometry as Cuboid;
  return { ...it, surface, cloud, sizes, caps, page, key, settled, pinned, asked, said, found, ports, fetched, cuboid };
}
