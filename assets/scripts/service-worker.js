// Without network, the last Desk, Table and Bench pages and field sheets open as they were, with their time.
// Nothing is computed here: kept-pages.js has kept them.
const PAGES = "pages-";
const STATIC = "static";
const POLICY = "/policy";

async function ofFile(request) {
  const statics = await caches.open(STATIC);
  const kept = await statics.match(request);
  if (kept) return kept;
  const response = await fetch(request);
  if (response.ok) await statics.put(request, response.clone());
  return response;
}

// A kept page is held to the policy that the site sends with its pages.
async function ofNetwork(request) {
  const response = await fetch(request);
  const policy = response.headers.get("Content-Security-Policy");
  if (policy) await (await caches.open(STATIC)).put(POLICY, new Response(policy));
  return response;
}

async function pageOf(html, status) {
  const policy = await (await caches.open(STATIC)).match(POLICY);
  const headers = { "Content-Type": "text/html; charset=utf-8" };
  if (policy) headers["Content-Security-Policy"] = await policy.text();
  return new Response(html, { status, headers });
}

async function pagesCache() {
  const name = (await caches.keys()).find((one) => one.startsWith(PAGES));
  return name && caches.open(name);
}

// The part of an address that names its screen: "/", "/table", "/bench".
const screenOf = (address) => new URL(address).pathname.split("/")[1];

async function keptPage(address) {
  const pages = await pagesCache();
  const page = await pages?.match(address, { ignoreVary: true });
  if (page) return withItsTime(page);
  const kept = pages ? (await pages.keys()).map(({ url }) => url).reverse() : [];
  const last = kept.find((url) => screenOf(url) === screenOf(address));
  return last ? Response.redirect(last) : nothingKept(kept);
}

async function withItsTime(page) {
  const at = new Date(page.headers.get("X-Kept-At")).toLocaleString("en-GB", {
    day: "numeric", month: "short", hour: "2-digit", minute: "2-digit",
  });
  const text = await page.text();
  const changes = text.includes("data-field-log") ? "What you tap waits on this phone." : "Changes need the network.";
  const words = `No network: this page is as it was on ${at}. ${changes}`;
  const html = text.replace(/(<p[^>]* data-kept)="" hidden="">/, `$1>${words}`);
  return pageOf(html, 200);
}

function nothingKept(kept) {
  const screens = { "": "The Desk", table: "The Table", bench: "The Bench", outings: "Field sheets and logs" };
  const found = Object.entries(screens).filter(([name]) => kept.some((url) => screenOf(url) === name));
  const links = found.map(([name, words]) => `<li><a href="/${name}${name && "/"}">${words}</a></li>`);
  const rest = links.length ? `<p>Kept as they were:</p><ul>${links.join("")}</ul>` : "";
  const page = `<!doctype html><html lang="en-GB"><meta charset="utf-8">
    <meta name="viewport" content="width=device-width"><title>No network – Ondata</title>
    <body><h1>No network</h1>
    <p>This page is not kept in this browser. It opens again with the network.</p>${rest}`;
  return pageOf(page, 503);
}

self.addEventListener("install", () => self.skipWaiting());
self.addEventListener("activate", (event) => event.waitUntil(self.clients.claim()));
self.addEventListener("fetch", (event) => {
  const { request } = event;
  const address = new URL(request.url);
  if (request.method !== "GET" || address.origin !== self.location.origin) return;
  if (address.pathname.startsWith("/static/")) event.respondWith(ofFile(request));
  else if (request.mode === "navigate") {
    event.respondWith(ofNetwork(request).catch(() => keptPage(request.url)));
  }
});
