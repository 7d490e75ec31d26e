// The picture of a ring: each branch a loop, one inside the other, out at the left, over its farthest tap, back at the right; heat and
// pump at the foot. Temperature along it by shade and by number. The same as it runs on the bench.
import { inUnit, node } from "../../js/svg.js";

const TOP = 34, FOOT = 118, SIDE = 12, INNER = 14, PARTS = 6, THICK = 7;

export function layout(svg, picture) {
  const { width, height } = svg.getBoundingClientRect();
  const count = picture.branches.length, foot = height - FOOT, middle = width / 2;
  const apart = Math.min(64, (middle - SIDE - INNER) / count), down = Math.min(64, (foot - TOP - 70) / count);
  const loops = picture.branches.map((branch, index) => {
    const place = count - 1 - index; // the first branch is the outermost
    const left = middle - INNER - apart * (place + 0.5), right = middle + INNER + apart * (place + 0.5);
    return { left, right, top: TOP + down * index, branch };
  });
  return { width, height, foot, middle, loops, left: 10, right: width - 10, y: () => foot, si: () => 0 };
}

function label(svg, text, x, y, className, anchor = "middle") {
  const element = node("text", { class: className, x, y, "text-anchor": anchor });
  element.textContent = text;
  svg.append(element);
}

function shade(picture, at) {
  const share = (at - picture.low_c) / Math.max(1, picture.high_c - picture.low_c);
  return 0.12 + 0.88 * Math.max(0, Math.min(1, share));
}

// a straight pipe whose water goes from one temperature to another
function pipe(svg, picture, from, to, begin, end) {
  svg.append(node("path", { class: "casing", d: `M${from.x} ${from.y}L${to.x} ${to.y}` }));
  for (let part = 0; part < PARTS; part += 1) {
    const at = (share) => `${from.x + (to.x - from.x) * share} ${from.y + (to.y - from.y) * share}`;
    const warm = begin + (end - begin) * ((part + 0.5) / PARTS);
    svg.append(node("path", { class: "warm", "stroke-opacity": shade(picture, warm).toFixed(2), d: `M${at(part / PARTS)}L${at((part + 1) / PARTS)}` }));
  }
}

function draw(svg, picture, room, unit, now) {
  svg.setAttribute("viewBox", `0 0 ${room.width} ${room.height}`);
  svg.replaceChildren();
  const say = (value) => `${Math.round(inUnit(value, unit))} ${unit.symbol}`;
  const outer = room.loops[0], heat = { x: room.middle, y: room.foot + 62 };
  pipe(svg, picture, { x: heat.x, y: room.foot + 30 }, { x: outer.left, y: room.foot + 30 }, now.out_c, now.divides_c);
  pipe(svg, picture, { x: outer.right, y: room.foot + 30 }, { x: heat.x, y: room.foot + 30 }, now.back_c, now.back_c);
  room.loops.forEach(({ left, right, top }, index) => {
    const { far_c, end_c } = now.branches[index];
    const half = (now.divides_c + far_c) / 2, back = (far_c + end_c) / 2;
    pipe(svg, picture, { x: left, y: room.foot + 30 }, { x: left, y: top }, now.divides_c, half);
    pipe(svg, picture, { x: left, y: top }, { x: room.middle, y: top }, half, far_c);
    pipe(svg, picture, { x: room.middle, y: top }, { x: right, y: top }, far_c, back);
    pipe(svg, picture, { x: right, y: top }, { x: right, y: room.foot + 30 }, back, end_c);
    tap(svg, room.middle, top, picture.kind === "heating", now.branches[index].draws);
    const y = room.foot - 6 - index * 34;
    svg.append(node("path", { class: "valve-mark", "data-touch": "Branches", d: `M${right - 7} ${y - 6}l14 12v-12l-14 12z` }));
    label(svg, picture.branches[index].valve, right - 11, y - 2, "soft halo", "end");
    label(svg, say(end_c).replace(/ °.*/, "°"), right - 11, y + 12, "num halo", "end");
    label(svg, picture.branches[index].name, room.middle, top - 9, "soft halo");
    label(svg, say(far_c), room.middle, top + 24, "num halo");
  });
  if (!now.alone) {
    label(svg, say(now.divides_c), outer.left + 12, room.foot + 46, "num halo", "start");
  }
  box(svg, heat, picture, say(now.out_c));
  pump(svg, (outer.right + heat.x) / 2 + 12, room.foot + 30, now.on);
  label(svg, say(now.back_c), outer.right - 2, room.foot + 50, "num halo", "end");
  label(svg, now.flow, (outer.right + heat.x) / 2 + 12, room.foot + 66, "soft halo");
}

function tap(svg, x, y, heats, draws) {
  if (heats) {
    svg.append(node("rect", { class: "emitter", x: x - 14, y: y - 6, width: 28, height: 12 }), node("path", { class: "thin", d: `M${x - 6} ${y - 6}v12m6 -12v12m6 -12v12` }));
    return;
  }
  svg.append(node("path", { class: draws ? "tap-mark on" : "tap-mark", d: `M${x - 8} ${y}h16v9m-12 -9v-6h8` }));
}

function box(svg, heat, picture, text) {
  svg.append(node("rect", { class: "pipe", "data-touch": "Heat", x: heat.x - 46, y: heat.y - 14, width: 72, height: 44 }), node("path", { class: "thin", d: `M${heat.x} ${heat.y - 14}V${heat.y - 30}` }));
  label(svg, picture.heat === "instantaneous" ? "heater" : picture.heat === "stored" ? "store" : "source", heat.x - 10, heat.y + 4, "soft");
  label(svg, text, heat.x - 10, heat.y + 21, "num");
  if (picture.mixing) svg.append(node("path", { class: "valve-mark", d: `M${heat.x - 7} ${heat.y - 27}l14 10v-10l-14 10z` }));
}

function pump(svg, x, y, on) {
  const group = node("g", { class: on ? "pump on" : "pump", "data-touch": "Pump 1" });
  group.append(node("circle", { class: "pipe body", cx: x, cy: y, r: 13 }), node("path", { class: "vane", d: `M${x + 6} ${y - 8}L${x - 9} ${y}L${x + 6} ${y + 8}` }));
  svg.append(group);
}

export function drawStill(svg, picture, room) {
  const alone = picture.branches.length === 1;
  draw(svg, picture, room, picture.unit, { ...picture, alone, on: false, flow: picture.pump.flow });
}

export function drawFlags() {}

// The ring on the bench. `value` gives a column of the trace.
export function drawRunning(svg, picture, bench, value) {
  const branches = picture.branches.map((_, index) => ({ far_c: value(`far_${index + 1}_c`), end_c: value(`end_${index + 1}_c`), draws: value(`draw_${index + 1}_m3s`) > 0 }));
  const flow = `${inUnit(value("flow_m3s"), bench.flow).toFixed(bench.flow.decimals)} ${bench.flow.symbol}`;
  const now = { out_c: value("out_c"), divides_c: value("divides_c"), back_c: value("back_c"), branches, flow, on: Boolean(value("pump_1")), alone: branches.length === 1 };
  draw(svg, picture, layout(svg, picture), picture.unit ?? bench.main, now);
}
