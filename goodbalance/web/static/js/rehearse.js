// Rehearse: the page keeps the clock, the start state and the person's actions; the server runs station and controller.
import { drawReason } from "./reason_line.js";
import { compare } from "./beside.js";
import { newKey, post, save } from "./save_queue.js";
import { inUnit, plates } from "./svg.js";
import { layTouches } from "./touch.js";
import { Trend } from "./trend.js";

const read = (id) => JSON.parse(document.getElementById(id).textContent);
const root = document.getElementById("bench");
const svg = document.getElementById("section");
const picture = read("picture"), bench = read("bench-data"), kept = read("kept");
const told = document.getElementById("told");
const play = document.getElementById("play");
const { drawRunning } = await import(svg.dataset.script);

let actions = kept ? kept.actions : [];
let now_s = 0, shown_s = 0, speed = 10, running = false, asking = false, ended = false;
let lastTick = 0, last = null;
let seeking = false, happened = [], waiting = []; // looking for the next event; times at which something happened; what was done meanwhile

const trend = new Trend(document.getElementById("trend"), { pumps: bench.pumps, ...bench.trend });

const showBeside = compare(trend, () => ({ start: kept ? kept.start : bench.start, program: root.dataset.program, actions: actions.filter((one) => one.at_s <= shown_s), until_s: shown_s, ...(kept ? { covers: kept.covers } : {}) }));

function say(text) { told.textContent = text; }

const name = newKey();
let known = 0; // actions that were sent before; a server process that lacks some says so

async function look(from_s, to_s, more = {}) {
  const start = kept ? kept.start : bench.start;
  for (;;) {
    const all = actions, question = { start, program: root.dataset.program, name, known, actions: all.slice(known), from_s, to_s, ...more };
    if (kept) question.covers = kept.covers;
    const { ok, answer } = await post(root.dataset.run, question);
    if (!ok) { known = 0; throw new Error(answer.error || "The server refused."); }
    if (answer.known === undefined) { known = all.length; return answer; }
    known = answer.known;
  }
}

async function step() {
  if (asking) return;
  asking = true;
  const to_s = now_s, from_s = shown_s, before = actions.length;
  let further = false; // a long stretch comes in parts
  try {
    const answer = await look(from_s, to_s);
    if (answer.to_s > from_s || answer.to_s === to_s) {
      shown_s = answer.to_s;
      show(answer, from_s);
    }
    further = answer.to_s < to_s;
    if (before === actions.length) say(further ? `Worked out as far as ${answer.now}; going on.` : ended ? "The kept run ends here." : "");
  } catch (error) {
    pause();
    say(error instanceof TypeError ? "The server cannot be reached. The run waits; press Start to go on." : error.message);
  }
  asking = false;
  if (further) step();
}

function show(answer, from_s) {
  last = answer;
  document.getElementById("clock").textContent = answer.now;
  if (from_s === 0) { trend.clear(); happened = []; document.getElementById("events").replaceChildren(); }
  trend.add(answer.rows, answer.columns);
  showEvents(answer.events);
  const row = answer.rows[answer.rows.length - 1];
  const value = (name) => row[answer.columns.indexOf(name)];
  for (const item of document.querySelectorAll("[data-column]")) {
    const on = Boolean(value(item.dataset.column));
    item.classList.toggle("on", on);
    item.querySelector("[data-word]").textContent = on ? item.dataset.energised : item.dataset.rest;
  }
  drawReasons();
  document.getElementById("totals").replaceChildren(...answer.totals.map(({ name, text }) => {
    const item = document.createElement("li");
    const label = document.createElement("span"), number = document.createElement("span");
    label.textContent = name; number.textContent = text; number.className = "num";
    item.append(label, number);
    return item;
  }));
  showAlarms(answer.alarms);
  showBeside(answer);
  drawRunning(svg, picture, bench, value);
  plates(svg);
  if (from_s === 0) layTouches(svg, parts, workPart);
}

// what can be worked or broken, part by part, and one of them brought up from the drawing
const parts = [...document.querySelectorAll("#breaks [data-part]")].map((box) => ({ box, name: box.querySelector("b").textContent, targets: [...box.querySelectorAll("[data-break]")].map((button) => button.dataset.target).filter((target) => target && Number.isNaN(Number(target))) }));
function workPart({ box }) {
  document.getElementById("break-part").value = box.dataset.part;
  if (!controls.classList.contains("open")) opens.click(); // on a phone the controls are folded away
  showParts();
  box.querySelector("input, button").focus({ preventScroll: true });
  box.scrollIntoView({ block: "nearest" });
}

