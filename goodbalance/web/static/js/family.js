// A family of somebody's own, edited as tables. The server says what is wrong and what a plan makes of it; the page fills cells.
import { post } from "./save_queue.js";

const read = (id) => JSON.parse(document.getElementById(id).textContent);
const root = document.getElementById("family"), standing = document.getElementById("standing"), saved = document.getElementById("saved");
const columns = read("columns"), choices = read("choices"), station = document.getElementById("station"), tried = document.getElementById("tried");
const [good, bad] = document.getElementById("shapes").content.children;
const readOnly = root.dataset.reader === "yes", kept = `family ${location.pathname}${location.search}`;
const SPARE = 3, WIDE = new Set(["name", "options", "note", "meaning", "labels", "cores"]);
let base = Number(root.dataset.base), waiting = 0, asked = 0, dirty = false;

function cell(table, name, text, row) {
  const made = document.createElement(choices[name] ? "select" : "input");
  made.dataset.column = name;
  made.setAttribute("aria-label", `${name}, row ${row + 1} of ${table}`);
  if (choices[name]) {
    for (const word of new Set([...choices[name], text])) made.append(new Option(word, word, false, word === text));
  } else {
    made.value = text; made.autocomplete = "off"; made.maxLength = 2000;
    if (name === "meaning") made.setAttribute("list", table === "parameters" ? "list-meaning" : "list-wires");
  }
  made.disabled = readOnly;
  return made;
}

function addRow(body, table, row) {
  const line = document.createElement("tr"), number = body.rows.length;
  line.append(Object.assign(document.createElement("th"), { textContent: number + 1 }));
  for (const name of columns[table]) {
    const place = document.createElement("td");
    if (WIDE.has(name)) place.className = "wide";
    place.append(cell(table, name, row[name] ?? "", number));
    line.append(place);
  }
  body.append(line);
}

function fill(tables) {
  for (const [key, text] of Object.entries(tables.head)) root.querySelector(`[data-head="${key}"]`).value = text;
  for (const table of ["parameters", "terminals"]) {
    const whole = document.createElement("table"), head = document.createElement("tr");
    head.append(document.createElement("th"), ...columns[table].map((name) => Object.assign(document.createElement("th"), { textContent: name.replaceAll("_", " ") })));
    const top = document.createElement("thead"), body = document.createElement("tbody");
    top.append(head); whole.append(top, body);
    for (const row of tables[table]) addRow(body, table, row);
    for (let spare = 0; spare < SPARE && !readOnly; spare += 1) addRow(body, table, {});
    root.querySelector(`[data-table="${table}"]`).replaceChildren(whole);
  }
}

const bodyOf = (table) => root.querySelector(`[data-table="${table}"] tbody`);
const rowOf = (line) => Object.fromEntries([...line.querySelectorAll("[data-column]")].map((each) => [each.dataset.column, each.value]));

function tablesNow() {
  const head = Object.fromEntries([...root.querySelectorAll("[data-head]")].map((each) => [each.dataset.head, each.value]));
  const rows = (table) => {
    const all = [...bodyOf(table).rows].map(rowOf);
    while (all.length && Object.values(all[all.length - 1]).every((text) => !text.trim())) all.pop();
    return all;
  };
  return { head, parameters: rows("parameters"), terminals: rows("terminals") };
}

