/// <reference no-default-lib="true"/>
/// <reference lib="esnext" />
/// <reference lib="webworker" />
/// <reference types="@sveltejs/kit" />
import { version } from '$service-worker';

/**
 * Keeps the application's own files, so that a page that is loaded again without a network is the bench and not the browser's error page.
 * Nothing of the server's data goes through here: requests to the API and for pictures are left to the browser.
 */
const worker = self as unknown as ServiceWorkerGlobalScope;
const CACHE = `skeno-${version}`;
const SHELL = '/';

worker.addEventListener('install', (event) => {
  event.waitUntil(caches.open(CACHE).then((cache) => cache.add(new Request(SHELL, { cache: 'reload' }))));
});
worker.addEventListener('activate', (event) => {
  event.waitUntil(
    (async () => {
      for (const name of await caches.keys()) if (name.startsWith('skeno-') && name !== CACHE) await caches.delete(name);
      await worker.clients.claim();
    })()
  );
});

/** What a page has loaded before this worker was there. */
worker.addEventListener('message', (event) => {
  const urls = (event.data as { keep?: unknown } | null)?.keep;
  if (!Array.isArray(urls)) return;
  const own = urls.filter((url): url is string => typeof url === 'string' && isOwn(new URL(url, worker.location.origin)));
  event.waitUntil(
    caches.open(CACHE).then(async (cache) => {
      for (const url of own) if (!(await cache.match(url))) await cache.add(url).catch(() => {});
    })
  );
});

/** Files of the build: their names change with what is in them. */
const isOwn = (url: URL): boolean => url.origin === worker.location.origin && url.pathname.startsWith('/_app/immutable/');

worker.addEventListener('fetch', (event) => {
  const { request } = event;
  if (request.method !== 'GET') return;
  const url = new URL(request.url);
  if (isOwn(url)) event.respondWith(kept(request));
  // every page of the application is the same document
  else if (request.mode === 'navigate' && url.origin === worker.location.origin && !url.pathname.startsWith('/api/'))
    event.respondWith(document(request));
});

/** The page from the server; where that does not answer, or who stands before it says so, the page as it was kept. */
async function document(request: Request): Promise<Response> {
  const shell = async () => (await caches.match(SHELL)) ?? Response.error();
  const response = await fetch(request).catch(shell);
  return [502, 503, 504].includes(response.status) ? shell() : response;
}

async function kept(request: Request): Promise<Response> {
  const cache = await caches.open(CACHE);
  const found = await cache.match(request);
  if (found) return found;
  const response = await fetch(request);
  // a full store keeps nothing, and the page is shown all the same
  if (response.ok) void cache.put(request, response.clone()).catch(() => {});
  return response;
}
