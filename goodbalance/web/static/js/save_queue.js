// Saves that survive a dead network: kept in this browser until the server has answered, each counted once.

const csrf = document.querySelector('meta[name="csrf"]').content;
const storageKey = "goodbalance-unsaved";
const bar = document.getElementById("unsaved");
let sending = false;
let wait = 1000;

function load() {
  try { return JSON.parse(localStorage.getItem(storageKey)) || []; } catch { return []; }
}

function keep(items) {
  if (items.length) localStorage.setItem(storageKey, JSON.stringify(items));
  else localStorage.removeItem(storageKey);
}

export function newKey() {
  const bytes = crypto.getRandomValues(new Uint8Array(16));
  return Array.from(bytes, (byte) => byte.toString(16).padStart(2, "0")).join("");
}

export async function post(url, body, signal) {
  const response = await fetch(url, {
    method: "POST", signal,
    headers: { "Content-Type": "application/json", Accept: "application/json", "X-CSRF-Token": csrf },
    body: JSON.stringify(body),
  });
  const answer = await response.json().catch(() => ({ error: "The server's answer could not be read." }));
  return { ok: response.ok, status: response.status, answer };
}

// A form as the browser would send it; the answer is a page, wherever the server redirects to.
async function postForm(url, fields) {
  const response = await fetch(url, {
    method: "POST", body: new URLSearchParams(fields),
    headers: { Accept: "text/html", "X-CSRF-Token": csrf },
  });
  const html = await response.text();
  return { ok: response.ok, status: response.status, answer: { url: response.url, html } };
}

// Queue a save. `topic` names who wants to hear the answer: a "saved" event on document with {topic, answer}.
export function save(topic, url, body) {
  enqueue({ topic, url, body: { save_key: newKey(), ...body } });
}

export function saveForm(url, fields) {
  enqueue({ topic: "form", url, fields });
}

function enqueue(item) {
  const items = load();
  items.push(item);
  keep(items);
  flush();
}

export function waiting() {
  return load();
}

function tell(text) {
  bar.hidden = !text;
  bar.querySelector("[data-text]").textContent = text;
}

export async function flush() {
  if (sending) return;
  sending = true;
  clearTimeout(flush.timer);
  try {
    for (let items = load(); items.length; items = load()) {
      const item = items[0];
      let result;
      try { result = await (item.fields ? postForm(item.url, item.fields) : post(item.url, item.body)); } catch { result = null; }
      if (!result || result.status >= 500) {
        const many = items.length === 1 ? "1 change waits" : `${items.length} changes wait`;
        const why = result && result.answer.error ? result.answer.error : "The server cannot be reached. What you typed is kept in this browser.";
        tell(`${many} to be saved. ${why}`);
        flush.timer = setTimeout(flush, wait);
        wait = Math.min(wait * 1.6, 15000);
        return;
      }
      wait = 1000;
      keep(load().slice(1));
      if (!result.ok && !item.fields) tell(result.answer.error || "The server refused a change.");
      else tell("");
      document.dispatchEvent(new CustomEvent("saved", { detail: { topic: item.topic, body: item.body, ...result } }));
    }
  } finally { sending = false; }
}

bar.querySelector("[data-retry]").addEventListener("click", () => { wait = 1000; flush(); });
window.addEventListener("online", () => flush());
flush();
