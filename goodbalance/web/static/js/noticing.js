// Faults against proofs, a few faults at a time: shows how far it is, can be stopped, and says what nobody would notice.
import { newKey, post, postForm } from "./save_queue.js";

const root = document.getElementById("noticing");
const part = (name) => root.querySelector(`[data-${name}]`);
const bodies = [...root.querySelectorAll("[data-fault]")];
const told = part("told"), go = part("go"), stop = part("stop"), gaps = part("gaps");
let stopped = false;

const toTry = () => bodies.filter((body) => !body.dataset.best);

function summed() {
  const done = bodies.length - toTry().length;
  const unseen = bodies.filter((body) => body.dataset.best === "nothing").length;
  const alarms = bodies.filter((body) => body.dataset.best === "alarm").length;
  return `${done} of ${bodies.length} tried: ${unseen} pass every proof and raise no alarm, ${alarms} only raise an alarm.`;
}

function onlyGaps() {
  for (const body of bodies) body.hidden = gaps.checked && (body.dataset.best || "fails") === "fails";
}

// What is known stays for this plan; what is left can be tried, now or later.
function offered() {
  const left = toTry().length;
  go.hidden = !left;
  go.textContent = left < bodies.length ? `Go on with the other ${left}` : `Break ${left} things, one after the other`;
}

// Some of those left, for one process of the server; it gives back as many as it had time for.
async function piece(left, share) {
  const asked = left.splice(0, Math.ceil(left.length / share));
  const { ok, answer } = await post(root.dataset.url, { ids: asked.map((body) => body.dataset.fault) });
  if (!ok) throw new Error(answer.error);
  answer.rows.forEach((row, place) => { asked[place].innerHTML = row.html; asked[place].dataset.best = row.best; });
  left.unshift(...asked.slice(answer.rows.length));
  told.textContent = summed();
  onlyGaps();
}

async function tryAll() {
  const left = toTry(), lanes = Number(root.dataset.lanes);
  stopped = false; go.hidden = true; stop.hidden = false;
  told.textContent = left.length < bodies.length ? summed() : "The proofs are made with nothing broken first.";
  const lane = async () => {
    try {
      while (left.length && !stopped) await piece(left, 2 * lanes);
    } catch (error) { stopped = true; throw error; } // the others end with it
  };
  let ended = await Promise.allSettled([piece(left, left.length)]); // the proofs in health, which all are compared with, and one fault
  if (ended[0].status === "fulfilled") ended = await Promise.allSettled(Array.from({ length: lanes }, lane));
  const failed = ended.find(({ status }) => status === "rejected")?.reason;
  told.textContent = !failed ? summed() : failed instanceof TypeError ? "The server cannot be reached." : failed.message;
  stop.hidden = true;
  offered();
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