function showProblems(problems) {
  for (const each of root.querySelectorAll(".is-wrong")) { each.classList.remove("is-wrong"); each.removeAttribute("title"); each.removeAttribute("aria-invalid"); }
  for (const each of root.querySelectorAll("[data-wrong]")) each.hidden = true;
  const list = document.createElement("ul");
  for (const problem of problems) {
    const table = problem.part === "parameter" ? "parameters" : problem.part;
    const line = table === "head" ? null : bodyOf(table).rows[problem.row];
    const there = table === "head" ? root.querySelector(`[data-head="${problem.column}"]`) : line?.querySelector(problem.column ? `[data-column="${problem.column}"]` : "[data-column]");
    const where = table === "head" ? problem.column || "the device" : `${table}, row ${problem.row + 1}${problem.column ? `, ${problem.column}` : ""}`;
    const item = document.createElement("li"), link = document.createElement("button");
    link.type = "button"; link.className = "link"; link.textContent = where;
    link.addEventListener("click", () => there?.focus());
    item.append(link, `: ${problem.words}`);
    list.append(item);
    there?.classList.add("is-wrong"); there?.setAttribute("aria-invalid", "true");
    if (there) there.title = problem.words;
  }
  const mark = (problems.length ? bad : good).cloneNode(true);
  if (problems.length) mark.lastElementChild.textContent = `${problems.length} to mend`;
  standing.replaceChildren(mark, ...(problems.length ? [list] : []));
}

async function check() {
  const number = (asked += 1);
  const { ok, answer } = await post(root.dataset.check, { tables: tablesNow(), station: station.value ? Number(station.value) : null }).catch(() => ({ ok: false, answer: { error: "The server cannot be reached: what you type is kept in this browser." } }));
  if (number !== asked) return;
  if (!ok) { standing.textContent = answer.error || "The server refused."; return; }
  showProblems(answer.problems);
  tried.innerHTML = answer.tried ?? "";
}

function changed() {
  dirty = true;
  try { localStorage.setItem(kept, JSON.stringify({ base, tables: tablesNow() })); } catch { /* no room: the page itself still has it */ }
  saved.textContent = "not saved yet";
  clearTimeout(waiting);
  waiting = setTimeout(check, 500);
}

root.addEventListener("input", (event) => { if (event.target !== station) changed(); });
station.addEventListener("change", check);
for (const button of root.querySelectorAll("[data-more]")) button.addEventListener("click", () => { addRow(bodyOf(button.dataset.more), button.dataset.more, {}); });

root.addEventListener("paste", (event) => {
  const table = event.target.closest("[data-table]")?.dataset.table, text = event.clipboardData.getData("text/plain");
  if (!table || readOnly || !/[\t\n]/.test(text.replace(/\r?\n$/, ""))) return;
  event.preventDefault();
  const body = bodyOf(table), first = [...body.rows].indexOf(event.target.closest("tr")), at = columns[table].indexOf(event.target.dataset.column);
  text.replace(/\r?\n$/, "").split(/\r?\n/).forEach((line, down) => {
    while (body.rows.length <= first + down) addRow(body, table, {});
    line.split("\t").forEach((word, right) => {
      const there = body.rows[first + down].querySelectorAll("[data-column]")[at + right];
      if (!there) return;
      const clean = word.trim();
      if (there.tagName === "SELECT" && ![...there.options].some((option) => option.value === clean)) there.append(new Option(clean, clean));
      there.value = clean;
    });
  });
  changed();
});

document.getElementById("save")?.addEventListener("click", async () => {
  const tables = tablesNow();
  const { ok, answer } = await post(root.dataset.save, { tables, base }).catch(() => ({ ok: false, answer: { error: "The server cannot be reached; it stays in this browser." } }));
  if (!ok) { saved.textContent = answer.error || "The server refused."; return; }
  base = answer.revision; dirty = false;
  localStorage.removeItem(kept);
  saved.textContent = `saved as revision ${base}${answer.sound ? "" : ", with something to mend"}`;
  history.replaceState(null, "", `/families/${encodeURIComponent(tables.head.id)}`);
});

const before = readOnly ? null : JSON.parse(localStorage.getItem(kept) || "null");
fill(before && before.base === base ? before.tables : read("tables"));
if (before && before.base === base) { dirty = true; saved.textContent = "as you left it here, not saved yet"; check(); } else showProblems(read("problems"));
window.addEventListener("beforeunload", (leaving) => { if (dirty && !localStorage.getItem(kept)) leaving.preventDefault(); });