const inWords = document.getElementById("in-words");
const reasons = document.getElementById("reasons"), waysTold = document.getElementById("ways-told");
const opened = new Set(bench.pumps === 2 ? ["Pump 1", "Pump 2"] : []); // with more of them there is no room
function drawReasons() {
  const brief = bench.pumps > 1 && inWords.getAttribute("aria-pressed") !== "true";
  const at = reasons.contains(document.activeElement) ? document.activeElement.dataset : {};
  reasons.replaceChildren(...last.reasons.map((line, place) => {
    const box = drawReason(line, brief, opened.has(line.pump)), button = document.createElement("button");
    button.type = "button"; button.className = "button slim ways"; button.dataset.ways = String(place + 1);
    button.dataset.starts = line.runs ? "" : "yes"; button.textContent = line.runs ? "What would stop it?" : "What would start it?";
    box.querySelector("h3").append(button);
    return box;
  }));
  if (at.ways) reasons.querySelector(`[data-ways="${at.ways}"]`)?.focus();
  if (at.links) reasons.querySelector(`[data-links="${at.links}"]`)?.focus();
}
const whole = () => ({ start: kept ? kept.start : bench.start, program: root.dataset.program, actions, from_s: 0, to_s: shown_s, ...(kept ? { covers: kept.covers } : {}) });
reasons.addEventListener("click", (event) => {
  const pump = event.target.closest("[data-links]")?.dataset.links;
  if (!pump || !last) return;
  if (!opened.delete(pump)) opened.add(pump);
  drawReasons();
});
reasons.addEventListener("click", async (event) => {
  const button = event.target.closest("[data-ways]");
  if (!button) return;
  pause();
  waysTold.textContent = "Trying out on copies of this run.";
  try {
    const { ok, answer } = await post(root.dataset.runWays, { ...whole(), pump: Number(button.dataset.ways), starts: Boolean(button.dataset.starts) });
    if (!ok) throw new Error(answer.error);
    waysTold.innerHTML = answer.html;
  } catch (error) { waysTold.textContent = error instanceof TypeError ? "The server cannot be reached." : error.message; }
});
document.getElementById("ask-why").addEventListener("click", async () => {
  pause();
  try {
    const { ok, answer } = await post(root.dataset.signs, whole());
    if (!ok) throw new Error(answer.error);
    sessionStorage.setItem("goodbalance-seen", JSON.stringify(answer));
    location.href = root.dataset.why;
  } catch (error) { waysTold.textContent = error instanceof TypeError ? "The server cannot be reached." : error.message; }
});
inWords.addEventListener("click", () => {
  inWords.setAttribute("aria-pressed", String(inWords.getAttribute("aria-pressed") !== "true"));
  if (last) drawReasons();
});

const lampWords = { flashing: "new", steady: "known", waiting: "gone, waits for reset" };
function showAlarms({ shown, sounding }) {
  const list = document.getElementById("alarms");
  list.closest("section").classList.toggle("sounding", sounding);
  list.replaceChildren(...(shown.length ? shown : [null]).map((alarm) => {
    const item = document.createElement("li");
    item.className = alarm ? `is-${alarm.lamp}` : "quiet small";
    item.textContent = alarm ? `${alarm.text}: ${lampWords[alarm.lamp]}` : "none";
    return item;
  }));
}

function showEvents(events) {
  const list = document.getElementById("events");
  for (const event of events) {
    const item = document.createElement("li");
    item.className = event.look;
    const time = document.createElement("button"), text = document.createElement("span");
    time.type = "button"; time.tabIndex = -1; time.title = "Back to this"; time.dataset.at = String(event.at_s);
    time.className = "num"; time.textContent = event.at; text.textContent = event.text;
    happened.push(event.at_s);
    item.append(time, text);
    list.prepend(item);
  }
  while (list.children.length > 300) list.lastChild.remove();
}

// a week in seven questions, so that it can be watched and stopped
function runWeek(box) {
  const go = box.querySelector("[data-go]"), stop = box.querySelector("[data-stop]"), status = box.querySelector("[data-told]");
  let stopped = false;
  stop.addEventListener("click", () => { stopped = true; });
  go.addEventListener("click", async () => {
    stopped = false; go.hidden = true; stop.hidden = false;
    try {
      for (let days = 1; days <= 7 && !stopped; days += 1) {
        status.textContent = `Day ${days} of 7`;
        const { ok, answer } = await post(box.dataset.url, { days });
        if (!ok) throw new Error(answer.error);
        box.querySelector("[data-report]").innerHTML = answer.html;
      }
      status.textContent = stopped ? "Stopped." : "";
    } catch (error) { status.textContent = error instanceof TypeError ? "The server cannot be reached." : error.message; }
    go.hidden = false; stop.hidden = true;
  });
}

