// Reckon: dragging flags, typing and nudging any setting. The server reckons; this shows the answer of the last question asked.
import { drawBeam } from "./beam.js";
import { showConflicts } from "./conflicts.js";
import { post, save, waiting } from "./save_queue.js";
import { inSi, inUnit } from "./svg.js";

const root = document.getElementById("reckon");
const plan = document.getElementById("plan");
const svg = document.getElementById("section");
const units = document.body.dataset.units;
const levelAs = document.getElementById("level-as");
levelAs?.addEventListener("change", () => draw());
let picture = JSON.parse(document.getElementById("picture").textContent);
let chosen = { ...picture.chosen };
let known = { ...chosen }; // what the server had when this page last heard of it
const decided = new Map([...document.querySelectorAll("#choices [data-fact]")].map((field) => [field.dataset.fact, field.value]));
// what this browser has not sent yet stands as typed, not as the server last knew it
for (const { topic, url, body } of await waiting()) {
  if (url !== root.dataset.save) continue;
  for (const [id, value] of Object.entries(topic === "levels" ? body.chosen : {})) {
    if (value === null) delete chosen[id];
    else chosen[id] = value;
  }
  for (const [path, text] of Object.entries(topic === "choices" ? body.changes : {})) {
    decided.set(path, text);
    const field = document.querySelector(`#choices [data-fact="${path}"]`);
    if (field) field.value = text;
  }
  known = { ...chosen };
}
let asked = 0; // number of the last question sent
let shown = 0; // number of the last answer shown
let inFlight = false, again = false;
let held = null;

function settingOf(id) {
  return picture.settings.find((setting) => setting.id === id);
}

const section = await import(svg.dataset.script); // what only this kind of station knows: how it is drawn

function draw() {
  const room = section.layout(svg, picture);
  const focused = document.activeElement?.dataset?.flag;
  svg.replaceChildren();
  section.drawStill(svg, picture, room);
  const way = levelAs?.value ?? "unit";
  section.drawFlags(svg, { ...picture, flags: picture.flags.map((flag) => ({ ...flag, text: flag.as?.[way] ?? flag.text })) }, room, hold);
  if (focused) svg.querySelector(`[data-flag="${focused}"]`)?.focus({ preventScroll: true });
  if (held) svg.querySelector(`[data-flag="${held.id}"]`)?.classList.add("held");
  for (const beam of plan.querySelectorAll("[data-beam]")) drawBeam(beam, settingOf(beam.dataset.beam));
}

// while a flag moves only the reasons that can be seen are asked for
function openWhys() {
  return [...plan.querySelectorAll("details.why[open]")].map((details) => details.dataset.why);
}

plan.addEventListener("toggle", (event) => {
  if (event.target.open && "later" in (event.target.dataset ?? {})) ask();
}, true);

// put the server's words in place without taking the field from under the person's fingers
function show(answer) {
  const focus = document.activeElement;
  const field = focus?.closest?.("#plan") ? { level: focus.dataset.level, nudge: focus.dataset.nudge, setting: focus.closest("[data-setting]")?.dataset.setting, why: focus.closest("summary") !== null, text: focus.value, from: focus.selectionStart } : null;
  const open = openWhys();
  const figures = [...plan.querySelectorAll(".figures details")].map((details) => details.open);
  plan.innerHTML = answer.html;
  for (const id of open) plan.querySelector(`details.why[data-why="${id}"]`)?.setAttribute("open", "");
  [...plan.querySelectorAll(".figures details")].forEach((details, index) => { details.open = figures[index] ?? false; });
  picture = answer.picture;
  if (field?.setting) {
    const box = plan.querySelector(`[data-setting="${field.setting}"]`);
    const target = field.level ? box.querySelector("[data-level]") : field.nudge ? box.querySelector(`[data-nudge="${field.nudge}"]`) : field.why ? box.querySelector("summary") : null;
    target?.focus({ preventScroll: true });
  }
  draw();
}

// how likely each setting stays inside: worked out by the server after the page is there
// what would open the empty windows, once the plan stands still
async function askOpeners() {
  const places = () => [...plan.querySelectorAll("[data-openers]:has([data-later])")];
  if (!places().length) return;
  const number = asked; // a flag that moves meanwhile makes another question of it
  for (const place of places()) place.querySelector("[data-later]").textContent = "Looking for what would open it.";
  try {
    const response = await fetch(root.dataset.openersOf, { headers: { Accept: "application/json" } });
    const answer = await response.json();
    if (number !== asked) return;
    for (const place of places()) {
      if (answer[place.dataset.openers]) place.innerHTML = answer[place.dataset.openers];
      else place.querySelector("[data-later]").textContent = answer.later ?? answer.error ?? "";
    }
  } catch { /* the network is away: the windows stand without it */ }
}

