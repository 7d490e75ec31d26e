// Two runs on one trend: a kept run, or what was done in this one played on another plan, beside it. The server plays both.
import { newKey, post } from "./save_queue.js";

const root = document.getElementById("bench"), box = document.getElementById("beside");
const pick = box?.querySelector("select"), told = box?.querySelector("[data-told]"), table = box?.querySelector("table");
let asked = 0, other = null, here = null; // `here`: the last answer about this run

// What stands in the choice: a kept run as it was, its plan under the hands of this run, or the other program of the controllers.
async function questionOf(choice, mine) {
  const [what, of] = choice.split(":");
  if (what === "program") return { ...mine, program: of };
  const response = await fetch(box.dataset.run.replace("{run}", of), { headers: { Accept: "application/json" } });
  const kept = await response.json();
  if (!response.ok) throw new Error(kept.error);
  return what === "run" ? kept : { ...mine, program: kept.program, covers: kept.covers };
}

// The whole of a run, in as many parts as the server gives it.
async function played({ until_s, ...question }, number) {
  const name = newKey(), rows = [];
  for (let from_s = 0; ;) {
    const { ok, answer } = await post(root.dataset.run, { ...question, name, known: 0, from_s, to_s: until_s });
    if (number !== asked) return null;
    if (!ok) throw new Error(answer.error);
    rows.push(...answer.rows);
    if (answer.to_s >= until_s) return { rows, columns: answer.columns, totals: answer.totals, until_s };
    told.textContent = `Worked out as far as ${answer.now}.`;
    from_s = answer.to_s;
  }
}

// What came out otherwise, as soon as both runs have got equally far.
function showTotals() {
  table.hidden = true;
  if (!other || !here || Math.abs(here.to_s - other.until_s) > 1) return;
  const totals = other.totals, mine = new Map(here.totals.map(({ name, text }) => [name, text]));
  table.tBodies[0].replaceChildren(...totals.filter(({ name, text }) => mine.has(name) && mine.get(name) !== text).map(({ name, text }) => {
    const row = document.createElement("tr"), head = document.createElement("th");
    head.scope = "row"; head.textContent = name;
    row.append(head);
    for (const words of [mine.get(name), text]) Object.assign(row.insertCell(), { textContent: words, className: "num" });
    return row;
  }));
  table.hidden = !table.tBodies[0].children.length;
}

// `now`: this run so far: start, program, actions, how far it is; `trend` draws both.
export function compare(trend, now) {
  if (!box) return () => {};
  pick.addEventListener("change", async () => {
    const number = asked += 1;
    other = null;
    trend.beside(null);
    table.hidden = true;
    told.textContent = "";
    if (!pick.value) return;
    const mine = now();
    if (pick.value.split(":")[0] !== "run" && !(mine.until_s > 0)) { told.textContent = "Start this run first: what is done in it is played there too."; pick.value = ""; return; }
    told.textContent = "Working it out.";
    try {
      other = await played(await questionOf(pick.value, mine), number);
      if (!other) return;
      trend.beside(other, pick.selectedOptions[0].textContent.trim());
      told.textContent = "";
      showTotals();
    } catch (error) { told.textContent = error instanceof TypeError ? "The server cannot be reached." : error.message; }
  });
  return (answer) => { here = answer; showTotals(); };
}
