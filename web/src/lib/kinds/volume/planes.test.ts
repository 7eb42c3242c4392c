import { describe, expect, it, vi } from 'vitest';
import { Planes, type Index } from './planes';

describe('the files of a volume', () => {
  it('come in groups of neighbours, each once, and what was asked for and failed is asked for again', async () => {
    const packed = async (n: number): Promise<Uint8Array<ArrayBuffer>> => {
      const stream = new Blob([new Uint16Array(42).fill(n)]).stream().pipeThrough(new CompressionStream('deflate-raw'));
      return new Uint8Array(await new Response(stream).arrayBuffer());
    };
    const planes = await Promise.all(Array.from({ length: 30 }, (_, n) => packed(n)));
    const file = new Uint8Array(await new Blob(planes).arrayBuffer());
    const none = { width: 7, height: 5, lengths: [] };
    const all: Index = {
      sizes: [7, 6, 30],
      spacing: [1, 1, 1],
      letters: null,
      stored: { slope: 1, intercept: 0 },
      windows: [],
      planes: { xy: { width: 7, height: 6, lengths: planes.map((p) => p.length) }, xz: none, yz: none }
    };
    let broken = false;
    const fetched = vi.fn((path: string, init: RequestInit) => {
      if (path === 'index.json') return Promise.resolve(new Response(JSON.stringify(all)));
      if (broken) return Promise.reject(new TypeError('no network'));
      const [from, to] = (init.headers as Record<string, string>).Range!.slice(6).split('-').map(Number) as [number, number];
      return Promise.resolve(new Response(file.slice(from, to + 1), { status: 206 }));
    });
    vi.stubGlobal('fetch', fetched);
    try {
      const files = await Planes.open((name) => name, new AbortController().signal);
      expect([...(await files.want('xy', 5))].every((n) => n === 5)).toBe(true);
      expect(files.have('xy', 5)).not.toBeNull();
      await files.want('xy', 6);
      expect(fetched).toHaveBeenCalledTimes(2);
      broken = true;
      await expect(files.want('xy', 29)).rejects.toThrow('does not answer');
      broken = false;
      expect((await files.want('xy', 29))[0]).toBe(29);
      files.close();
    } finally {
      vi.unstubAllGlobals();
    }
  });
});
