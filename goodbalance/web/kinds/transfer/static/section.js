// The picture of a transfer set: sources, pumps and tanks at their heights, pressures as the height at which the line's water
// would stand. A set that fills by levels shows its first tank cut open. And the set as it runs on the bench.
import { hang } from "../../js/flags.js";
import { linearScale, node, spread, waves } from "../../js/svg.js";

const FLAGS = 138, NAMES = 92, FOOT = 28, TOP = 18, TANK = 66, MARKS = 76;

export function layout(svg, picture, flags = FLAGS) {
  const { width, height } = svg.getBoundingClientRect();
  const right = width - flags, bottom = height - FOOT;
  if (picture.by_levels) {
    const top_m = picture.big.overflow_m * 1.06, y = linearScale(0, top_m, bottom - 10, TOP + 14);
    return { width, height, left: MARKS, right, bottom, y, si: (px) => ((bottom - 10 - px) / (bottom - 24 - TOP)) * top_m };
  }
  const h = linearScale(picture.low_m, picture.high_m, bottom, TOP);
  const head = (pa) => picture.sensor_m + pa / picture.weight;
  const si = (px) => (picture.low_m + ((bottom - px) / (bottom - TOP)) * (picture.high_m - picture.low_m) - picture.sensor_m) * picture.weight;
  return { width, height, left: 12, right, bottom, h, y: (pa) => h(head(pa)), si };
}

function label(svg, text, x, y, className, anchor = "start") {
  const element = node("text", { class: className, x, y, "text-anchor": anchor });
  element.textContent = text;
  svg.append(element);
}

// where things stand across the page: sources, pumps, the riser, one place for each tank
function places(picture, { left, right }) {
  const source = left + 4, pump = source + 66, riser = pump + 26, each = (right - riser - 30) / picture.tanks.length;
  return { source, pump, riser, tank: (index) => riser + 12 + each * index, box: Math.min(104, each - 8) };
}

// the foot of each source, the first one lowest but for its own depth
function footOf(picture, index, bottom) {
  return bottom - 6 - (picture.sources.length - 1 - index) * 74;
}

export function drawStill(svg, picture, room) {
  svg.setAttribute("viewBox", `0 0 ${room.width} ${room.height}`);
  if (picture.by_levels) {
    drawBig(svg, picture, room, picture.big.full_m);
    return;
  }
  const still = { level: (index) => picture.tanks[index].full_m, source: (index) => (picture.sources[index].low_m + picture.sources[index].high_m) / 2, open: () => 0, on: () => false };
  drawLine(svg, picture, room, still);
  drawMarks(svg, picture, room);
}

// what of the line is no choice: dashed, named at the left
function drawMarks(svg, picture, room) {
  const at = spread(picture.marks.map((mark) => room.y(mark.pa) - 4), 12, TOP + 8, room.bottom - 60);
  picture.marks.forEach((mark, index) => {
    const y = room.y(mark.pa);
    svg.append(node("line", { class: "dash", x1: room.left, x2: room.right - 26, y1: y, y2: y }));
    label(svg, `${mark.name} ${mark.text}`, room.left + 2, at[index], "soft halo");
  });
}

function drawLine(svg, picture, room, now) {
  const { h, bottom } = room, at = places(picture, room);
  picture.sources.forEach((source, index) => drawSource(svg, source, index, picture, room, now.source(index)));
  const inlets = picture.tanks.map((tank) => h(tank.inlet_m)), feet = picture.sources.map((source, index) => footOf(picture, index, bottom));
  svg.append(node("path", { class: "pipe-line", d: `M${at.riser} ${Math.max(...feet) - 16}V${Math.min(...inlets)}` }));
  picture.tanks.forEach((tank, index) => drawTank(svg, tank, index, picture, room, now));
  picture.pump_sources.forEach((source, index) => {
    const before = picture.pump_sources.slice(0, index).filter((other) => other === source).length, size = 11;
    const y = feet[source - 1] - 16 - before * 26, on = now.on(index + 1);
    const group = node("g", { class: on ? "pump on" : "pump", "data-pump": index + 1, "data-touch": `Pump ${index + 1}` });
    group.append(node("path", { class: "pipe-line", d: `M${at.source + 44} ${y}H${at.riser}` }), node("circle", { class: "pipe body", cx: at.pump, cy: y, r: size }));
    group.append(node("path", { class: "vane", d: `M${at.pump - size / 2} ${y + size / 2}L${at.pump + size * 0.75} ${y}L${at.pump - size / 2} ${y - size / 2}` }));
    svg.append(group);
    label(svg, String(index + 1), at.pump - size - 3, y - 4, "num", "end");
  });
}

