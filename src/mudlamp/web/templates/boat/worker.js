// Keeps boat mode on the phone: the page and its files are there without a link, a newer build replaces the older one whole.

const KEPT = "lamp-boat-{{ view.build }}";
const FILES = {{ view.files | tojson }};
const PATIENCE_MS = 2500;

self.addEventListener("install", (event) => {
  event.waitUntil(caches.open(KEPT).then((cache) => cache.addAll(FILES)).then(() => self.skipWaiting()));
});

self.addEventListener("activate", (event) => {
  event.waitUntil(
    caches.keys().then((names) => Promise.all(names.filter((name) => name.startsWith("lamp-boat-") && name !== KEPT).map((name) => caches.delete(name))))
      .then(() => self.clients.claim()),
  );
});

async function kept(request) {
  const cache = await caches.open(KEPT);
  return (await cache.match(request)) ?? cache.match(new URL(request.url).pathname, { ignoreSearch: true });
}

// The page itself: the newest where there is a link, soon; else the one that is kept.
async function page(request) {
  const late = new Promise((_, fail) => setTimeout(() => fail(new Error("late")), PATIENCE_MS));
  try {
    return await Promise.race([fetch(request), late]);
  } catch {
    return (await kept(new Request("/boat"))) ?? Response.error();
  }
}

self.addEventListener("fetch", (event) => {
  const url = new URL(event.request.url);
  if (event.request.method !== "GET" || url.origin !== location.origin) return;
  if (event.request.mode === "navigate" && url.pathname === "/boat") event.respondWith(page(event.request));
  else if (url.pathname.startsWith("/static/") || url.pathname === "/boat/app.webmanifest") {
    event.respondWith(kept(event.request).then((found) => found ?? fetch(event.request)));
  }
});
