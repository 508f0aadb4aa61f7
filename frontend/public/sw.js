// Keeps the program, and what the run sheet last showed, on a device that trusts the server's certificate: loading the page
// again then wants no network. Whatever the network gives counts before what is kept.

const SHELL = "low-tide-shell";
const FACTS = "low-tide-facts";
const PAGE = "/";
const KEPT = /^\/api\/(?:about|preferences|timers|run\/readings|hookups|hookups\/[^/]+|hookups\/[^/]+\/run)$/;

self.addEventListener("install", () => self.skipWaiting());
self.addEventListener("activate", (event) => event.waitUntil(self.clients.claim()));

const keep = async (cache, key, response) => (await caches.open(cache)).put(key, response);

/** The page; a new build brings files of other names along, and those before it go. */
async function page(request) {
  try {
    const response = await fetch(request);
    if (response.ok && !response.redirected) {
      const before = await caches.match(PAGE);
      const [now, was] = [await response.clone().text(), before && (await before.text())];
      const files = (text) => (text.match(/\/assets\/[^"]+/g) ?? []).join();
      if (was && files(was) !== files(now)) await caches.delete(SHELL);
      await keep(SHELL, PAGE, response.clone());
    }
    return response;
  } catch (error) {
    const found = await caches.match(PAGE);
    if (found) return found;
    throw error;
  }
}

async function asset(request) {
  const found = await caches.match(request);
  if (found) return found;
  const response = await fetch(request);
  if (response.ok) await keep(SHELL, request, response.clone());
  return response;
}

async function fact(request) {
  const path = new URL(request.url).pathname;
  try {
    const response = await fetch(request);
    if (response.ok) await keep(FACTS, path, response.clone());
    if (response.status === 401) await caches.delete(FACTS);
    return response;
  } catch (error) {
    const found = await caches.match(path);
    if (found) return found;
    throw error;
  }
}

self.addEventListener("fetch", (event) => {
  const { request } = event;
  const { origin, pathname, search } = new URL(request.url);
  if (request.method !== "GET" || origin !== self.location.origin) return;
  if (request.mode === "navigate") {
    if (pathname !== "/pair") event.respondWith(page(request));
  } else if (pathname.startsWith("/assets/")) event.respondWith(asset(request));
  else if (KEPT.test(pathname) && !search) event.respondWith(fact(request));
});