// a source at its height; one that lies under the picture is drawn at its foot, with a break in its pipe
function drawSource(svg, source, index, picture, room, level_m) {
  const { bottom } = room, at = places(picture, room), wide = 42, tall = 46, x = at.source;
  const foot = footOf(picture, index, bottom), share = Math.max(0, Math.min(1, (level_m - source.safe_m) / Math.max(0.01, source.high_m - source.safe_m)));
  const top = foot - tall, surface = foot - 6 - (tall - 12) * share;
  svg.append(node("rect", { class: "void", x, y: top, width: wide, height: tall }), node("rect", { class: "water", x: x + 2, y: surface, width: wide - 4, height: foot - surface - 2 }));
  svg.append(node("path", { class: "wall-line", "data-touch": "Source", d: `M${x} ${top}V${foot}H${x + wide}V${top}` }));
  if (source.deep) svg.append(node("path", { class: "thin", d: `M${x + wide / 2 - 6} ${top - 4}l6 -4l6 4m-12 -5l6 -4l6 4` }));
  label(svg, source.name, x + wide / 2, top - (source.deep ? 14 : 5), "soft halo", "middle");
}

// a tank hangs with its inlet at its true height; the box is larger than to scale, so that its level can be seen
function drawTank(svg, tank, index, picture, room, now) {
  const at = places(picture, room), x = at.tank(index) + 10, wide = at.box - 10, top = room.h(tank.inlet_m), foot = top + TANK;
  const level = now.level(index), y = (level_m) => foot - 3 - ((TANK - 10) * level_m) / tank.overflow_m, surface = y(Math.max(0, Math.min(tank.overflow_m, level)));
  svg.append(node("path", { class: "pipe-line", d: `M${at.riser} ${top}H${x + 8}v7` }));
  svg.append(node("rect", { class: "void", x, y: top + 4, width: wide, height: TANK - 4 }), node("rect", { class: "water", x: x + 2, y: surface, width: wide - 4, height: foot - surface }));
  svg.append(waves(x + 4, surface + 1, wide - 8, foot - surface, 9, "wave"), node("path", { class: "wall-line", "data-touch": `Tank ${index + 1}`, d: `M${x} ${top + 4}V${foot}H${x + wide}V${top + 4}` }));
  svg.append(node("path", { class: "thin", d: `M${x + wide} ${y(tank.overflow_m)}h9v12` }));
  if (tank.valve) {
    const hangs = Math.min(surface, y(tank.closes_m) + 16);
    svg.append(node("path", { class: "thin", d: `M${x + 8} ${top + 10}L${x + 24} ${hangs}` }), node("circle", { class: `float${now.open(index) > 0.001 ? "" : " on"}`, cx: x + 26, cy: hangs, r: 4.5 }));
  }
  label(svg, tank.name, x + wide / 2, foot + 13, "soft", "middle");
  label(svg, now.text ? now.text(index) : tank.column, x + wide / 2, foot + 26, now.text ? "num halo" : "num dim", "middle");
}

