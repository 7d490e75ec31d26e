// Faults against proofs, a few faults at a time: shows how far it is, can be stopped, and says what nobody would notice.
import { newKey, post, postForm } from "./save_queue.js";

const root = document.getElementById("noticing");
const part = (name) => root.querySelector(`[data-${name}]`);
const bodies = [...root.querySelectorAll("[data-fault]")];
const told = part("told"), go = part("go"), stop = part("stop"), gaps = part("gaps");
let stopped = false;

function summed(done) {
  const unseen = bodies.filter((body) => body.dataset.best === "nothing").length;
  const alarms = bodies.filter((body) => body.dataset.best === "alarm").length;
  return `${done} of ${bodies.length} tried: ${unseen} pass every proof and raise no alarm, ${alarms} only raise an alarm.`;
}

function onlyGaps() {
  for (const body of bodies) body.hidden = gaps.checked && (body.dataset.best || "fails") === "fails";
}

async function tryAll() {
  stopped = false; go.hidden = true; stop.hidden = false;
  let done = 0;
  try {
    while (done < bodies.length && !stopped) {
      told.textContent = done ? summed(done) : "The proofs are made with nothing broken first.";
      const rest = bodies.slice(done); // the answer holds as many of them as there was time for
      const { ok, answer } = await post(root.dataset.url, { ids: rest.map((body) => body.dataset.fault) });
      if (!ok) throw new Error(answer.error);
      answer.rows.forEach((row, place) => { rest[place].innerHTML = row.html; rest[place].dataset.best = row.best; });
      done += answer.rows.length;
      onlyGaps();
    }
    told.textContent = summed(done);
  } catch (error) {
    told.textContent = error instanceof TypeError ? "The server cannot be reached." : error.message;
  }
  go.hidden = false; stop.hidden = true;
}

go.addEventListener("click", tryAll);
stop.addEventListener("click", () => { stopped = true; });
gaps.addEventListener("change", onlyGaps);
root.addEventListener("click", async (event) => {
  const button = event.target.closest("[data-keep]");
  if (!button) return;
  button.disabled = true;
  try {
    const { ok } = await postForm(root.dataset.points, { text: button.dataset.keep, save_key: newKey() });
    button.textContent = ok ? "Kept as an open point" : "It was refused: note it under Hand over";
  } catch { button.disabled = false; told.textContent = "The server cannot be reached."; }
});
