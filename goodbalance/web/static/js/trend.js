// The trend of a run: level and inflow as lines, pumps as bars below. Draws what the server sent, decides nothing.
import uPlot from "../vendor/uPlot.esm.js";

function colour(name) {
  return getComputedStyle(document.documentElement).getPropertyValue(name).trim();
}

function clock(total) {
  const day = Math.floor(total / 86400), rest = total - day * 86400;
  const text = [Math.floor(rest / 3600), Math.floor((rest % 3600) / 60), Math.floor(rest % 60)].map((part) => String(part).padStart(2, "0")).join(":");
  return day ? `day ${day + 1} ${text}` : text;
}

export class Trend {
  constructor(place, { pumps, level, flow, marks }) {
    this.pumps = pumps;
    this.level = level;
    this.flow = flow;
    this.data = [[], [], [], ...Array.from({ length: pumps }, () => [])];
    const ink = colour("--ink"), soft = colour("--ink-2"), water = colour("--water"), tape = colour("--tape"), grid = { stroke: colour("--line"), width: 1 };
    const font = "12px Hyperlegible";
    const axis = (more) => ({ stroke: ink, font, grid, ticks: grid, ...more });
    const series = [
      { label: "Time", value: (_, total) => (total == null ? "" : clock(total)) },
      { label: `Level, ${level.symbol}`, stroke: ink, width: 2.2, scale: "level", value: (_, value) => (value == null ? "" : value.toFixed(level.decimals)) },
      { label: `Inflow, ${flow.symbol}`, stroke: water, width: 1.6, dash: [5, 4], scale: "flow", paths: uPlot.paths.stepped({ align: 1 }), value: (_, value) => (value == null ? "" : value.toFixed(flow.decimals)) },
    ];
    for (let pump = 1; pump <= pumps; pump += 1) series.push({ label: `Pump ${pump}`, stroke: tape, width: 0, scale: "pumps", paths: () => null, points: { show: false }, value: (_, value) => (value == null ? "" : value ? "runs" : "stopped") });
    this.plot = new uPlot({
      width: place.clientWidth, height: 250, legend: { live: true },
      scales: { x: { time: false }, level: { range: (_, low, high) => [Math.min(low ?? 0, marks.low), Math.max(high ?? 1, marks.high)] }, flow: { range: (_, low, high) => [0, Math.max(high ?? 0, marks.flow) * 1.15] }, pumps: { range: [0, 1] } },
      axes: [axis({ values: (_, ticks) => ticks.map(clock), space: 80 }), axis({ scale: "level", size: 48 }), axis({ scale: "flow", side: 1, size: 48, grid: { show: false }, stroke: water })],
      series, hooks: { drawAxes: [(plot) => this.drawMarks(plot, marks, soft)], drawSeries: [(plot, index) => index === 2 && this.drawPumps(plot, tape, ink, colour("--sheet"))] },
    }, this.data, place);
    new ResizeObserver(() => this.plot.setSize({ width: place.clientWidth, height: 250 })).observe(place);
  }

  drawMarks(plot, marks, stroke) {
    const { ctx, bbox } = plot;
    ctx.save();
    ctx.strokeStyle = stroke; ctx.lineWidth = 1; ctx.setLineDash([2, 4]);
    for (const mark of marks.lines) {
      const y = Math.round(plot.valToPos(mark, "level", true)) + 0.5;
      ctx.beginPath(); ctx.moveTo(bbox.left, y); ctx.lineTo(bbox.left + bbox.width, y); ctx.stroke();
    }
    ctx.restore();
  }

  drawPumps(plot, fill, ink, paper) {
    const { ctx, bbox } = plot, high = 9;
    ctx.save();
    for (let pump = 0; pump < this.pumps; pump += 1) {
      const y = bbox.top + bbox.height - (this.pumps - pump) * (high + 3);
      const states = this.data[3 + pump];
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
      ctx.fillStyle = ink; ctx.fillText(label, bbox.left + 4, y + high);
    }
    ctx.restore();
  }

  clear() {
    this.data = this.data.map(() => []);
    this.plot.setData(this.data);
  }

  add(rows, columns) {
    const at = (name) => columns.indexOf(name);
    const [level, inflow] = [at("level_m"), at("inflow_m3s")];
    for (const row of rows) {
      if (this.data[0].length && row[0] <= this.data[0][this.data[0].length - 1]) continue;
      this.data[0].push(row[0]);
      this.data[1].push(row[level] * this.level.per_si);
      this.data[2].push(row[inflow] * this.flow.per_si);
      for (let pump = 0; pump < this.pumps; pump += 1) this.data[3 + pump].push(row[at(`pump_${pump + 1}`)]);
    }
    if (this.data[0].length > 6000) this.data = this.data.map((column) => column.filter((_, index) => index % 2 === 0));
    this.plot.setData(this.data);
  }
}