function tick(stamp) {
  if (!running) return;
  const passed_s = Math.max(0, Math.min(1, (stamp - lastTick) / 1000)); // a frame may carry a stamp from before the start
  lastTick = stamp;
  const end_s = kept ? kept.until_s : bench.longest_s;
  now_s = Math.min(end_s, now_s + passed_s * speed);
  if (now_s >= end_s) { ended = Boolean(kept); pause(); }
  if (stamp - step.at > 180 || !running) { step.at = stamp; step(); }
  requestAnimationFrame(tick);
}
step.at = 0;

function start() {
  if (ended) { ended = false; now_s = 0; shown_s = 0; }
  running = true;
  lastTick = performance.now();
  play.textContent = "Pause";
  play.setAttribute("aria-pressed", "true");
  requestAnimationFrame(tick);
}

function pause() {
  running = false;
  play.textContent = now_s > 0 ? "Go on" : "Start";
  play.setAttribute("aria-pressed", "false");
  if (!asking && shown_s < now_s) step();
}

play.addEventListener("click", () => (running ? pause() : start()));

// a phone shows the station first; what works on it opens above
const controls = document.getElementById("controls"), opens = document.getElementById("controls-open");
opens?.addEventListener("click", () => opens.setAttribute("aria-expanded", String(controls.classList.toggle("open"))));

async function halt() {
  running = false; seeking = false;
  while (asking) await new Promise(requestAnimationFrame);
  now_s = shown_s;
  pause();
}

// on to the next thing that happens, however long nothing does
async function toNext() {
  await halt();
  const end_s = kept ? kept.until_s : bench.longest_s, came_s = shown_s;
  let quiet = false;
  asking = seeking = true;
  try {
    while (seeking) {
      const answer = await look(shown_s, end_s, { next_event: true });
      if (answer.to_s < shown_s) continue; // a fresh process has not caught up yet
      show(answer, shown_s);
      now_s = shown_s = answer.to_s;
      quiet = !answer.met && now_s >= end_s;
      if (answer.met || quiet) seeking = false;
      say(answer.met ? "" : `Nothing up to ${answer.now}${seeking ? "; looking on." : "."}`);
    }
  } catch (error) { say(error instanceof TypeError ? "The server cannot be reached." : error.message); }
  asking = seeking = false;
  pause();
  if (quiet) { await back(came_s); say("From here nothing more happens by itself: do something."); }
  for (const [kind, target, value] of waiting.splice(0)) act(kind, target, value);
}

// back: the run begins again and goes the same way as far as that time
async function back(to_s) {
  await halt();
  ended = false; shown_s = 0; now_s = to_s;
  const later = actions.filter((one) => one.at_s > to_s).length;
  await step();
  while (asking) await new Promise(requestAnimationFrame);
  pause();
  if (!kept) setControls();
  if (later && !kept) say(`What you did later happens again as the run goes on; do something here, and it is left out.`);
}

document.getElementById("event-next").addEventListener("click", () => { if (seeking) seeking = false; else toNext(); });
document.getElementById("event-before").addEventListener("click", () => back(Math.max(0, ...happened.filter((at_s) => at_s < shown_s - 0.05))));
document.getElementById("events").addEventListener("click", (event) => { if (event.target.dataset.at) back(Number(event.target.dataset.at)); });

for (const button of document.querySelectorAll("[data-speed]")) {
  button.addEventListener("click", () => {
    speed = Number(button.dataset.speed);
    for (const other of document.querySelectorAll("[data-speed]")) other.setAttribute("aria-pressed", String(other === button));
  });
}

// an action happens at the present time of the run; times are kept to the tenth of a second
function act(kind, target, value) {
  if (seeking) { seeking = false; waiting.push([kind, target, value]); return; }
  now_s = Math.ceil(now_s * 10) / 10;
  const before = actions.filter((one) => one.at_s <= now_s);
  if (before.length < actions.length) known = 0; // from here the run goes another way
  actions = [...before, { at_s: now_s, kind, target, value }];
  step();
}

// every control as it stood at the present time of the run
function setControls() {
  const press = (button, on) => button.setAttribute("aria-pressed", String(on));
  const done = new Map();
  for (const { kind, target, value } of actions.filter((one) => one.at_s <= now_s)) {
    if (bench.knobs.some((knob) => knob.kind === kind)) done.set("pattern", 0); // a steady value ends the day's pattern
    done.set(kind + target, value);
  }
  for (const button of document.querySelectorAll("[data-toggle]")) press(button, done.get(button.dataset.toggle) === 1);
  for (const button of document.querySelectorAll("[data-switch]")) press(button, (done.get(`switch${button.dataset.switch}`) ?? 2) === Number(button.dataset.place));
  for (const button of document.querySelectorAll("[data-break]")) press(button, done.get(button.dataset.break + button.dataset.target) === Number(button.dataset.broken));
  for (const knob of bench.knobs) knobs.get(knob)(done.get(knob.kind + (knob.target ?? "")) ?? knob.value);
  showParts();
}

