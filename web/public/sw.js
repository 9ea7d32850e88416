/*
 * What lets the pocket open without signal: its one page and the files it is made of. What is counted and what was
 * taken along is not here but in the page's own store (src/rooms/pocket/store.ts).
 */
const PAGES = "pocket-page";
const FILES = "pocket-files";
const PAGE = "/pocket";
/** Milliseconds after which a page that does not come is taken from what is kept. */
const PATIENCE = 4000;

self.addEventListener("install", (event) => {
  event.waitUntil(self.skipWaiting());
});

self.addEventListener("activate", (event) => {
  event.waitUntil(self.clients.claim());
});

/** The page says which files it has loaded, and when all is to be forgotten. */
self.addEventListener("message", (event) => {
  const { keep, forget } = event.data ?? {};
  if (forget) event.waitUntil(Promise.all([caches.delete(PAGES), caches.delete(FILES)]));
  if (Array.isArray(keep)) event.waitUntil(keepAll(keep));
});

async function keepAll(urls) {
  const files = await caches.open(FILES);
  const pages = await caches.open(PAGES);
  const wanted = new Set(urls);
  // Files carry a hash in their names: those of a former release are not asked for again.
  for (const held of await files.keys()) if (!wanted.has(held.url)) await files.delete(held);
  await Promise.all(
    urls.map(async (url) => {
      if (!(await files.match(url))) await files.add(url);
    }),
  );
  const page = await fetch(PAGE, { credentials: "same-origin" });
  if (page.ok) await pages.put(PAGE, page);
}

self.addEventListener("fetch", (event) => {
  const { request } = event;
  const url = new URL(request.url);
  if (request.method !== "GET" || url.origin !== self.location.origin) return;
  if (request.mode === "navigate" && url.pathname.startsWith(PAGE)) event.respondWith(page(request));
  else if (url.pathname.startsWith("/static/assets/")) event.respondWith(file(request));
});

async function page(request) {
  const late = new Promise((_, refuse) => setTimeout(() => refuse(new Error("late")), PATIENCE));
  try {
    return await Promise.race([fetch(request), late]);
  } catch {
    const held = await (await caches.open(PAGES)).match(PAGE);
    return held ?? fetch(request);
  }
}

async function file(request) {
  const held = await (await caches.open(FILES)).match(request.url);
  return held ?? fetch(request);
}
