// The trend of a run: level and inflow as lines, pumps as bars below. Draws what the server sent, decides nothing.
import { inUnit } from "./svg.js";
import uPlot from "../vendor/uPlot.esm.js";

function colour(name) {
  return getComputedStyle(document.documentElement).getPropertyValue(name).trim();
}

function clock(total) {
  const day = Math.floor(total / 86400), rest = total - day * 86400;
  const text = [Math.floor(rest / 3600), Math.floor((rest % 3600) / 60), Math.floor(rest % 60)].map((part) => String(part).padStart(2, "0")).join(":");
  return day ? `day ${day + 1} ${text}` : text;
}

const HIGH_PX = 235;

export class Trend {
  // lines: what is drawn as curves, each with its column, unit and scale; pumps as bars below; marks: heights of the first scale
  constructor(place, { pumps, lines, low, high, other_high, marks }) {
    this.pumps = pumps;
    this.lines = lines;
    this.data = [[], ...lines.map(() => []), ...Array.from({ length: pumps }, () => [])];
    const ink = colour("--ink"), soft = colour("--ink-2"), water = colour("--water"), tape = colour("--tape"), grid = { stroke: colour("--line"), width: 1 };
    const font = "12px Hyperlegible", main = lines[0].unit;
    const axis = (more) => ({ stroke: ink, font, grid, ticks: grid, ...more });
    const series = [{ label: "Time", value: (_, total) => (total == null ? "" : clock(total)) }];
    for (const line of lines) {
      series.push({
        label: `${line.label}, ${line.unit.symbol}`, scale: line.scale, show: !line.hidden, width: line.thin ? 1 : line.scale === "main" && !line.soft ? 2.2 : 1.6,
        stroke: line.scale === "main" ? (line.soft ? tape : ink) : line.scale === "flow" ? water : soft,
        dash: line.stepped || line.dash ? [5, 4] : line.thin ? [2, 2] : undefined, paths: line.stepped ? uPlot.paths.stepped({ align: 1 }) : undefined,
        value: (_, value) => (value == null ? "" : value.toFixed(line.unit.decimals)),
      });
    }
    for (let pump = 1; pump <= pumps; pump += 1) series.push({ label: `Pump ${pump}`, stroke: tape, width: 0, scale: "pumps", paths: () => null, points: { show: false }, value: (_, value) => (value == null ? "" : value ? "runs" : "stopped") });
    // another run beside this one: its first line, dashed
    series.push({ label: "Beside it", stroke: tape, width: 1.8, dash: [7, 4], scale: "main", show: false, points: { show: false }, spanGaps: true, value: (_, value) => (value == null ? "" : value.toFixed(lines[0].unit.decimals)) });
    this.data.push([]);
    this.other = null;
    const at = lines.map((line) => line.scale), flow = lines[at.indexOf("flow")].unit;
    const scales = { x: { time: false }, main: { range: (_, least, most) => [Math.min(least ?? 0, inUnit(low, main)), Math.max(most ?? 1, inUnit(high, main))] }, flow: { range: (_, least, most) => [0, Math.max(most ?? 0, other_high * flow.per_si) * 1.15] }, pumps: { range: [0, 1] } };
    if (at.includes("speed")) scales.speed = { range: [0, 115] };
    if (at.includes("power")) scales.power = { range: (_, least, most) => [0, (most ?? 1) * 1.15 || 1] };
    this.plot = new uPlot({
      width: place.clientWidth, height: HIGH_PX, legend: { live: true }, scales,
      axes: [axis({ values: (_, ticks) => ticks.map(clock), space: 80 }), axis({ scale: "main", size: 48 }), axis({ scale: "flow", side: 1, size: 48, grid: { show: false }, stroke: water })],
      series, hooks: { drawAxes: [(plot) => this.drawMarks(plot, marks.map((mark) => inUnit(mark, main)), soft)], drawSeries: [(plot, index) => index === lines.length && this.drawPumps(plot, tape, ink, colour("--sheet"))] },
    }, this.data, place);
    for (const row of [...place.querySelectorAll(".u-legend .u-series")].slice(1 + lines.length)) row.hidden = true; // bars say it
    new ResizeObserver(() => this.plot.setSize({ width: place.clientWidth, height: HIGH_PX })).observe(place);
  }

