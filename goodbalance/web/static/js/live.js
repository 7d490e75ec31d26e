// Live: asks once a second how a device stands and shows it. The server says what is expected; nothing old is shown as live.
import { newKey, post } from "./save_queue.js";
import { Trend } from "./trend.js";

const EVERY_MS = 1000, MOST_ROWS = 5000;
const read = (id) => JSON.parse(document.getElementById(id).textContent);
const root = document.getElementById("live"), standing = document.getElementById("standing"), watch = document.getElementById("watch");
const device = document.getElementById("device"), keep = document.getElementById("keep"), recorded = document.getElementById("recorded");
const names = read("channel-names"), bench = read("trend-data");
const shapes = new Map([...document.getElementById("shapes").content.children].map((each) => [each.dataset.shape, each]));
const rows = new Map([...document.querySelectorAll("[data-channel]")].map((row) => [row.dataset.channel, row]));
const trend = new Trend(document.getElementById("trend"), { pumps: bench.pumps, ...bench.trend });

let watching = false, began = 0, heard = 0, beat = null, still = 0, kept = [], differs = new Map();

function stand(shape, text) {
  for (const each of ["open", "ok", "stop"]) standing.querySelector(`[data-${each}]`).hidden = each !== shape;
  standing.dataset.shape = shape;
  standing.querySelector("[data-text]").textContent = text;
}

function blank() {
  for (const row of rows.values()) {
    row.querySelector("[data-value]").textContent = "\u2013";
    row.querySelector("[data-expected]").textContent = "";
    row.querySelector("[data-how]").replaceChildren();
    row.classList.remove("differs");
  }
  differs = new Map();
}

function lost(why) {
  blank();
  const since = heard ? ` for ${Math.max(1, Math.round((Date.now() - heard) / 1000))} s` : "";
  stand("stop", `LOST${since}: ${why}`);
}

function show(answer, now) {
  for (const told of answer.rows) {
    const row = rows.get(told.name);
    row.querySelector("[data-value]").textContent = told.text;
    row.querySelector("[data-expected]").textContent = told.expected ?? "";
    const how = row.querySelector("[data-how]");
    if (told.expected === undefined) { how.replaceChildren(); continue; }
    if (told.holds === false) { if (!differs.has(told.name)) differs.set(told.name, now); } else differs.delete(told.name);
    const late = told.holds === false && now - differs.get(told.name) >= told.within_s * 1000;
    const shape = told.holds === null ? "open" : told.holds ? "ok" : late ? "stop" : "caution";
    how.replaceChildren(shapes.get(shape).cloneNode(true));
    row.classList.toggle("differs", shape === "stop");
  }
}

async function ask() {
  if (!watching) return;
  const at = Date.now();
  try {
    const answered = await fetch(`${root.dataset.now}?device=${encodeURIComponent(device.value)}`, { headers: { accept: "application/json" } });
    const answer = await answered.json();
    if (!watching) return;
    if (!answered.ok) lost(answer.error || "the server refused");
    else {
      still = answer.beat === beat ? still + 1 : 0;
      beat = answer.beat;
      if (still >= Number(root.dataset.still)) lost("its values stand still, it is not awake");
      else {
        heard = Date.now();
        show(answer, heard);
        const wrong = [...rows.values()].filter((each) => each.classList.contains("differs")).map((each) => each.cells[0].textContent);
        stand(wrong.length ? "stop" : "ok", wrong.length ? `live; differs: ${wrong.join(", ")}` : "live, as expected");
        const row = [Math.round((at - began) / 100) / 10, ...answer.values];
        if (!kept.length || row[0] > kept[kept.length - 1][0]) {
          kept.push(row);
          if (kept.length > MOST_ROWS) kept.shift();
          trend.add([row], ["time_s", ...names]);
        }
        recorded.textContent = `${kept.length} rows recorded`;
        if (keep) keep.disabled = kept.length < 2;
      }
    }
  } catch { if (watching) lost("the server does not answer"); }
  setTimeout(ask, Math.max(100, EVERY_MS - (Date.now() - at)));
}

watch.addEventListener("click", () => {
  watching = !watching;
  watch.textContent = watching ? "Stop watching" : "Watch it";
  device.disabled = watching;
  if (!watching) { blank(); stand("open", "not watched"); return; }
  began = Date.now(); heard = 0; beat = null; still = 0; kept = [];
  trend.clear();
  stand("open", "asking");
  ask();
});

keep?.addEventListener("click", async () => {
  keep.disabled = true;
  const { ok, answer } = await post(root.dataset.keep, { save_key: newKey(), device: device.value, rows: kept }).catch(() => ({ ok: false, answer: {} }));
  if (ok) { watching = false; location.assign(answer.url); return; }
  recorded.textContent = answer.error || "Not kept: the server does not answer. What was recorded is still here.";
  keep.disabled = false;
});

window.addEventListener("beforeunload", (leaving) => { if (watching && kept.length > 1) leaving.preventDefault(); });