// the first tank of a set that fills by levels, cut open to scale
function drawBig(svg, picture, { left, right, bottom, y }, level_m) {
  const inside = right - left - 20, surface = y(Math.max(0, level_m)), floor = y(0), top = y(picture.big.overflow_m * 1.06);
  svg.append(node("rect", { class: "void", x: left, y: top, width: inside, height: floor - top }), node("rect", { class: "water", x: left, y: surface, width: inside, height: floor - surface }));
  svg.append(waves(left, surface + 1, inside, floor - surface, 11, "wave"), node("path", { class: "wall-line", d: `M${left} ${top}V${floor}H${left + inside}V${top}` }));
  svg.append(node("path", { class: "pipe-line", d: `M${left - 30} ${top + 4}H${left + 22}v16` }), node("path", { class: "pipe-line", d: `M${left - 30} ${y(picture.big.outlet_m)}H${left}` }));
  const fixed = [["overflow", picture.big.overflow_m, picture.told.overflow], ["valve shut", picture.big.closes_m, picture.told.closes], ["users reach", picture.big.outlet_m, picture.told.outlet]].filter(([, at]) => at !== null);
  const at = spread(fixed.map(([, height]) => y(height) + 4), 27, 30, bottom);
  fixed.forEach(([name, height, text], index) => {
    svg.append(node("line", { class: "dash", x1: left, x2: left + inside, y1: y(height), y2: y(height) }));
    label(svg, name, left - 6, at[index], "soft", "end");
    label(svg, text, left - 6, at[index] + 13, "num", "end");
  });
}

export function drawFlags(svg, picture, room, hold) {
  const left = picture.by_levels ? room.left : room.right - 40;
  hang(svg, picture.flags, { left, right: room.right - 20, poleX: room.right - 4, width: room.width, y: room.y, top: TOP + 16, bottom: room.bottom - 6 }, hold);
}

function said(value, unit) {
  return `${(value * unit.per_si).toFixed(unit.decimals)} ${unit.symbol}`;
}

// The set on the bench. `value` gives a column of the trace.
export function drawRunning(svg, picture, bench, value) {
  const room = { ...layout(svg, { ...picture, by_levels: false }, NAMES) };
  svg.setAttribute("viewBox", `0 0 ${room.width} ${room.height}`);
  svg.replaceChildren();
  const now = { level: (index) => value(`level_${index + 1}_m`), source: (index) => value(`source_${index + 1}_m`), open: (index) => value(`open_${index + 1}`), on: (pump) => Boolean(value(`pump_${pump}`)), text: (index) => said(value(`level_${index + 1}_m`), bench.level) };
  drawLine(svg, picture, room, now);
  const at = places(picture, room), head = Math.max(TOP, Math.min(room.bottom, room.y(value("pressure_pa"))));
  // how high the water of the line would stand now
  svg.append(node("line", { class: "grade", x1: at.pump + 24, x2: room.right - 18, y1: head, y2: head }), node("path", { class: "thin", d: `M${at.riser} ${head}v-5m0 10v-5` }));
  label(svg, said(value("pressure_pa"), bench.main), at.pump + 26, head - 5, "num halo");
  picture.tanks.forEach((tank, index) => {
    const x = at.tank(index) + 10, top = room.h(tank.inlet_m), flow = value(`fill_${index + 1}_m3s`);
    if (flow > 1e-6) {
      svg.append(node("path", { class: "wave", d: `M${x + 8} ${top + 9}v10m4 -8v9` }));
      label(svg, said(flow, bench.flow), x + 14, top - 5, "num halo");
    }
  });
  const marks = picture.by_levels ? [] : picture.flags, names = spread(marks.map((flag) => room.y(flag.value) + 4), 13, TOP + 8, room.bottom);
  marks.forEach((flag, index) => {
    const y = room.y(flag.value);
    svg.append(node("path", { class: "level-mark", fill: "none", d: `M${room.right - 22} ${y}h12l10 ${names[index] - 4 - y}` }));
    label(svg, `${flag.label.replace(" pressure", "")} ${flag.text.split(" ")[0]}`, room.right + 3, names[index], "soft");
  });
}
