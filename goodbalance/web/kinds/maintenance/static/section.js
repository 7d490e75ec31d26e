// The picture of a maintenance pump: one scale of pressure, with supply, churn, shut-off and ratings named at the left, starts and
// stop as flags at the right; below it supply, pumps and line. And the line as it runs on the bench.
import { hang } from "../../js/flags.js";
import { linearScale, node, spread } from "../../js/svg.js";

const FLAGS = 158, NAMES = 92, FOOT = 96, TOP = 16, BAR = 14;

export function layout(svg, picture, flags = FLAGS) {
  const { width, height } = svg.getBoundingClientRect();
  const right = width - flags, bottom = height - FOOT;
  const y = linearScale(picture.low_pa, picture.high_pa, bottom, TOP);
  return { width, height, left: 10, right, bottom, y, si: (px) => picture.low_pa + ((bottom - px) / (bottom - TOP)) * (picture.high_pa - picture.low_pa) };
}

function label(svg, text, x, y, className, anchor = "start") {
  const element = node("text", { class: className, x, y, "text-anchor": anchor });
  element.textContent = text;
  svg.append(element);
}

export function drawStill(svg, picture, room) {
  svg.setAttribute("viewBox", `0 0 ${room.width} ${room.height}`);
  drawScale(svg, picture, room, null);
  drawMarks(svg, picture, room);
  drawPipes(svg, picture, room, { on: false, mains: 0 });
}

// the scale: full up to where the line stands
function drawScale(svg, picture, room, pressure) {
  const x = room.right - 40, top = room.y(picture.high_pa), foot = room.y(picture.low_pa);
  svg.append(node("rect", { class: "void", x, y: top, width: BAR, height: foot - top }));
  if (pressure !== null) {
    const at = Math.max(top, Math.min(foot, room.y(pressure)));
    svg.append(node("rect", { class: "water", x, y: at, width: BAR, height: foot - at }));
  }
  svg.append(node("path", { class: "wall-line", "data-touch": "Sensor", d: `M${x} ${top}V${foot}H${x + BAR}V${top}` }));
}

function drawMarks(svg, picture, room) {
  const marks = [...picture.marks].sort((a, b) => b.pa - a.pa), at = spread(marks.map((mark) => room.y(mark.pa) - 4), 13, TOP + 4, room.bottom);
  marks.forEach((mark, index) => {
    const y = room.y(mark.pa);
    svg.append(node("line", { class: "dash", x1: room.left, x2: room.right - 40, y1: y, y2: y }));
    label(svg, `${mark.name} ${mark.text}`, room.left + 2, at[index], "soft halo");
  });
}

// supply, the small pump, main pumps beside it, and the line that leads to its sprinklers
function drawPipes(svg, picture, room, now) {
  const foot = room.height - 22, mid = room.height - 66, left = room.left + 8, right = room.right - 18;
  svg.append(node("path", { class: "pipe-line", d: `M${left} ${mid}H${right}` }), node("path", { class: "pipe-line", d: `M${left + 46} ${mid}V${foot - 12}H${left + 130}V${mid}` }));
  pump(svg, left + 88, mid, 15, now.mains > 0, picture.mains > 1 ? `main ×${picture.mains}` : "main", mid - 20);
  pump(svg, left + 88, foot - 12, 9, now.on, "maintenance", foot + 12);
  for (const share of [0.62, 0.8, 0.97]) {
    const x = left + 130 + (right - left - 130) * share;
    svg.append(node("path", { class: "thin", "data-touch": "Line", d: `M${x} ${mid}v12m-7 0h14m-14 0l3 6m11 -6l-3 6m-4 -6v6` }));
  }
}

function pump(svg, x, y, size, on, name, nameY) {
  const group = node("g", { class: on ? "pump on" : "pump", "data-touch": name === "maintenance" ? "Pump 1" : "" });
  group.append(node("circle", { class: "pipe body", cx: x, cy: y, r: size }), node("path", { class: "vane", d: `M${x - size / 2} ${y + size / 2}L${x + size * 0.75} ${y}L${x - size / 2} ${y - size / 2}` }));
  svg.append(group);
  label(svg, name, x, nameY, "soft halo", "middle");
}

export function drawFlags(svg, picture, room, hold) {
  hang(svg, picture.flags, { left: room.right - 40, right: room.right - 20, poleX: room.right - 4, width: room.width, y: room.y, top: TOP + 16, bottom: room.bottom - 6 }, hold);
}

function said(value, unit) {
  return `${(value * unit.per_si).toFixed(unit.decimals)} ${unit.symbol}`;
}

// The line on the bench. `value` gives a column of the trace.
export function drawRunning(svg, picture, bench, value) {
  const room = layout(svg, picture, NAMES), pressure = value("pressure_pa");
  svg.setAttribute("viewBox", `0 0 ${room.width} ${room.height}`);
  svg.replaceChildren();
  drawScale(svg, picture, room, pressure);
  drawPipes(svg, picture, room, { on: Boolean(value("pump_1")), mains: value("mains") });
  const at = Math.max(TOP, Math.min(room.bottom, room.y(pressure)));
  svg.append(node("line", { class: "grade", x1: room.left, x2: room.right - 40, y1: at, y2: at }));
  label(svg, said(pressure, bench.main), room.left + 2, at - 5, "num halo");
  const names = spread(picture.flags.map((flag) => room.y(flag.value) + 4), 13, TOP + 8, room.bottom);
  picture.flags.forEach((flag, index) => {
    const y = room.y(flag.value);
    svg.append(node("path", { class: "level-mark", fill: "none", d: `M${room.right - 24} ${y}h12l10 ${names[index] - 4 - y}` }));
    label(svg, `${flag.label.replace(" pressure", "").replace("'s start", "")} ${flag.text.split(" ")[0]}`, room.right + 1, names[index], "soft");
  });
}
