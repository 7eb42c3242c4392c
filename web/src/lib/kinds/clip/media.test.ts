// @vitest-environment jsdom
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { DecodedFrames, type Rendition } from './media';

const range = vi.hoisted(() => vi.fn());
vi.mock('$lib/api/bytes', () => ({ range }));

/** A frame that knows whether it was closed. */
class Frame {
  static open = new Set<number>();
  closed = false;
  constructor(readonly timestamp: number) {
    Frame.open.add(timestamp);
  }
  close(): void {
    this.closed = true;
    Frame.open.delete(this.timestamp);
  }
}
/** A decoder that gives a frame for each chunk, when it is flushed; a chunk out of order breaks it. */
class Decoder {
  static broken = 0;
  static made = 0;
  state = 'unconfigured';
  #chunks: { type: string; timestamp: number }[] = [];
  #last = -1;
  constructor(private readonly on: { output: (frame: Frame) => void; error: (e: Error) => void }) {
    Decoder.made++;
  }
  configure(): void {
    this.state = 'configured';
  }
  decode(chunk: { type: string; timestamp: number }): void {
    if (chunk.type !== 'key' && chunk.timestamp !== this.#last + 1) throw new Error('a chunk out of order');
    this.#last = chunk.timestamp;
    this.#chunks.push(chunk);
  }
  async flush(): Promise<void> {
    await Promise.resolve();
    if (Decoder.broken > 0) {
      Decoder.broken--;
      throw new Error('broken');
    }
    for (const chunk of this.#chunks.splice(0)) this.on.output(new Frame(chunk.timestamp));
  }
  close(): void {
    this.state = 'closed';
  }
}
const rendition = (frames: number): Rendition => ({
  file: 'full.mp4',
  width: 960,
  height: 540,
  codec: 'avc1.64001f',
  description: btoa('x'),
  offset: 48,
  sizes: Array.from({ length: frames }, (_, k) => 100 + k)
});
const of = (frames: DecodedFrames, k: number) => frames.want(k) as unknown as Promise<Frame>;

beforeEach(() => {
  Frame.open.clear();
  Decoder.broken = Decoder.made = 0;
  range.mockReset().mockImplementation((_: string, from: number, to: number) => Promise.resolve(new ArrayBuffer(to - from + 1)));
  vi.stubGlobal('VideoDecoder', Decoder);
  vi.stubGlobal(
    'EncodedVideoChunk',
    class {
      constructor(init: object) {
        Object.assign(this, init);
      }
    }
  );
});
afterEach(() => vi.unstubAllGlobals());

describe('frames decoded a group at a time', () => {
  it('are those that are wanted, each group fetched once and by its own bytes', async () => {
    const frames = new DecodedFrames(rendition(30), 12, '/f');
    expect((await of(frames, 17)).timestamp).toBe(17);
    expect((await of(frames, 12)).timestamp).toBe(12);
    expect((await of(frames, 29)).timestamp).toBe(29);
    const size = (from: number, to: number) => Array.from({ length: to - from }, (_, i) => 100 + from + i).reduce((a, b) => a + b, 0);
    expect(range.mock.calls.map(([, from, to]) => [from, to])).toEqual([
      [48 + size(0, 12), 48 + size(0, 24) - 1],
      [48 + size(0, 24), 48 + size(0, 30) - 1]
    ]);
  });
  it('are let go of when there are too many, never those on the stage, and all of them in the end', async () => {
    const frames = new DecodedFrames({ ...rendition(240), width: 1920, height: 1080 }, 12, '/f');
    await of(frames, 5);
    frames.hold(5);
    for (let k = 30; k < 240; k += 24) await of(frames, k);
    expect(Frame.open.has(5)).toBe(true);
    expect(Frame.open.size).toBeLessThanOrEqual(4 * 12);
    frames.close();
    expect(Frame.open.size).toBe(0);
    await expect(of(frames, 3)).rejects.toThrow('closed');
  });
  it('are tried once more when the decoder breaks down, and then said', async () => {
    const frames = new DecodedFrames(rendition(12), 12, '/f');
    Decoder.broken = 1;
    expect((await of(frames, 3)).timestamp).toBe(3);
    expect(Decoder.made).toBe(2);
    const other = new DecodedFrames(rendition(12), 12, '/f');
    Decoder.broken = 2;
    await expect(of(other, 3)).rejects.toThrow('broken');
    // and again when they are wanted again
    expect((await of(other, 3)).timestamp).toBe(3);
  });
  it('say what kept them from coming', async () => {
    range.mockRejectedValue(new Error('the server does not answer'));
    const frames = new DecodedFrames(rendition(24), 12, '/f');
    await expect(of(frames, 3)).rejects.toThrow('the server does not answer');
    range.mockImplementation((_: string, from: number, to: number) => Promise.resolve(new ArrayBuffer(to - from + 1)));
    expect((await of(frames, 14)).timestamp).toBe(14);
  });
});