async function askChances() {
  try {
    const response = await fetch(root.dataset.chances);
    if (!response.ok) return;
    for (const [id, chance] of Object.entries(await response.json())) {
      const place = plan.querySelector(`[data-stays="${id}"]`);
      if (!place) continue;
      place.textContent = chance.short;
      place.classList.toggle("doubtful", chance.doubtful);
      plan.querySelector(`[data-stays-why="${id}"]`).textContent = chance.why;
    }
  } catch { /* the network is away: the windows stand without it */ }
}

async function ask() {
  if (inFlight) { again = true; return; }
  inFlight = true;
  const number = ++asked;
  const question = { chosen, open: openWhys() };
  try {
    const { ok, answer } = await post(root.dataset.preview, question);
    if (ok && number === asked && !again) { shown = number; show(answer); }
  } catch { /* the network is away: the level is kept and saved later */ }
  inFlight = false;
  if (again) { again = false; ask(); }
}

function move(id, wanted) {
  const setting = settingOf(id);
  const stands = setting.unit.symbol === picture.unit.symbol;
  const highest = setting.unit.symbol === "%" ? 1 : stands ? picture.highest : Infinity, lowest = setting.below_zero ? -1e5 : 0;
  const value = Number((Math.round(Math.max(lowest, Math.min(highest, wanted)) / setting.step) * setting.step).toPrecision(10));
  if (chosen[id] === value) return;
  chosen = { ...chosen, [id]: value };
  for (const shown of [setting, picture.flags.find((flag) => flag.id === id)]) {
    if (shown) Object.assign(shown, { value, chosen: true, as: null, text: `${inUnit(value, setting.unit).toFixed(setting.unit.decimals)} ${setting.unit.symbol}` });
  }
  draw();
  ask();
}

function keep(id) {
  asked += 1; // an answer to an older question must not be shown over the saved one
  const mine = id in chosen ? chosen[id] : null, was = known[id] ?? null;
  known[id] = mine;
  save("levels", root.dataset.save, { units, chosen: { [id]: mine }, was: { [id]: was } });
}

const hold = {
  start(flag, event) {
    held = { id: flag.id, pointer: event.pointerId, offset: section.layout(svg, picture).si(event.clientY - svg.getBoundingClientRect().top) - flag.value, moved: false };
    svg.setPointerCapture(event.pointerId);
    draw();
    svg.querySelector(`[data-flag="${flag.id}"]`).focus({ preventScroll: true });
  },
  key(flag, event) {
    const steps = { ArrowLeft: -1, ArrowRight: 1, PageDown: -10, PageUp: 10 }[event.key];
    if (steps) { event.preventDefault(); nudge(flag.id, steps); }
    const next = { ArrowUp: 1, ArrowDown: -1 }[event.key];
    if (next) {
      event.preventDefault();
      const order = picture.flags.map((other) => other.id);
      svg.querySelector(`[data-flag="${order[order.indexOf(flag.id) + next]}"]`)?.focus();
    }
    if (event.key === "w") openWhy(flag.id);
  },
};

svg.addEventListener("pointermove", (event) => {
  if (!held || event.pointerId !== held.pointer) return;
  held.moved = true;
  move(held.id, section.layout(svg, picture).si(event.clientY - svg.getBoundingClientRect().top) - held.offset);
});

for (const name of ["pointerup", "pointercancel"]) {
  svg.addEventListener(name, (event) => {
    if (!held || event.pointerId !== held.pointer) return;
    const { id, moved } = held;
    held = null;
    if (moved) keep(id);
    draw();
  });
}

let nudgeTimer = 0;
function nudge(id, steps) {
  move(id, (chosen[id] ?? settingOf(id).value) + steps * settingOf(id).step);
  clearTimeout(nudgeTimer);
  nudgeTimer = setTimeout(() => keep(id), 400);
}

function openWhy(id) {
  const details = plan.querySelector(`details.why[data-why="${id}"]`);
  details.open = !details.open;
  details.scrollIntoView({ block: "nearest" });
}

// typing, buttons and keys on the rows
plan.addEventListener("click", (event) => {
  const button = event.target.closest("button");
  if (!button) return;
  const id = button.closest("[data-setting]")?.dataset.setting;
  if (button.dataset.nudge) nudge(id, Number(button.dataset.nudge));
  if (button.dataset.recommend) { delete chosen[id]; chosen = { ...chosen }; keep(id); ask(); }
});

