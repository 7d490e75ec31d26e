// Forms that go through the save queue: when the server is away, what was typed waits in this browser and goes later.
import { newKey, postForm, saveForm, waiting } from "./save_queue.js";

function prepare(root) {
  for (const key of root.querySelectorAll("[data-save-key]")) key.value = newKey();
}

document.addEventListener("submit", (event) => {
  const form = event.target;
  // a file cannot wait in the queue: such a form goes the plain way, its key still makes it count once
  if (!form.querySelector("[data-save-key]") || form.enctype === "multipart/form-data") return;
  event.preventDefault();
  const fields = Object.fromEntries(new FormData(form, event.submitter));
  if (form.querySelector("[type=password]")) sendNow(form, fields);
  else saveForm(form.action, fields);
});

// what a password goes with is done now or not at all: it is never kept in the browser
async function sendNow(form, fields) {
  form.querySelector(".note.is-stop")?.remove();
  try {
    const result = await postForm(form.action, fields);
    if (result.status < 500) { answered(result); return; }
    notDone(form, "The server cannot do this at the moment. Nothing was done; send it again in a while.");
  } catch {
    notDone(form, "The server cannot be reached. Nothing was done; send it again when you have a network.");
  }
}

function notDone(form, text) {
  form.prepend(notice(text));
  for (const button of form.querySelectorAll("button[disabled]")) button.disabled = false;
}

// a touch on a unit opens a keyboard with letters: any unit may be typed behind the number
document.addEventListener("click", (event) => {
  const input = event.target.closest("[data-own-unit]")?.closest(".with-unit")?.querySelector("input");
  if (!input) return;
  input.inputMode = "text";
  input.focus();
});

// under an answer stands its reason
document.addEventListener("change", (event) => {
  const reasons = event.target.dataset.fact ? document.querySelector(`[data-reasons-of="${event.target.dataset.fact}"]`) : null;
  for (const reason of reasons?.children ?? []) reason.hidden = reason.dataset.reason !== event.target.value;
});

function notice(text) {
  const line = document.createElement("p");
  line.className = "note is-stop"; line.setAttribute("role", "alert"); line.textContent = text;
  return line;
}

document.addEventListener("saved", (event) => {
  if (event.detail.topic === "form" && !event.detail.waited) answered(event.detail);
});

// The form of this page that an item in the queue came from: the same address, and the same in what is not shown.
const UNLIKE = new Set(["csrf", "save_key", "base_seq"]);
function formOf(item) {
  const path = new URL(item.url, location.href).pathname;
  return [...document.forms].find((form) => new URL(form.action, location.href).pathname === path
    && [...form.querySelectorAll("input[type=hidden]")].every((field) => UNLIKE.has(field.name) || item.fields[field.name] === field.value));
}

// what could not be sent stands beside its form until it is; the form is free for another
function showWaiting(item) {
  const form = formOf(item);
  if (!form) return null;
  const typed = [...form.elements].filter((field) => field.name && field.type !== "hidden" && item.fields[field.name]);
  const line = document.createElement("p");
  line.className = "note is-caution waits";
  line.textContent = `To send: ${typed.map((field) => (field.matches("select") ? [...field.options].find((option) => option.value === item.fields[field.name])?.text : item.fields[field.name])).join(", ") || "this"}`;
  form.after(line);
  const summary = form.closest("details.proof")?.querySelector("summary");
  if (summary && !summary.querySelector(".waits")) summary.append(Object.assign(document.createElement("span"), { className: "waits", textContent: "to send" }));
  return form;
}

document.addEventListener("waits", ({ detail }) => {
  const form = detail.topic === "form" ? showWaiting(detail) : null;
  if (!form) return;
  form.reset();
  prepare(form);
  for (const button of form.querySelectorAll("button[disabled]")) button.disabled = false;
  if (form.dataset.onward) location.assign(form.dataset.onward);
});

function answered({ ok, status, answer }) {
  if (ok) {
    const there = new URL(answer.url);
    if (there.pathname + there.search === location.pathname + location.search) location.reload();
    else location.assign(answer.url);
    return;
  }
  // refused: the server's page says why beside the field, with the text as typed
  const page = new DOMParser().parseFromString(answer.html, "text/html");
  const told = page.querySelector("main");
  if (!told) { document.querySelector("main").prepend(notice(page.body.textContent)); return; }
  document.querySelector("main").replaceChildren(...told.childNodes);
  prepare(document);
  document.querySelector("[role=alert]")?.scrollIntoView({ block: "center" });
  if (status === 403) location.reload();
}

prepare(document);
for (const item of await waiting()) if (item.topic === "form") showWaiting(item);
