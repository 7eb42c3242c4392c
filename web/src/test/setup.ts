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
// a busy machine is no fault of what is tested: it is waited for, not for one second, which is what there would be otherwise
const waitFor = vi.waitFor.bind(vi);
vi.waitFor = (callback, options) => waitFor(callback, typeof options === 'number' ? options : { timeout: 20_000, ...options });
