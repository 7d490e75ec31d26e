// Between the pages and the network: opens the pages of a station that was opened before when there is no signal.
//
// Files of a release come from this browser, pages from the server as long as it answers. A page is kept only as the person
// who is signed in got it; pages of somebody else go when another person's page comes. Nothing is sent from here.
// The server writes RELEASE and FILES, all files of the release, before this.
/* global RELEASE, FILES */
const HELD = `goodbalance-files-${RELEASE}`, PAGES = "goodbalance-pages", MANIFEST = "/manifest.webmanifest";
const PATIENCE_MS = 12000; // so long the server may take before a kept page is shown instead
const PAUSE_MS = 60000; // between two times that the pages of a station are fetched
const OWNER = "/kept-by";
const under = new Map(); // stations whose pages are being fetched, each with what it will tell

self.addEventListener("install", (event) => event.waitUntil(hold()));
self.addEventListener("activate", (event) => event.waitUntil(self.clients.claim().then(renewAll)));

async function hold() {
  const held = await caches.open(HELD);
  await held.addAll([...FILES, MANIFEST, new Request("/offline", { credentials: "omit" })]);
  await self.skipWaiting();
}

self.addEventListener("fetch", (event) => {
  const { request } = event, url = new URL(request.url);
  if (url.origin !== self.location.origin) return;
  if (request.method === "GET" && (url.pathname.startsWith("/static/") || url.pathname === MANIFEST)) event.respondWith(file(request));
  else if (request.mode === "navigate") event.respondWith(request.method === "GET" ? page(event, url) : sent(event));
});

async function file(request) {
  return (await caches.match(request)) ?? fetch(request);
}

const LEAVES = "?one=all"; // all numbers of a sheet in one page: shown for each of them

// Under which name a page is kept; null for what is not.
function nameOf(url) {
  if (url.pathname !== "/" && !/^\/stations\/\d+\/[a-z]+$/.test(url.pathname)) return null;
  return url.search && url.search !== LEAVES ? null : url.pathname + url.search;
}

// What is shown for an address when the server does not answer.
function keptFor(url) {
  return url.pathname + (url.searchParams.has("one") ? LEAVES : "");
}

async function page(event, url) {
  const pages = await caches.open(PAGES);
  const kept = await pages.match(keptFor(url));
  const asked = fetch(event.request);
  // no room: the page asks for all of them, and tells
  if (nameOf(url)) event.waitUntil(asked.then((response) => response.clone()).then((copy) => keep(url, copy)).catch(() => {}));
  try {
    const response = await (kept ? Promise.race([asked, tooLate()]) : asked);
    if (response.status < 502 || !kept) return response;
    return standing(kept, "The server cannot serve at the moment.");
  } catch (error) {
    if (kept) return standing(kept, error.late ? "The server does not answer." : "No signal.");
    return (await caches.match("/offline")) ?? Response.error();
  }
}

// A form with a file, or one of a page without script: it cannot wait, and says so instead of the browser.
async function sent(event) {
  try { return await fetch(event.request); } catch { return (await caches.match("/offline")) ?? Response.error(); }
}

function tooLate() {
  return new Promise((_, fail) => { setTimeout(() => fail(Object.assign(new Error("late"), { late: true })), PATIENCE_MS); });
}

// The kept page, with when it was kept and why it is shown told in its first line for its script.
async function standing(kept, why) {
  const html = await kept.text(), at = kept.headers.get("x-kept-at");
  return new Response(html.replace("<body ", `<body data-kept-at="${at}" data-kept-why="${why}" `), { headers: kept.headers });
}

// True when the page is kept now. Throws where this browser has no room.
async function keep(url, response) {
  const name = nameOf(url), person = response.headers.get("x-person");
  if (!name || !person || !response.ok || response.redirected) return false;
  let pages = await caches.open(PAGES);
  const owner = await (await pages.match(OWNER))?.text();
  if (owner && owner !== person) { await caches.delete(PAGES); pages = await caches.open(PAGES); }
  if (owner !== person) await pages.put(OWNER, new Response(person));
  const headers = new Headers(response.headers);
  headers.set("x-kept-at", new Date().toISOString());
  await pages.put(name, new Response(await response.text(), { headers }));
  return true;
}

self.addEventListener("message", (event) => {
  const { keep: station, forget } = event.data;
  if (forget) event.waitUntil(caches.delete(PAGES));
  if (station) event.waitUntil(keepStation(station).then((told) => event.source?.postMessage({ kept: told })));
});

// All pages of a station, unless they stand as they are now; one after the other. What is told goes to the page that asked.
async function keepStation(station) {
  const told = (under.get(station.id) ?? Promise.resolve()).then(() => fetchStation(station));
  under.set(station.id, told);
  return told.finally(() => { if (under.get(station.id) === told) under.delete(station.id); });
}

async function fetchStation({ id, name, seq }) {
  try {
    const pages = await caches.open(PAGES), mark = `/kept/${id}`;
    const before = await (await pages.match(mark))?.json();
    const same = before?.release === RELEASE;
    if (same && (before.seq === seq || Date.now() - Date.parse(before.at) < PAUSE_MS)) return before;
    const asked = await fetch(`/stations/${id}/pages`, { headers: { Accept: "application/json" } });
    if (!asked.ok) return before ?? null;
    const list = await asked.json();
    for (const path of same && before.sheet === list.sheet.of ? list.pages : [...list.pages, ...list.sheet.pages]) {
      const response = await fetch(path, { headers: { Accept: "text/html" } });
      if (!(await keep(new URL(path, self.location.origin), response))) return before ?? null;
    }
    const now = { id, name, seq: list.seq, release: RELEASE, sheet: list.sheet.of, at: new Date().toISOString() };
    await (await caches.open(PAGES)).put(mark, new Response(JSON.stringify(now)));
    return now;
  } catch (error) {
    return error.name === "QuotaExceededError" ? { full: true } : null;
  }
}

// After an update the kept stations come again as this release shows them; files of an older one go when all of them have.
async function renewAll() {
  const pages = await caches.open(PAGES);
  for (const request of await pages.keys()) {
    if (!new URL(request.url).pathname.startsWith("/kept/")) continue;
    const told = await (await pages.match(request)).json();
    if (told.release !== RELEASE && (await keepStation({ ...told, seq: null }))?.release !== RELEASE) return;
  }
  for (const name of await caches.keys()) {
    if (name.startsWith("goodbalance-files-") && name !== HELD) await caches.delete(name);
  }
}