  drawMarks(plot, marks, stroke) {
    const { ctx, bbox } = plot;
    ctx.save();
    ctx.strokeStyle = stroke; ctx.lineWidth = 1; ctx.setLineDash([2, 4]);
    for (const mark of marks) {
      const y = Math.round(plot.valToPos(mark, "main", true)) + 0.5;
      ctx.beginPath(); ctx.moveTo(bbox.left, y); ctx.lineTo(bbox.left + bbox.width, y); ctx.stroke();
    }
    ctx.restore();
  }

  drawPumps(plot, fill, ink, paper) {
    const { ctx, bbox } = plot, high = 9;
    ctx.save();
    for (let pump = 0; pump < this.pumps; pump += 1) {
      const y = bbox.top + bbox.height - (this.pumps - pump) * (high + 3);
      const states = this.data[1 + this.lines.length + pump];
      let from = null;
      ctx.fillStyle = fill;
      for (let index = 0; index < states.length; index += 1) {
        if (states[index] && from === null) from = this.data[0][index];
        if (from !== null && (!states[index] || index === states.length - 1)) {
          const left = plot.valToPos(from, "x", true), right = plot.valToPos(this.data[0][index], "x", true);
          ctx.fillRect(left, y, Math.max(1.5, right - left), high);
          from = null;
        }
      }
      ctx.font = "11px Hyperlegible";
      const label = `Pump ${pump + 1}`, wide = ctx.measureText(label).width;
      ctx.fillStyle = paper; ctx.fillRect(bbox.left + 1, y - 1, wide + 7, high + 3);
      ctx.fillStyle = ink; ctx.textBaseline = "middle"; ctx.fillText(label, bbox.left + 4, y + high / 2);
    }
    ctx.restore();
  }

  clear() {
    this.data = this.data.map(() => []);
    this.draw();
  }

  // Another run beside this one, with what it is; null takes it away.
  beside(run, label = "") {
    const place = run?.columns.indexOf(this.lines[0].column);
    this.other = run && { times: run.rows.map((row) => row[0]), values: run.rows.map((row) => inUnit(row[place], this.lines[0].unit)) };
    const last = this.data.length - 1;
    this.plot.series[last].label = label;
    const row = [...this.plot.root.querySelectorAll(".u-legend .u-series")][last];
    row.hidden = !run;
    row.querySelector(".u-label").textContent = label;
    this.plot.setSeries(last, { show: Boolean(run) });
    this.draw();
  }

  // Both runs over one row of times: where this one has not got to only the other stands.
  draw() {
    if (!this.other) { this.plot.setData(this.data); return; }
    const own = this.data[0], end = own.at(-1) ?? -1, { times, values } = this.other;
    const beyond = times.findIndex((time) => time > end), from = beyond < 0 ? times.length : beyond;
    let index = 0;
    const there = own.map((time) => {
      while (index < times.length - 2 && times[index + 1] < time) index += 1;
      if (time > times.at(-1)) return null;
      const span = times[index + 1] - times[index], share = span > 0 ? (time - times[index]) / span : 0;
      return values[index] + share * (values[index + 1] - values[index]);
    });
    const rest = times.slice(from);
    this.plot.setData([[...own, ...rest], ...this.data.slice(1, -1).map((column) => [...column, ...rest.map(() => null)]), [...there, ...values.slice(from)]]);
  }

  add(rows, columns) {
    const places = this.lines.map((line) => columns.indexOf(line.column)), pumps = Array.from({ length: this.pumps }, (_, pump) => columns.indexOf(`pump_${pump + 1}`));
    for (const row of rows) {
      if (this.data[0].length && row[0] <= this.data[0][this.data[0].length - 1]) continue;
      this.data[0].push(row[0]);
      this.lines.forEach((line, index) => this.data[1 + index].push(inUnit(row[places[index]], line.unit)));
      pumps.forEach((place, pump) => this.data[1 + this.lines.length + pump].push(row[place]));
    }
    if (this.data[0].length > 6000) this.data = this.data.map((column) => column.filter((_, index) => index % 2 === 0));
    this.draw();
  }
}
