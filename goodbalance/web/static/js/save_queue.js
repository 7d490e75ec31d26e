// Saves that survive a dead network: each is kept in this browser until the server has acknowledged that very one.
//
// An item belongs to the person who typed it and is sent only while that person is signed in here. One tab sends at a
// time. What the server refuses steps aside, stays to be read, and does not block what comes after it.
import { all, drop, keep } from "./unsaved_store.js";
import { showUnsaved } from "./unsaved.js";

const person = document.body.dataset.person || "";
const tab = newKey();
const TRIES = 4; // so often an answer of 500 may come back before an item steps aside
let token = document.querySelector('meta[name="csrf"]').content;
let wait = 1000, number = 0, timer = 0, again = false, busy = false, stored = true, sent = { count: 0, forms: 0 };
const others = "BroadcastChannel" in window ? new BroadcastChannel("goodbalance-saved") : null;

export function newKey() {
  const bytes = crypto.getRandomValues(new Uint8Array(16));
  return Array.from(bytes, (byte) => byte.toString(16).padStart(2, "0")).join("");
}

export async function post(url, body, signal) {
  const response = await fetch(url, {
    method: "POST", signal,
    headers: { "Content-Type": "application/json", Accept: "application/json", "X-CSRF-Token": token },
    body: JSON.stringify(body),
  });
  const answer = await response.json().catch(() => ({ error: "The server's answer could not be read." }));
  return { ok: response.ok, status: response.status, answer };
}

// A form as the browser would send it; the answer is a page, wherever the server redirects to.
export async function postForm(url, fields) {
  const response = await fetch(url, {
    method: "POST", body: new URLSearchParams({ ...fields, csrf: token }),
    headers: { Accept: "text/html", "X-CSRF-Token": token },
  });
  return { ok: response.ok, status: response.status, answer: { url: response.url, html: await response.text() } };
}

// Queue a save; done when it is kept here. `topic` names who wants to hear the answer: a "saved" event on document with {topic, answer}.
export function save(topic, url, body) {
  return enqueue({ topic, url, body: { save_key: newKey(), ...body } });
}

export function saveForm(url, fields) {
  enqueue({ topic: "form", url, fields });
}

async function enqueue(made) {
  number += 1;
  const item = { ...made, id: newKey(), person, name: document.body.dataset.personName || "", tab, page: location.pathname, made_at: Date.now(), number };
  document.body.dataset.unsaved = Number(document.body.dataset.unsaved || 0) + 1;
  stored = await keep(item);
  if (navigator.storage?.persist) navigator.storage.persist().catch(() => false); // a browser short of room is asked to spare this
  flush();
}

// Items of this person that wait, for pages that show what was typed.
export async function waiting() {
  return (await all()).filter((item) => item.person === person && !item.aside);
}

// Who is signed in here now, and the token of that session; null where the server does not say.
async function whoIsHere() {
  try {
    const response = await fetch("/session", { headers: { Accept: "application/json" } });
    return response.ok ? await response.json() : null;
  } catch { return null; }
}

export async function flush() {
  clearTimeout(timer);
  if (busy) { again = true; return; }
  busy = true;
  try {
    do {
      again = false;
      // without the lock another tab is sending all there is; a save sent twice counts once in any case
      if (navigator.locks) await navigator.locks.request("goodbalance-sender", sendAll);
      else await sendAll();
    } while (again);
  } finally { busy = false; }
}

async function sendAll() {
  let trouble = "";
  for (const item of await all()) {
    if (item.aside || item.person !== person || !person) continue;
    const done = await sendOne(item);
    if (done === "") continue;
    trouble = done;
    await letWait();
    break; // the server is away, or nobody is signed in: the rest would fare no better
  }
  if (trouble) {
    timer = setTimeout(flush, wait);
    wait = Math.min(wait * 1.6, 15000);
  } else wait = 1000;
  await showState(trouble);
}

// All that is there now waits; the page it was typed in is told, and shows it so.
async function letWait() {
  for (const item of await all()) {
    if (item.waited || item.aside || item.person !== person) continue;
    await keep({ ...item, waited: true });
    if (item.tab === tab) document.dispatchEvent(new CustomEvent("waits", { detail: item }));
  }
}

