/*
 * Opens a plate's page where the connection is lost: its frame, scripts and fonts as this build had them. What the page
 * shows is kept by the page itself. Everything else goes to the server as if this were not here.
 */
const KEPT = `page ${new URL(self.location.href).searchParams.get("build")}`;
/** Milliseconds that a server may take to answer before the kept page is opened: a hall has corners with one bar. */
const PATIENCE = 4000;
const FRAME = "/plates/";

self.addEventListener("install", (event) => event.waitUntil(self.skipWaiting()));

self.addEventListener("activate", (event) => event.waitUntil(takeOver()));

async function takeOver() {
  const old = (await caches.keys()).filter((name) => name !== KEPT);
  await Promise.all(old.map((name) => caches.delete(name)));
  await self.clients.claim();
}

/** The page names what it was made of, since it was loaded before this was there. */
self.addEventListener("message", (event) => event.waitUntil(keepAll(event.data)));

async function keepAll(addresses) {
  const cache = await caches.open(KEPT);
  for (const address of addresses) if (!(await cache.match(address))) await cache.add(address);
  await cache.put(FRAME, await fetch(FRAME));
}

self.addEventListener("fetch", (event) => {
  const { pathname } = new URL(event.request.url);
  if (event.request.mode === "navigate" && pathname.startsWith(FRAME)) event.respondWith(frame(event.request));
  else if (pathname.startsWith("/assets/")) event.respondWith(asset(event.request));
});

async function frame(request) {
  const kept = await (await caches.open(KEPT)).match(FRAME);
  if (!kept) return fetch(request);
  const late = new Promise((resolve) => setTimeout(() => resolve(kept), PATIENCE));
  return Promise.race([fetch(request).catch(() => kept), late]);
}

async function asset(request) {
  return (await (await caches.open(KEPT)).match(request)) ?? fetch(request);
}
