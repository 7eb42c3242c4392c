import type { Schemas } from '$lib/api/client';

export const json = (data: unknown, status = 200): Response =>
  new Response(JSON.stringify(data), {
    status,
    headers: { 'Content-Type': status < 400 ? 'application/json' : 'application/problem+json' }
  });
export const problem = (status: number, detail: string, code = 'x'): Response =>
  json({ code, title: detail, detail, status, type: 'about:blank' }, status);
export const offline = (): Promise<Response> => Promise.reject(new TypeError('network'));

type SentEdit = Schemas['Edit'] & { item?: number };
/** A server that takes edits, and remembers the batches it was sent. What it answers can be said beforehand, one by one. */
export class EditServer {
  batches: SentEdit[][] = [];
  paths: string[] = [];
  answers: ((edits: SentEdit[]) => Response | Promise<Response>)[] = [];

  constructor() {
    globalThis.fetch = async (input) => {
      const request = input as Request;
      this.paths.push(new URL(request.url).pathname.replace('/api/v1', ''));
      const { edits } = (await request.json()) as Record<'edits', SentEdit[]>;
      this.batches.push(edits);
      return (this.answers.shift() ?? ((all) => applied(all)))(edits);
    };
  }
  get ids(): string[][] {
    return this.batches.map((b) => b.map((e) => e.id));
  }
}
/** All taken. `change`: another outcome for some. */
export const applied = (
  edits: SentEdit[],
  change: (edit: SentEdit) => Partial<Schemas['EditResult']> = () => ({}),
  version = 1
): Response =>
  json({
    results: edits.map((e) => ({ id: e.id, outcome: 'applied', mark: null, said: null, ...change(e) })),
    findings: [],
    codebook_version: version,
    seconds: 0
  });