// Sends one item. "" when it is done with, or has stepped aside; else why it and all after it must wait.
async function sendOne(item) {
  let result = await tryOnce(item);
  if (result && [401, 403].includes(result.status)) {
    const here = await whoIsHere();
    if (!here) return "The server cannot be reached.";
    if (String(here.person ?? "") !== item.person) return "sign in";
    if (here.csrf !== token) {
      token = here.csrf;
      result = await tryOnce(item);
    }
  }
  if (!result) return "The server cannot be reached. What you typed is kept in this browser.";
  if (result.status === 503 || result.status === 429 || result.status === 408) return said(result) || "The server is busy.";
  if (result.status >= 500) {
    item.tries = (item.tries || 0) + 1;
    if (item.tries < TRIES) { await keep(item); return said(result) || "Something broke at the server; it is tried again."; }
  }
  const mine = item.tab === tab;
  for (const conflict of result.ok ? conflictsIn(result.answer) : []) await keep(undecided(item, conflict));
  if (result.ok || (mine && item.fields && !item.waited && result.status < 500)) await drop(item.id); // a refused form is shown again with its text
  else await keep({ ...item, aside: { status: result.status, text: said(result) || refusal(result) } });
  if (item.waited && result.ok) sent = { count: sent.count + 1, forms: sent.forms + (item.fields ? 1 : 0) };
  const detail = { topic: item.topic, body: item.body, page: item.page, waited: Boolean(item.waited), ...result };
  tell(detail, mine);
  if (!mine) others?.postMessage({ to: item.tab, detail });
  return "";
}

// Two texts for one field, as the server tells them: those of the survey by their paths, those of a plan in a list.
function conflictsIn(answer) {
  const found = answer.conflicts ?? [];
  if (Array.isArray(found)) return found;
  return Object.entries(found).map(([path, there]) => ({ label: path, by: there.author, theirs: there.text, mine: there.mine, again: { changes: { [path]: there.mine }, was: { [path]: there.text } } }));
}

// What somebody else has changed meanwhile stays here, both texts, until a person decides: sent again it overrules theirs.
function undecided(item, { label, by, theirs, mine, again }) {
  const { changes, chosen, was, ...rest } = item.body;
  const text = `${by || "Somebody"} wrote "${theirs}" meanwhile, you typed "${mine}" for ${label}.`;
  return { ...item, id: newKey(), body: { ...rest, ...again, save_key: newKey() }, aside: { status: 409, text, label } };
}

// A page on which both texts stood has its answer: what was kept aside for it goes.
export async function settled(label) {
  for (const item of await all()) {
    if (item.aside?.label === label && item.person === person && item.page === location.pathname) await drop(item.id);
  }
  showState("");
}

// Why a form was refused: what its page says there.
function refusal({ status, answer }) {
  const page = answer.html ? new DOMParser().parseFromString(answer.html, "text/html") : null;
  const told = page?.querySelector("[role=alert], .note.is-stop")?.textContent.trim().replace(/\s+/g, " ");
  return told || `The server answered ${status}.`;
}

async function tryOnce(item) {
  try { return await (item.fields ? postForm(item.url, item.fields) : post(item.url, item.body)); } catch { return null; }
}

function said(result) {
  return result.answer.error || "";
}

// A form leads its own tab on to the next page, and no other.
function tell(detail, mine) {
  if (mine || (detail.topic !== "form" && detail.page === location.pathname)) document.dispatchEvent(new CustomEvent("saved", { detail }));
}

async function showState(trouble) {
  const items = await all();
  if (!trouble && sent.count) document.dispatchEvent(new CustomEvent("all-sent", { detail: sent }));
  if (!trouble) sent = { count: 0, forms: 0 };
  document.body.dataset.unsaved = items.filter((item) => item.person === person && !item.aside).length;
  showUnsaved({ items, person, trouble, stored, retry: (item) => sendAgain(item), forget: (item) => drop(item.id).then(() => showState("")) });
}

async function sendAgain(item) {
  wait = 1000;
  if (item) await keep({ ...item, aside: undefined, tries: 0, person });
  flush();
}

others?.addEventListener("message", ({ data }) => {
  if (data.to === tab) document.dispatchEvent(new CustomEvent("saved", { detail: data.detail }));
  showState("");
});
window.addEventListener("online", () => flush());
flush();
