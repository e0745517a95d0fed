// Keeps the last pages of the Desk, the Table, the Bench and field sheets in this browser, as they are shown, so
// that the service worker has them when there is no network. Those of another visitor go.

const PAGES = "pages-"; // as in service-worker.js
const STATIC = "static";
const MOST_PAGES = 24;
const { keeps, visitor } = document.body.dataset;
const IDLE_MS = 800; // after the last answer

async function keep() {
  const pages = await caches.open(`${PAGES}${visitor}`);
  const headers = { "Content-Type": "text/html; charset=utf-8", "X-Kept-At": new Date().toISOString() };
  const page = new Response(`<!doctype html>${document.documentElement.outerHTML}`, { headers });
  await pages.delete(location.href); // so that the newest come last
  await pages.put(location.href, page);
  const kept = await pages.keys();
  await Promise.all(kept.slice(0, -MOST_PAGES).map((old) => pages.delete(old)));
  // What this page was made with, as it may have come before the service worker did.
  const files = performance.getEntriesByType("resource").map(({ name }) => name);
  const statics = await caches.open(STATIC);
  for (const file of files.filter((name) => new URL(name).pathname.startsWith("/static/"))) {
    if (!(await statics.match(file))) await statics.add(file);
  }
}

async function forgetOthers() {
  for (const name of await caches.keys()) {
    if (name.startsWith(PAGES) && name !== `${PAGES}${visitor}`) await caches.delete(name);
  }
}

let waiting;
function keepSoon() {
  clearTimeout(waiting);
  waiting = setTimeout(() => keep().catch(() => {}), IDLE_MS); // a full disk is no fault to tell of
}

const isKept = document.querySelector("[data-kept]")?.hidden === false;
if ("serviceWorker" in navigator && "caches" in window && !isKept) {
  navigator.serviceWorker.register("/service-worker.js").catch(() => {});
  forgetOthers().catch(() => {});
  if (keeps !== undefined) {
    keepSoon();
    document.addEventListener("htmx:afterSettle", keepSoon);
  }
}