// of what can be broken: the part that is chosen, and every one that is broken now
function showParts() {
  const chosen = document.getElementById("break-part").value;
  for (const part of document.querySelectorAll("[data-part]")) part.hidden = part.dataset.part !== chosen && !part.querySelector('[data-break][aria-pressed="true"]');
}

// a knob: a slider over its range with its presets; letting go is an action
const knobs = new Map();
function useKnob(knob) {
  const box = document.querySelector(`[data-knob="${knob.kind}${knob.target ?? ""}"]`), slider = box.querySelector("input"), said = box.querySelector("output");
  const read = () => knob.low + (Number(slider.value) / 1000) * (knob.high - knob.low);
  const showAt = (value) => {
    slider.value = String(Math.round(((value - knob.low) / (knob.high - knob.low)) * 1000));
    slider.setAttribute("aria-valuetext", said.textContent = `${inUnit(value, knob.unit).toFixed(knob.unit.decimals)} ${knob.unit.symbol}`);
  };
  const set = (value) => {
    showAt(value);
    document.getElementById("pattern")?.setAttribute("aria-pressed", "false");
    act(knob.kind, knob.target ?? "", value);
  };
  knobs.set(knob, showAt);
  showAt(knob.value);
  slider.addEventListener("input", () => showAt(read()));
  slider.addEventListener("change", () => set(read()));
  for (const button of box.querySelectorAll("[data-preset]")) button.addEventListener("click", () => set(Number(button.dataset.preset)));
}

if (!kept) {
  bench.knobs.forEach(useKnob);
  for (const button of document.querySelectorAll("[data-toggle]")) {
    button.addEventListener("click", () => {
      const on = button.getAttribute("aria-pressed") !== "true";
      button.setAttribute("aria-pressed", String(on));
      act(button.dataset.toggle, "", on ? 1 : 0);
    });
  }
  for (const button of document.querySelectorAll("[data-switch]")) {
    button.addEventListener("click", () => {
      for (const other of document.querySelectorAll(`[data-switch="${button.dataset.switch}"]`)) other.setAttribute("aria-pressed", String(other.dataset.place === button.dataset.place));
      act("switch", button.dataset.switch, Number(button.dataset.place));
    });
  }
  for (const button of document.querySelectorAll("[data-break]")) {
    button.addEventListener("click", () => {
      const broken = button.getAttribute("aria-pressed") !== "true";
      button.setAttribute("aria-pressed", String(broken));
      showParts();
      act(button.dataset.break, button.dataset.target, Number(broken ? button.dataset.broken : button.dataset.mended));
    });
  }
  for (const button of document.querySelectorAll("[data-act]")) button.addEventListener("click", () => act(button.dataset.act, "", 1));
  document.getElementById("break-part").addEventListener("change", showParts);
  document.getElementById("again").addEventListener("click", () => location.reload());
  const dialog = document.getElementById("keep-dialog");
  document.getElementById("keep").addEventListener("click", () => {
    pause();
    if (now_s <= 0) { say("Start the run first."); return; }
    dialog.showModal();
  });
  dialog.addEventListener("close", () => {
    if (dialog.returnValue !== "keep") return;
    save("run", root.dataset.keep, { start: bench.start, program: root.dataset.program, name, actions, from_s: 0, to_s: now_s, note: document.getElementById("keep-note").value });
    say("Keeping the run");
  });
  document.addEventListener("saved", (event) => {
    if (event.detail.topic === "run") say(event.detail.ok ? `Kept as entry ${event.detail.answer.run} of the record.` : event.detail.answer.error);
  });
  const week = document.getElementById("week");
  if (week) runWeek(week);
} else {
  document.getElementById("replay").addEventListener("click", async (event) => {
    const { ok, answer } = await post(event.target.dataset.url, { key: newKey() });
    say(!ok ? answer.error : answer.same ? "Replayed: it goes exactly the same way." : "It went another way: the reckoning has changed since.");
  });
}

new ResizeObserver(() => { if (last) { const row = last.rows[last.rows.length - 1]; drawRunning(svg, picture, bench, (name) => row[last.columns.indexOf(name)]); plates(svg); layTouches(svg, parts, workPart); } }).observe(svg);
step();
