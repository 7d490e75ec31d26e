// What every page does: keys, look and units, the state of the six views, and news from others.
import "./save_queue.js";
import "./kept.js";

const tabs = [...document.querySelectorAll(".tabs a")];
const typing = (target) => target.matches("input, textarea, select, [contenteditable]");

document.addEventListener("keydown", (event) => {
  if (event.ctrlKey || event.metaKey || event.altKey || typing(event.target)) return;
  const tab = /^[1-6]$/.test(event.key) ? tabs[Number(event.key) - 1] : null;
  if (tab) { location.href = tab.href; return; }
  if (event.key === "?") { event.preventDefault(); document.getElementById("keys").showModal(); }
  if (event.key === "/") { event.preventDefault(); openFind(); }
});

// find: any labelled field or setting of the page
const find = document.getElementById("find");

function places() {
  const found = new Map();
  for (const label of document.querySelectorAll("main label[for]")) {
    const field = document.getElementById(label.htmlFor);
    if (field && field.offsetParent) found.set(label.textContent.trim(), field);
  }
  for (const box of document.querySelectorAll("[data-find]")) found.set(box.dataset.find, box);
  return found;
}

function openFind() {
  const list = find.querySelector("datalist");
  list.replaceChildren(...[...places().keys()].map((text) => new Option(text)));
  const input = find.querySelector("input");
  input.value = "";
  find.showModal();
  input.focus();
}

function goToFound(text) {
  const wanted = text.trim().toLowerCase();
  if (!wanted) return;
  for (const [label, place] of places()) {
    if (!label.toLowerCase().includes(wanted)) continue;
    find.close();
    place.scrollIntoView({ block: "center" });
    (place.matches("input, select, textarea, [tabindex]") ? place : place.querySelector("input, select, button"))?.focus();
    return;
  }
}

find.querySelector("input").addEventListener("change", (event) => goToFound(event.target.value));
find.querySelector("input").addEventListener("keydown", (event) => {
  if (event.key === "Enter") { event.preventDefault(); goToFound(event.target.value); }
});

for (const form of document.querySelectorAll("[data-habits]")) {
  form.addEventListener("change", () => form.submit());
}

// once a form is on its way its button rests, so that a double tap does not send it twice
document.addEventListener("submit", (event) => {
  if (event.target.method === "dialog" || event.defaultPrevented) return;
  for (const button of event.target.querySelectorAll("button:not([type=button])")) setTimeout(() => { button.disabled = true; }, 0);
});
window.addEventListener("pageshow", () => {
  for (const button of document.querySelectorAll("form button[disabled]:not([type=button])")) button.disabled = false;
});

export function showProgress(progress) {
  for (const tab of tabs) {
    const state = progress[tab.dataset.view];
    if (!state) continue;
    const how = tab.querySelector(".how");
    how.className = `how is-${state.shape}`;
    how.querySelector("use").setAttribute("href", `#s-${state.shape}`);
    how.querySelector("span").textContent = state.word;
  }
}

document.addEventListener("saved", (event) => {
  const { answer, ok } = event.detail;
  if (!ok) return;
  if (answer.progress) showProgress(answer.progress);
  if (answer.seq) document.body.dataset.seq = answer.seq;
});

// has somebody else written meanwhile?
const others = document.getElementById("others");

async function askForNews() {
  if (document.hidden || !document.body.dataset.station) return;
  try {
    const response = await fetch(`${document.body.dataset.base}/since?seq=${document.body.dataset.seq}`, { headers: { Accept: "application/json" } });
    if (!response.ok) return;
    const news = await response.json();
    if (news.others.length) {
      others.querySelector("[data-text]").textContent = `${news.others.join(" and ")} changed this station while you were here.`;
      others.querySelector("a").href = location.href;
      others.hidden = false;
    }
  } catch { /* no network: the unsaved bar says so as soon as it matters */ }
}

if (document.body.dataset.station) setInterval(askForNews, 12000);
