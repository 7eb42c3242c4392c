import { Drawing } from '$lib/plane/drawing.svelte';
import { Show } from '$lib/plane/show.svelte';
import type { BenchPorts, Item } from '$lib/kinds/kind';
import type { Direction, Index } from '$lib/kinds/volume/planes';
import { VolumeSurface } from '$lib/kinds/volume/surface.svelte';
import { Volume } from '$lib/kinds/volume/volume.svelte';
import { Windowing } from '$lib/kinds/volume/window.svelte';
import type { Document } from '$lib/words/codebook';
import { vi } from 'vitest';
import { onBench, PICTURE } from './plane';

export const SIZES = [20, 16, 8] as const;
/** what is kept of a voxel */
export const kept = (x: number, y: number, z: number): number => 1000 + x + 20 * y + 400 * z;
const scans: Document = {
  skeno: 'codebook/1',
  classes: [
    { key: 'bruise', name: 'Bruise', shapes: ['mask'] },
    { key: 'spot', name: 'Spot', shapes: ['box'] }
  ]
};

const packed = async (values: number[]): Promise<Uint8Array<ArrayBuffer>> => {
  const stream = new Response(new Uint16Array(values)).body!.pipeThrough(new CompressionStream('deflate-raw'));
  return new Uint8Array(await new Response(stream).arrayBuffer());
};
/** The files of a volume as the server sends them. */
async function files(): Promise<Map<string, Uint8Array<ArrayBuffer> | string>> {
  const [w, h, d] = SIZES;
  const plane = (across: number, down: number, at: (a: number, b: number) => number) =>
    packed(Array.from({ length: across * down }, (_, i) => at(i % across, Math.floor(i / across))));
  const all: Record<Direction, Uint8Array<ArrayBuffer>[]> = {
    xy: await Promise.all(Array.from({ length: d }, (_, z) => plane(w, h, (x, y) => kept(x, y, z)))),
    xz: await Promise.all(Array.from({ length: h }, (_, y) => plane(w, d, (x, z) => kept(x, y, z)))),
    yz: await Promise.all(Array.from({ length: w }, (_, x) => plane(h, d, (y, z) => kept(x, y, z))))
  };
  const index: Index = {
    sizes: [w, h, d],
    spacing: [0.5, 0.5, 1],
    letters: ['L', 'P', 'S'],
    stored: { slope: 1, intercept: -1000 },
    windows: [{ name: 'usual', level: 100, width: 80 }],
    planes: {
      xy: { width: w, height: h, lengths: all.xy.map((p) => p.length) },
      xz: { width: w, height: d, lengths: all.xz.map((p) => p.length) },
      yz: { width: h, height: d, lengths: all.yz.map((p) => p.length) }
    }
  };
  const join = (parts: Uint8Array[]) => new Uint8Array(parts.flatMap((p) => [...p]));
  return new Map<string, Uint8Array<ArrayBuffer> | string>([
    ['index.json', JSON.stringify(index)],
    ['xy.bin', join(all.xy)],
    ['xz.bin', join(all.xz)],
    ['yz.bin', join(all.yz)]
  ]);
}

/** A volume as it lies on the bench, without bench or server. */
export async function opened(more: Partial<BenchPorts> = {}) {
  const sent = await files();
  const fetched = vi.fn((path: string, init?: RequestInit) => {
    const file = sent.get(path.split('/').pop()!.split('?')[0]!)!;
    if (typeof file === 'string') return Promise.resolve(new Response(file));
    const range = (init?.headers as Record<string, string>).Range!.slice(6).split('-').map(Number) as [number, number];
    return Promise.resolve(new Response(file.slice(range[0], range[1] + 1), { status: 206 }));
  });
  vi.stubGlobal('fetch', fetched);
  const it = onBench({ document: scans, active: 'bruise' });
  const item = {
    ...PICTURE,
    name: 'scan.nii.gz',
    width: SIZES[0],
    height: SIZES[1],
    kind: 'volume',
    volume: { slices: SIZES[2], spacing: [0.5, 0.5, 1], letters: ['L', 'P', 'S'], format: 'nii.gz', path: '/volume', query: 'v=1' }
  } as unknown as Item;
  const deck: (string | null)[] = [];
  const pinned: unknown[] = [];
  const ports = {
    ...it,
    project: 3,
    user: 1,
    turn: 5,
    mode: 'label',
    pins: () => [],
    overlays: () => [],
    compute: () => Promise.resolve({}),
    patches: () => Promise.resolve(new ArrayBuffer(0)),
    cutOut: () => Promise.resolve({}),
    between: (_mark: unknown, wanted: { from: { geometry: unknown } }, first: number, last: number) =>
      Promise.resolve(Array.from({ length: last - first + 1 }, () => wanted.from.geometry)),
    fits: [],
    tellSeen: () => Promise.resolve(),
    page: (name: string | null) => void deck.push(name),
    pin: (at: unknown) => void pinned.push(at),
    ...more
  } as unknown as BenchPorts;
  const window = new Windowing();
  const volume = new Volume(item, window);
  const surface = new VolumeSurface(item, volume, ports, new Drawing(it.words, it.chosen), new Show());
  surface.plane.sight.resize({ width: 400, height: 320 });
  await volume.opened;
  await vi.waitFor(() => {
    if (surface.clock.frame !== SIZES[2] >> 1) throw new Error('not there yet');
  });
  const caps = () => {
    const { tools, verbs, view } = surface.caps();
    return Object.fromEntries([...tools, ...verbs.caps, ...view.caps].map((c) => [c.code, c]));
  };
  const page = (name: string) =>
    Object.fromEntries(
      surface.pages[name]!()
        .flatMap((row) => row.caps)
        .map((c) => [c.code, c])
    );
  const key = (code: string, keys: Partial<KeyboardEventInit> = {}) => surface.keys.press!(new KeyboardEvent('keydown', { code, ...keys }));
  const settled = async () => {
    for (let i = 0; i < 20; i++) await new Promise((go) => setTimeout(go));
  };
  return { ...it, surface, volume, window, caps, page, key, deck, pinned, fetched, settled, ports };
}
