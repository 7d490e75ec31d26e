// The picture of a booster set: pressure at the sensor over flow. Pump curves by speed, what outlets draw, the path of the
// set pressure, forbidden corners hatched; settings as flags. And the set as it runs on the bench.
import { hang } from "../../js/flags.js";
import { hatch, linearScale, node, spread } from "../../js/svg.js";

const LEFT = 46, FLAGS = 138, FOOT = 40, TOP = 16;

export function layout(svg, picture, flags = true) {
  const { width, height } = svg.getBoundingClientRect();
  const right = width - (flags ? FLAGS : 16), bottom = height - FOOT;
  const y = linearScale(picture.low_pa, picture.top_pa, bottom, TOP), x = linearScale(0, picture.flow_max_m3s, LEFT, right);
  return { width, height, left: LEFT, right, bottom, top: TOP, x, y, si: (px) => picture.low_pa + ((bottom - px) / (bottom - TOP)) * (picture.top_pa - picture.low_pa) };
}

function line(points, room) {
  return points.map(([q, p], index) => `${index ? "L" : "M"}${room.x(q).toFixed(1)} ${room.y(p).toFixed(1)}`).join("");
}

function label(svg, text, x, y, className, anchor = "start") {
  const element = node("text", { class: className, x, y, "text-anchor": anchor });
  element.textContent = text;
  svg.append(element);
}

export function drawStill(svg, picture, room) {
  const { x, y, left, right, bottom, top, width, height } = room;
  svg.setAttribute("viewBox", `0 0 ${width} ${height}`);
  const clip = node("clipPath", { id: "field" }, node("rect", { x: left, y: top, width: right - left, height: bottom - top }));
  const field = node("g", { "clip-path": "url(#field)" });
  svg.append(clip, node("rect", { class: "void", x: left, y: top, width: right - left, height: bottom - top }));
  drawForbidden(field, picture, room);
  for (const demand of picture.demands) field.append(node("path", { class: "demand", d: line(demand.points, room) }));
  field.append(node("path", { class: "wanted", d: line(picture.wanted, room) }));
  const [q, p] = picture.wanted[Math.floor(picture.wanted.length * 0.3)];
  label(field, "worst outlet wants", x(q), y(p) + 15, "dim");
  for (const curve of picture.curves) if (curve.points.length > 1) field.append(node("path", { class: curve.speed < 0.999 * Math.max(...picture.curves.map((c) => c.speed)) ? "curve slower" : "curve", d: line(curve.points, room) }));
  for (const [at, name] of [[picture.column_pa, "standing column"], [picture.rating_pa, "weakest part"]]) {
    if (at > picture.top_pa) continue;
    field.append(node("line", { class: "dash", x1: left, x2: right, y1: y(at), y2: y(at) }));
    label(field, name, left + 5, y(at) - 4, "soft halo");
  }
  field.append(node("path", { class: "path", d: line(picture.path, room) }));
  for (const stop of picture.stops) {
    const at = [x(stop.flow_m3s), y(stop.pa)];
    field.append(stop.pumps ? node("circle", { class: "stop", cx: at[0], cy: at[1], r: 3.4 }) : node("path", { class: "cannot", d: `M${at[0] - 5} ${at[1] - 5}l10 10m0 -10l-10 10` }));
  }
  svg.append(field);
  nameCurves(svg, picture, room);
  nameDemands(svg, picture, room);
  drawAxes(svg, picture, room);
}

// where no pump should stand: beyond what the set can give, beyond the end of its curves, short of suction, too little flow
function drawForbidden(field, picture, { x, y, left, right, bottom, top }) {
  const full = picture.curves.filter((curve) => curve.points.length).reduce((best, curve) => (curve.pumps >= best.pumps && curve.speed >= best.speed ? curve : best));
  const able = full.points.map(([q, p]) => `L${x(q)} ${y(p)}`).join("");
  const end = full.points[full.points.length - 1];
  const id = "beyond";
  field.append(node("clipPath", { id }, node("path", { d: `M${left} ${top}${able}L${x(end[0])} ${bottom}H${right}V${top}z` })));
  const beyond = node("g", { "clip-path": `url(#${id})` });
  beyond.append(hatch(left, top, right - left, bottom - top, 9, "blind"));
  field.append(beyond);
  if (picture.too_little_m3s > 0) field.append(hatch(left, top, Math.max(2, x(picture.too_little_m3s) - left), bottom - top, 6, "blind"));
  if (picture.npsh_m3s !== null) {
    field.append(node("line", { class: "limit", x1: x(picture.npsh_m3s), x2: x(picture.npsh_m3s), y1: top, y2: bottom }));
    label(field, "short of suction", x(picture.npsh_m3s) + 4, bottom - 8, "soft halo");
  }
}

