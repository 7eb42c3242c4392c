// What the first page costs, compressed as a web server with gzip would send it: node bench/first-load.mjs (after bin/setup).
// Counts what the sign-in page and the bench load before they can be used: HTML, scripts, styles, fonts in use.
import { readFileSync, readdirSync, statSync } from 'node:fs';
import { join, dirname } from 'node:path';
import { gzipSync } from 'node:zlib';
import { fileURLToPath } from 'node:url';

const root = join(dirname(fileURLToPath(import.meta.url)), '..', 'web', 'build');
const html = readFileSync(join(root, 'app.html'), 'utf8');
const files = new Map();
const walk = (folder) => readdirSync(folder).forEach((name) => (statSync(join(folder, name)).isDirectory() ? walk(join(folder, name)) : files.set(name, join(folder, name))));
walk(join(root, '_app'));
const size = (name) => gzipSync(readFileSync(files.get(name))).length;
const manifestOf = (file, seen = new Set()) => {
  const base = file.split('/').pop();
  if (!files.has(base) || seen.has(base)) return seen;
  seen.add(base);
  // static imports only: what is imported by a call is loaded when it is needed
  for (const m of readFileSync(files.get(base), 'utf8').matchAll(/(?:from|import)\s*"(\.[^"]+\.js)"/g)) manifestOf(m[1], seen);
  return seen;
};
const entries = [...html.matchAll(/\/_app\/immutable\/[^"' )]+\.js/g)].map((m) => m[0]);
const app = [...files.keys()].filter((f) => f.startsWith('app.'));
const nodes = readdirSync(join(root, '_app/immutable/nodes'));
const report = (word, wanted) => {
  const scripts = new Set();
  for (const e of [...entries, ...app]) manifestOf(e, scripts);
  for (const node of wanted) manifestOf(node, scripts);
  const styles = [...files.keys()].filter((f) => f.endsWith('.css') && (/^\d+\./.test(f) ? wanted.some((n) => n.split('.')[0] === f.split('.')[0]) : true));
  const fonts = [...files.keys()].filter((f) => /hanken-grotesk-latin-wght-normal|ibm-plex-mono-latin-(400|500)-normal.*woff2/.test(f));
  const kb = (list) => list.reduce((sum, name) => sum + size(name), 0) / 1000;
  const parts = [gzipSync(html).length / 1000, kb([...scripts]), kb(styles), kb(fonts)];
  console.log(`${word}: ${parts.reduce((a, b) => a + b, 0).toFixed(0)} kB compressed (page ${parts[0].toFixed(0)}, scripts ${parts[1].toFixed(0)}, styles ${parts[2].toFixed(0)}, fonts ${parts[3].toFixed(0)}); aim 350 kB`);
};
report('sign-in', nodes.filter((n) => /^(0|1)\./.test(n)));
const benchNode = nodes.find((n) => readFileSync(join(root, '_app/immutable/nodes', n), 'utf8').includes('nothing waits for your review') || readFileSync(join(root, '_app/immutable/nodes', n), 'utf8').includes('opening the item'));
report('bench', nodes.filter((n) => /^0\./.test(n) || n === benchNode));
