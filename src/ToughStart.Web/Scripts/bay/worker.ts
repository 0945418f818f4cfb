/// <reference lib="webworker" />
import { HELD, KEPT } from "./keep";

/**
 * Keeps the bay's page, script, style and fonts on the phone, so that it starts and goes on without a network. Data is the page's own
 * affair: it lies in the phone's store, and nothing here answers for the server.
 */
const self_ = self as unknown as ServiceWorkerGlobalScope;
const isPage = (path: string): boolean => /^\/jobs\/\d+\/bay$/.test(path);
const isPart = (path: string): boolean => path.startsWith("/dist/") || path === "/icon.svg" || path === "/bay.webmanifest";

self_.addEventListener("install", () => void self_.skipWaiting());
self_.addEventListener("activate", (e) => e.waitUntil(self_.clients.claim()));
self_.addEventListener("fetch", (e) => {
  const url = new URL(e.request.url);
  if (e.request.method !== "GET" || url.origin !== self_.location.origin) return;
  if (isPage(url.pathname)) e.respondWith(newest(e.request));
  else if (isPart(url.pathname)) e.respondWith(kept(e.request));
});

/** The server's answer where there is one, else what was kept of it. */
async function newest(request: Request): Promise<Response> {
  const cache = await caches.open(KEPT);
  const path = new URL(request.url).pathname;
  // In the middle of a run the page stays the one that began it.
  const held = (await (await caches.open(HELD)).match(path)) ? await cache.match(request.url) : undefined;
  if (held) return held;
  try {
    const answer = await fetch(request, { signal: AbortSignal.timeout(4000) });
    if (answer.ok && !answer.redirected) await cache.put(request.url, answer.clone());
    return answer;
  } catch {
    return (await cache.match(request.url)) ?? Response.error();
  }
}

/** Parts carry their version in the address: what is kept is right. */
async function kept(request: Request): Promise<Response> {
  const cache = await caches.open(KEPT);
  const known = await cache.match(request.url);
  if (known) return known;
  const answer = await fetch(request);
  if (answer.ok) {
    await cache.put(request.url, answer.clone());
    await prune(cache, request.url);
  }
  return answer;
}

/** Older builds of a part go, unless a page that is held is made of them. */
async function prune(cache: Cache, url: string): Promise<void> {
  if ((await (await caches.open(HELD)).keys()).length > 0) return;
  const { pathname } = new URL(url);
  for (const old of await cache.keys()) {
    if (old.url !== url && new URL(old.url).pathname === pathname) await cache.delete(old);
  }
}
