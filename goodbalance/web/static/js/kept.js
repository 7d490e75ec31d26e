// Work without signal: has the station that is open kept in this browser, says how it stands, and says so where it cannot be.
const { station, keptAt, keptWhy } = document.body.dataset;
const how = document.getElementById("kept-how"), bar = document.getElementById("no-signal");
const PAUSE_MS = 60000; // between two times that all pages of a station are fetched
const said = (at) => new Date(at).toLocaleString([], { dateStyle: "medium", timeStyle: "short" });
let worker = null, due = 0;

function tell(text, short = false) {
  if (!how) return;
  how.textContent = text;
  how.classList.toggle("is-short", short);
}

function ask() {
  due = 0;
  worker?.postMessage({ keep: { id: station, name: document.querySelector(".place b").textContent, seq: Number(document.body.dataset.seq) } });
}

// what was saved changes the other views: they are fetched anew, not at every keystroke
function later() {
  if (station && !due && worker) due = setTimeout(ask, PAUSE_MS);
}

async function start() {
  if (!window.isSecureContext) { tell("Without signal nothing of this opens: a browser keeps pages only where the address is reached by TLS (https) or is this very machine. Whoever keeps the server can change that.", true); return; }
  if (!("serviceWorker" in navigator) || !window.caches) { tell("Without signal nothing of this opens: this browser cannot keep pages, or is told not to (a private window).", true); return; }
  try {
    const made = await navigator.serviceWorker.register("/worker.js");
    made.installing?.addEventListener("statechange", ({ target }) => {
      if (target.state === "redundant") noRoom();
    });
    worker = (await navigator.serviceWorker.ready).active;
    if (station && !keptAt) ask();
  } catch (error) {
    if (!keptAt) tell(`Without signal nothing of this opens: this browser refuses to keep pages (${error.message}).`, true);
  }
}

function noRoom() {
  tell("Without signal this station will not open: this browser has no room to keep it.", true);
}

navigator.serviceWorker?.addEventListener("message", ({ data }) => {
  if (!data.kept) return;
  if (data.kept.full) { noRoom(); return; }
  if (data.kept.seq < Number(document.body.dataset.seq)) later();
  tell(`Opens without signal, as it stood ${said(data.kept.at)}: the six views, the wiring, the motors and every number of the sheet.`);
});

if (keptAt) {
  bar.querySelector("[data-text]").textContent = `${keptWhy} This page as it stood ${said(keptAt)}. What you type is kept here and sent later; reckoning, the bench and files need the server.`;
  bar.hidden = false;
}
bar.querySelector("[data-again]").addEventListener("click", () => location.reload());

document.addEventListener("saved", ({ detail }) => { if (detail.ok) later(); });
document.addEventListener("visibilitychange", () => { if (document.hidden && due) { clearTimeout(due); ask(); } }); // the last chance of this page; the worker still waits its pause
// who signs out here leaves no pages behind; what is not yet sent stays
document.addEventListener("submit", ({ target }) => {
  if (new URL(target.action, location.href).pathname === "/sign-out") worker?.postMessage({ forget: true });
}, true);
start();
