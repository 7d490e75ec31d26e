// Why is it like this: sends what was seen, waits while the bench plays every fault, shows what is behind it.
import { post } from "./save_queue.js";

const form = document.getElementById("why"), box = document.getElementById("causes");
const told = box.querySelector("[data-told]"), found = box.querySelector("[data-found]");
const switches = () => [...form.querySelectorAll("[data-switch]")].map((each) => Number(each.value));
const seen = () => Object.fromEntries([...form.querySelectorAll("[data-sign]")].filter((each) => each.value.trim()).map((each) => [each.dataset.sign, each.value.trim()]));
let asking = 0;

async function ask() {
  const mine = asking += 1;
  const question = { switches: switches(), seen: seen() };
  try {
    for (;;) {
      const { ok, answer } = await post(form.dataset.url, question);
      if (mine !== asking) return; // asked again meanwhile
      if (!ok) throw new Error(answer.error);
      if (answer.html !== undefined) { found.innerHTML = answer.html; told.textContent = ""; break; }
      told.textContent = `The bench has played ${answer.played} of ${answer.of} faults.`;
    }
    const next = found.querySelector("[data-tries]");
    if (!next) return;
    const { ok, answer } = await post(form.dataset.url, { ...question, tries: true });
    if (mine === asking && ok && answer.html !== undefined) next.innerHTML = answer.html;
  } catch (error) {
    told.textContent = error instanceof TypeError ? "The server cannot be reached." : error.message;
  }
}

async function way(button) {
  const { way: pump, starts, cause, story, at, since } = button.dataset;
  const place = found.querySelector("[data-ways-told]");
  place.textContent = "Trying out on the bench.";
  const asked = { switches: switches(), cause, story, at_s: Number(at), since_s: Number(since), pump: Number(pump), starts: Boolean(starts) };
  try {
    const { ok, answer } = await post(form.dataset.ways, asked);
    if (!ok) throw new Error(answer.error);
    place.innerHTML = answer.html;
  } catch (error) { place.textContent = error instanceof TypeError ? "The server cannot be reached." : error.message; }
}

const brought = sessionStorage.getItem("goodbalance-seen"); // from a run of the bench
if (brought) {
  sessionStorage.removeItem("goodbalance-seen");
  const run = JSON.parse(brought);
  form.querySelectorAll("[data-switch]").forEach((each, place) => { each.value = String(run.switches[place]); });
  for (const each of form.querySelectorAll("[data-sign]")) each.value = run.seen[each.dataset.sign] ?? "";
}
form.addEventListener("submit", (event) => { event.preventDefault(); ask(); });
found.addEventListener("click", (event) => {
  const button = event.target.closest("[data-way]");
  if (button) way(button);
});
