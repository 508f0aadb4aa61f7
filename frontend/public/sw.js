// Keeps the program, and what the run sheet last showed, on a device that trusts the server's certificate: loading the page
// again then wants no network. Whatever the network gives counts before what is kept.

const SHELL = "low-tide-shell";
const FACTS = "low-tide-facts";
const PAGE = "/";
const IS_KEPT = "x-low-tide-kept";
const KEPT = /^\/api\/(?:about|preferences|timers|run\/readings|hookups|hookups\/[^/]+|hookups\/[^/]+\/run)$/;

self.addEventListener("install", () => self.skipWaiting());
self.addEventListener("activate", (event) => event.waitUntil(self.clients.claim()));

const keep = async (cache, key, response) => (await caches.open(cache)).put(key, response);

/** In ms: how long a reload waits for a network that says nothing, and what it asks for next once that was found out. */
const PATIENCE = 4_000;
const LITTLE_PATIENCE = 1_000;
const FOUND_OUT = 30_000;
let silentAt = -FOUND_OUT;

const after = (ms) => new Promise((_, refuse) => setTimeout(() => refuse(new Error("no answer")), ms));

/** The network's answer; what is kept, and says so, where there is none, or none for so long. It may come yet, and is kept
 * then. */
async function newest(request, key, patience, keepAnswer) {
  const before = await caches.match(key);
  const answer = fetch(request).then((response) => keepAnswer(response, before));
  if (!before) return answer;
  const { status, headers } = before;
  const shown = new Response(before.clone().body, {
    status,
    headers: [...headers, [IS_KEPT, "yes"]],
  });
  answer.then(
    () => (silentAt = -FOUND_OUT),
    () => undefined,
  );
  return Promise.race([answer, ...(patience ? [after(patience)] : [])]).catch(() => shown);
}

/** The page; a new build brings files of other names along, and those before it go. */
async function page(request) {
  const found = await newest(request, PAGE, PATIENCE, async (response, before) => {
    if (response.ok && !response.redirected) {
      const [now, was] = [await response.clone().text(), before && (await before.text())];
      const files = (text) => (text.match(/\/assets\/[^"]+/g) ?? []).join();
      if (was && files(was) !== files(now)) await caches.delete(SHELL);
      await keep(SHELL, PAGE, response.clone());
    }
    return response;
  });
  if (found.headers.has(IS_KEPT)) silentAt = performance.now();
  return found;
}

async function asset(request) {
  const found = await caches.match(request);
  if (found) return found;
  const response = await fetch(request);
  if (response.ok) await keep(SHELL, request, response.clone());
  return response;
}

/** A server that takes its time is waited for, but where the page itself had no answer just now: nobody is shown an older
 * verdict for it. */
const fact = (request) => {
  const path = new URL(request.url).pathname;
  const patience = performance.now() - silentAt < FOUND_OUT && LITTLE_PATIENCE;
  return newest(request, path, patience, async (response) => {
    if (response.ok) await keep(FACTS, path, response.clone());
    if (response.status === 401) await caches.delete(FACTS);
    return response;
  });
};

self.addEventListener("fetch", (event) => {
  const { request } = event;
  const { origin, pathname, search } = new URL(request.url);
  if (request.method !== "GET" || origin !== self.location.origin) return;
  if (request.mode === "navigate") {
    if (pathname !== "/pair") event.respondWith(page(request));
  } else if (pathname.startsWith("/assets/")) event.respondWith(asset(request));
  else if (KEPT.test(pathname) && !search) event.respondWith(fact(request));
});
