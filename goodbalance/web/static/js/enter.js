// Enter: read-backs are saved as they are typed and judged by the server; the controller's choices reload the sheet.
import { reloadOrShow } from "./conflicts.js";
import { save } from "./save_queue.js";

const root = document.getElementById("enter");

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
  for (const select of root.querySelectorAll("aside select")) {
    const was = select.value;
    select.addEventListener("change", () => save("keypad", root.dataset.choices, { units: document.body.dataset.units, changes: { [select.dataset.fact]: select.value }, was: { [select.dataset.fact]: was } }));
  }
  reloadOrShow("keypad", () => root.dataset.choices);
  document.addEventListener("saved", (event) => {
    const { topic, ok, body, answer } = event.detail;
    if (topic !== "read_back" || !ok) return;
    const input = root.querySelector(`.read[data-code="${CSS.escape(body.code)}"][data-device="${CSS.escape(body.device)}"]`);
    const row = input.closest("tr"), state = row.querySelector("[data-match] .state"), hint = row.querySelector("[data-hint]");
    const word = body.before ? (body.typed ? "noted" : "not noted") : answer.match;
    const shape = { same: "ok", noted: "ok", differs: "stop" }[word] || "open";
    state.className = `state is-${shape}`;
    state.querySelector("use").setAttribute("href", `#s-${shape}`);
    state.lastElementChild.textContent = word;
    if (hint) hint.textContent = answer.hint;
    const matters = document.getElementById("matters");
    matters.innerHTML = answer.matters;
    matters.hidden = !answer.matters.trim();
  });
}
