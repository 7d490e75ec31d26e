// The loop: traces of every candidate, the step test with its model, the search bit by bit, and taking gains over.
import { reloadOrShow } from "../../js/conflicts.js";
import { post, save } from "../../js/save_queue.js";
import uPlot from "../../vendor/uPlot.esm.js";

const root = document.getElementById("loop"), picture = JSON.parse(document.getElementById("picture").textContent);
const colour = (name) => getComputedStyle(document.documentElement).getPropertyValue(name).trim();
const LOOKS = [["--ink", 2.4, []], ["--tape", 1.7, []], ["--water", 1.7, [7, 4]], ["--ink-2", 1.5, [3, 3]], ["--line-2", 1.2, [1, 3]]];

function axis(more) {
  const grid = { stroke: colour("--line"), width: 1 };
  return { stroke: colour("--ink"), font: "12px Hyperlegible", grid, ticks: grid, ...more };
}

function plot(place, height, series, axes, scales, data) {
  const chart = new uPlot({ width: place.clientWidth, height, scales: { x: { time: false }, ...scales }, legend: { live: false }, cursor: { show: false }, series: [{}, ...series], axes }, data, place);
  new ResizeObserver(() => chart.setSize({ width: place.clientWidth, height })).observe(place);
}

for (const place of document.querySelectorAll("[data-trial]")) {
  const trial = picture.trials[Number(place.dataset.trial)];
  const series = trial.names.map((name, index) => ({ label: name.split(",")[0], stroke: colour(LOOKS[index][0]), width: LOOKS[index][1], dash: LOOKS[index][2] }));
  plot(place, 190, series, [axis({ values: (_, ticks) => ticks.map((t) => `${t} s`) }), axis({ size: 46 })], {}, [trial.times, ...trial.lines]);
}

if (picture.step) {
  const { times, pressure, speed, model } = picture.step;
  const series = [
    { label: `Pressure, ${picture.pressure.symbol}`, stroke: colour("--ink"), width: 1.4, scale: "p" },
    { label: "Model", stroke: colour("--tape"), width: 2.2, dash: [6, 3], scale: "p" },
    { label: "Speed, %", stroke: colour("--water"), width: 1.6, scale: "n" },
  ];
  plot(document.getElementById("step-plot"), 220, series, [axis({ values: (_, ticks) => ticks.map((t) => `${t} s`) }), axis({ scale: "p", size: 50 }), axis({ scale: "n", side: 1, size: 44, grid: { show: false }, stroke: colour("--water") })], {}, [times, pressure, model, speed]);
}

// gains go into the plan as numbers set by hand; the page comes again with them
root.addEventListener("click", (event) => {
  const button = event.target.closest("[data-gain]");
  if (!button) return;
  const chosen = { gain: Number(Number(button.dataset.gain).toFixed(2)), reset_time: Number(Number(button.dataset.reset).toFixed(1)) };
  save("gains", root.dataset.save, { units: document.body.dataset.units, chosen, was: JSON.parse(root.dataset.was) });
});
reloadOrShow("gains", () => root.dataset.save);

const box = document.getElementById("search"), go = box.querySelector("[data-go]"), stop = box.querySelector("[data-stop]"), told = box.querySelector("[data-told]");
let stopped = false;
stop.addEventListener("click", () => { stopped = true; });
go.addEventListener("click", async () => {
  stopped = false; go.hidden = true; stop.hidden = false;
  try {
    for (let upto = 3, done = false; !done && !stopped; upto += 3) {
      const { ok, answer } = await post(root.dataset.search, { upto });
      if (!ok) throw new Error(answer.error);
      ({ done } = answer);
      told.textContent = `${answer.looked} of ${answer.all}`;
      box.querySelector("[data-report]").innerHTML = answer.html;
    }
    if (stopped) told.textContent += ", stopped";
  } catch (error) { told.textContent = error instanceof TypeError ? "The server cannot be reached." : error.message; }
  go.hidden = false; stop.hidden = true;
});
