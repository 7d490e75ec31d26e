// Enter: read-backs are saved as they are typed and judged by the server; the controller's choices reload the sheet.
import { reloadOrShow } from "./conflicts.js";
import { save, waiting } from "./save_queue.js";

const root = document.getElementById("enter");

// without signal one kept page has every number of the sheet: the address says which of them is turned up
const leaves = [...document.querySelectorAll("[data-leaf]")];
if (leaves.length > 1) {
  const wanted = new URLSearchParams(location.search).get("one"), up = leaves.find((leaf) => leaf.dataset.leaf === wanted) ?? leaves[0];
  for (const leaf of leaves) leaf.hidden = leaf !== up;
  up.querySelector("[name=typed]")?.focus();
}

if (root) {
  const reads = [...root.querySelectorAll(".read")];
  reads.forEach((input, index) => {
    input.addEventListener("change", () => save("read_back", root.dataset.readBack, {
      code: input.dataset.code, device: input.dataset.device, before: "before" in input.dataset, typed: input.value,
    }));
    input.addEventListener("keydown", (event) => {
      if (event.key === "Enter" || event.key === "ArrowDown") { event.preventDefault(); reads[index + 1]?.focus(); }
      if (event.key === "ArrowUp") { event.preventDefault(); reads[index - 1]?.focus(); }
    });
  });
  const inputOf = ({ code, device }) => root.querySelector(`.read[data-code="${CSS.escape(code)}"][data-device="${CSS.escape(device)}"]`);
  const showState = (row, shape, word) => {
    const state = row.querySelector("[data-match] .state");
    state.className = `state is-${shape}`;
    state.querySelector("use").setAttribute("href", `#s-${shape}`);
    state.lastElementChild.textContent = word;
  };
  // what could not be sent yet stands as typed
  const showWaiting = ({ body }) => {
    const input = inputOf(body);
    if (!input || body.before !== ("before" in input.dataset)) return;
    input.value = body.typed;
    showState(input.closest("tr"), "open", "to send");
  };
  for (const item of await waiting()) {
    if (item.topic === "read_back" && item.url === root.dataset.readBack) showWaiting(item);
    else if (item.fields?.code && item.url.endsWith(`${root.dataset.readBack}-form`)) showWaiting({ body: { before: false, ...item.fields } }); // typed one at a time
  }
  document.addEventListener("waits", ({ detail }) => { if (detail.topic === "read_back") showWaiting(detail); });
  for (const select of root.querySelectorAll("aside select")) {
    const was = select.value;
    select.addEventListener("change", () => save("keypad", root.dataset.choices, { units: document.body.dataset.units, changes: { [select.dataset.fact]: select.value }, was: { [select.dataset.fact]: was } }));
  }
  reloadOrShow("keypad", () => root.dataset.choices);
  document.addEventListener("saved", (event) => {
    const { topic, ok, body, answer } = event.detail;
    if (topic !== "read_back" || !ok) return;
    const row = inputOf(body).closest("tr"), hint = row.querySelector("[data-hint]");
    const word = body.before ? (body.typed ? "noted" : "not noted") : answer.match;
    showState(row, { same: "ok", noted: "ok", differs: "stop" }[word] || "open", word);
    if (hint) hint.textContent = answer.hint;
    const matters = document.getElementById("matters");
    matters.innerHTML = answer.matters;
    matters.hidden = !answer.matters.trim();
  });
}