function nameCurves(svg, picture, { x, y, top, bottom, right }) {
  const fastest = Math.max(...picture.curves.map((curve) => curve.speed)), most = Math.max(...picture.curves.map((curve) => curve.pumps));
  const named = picture.curves.filter((curve) => curve.points.length > 1 && (curve.speed >= 0.999 * fastest || curve.pumps === most));
  const ends = named.map((curve) => curve.points.filter(([q, p]) => x(q) < right - 30 && p >= picture.low_pa).slice(-1)[0] ?? curve.points[0]);
  const places = spread(ends.map(([, p]) => Math.min(bottom - 4, y(p) - 5)), 12, top + 8, bottom - 3);
  named.forEach((curve, index) => {
    const words = curve.speed >= 0.999 * fastest ? `${curve.pumps} pump${curve.pumps > 1 ? "s" : ""}` : `${Math.round(curve.speed * 100)} %`;
    label(svg, words, Math.min(x(ends[index][0]), right - 4), places[index], "soft halo", "end");
  });
}

// how far the outlets are open, where each dotted line leaves the field
function nameDemands(svg, picture, { x, y, top, right }) {
  for (const demand of picture.demands) {
    const [q, p] = demand.points.filter(([flow, pressure]) => y(pressure) > top + 12 && x(flow) < right - 4).slice(-1)[0];
    label(svg, `${Math.round(demand.share * 100)} %`, x(q) + 2, Math.max(top + 10, y(p) - 3), "dim", x(q) > right - 40 ? "end" : "start");
  }
}

function drawAxes(svg, picture, { x, y, left, right, bottom, top }) {
  svg.append(node("path", { class: "thin", d: `M${left} ${top}V${bottom}H${right}` }));
  for (const value of ticks(picture.low_pa * picture.unit.per_si, picture.top_pa * picture.unit.per_si, 8)) {
    const at = y(value / picture.unit.per_si);
    svg.append(node("line", { class: "thin", x1: left - 4, x2: left, y1: at, y2: at }));
    label(svg, String(value), left - 7, at + 4, "num tick", "end");
  }
  for (const value of ticks(0, picture.flow_max_m3s * picture.flow.per_si, 5)) {
    const at = x(value / picture.flow.per_si);
    svg.append(node("line", { class: "thin", x1: at, x2: at, y1: bottom, y2: bottom + 4 }));
    label(svg, String(value), at, bottom + 16, "num tick", "middle");
  }
  label(svg, picture.unit.symbol, left - 7, top - 4, "soft", "end");
  label(svg, `flow, ${picture.flow.symbol}`, (left + right) / 2, bottom + 31, "soft", "middle");
}

function ticks(low, high, most) {
  const rough = (high - low) / most, power = 10 ** Math.floor(Math.log10(rough));
  const step = power * ([1, 2, 5, 10].find((nice) => nice * power >= rough) ?? 10);
  const found = [];
  for (let value = Math.ceil(low / step) * step; value <= high + step * 1e-6; value += step) found.push(Number(value.toFixed(6)));
  return found;
}

export function drawFlags(svg, picture, room, hold) {
  hang(svg, picture.flags, { left: room.right - 26, right: room.right, poleX: room.right + 16, width: room.width, y: room.y, top: room.top + 16, bottom: room.bottom - 6 }, hold);
}

