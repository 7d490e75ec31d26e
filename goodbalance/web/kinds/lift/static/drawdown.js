// Timed drawdown: a stopwatch for each stretch; it writes whole tenths of seconds into its field.
import { reloadOrShow } from "../../js/conflicts.js";
import { save } from "../../js/save_queue.js";

let running = null;

function stop() {
  clearInterval(running.timer);
  running.field.value = ((performance.now() - running.begun) / 1000).toFixed(1);
  running.button.textContent = "Start watch";
  running.button.setAttribute("aria-pressed", "false");
  running = null;
}

for (const button of document.querySelectorAll("[data-watch]")) {
  button.addEventListener("click", () => {
    const mine = running?.button === button;
    if (running) stop();
    if (mine) return;
    const begun = performance.now(), field = document.getElementById(button.dataset.watch);
    button.setAttribute("aria-pressed", "true");
    const timer = setInterval(() => { button.textContent = `Stop ${((performance.now() - begun) / 1000).toFixed(0)} s`; }, 200);
    running = { button, field, begun, timer };
  });
}

const use = document.getElementById("use-rate");
use?.addEventListener("click", () => save("rate", use.dataset.url, { units: document.body.dataset.units, changes: { "schools.pump_rate": use.dataset.use }, was: { "schools.pump_rate": use.dataset.was } }));
reloadOrShow("rate", () => use.dataset.url);
