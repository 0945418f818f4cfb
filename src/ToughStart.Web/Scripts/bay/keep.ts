/** What the phone keeps of the page, and which build of it: the page writes, the worker reads. */
export const KEPT = "bay-1";
export const HELD = "bay-held";

const parts = (): string[] =>
  [...document.querySelectorAll<HTMLLinkElement | HTMLScriptElement>("link[href], script[src]")]
    .map((e) => (e instanceof HTMLScriptElement ? e.src : e.href))
    .concat(performance.getEntriesByType("resource").map((e) => e.name))
    .filter((url) => new URL(url).origin === location.origin && /^\/(dist\/|icon\.svg|bay\.webmanifest)/.test(new URL(url).pathname));

/** Keeps this very page with all it is made of: it was loaded before there was a worker to do it. */
export async function keepPage(): Promise<void> {
  if (!("caches" in window)) return;
  const kept = await caches.open(KEPT);
  for (const url of new Set([location.href.split("#")[0], ...parts()])) {
    if (!(await kept.match(url))) await kept.add(url).catch(() => undefined);
  }
}

let held: boolean | null = null;

/** While a run goes on its page stays as it is; a newer build waits for the next run. */
export async function hold(running: boolean): Promise<void> {
  if (held === running || !("caches" in window)) return;
  held = running;
  const holds = await caches.open(HELD);
  if (running) await holds.put(location.pathname, new Response("running"));
  else await holds.delete(location.pathname);
}
