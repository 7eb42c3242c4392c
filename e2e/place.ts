import { tmpdir } from 'node:os';
import { join } from 'node:path';

/** Where the installations of this run live. The folder is chosen once, in the runner, and handed to its workers. */
process.env.SKENO_E2E ??= join(tmpdir(), `skeno-e2e-${process.pid}`);
const base = process.env.SKENO_E2E;

export const ports = { demo: 9161, empty: 9162 } as const;
export const folders = { demo: join(base, 'demo'), empty: join(base, 'empty') } as const;
export const args = [
  '--no-sandbox',
  '--disable-quic',
  '--no-first-run',
  '--disable-background-networking',
  '--disable-component-update',
  '--disable-sync'
];
export const url = (name: keyof typeof ports, path = '/'): string => `http://127.0.0.1:${ports[name]}${path}`;
/** Software for WebGL: there is no graphics card here. Only where bodies are shown, since it costs all else time. */
export const webgl = ['--use-gl=angle', '--use-angle=swiftshader', '--enable-unsafe-swiftshader'];
