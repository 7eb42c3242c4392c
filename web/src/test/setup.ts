import { vi } from 'vitest';

// paths of the app are relative to its own address, which there is none of in a test
const Plain = globalThis.Request;
globalThis.Request = class extends Plain {
  constructor(input: RequestInfo | URL, init?: RequestInit) {
    super(typeof input === 'string' ? new URL(input, 'http://127.0.0.1') : input, init);
  }
};
// whoever asks a server must have said what it answers
globalThis.fetch = vi.fn(() => Promise.reject(new TypeError('no server in this test')));
// the icons are thousands of modules, of which no test sees one
vi.mock('@lucide/svelte', () => new Proxy({}, { get: (_, name) => (name === 'then' ? undefined : {}), has: () => true }));