// The set on the bench: supply, pumps with their speeds, tank, gauge column, outlets. `value` gives a column of the trace.
export function drawRunning(svg, picture, bench, value) {
  const { width, height } = svg.getBoundingClientRect();
  svg.setAttribute("viewBox", `0 0 ${width} ${height}`);
  svg.replaceChildren();
  drawGauge(svg, picture, bench, value, width, height);
  const pumps = bench.pumps, x0 = 30, x1 = width * 0.36, low = height - 92, high = 146;
  const step = Math.min(74, (low - high) / pumps);
  svg.append(node("path", { class: "pipe-line", d: `M8 ${low + 30}H${x0}V${high}` }), node("path", { class: "pipe-line", d: `M${x1} ${low}V${64}H${x1 + 30}` }));
  svg.append(node("rect", { class: "nothing", "data-touch": "Supply", x: 4, y: low + 24, width: 60, height: 44 }));
  label(svg, "supply", 8, low + 48, "soft");
  label(svg, said(value("suction_pa"), bench.main), 8, low + 63, "num");
  for (let pump = 1; pump <= pumps; pump += 1) drawPump(svg, value, pump, { x0, x1, y: high + (pump - 0.5) * step, step });
  if (bench.tank) drawTank(svg, picture, value, { x: x1 - 26, y: 72 });
  drawTap(svg, value, bench, { x: x1 + 30, y: 64 });
}

function said(value, unit) {
  return `${(value * unit.per_si).toFixed(unit.decimals)} ${unit.symbol}`;
}

function drawPump(svg, value, pump, { x0, x1, y, step }) {
  const on = Boolean(value(`pump_${pump}`)), speed = value(`speed_${pump}`), middle = (x0 + x1) / 2;
  const roomy = step >= 48, size = Math.min(1, step / 42);
  const group = node("g", { class: on ? "pump on" : "pump", "data-touch": `Pump ${pump}` });
  group.append(node("path", { class: "pipe-line", d: `M${x0} ${y}H${x1}` }), node("circle", { class: "pipe body", cx: middle, cy: y, r: 15 * size }));
  group.append(node("path", { class: "vane", d: `M${middle - 7 * size} ${y + 8 * size}L${middle + 11 * size} ${y}L${middle - 7 * size} ${y - 8 * size}` }));
  group.append(node("path", { class: "thin check", d: `M${x1 - 16} ${y - 6}v12m-6 -10l6 4l-6 4` }));
  svg.append(group);
  label(svg, String(pump), x0 + 6, y - 5, "num");
  const [x, below, anchor] = roomy ? [middle, y + 29, "middle"] : [x1 + 7, y + 4, "start"];  // beside the header where pumps stand close
  label(svg, `${Math.round(speed * 100)} %`, x, below, speed > 0.001 ? "num" : "soft", anchor);
}

function drawTank(svg, picture, value, { x, y }) {
  const full = Math.max(0, Math.min(1, value("pressure_pa") / picture.top_pa));
  svg.append(node("rect", { class: "pipe", "data-touch": "Pipes", x: x - 15, y: y - 34, width: 30, height: 56, rx: 14 }), node("path", { class: "pipe-line", d: `M${x} ${y + 22}v8h26` }));
  svg.append(node("rect", { class: "water", x: x - 12, y: y + 19 - 44 * full, width: 24, height: 44 * full, rx: 9 }));
}

function drawTap(svg, value, bench, { x, y }) {
  const flow = value("flow_m3s");
  svg.append(node("path", { class: "pipe", d: `M${x} ${y - 6}h16v-8h-7v-5h20v5h-7v8h10q9 0 9 12v6h-12v-4h-29z` }));
  if (flow > 1e-6) svg.append(node("path", { class: "wave", d: `M${x + 33} ${y + 17}v12m5 -10v14m-10 -14v10` }));
  label(svg, said(flow, bench.flow), x + 34, y + 50, "num", "end");
}

function drawGauge(svg, picture, bench, value, width, height) {
  const x = width - 128, top = 24, bottom = height - 30, y = linearScale(picture.low_pa, picture.top_pa, bottom, top);
  const at = y(Math.max(picture.low_pa, Math.min(picture.top_pa, value("pressure_pa"))));
  svg.append(node("rect", { class: "void", x, y: top, width: 22, height: bottom - top }), node("rect", { class: "water", x, y: at, width: 22, height: bottom - at }), node("rect", { class: "thin", "data-touch": "Sensor", x, y: top, width: 22, height: bottom - top }));
  const places = spread(picture.flags.map((flag) => y(flag.value) + 4), 13, top + 8, bottom);
  picture.flags.forEach((flag, index) => {
    const mark = y(flag.value);
    svg.append(node("path", { class: "level-mark", fill: "none", d: `M${x - 3} ${mark}H${x + 24}L${x + 30} ${places[index] - 4}` }));
    label(svg, flag.label.replace(" pressure", ""), x + 32, places[index], "soft");
  });
  label(svg, said(value("pressure_pa"), bench.main), x + 11, top - 8, "num halo", "middle");
}