plan.addEventListener("submit", (event) => { event.preventDefault(); typed(event.target.querySelector("[data-level]")); });
plan.addEventListener("change", (event) => { if (event.target.dataset.level) typed(event.target); });

function typed(input) {
  const id = input.dataset.level, text = input.value.trim().replace(",", ".");
  const value = Number(text);
  if (text === "") { delete chosen[id]; keep(id); ask(); return; }
  const setting = settingOf(id);
  if (!/^[-+]?[\d.]+$/.test(text) || !Number.isFinite(value)) {
    readElsewhere(input, setting);
    return;
  }
  input.setCustomValidity("");
  take(id, setting, Number(inSi(value, setting.unit).toPrecision(12)));
}

// a number with a unit of its own, or none at all: the server reads it
async function readElsewhere(input, setting) {
  const away = { problem: `The server cannot read "${input.value}" now; accepted: a number in ${setting.unit.symbol}, or empty to leave it to the tool.` };
  const { ok, answer } = await post(document.getElementById("reckon").dataset.read, { setting: setting.id, text: input.value }).catch(() => ({ ok: false }));
  const found = ok ? answer : away;
  if (found.problem) {
    input.classList.add("is-wrong");
    input.setCustomValidity(found.problem);
    input.reportValidity();
    return;
  }
  input.setCustomValidity("");
  take(setting.id, setting, found.value);
}

function take(id, setting, value_si) {
  if (Math.abs(value_si - setting.value) < setting.step * 0.49 && !(id in chosen)) { chosen[id] = setting.value; keep(id); ask(); return; }
  move(id, value_si);
  keep(id);
}

document.addEventListener("keydown", (event) => {
  if (event.ctrlKey || event.metaKey || event.altKey) return;
  const input = event.target.dataset?.level ? event.target : null;
  const rows = [...plan.querySelectorAll("[data-level]")];
  if (["ArrowUp", "ArrowDown"].includes(event.key) && (input || event.target === document.body)) {
    event.preventDefault();
    const here = rows.indexOf(input);
    const next = here < 0 ? rows[0] : rows[here + (event.key === "ArrowUp" ? -1 : 1)];
    next?.focus();
    next?.select();
  }
  if (input && ["ArrowLeft", "ArrowRight"].includes(event.key)) { event.preventDefault(); nudge(input.dataset.level, event.key === "ArrowLeft" ? -1 : 1); }
  if (input && event.key === "w") { event.preventDefault(); openWhy(input.dataset.level); }
});

document.addEventListener("saved", (event) => {
  const { topic, ok, answer } = event.detail;
  if (!["levels", "choices"].includes(topic) || !ok || held || again || inFlight) return;
  if (answer.html) { chosen = { ...answer.picture.chosen }; known = { ...chosen }; show(answer); askOpeners(); askChances(); }
  showConflicts(document.querySelector("main"), answer.conflicts ?? [], ({ again }) => save(again.chosen ? "levels" : "choices", root.dataset.save, { units, ...again }), () => location.reload());
  for (const place of document.querySelectorAll("#choices [data-remarks]")) place.replaceChildren();
  for (const [path, text] of Object.entries(answer.problems ?? {})) remark(path, `${text} The default is used.`, "problem");
  for (const [path, text] of Object.entries(answer.read_as ?? {})) remark(path, text, "read");
});

function remark(path, text, kind) {
  const line = document.createElement("p");
  line.className = `remark is-${kind}`;
  line.textContent = text;
  document.querySelector(`#choices [data-fact-box="${path}"] [data-remarks]`)?.append(line);
}

document.getElementById("choices").addEventListener("change", (event) => {
  const path = event.target.dataset.fact;
  if (!path) return;
  const was = decided.get(path) ?? "";
  decided.set(path, event.target.value);
  save("choices", root.dataset.save, { units, changes: { [path]: event.target.value }, was: { [path]: was } });
});

// choices are asked only where the survey and the other choices make them necessary
const choices = document.getElementById("choices"), context = JSON.parse(choices.dataset.context);
function askOnlyWhatMatters() {
  const answer = (path) => choices.querySelector(`[data-fact="${path}"]`)?.value ?? context[path] ?? "";
  for (const box of choices.querySelectorAll("[data-only-if]")) box.hidden = !JSON.parse(box.dataset.onlyIf).every(([path, values]) => values.includes(answer(path)));
}
choices.addEventListener("change", askOnlyWhatMatters);

new ResizeObserver(() => draw()).observe(svg);
draw();
askOpeners();
askChances();
