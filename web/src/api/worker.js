/*
 * The service worker: keeps the pages of one build, so that they open where there is no signal. It keeps nothing of jobs; that is the
 * page's own work. `FILES` and `BUILD` are put before it when the pages are built.
 */

const NAME = `hydrarch.pages.${BUILD}`;
const FIRST = "/index.html";

self.addEventListener("install", (event) => {
  // what is asked of the server goes past this worker, where the browser can be told so: also what a page says as it is closed
  event.addRoutes?.({ condition: { urlPattern: new URLPattern({ pathname: "/api/*" }) }, source: "network" });
  event.waitUntil(caches.open(NAME).then((cache) => cache.addAll([FIRST, ...FILES])));
});

self.addEventListener("activate", (event) => {
  const old = (name) => name.startsWith("hydrarch.pages.") && name !== NAME;
  event.waitUntil(
    caches
      .keys()
      .then((names) => Promise.all(names.filter(old).map((name) => caches.delete(name))))
      .then(() => self.clients.claim()),
  );
});

/** A page that shows what is newer has asked: take over at once. */
self.addEventListener("message", (event) => {
  if (event.data === "take over") self.skipWaiting();
});

self.addEventListener("fetch", (event) => {
  const { request } = event;
  const url = new URL(request.url);
  if (request.method !== "GET" || url.origin !== location.origin || url.pathname.startsWith("/api/")) return;
  if (request.mode === "navigate") event.respondWith(Promise.race([fetch(request), late()]).catch(() => kept(FIRST)));
  else if (FILES.includes(url.pathname)) event.respondWith(kept(url.pathname).then((found) => found ?? fetch(request)));
});

/** A link that answers nothing for so long is no signal. */
const late = () => new Promise((_, reject) => setTimeout(reject, 6000));

const kept = (path) => caches.open(NAME).then((cache) => cache.match(path));
