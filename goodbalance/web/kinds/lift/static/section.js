// The section of a lift station: the wet well cut open to scale, its levels as flags, volumes and times between them.
import { hang } from "../../js/flags.js";
import { hatch, linearScale, node, spread, waves } from "../../js/svg.js";

const WALL = 13, GROUND = 34, FOOT = 26, MARKS = 74, FLAGS = 134;

export function layout(svg, picture) {
  const { width, height } = svg.getBoundingClientRect();
  const top_m = Math.max(picture.depth_m, picture.overflow_m) * 1.03;
  const y = linearScale(0, top_m, height - FOOT, GROUND + 6);
  const perMetre = (height - FOOT - GROUND - 6) / top_m;
  const inside = Math.max(84, Math.min(picture.width_m * perMetre, width - MARKS - FLAGS - 2 * WALL));
  const left = MARKS + WALL, right = left + Math.round(inside);
  return { width, height, left, right, y, si: (px) => ((height - FOOT - px) / (height - FOOT - GROUND - 6)) * top_m };
}

// Everything that does not move: walls, pipes, pump, sensor. `surface_m` is where the water stands.
export function drawWell(svg, picture, surface_m, room) {
  const { left, right, y, width, height } = room;
  svg.setAttribute("viewBox", `0 0 ${width} ${height}`);
  const inside = right - left, floor = y(0), cover = y(picture.depth_m);
  svg.append(node("rect", { class: "wall", x: left - WALL, y: cover, width: inside + 2 * WALL, height: floor - cover + WALL }));
  svg.append(hatch(left - WALL, cover, WALL, floor - cover + WALL, 6, "hatch"), hatch(right, cover, WALL, floor - cover + WALL, 6, "hatch"), hatch(left, floor, inside, WALL, 6, "hatch"));
  svg.append(node("rect", { class: "void", x: left, y: cover - 1, width: inside, height: floor - cover + 1 }));
  svg.append(node("line", { class: "thin", x1: 8, x2: left - WALL, y1: cover, y2: cover }), node("line", { class: "thin", x1: right + WALL, x2: right + WALL + 34, y1: cover, y2: cover }));
  drawPipes(svg, picture, room);
  const surface = y(Math.max(0, surface_m));
  svg.append(node("rect", { class: "water", x: left, y: surface, width: inside, height: floor - surface }));
  svg.append(waves(left, surface + 1, inside, floor - surface, 11, "wave"));
  drawBenching(svg, picture, room);
  drawBlind(svg, picture, room);
  drawPumps(svg, picture, room);
  drawSensor(svg, picture, room);
}

function drawPipes(svg, picture, { left, right, y }) {
  const invert = y(picture.invert_m), overflow = y(picture.overflow_m);
  svg.append(node("path", { class: "pipe", d: `M${right + WALL + 30} ${invert - 16}H${right}v16H${right + WALL + 30}` }));
  svg.append(node("path", { class: "thin", d: `M${right + 20} ${invert - 5}h-14m4 -4l-4 4l4 4` }));
  svg.append(node("path", { class: "pipe", d: `M${left - WALL - 22} ${overflow - 11}H${left}v11H${left - WALL - 22}` }));
  svg.append(node("line", { class: "dash", x1: left, x2: right, y1: overflow, y2: overflow }), node("line", { class: "dash", x1: left, x2: right, y1: invert, y2: invert }));
}

// where the well is narrower than at its widest, the wall stands further in
function drawBenching(svg, picture, { left, right, y }) {
  const half = (right - left) / 2;
  for (const slice of picture.slices) {
    if (slice.low_share > 0.995 && slice.high_share > 0.995) continue;
    const [low, high] = [y(slice.low_m), y(Math.min(slice.high_m, picture.depth_m))];
    const [lowIn, highIn] = [half * (1 - slice.low_share), half * (1 - slice.high_share)];
    svg.append(node("path", { class: "wall", d: `M${left} ${high}h${highIn}L${left + lowIn} ${low}H${left}z` }));
    svg.append(node("path", { class: "wall", d: `M${right} ${high}h${-highIn}L${right - lowIn} ${low}H${right}z` }));
  }
}

function drawBlind(svg, picture, { left, right, y }) {
  if (!picture.has_sensor) return;
  const floor = y(0), cover = y(picture.depth_m);
  const low = Math.min(floor, y(picture.sensor_low_m)), high = Math.max(cover, y(picture.sensor_high_m));
  const strip = right - left > 60 ? 20 : 12;
  if (floor - low > 2) svg.append(hatch(right - strip, low, strip, floor - low, 5, "blind"));
  if (high - cover > 2) svg.append(hatch(right - strip, cover, strip, high - cover, 5, "blind"));
}

function drawPumps(svg, picture, { left, right, y, height }) {
  const intake = y(picture.intake_m), inside = right - left;
  const each = Math.min(36, (inside * 0.6) / picture.pumps);
  for (let pump = 0; pump < picture.pumps; pump += 1) {
    const x = left + 14 + pump * each, wide = each - 8;
    const tall = Math.min(38, intake - y(picture.depth_m) - 10);
    const group = node("g", { "data-pump": pump + 1, class: "pump" });
    group.append(node("path", { class: "pipe", d: `M${x + wide / 2} ${intake - tall}V${y(picture.depth_m) - 10}` }));
    group.append(node("rect", { class: "pipe body", "data-touch": `Pump ${pump + 1}`, x, y: intake - tall, width: wide, height: tall - 8, rx: 4 }));
    group.append(node("path", { class: "pipe", d: `M${x - 2} ${intake}l5 -8h${wide - 6}l5 8z` }));
    const label = node("text", { class: "num", x: x + wide / 2, y: intake - tall / 2 + 1, "text-anchor": "middle" });
    label.textContent = pump + 1;
    group.append(label);
    svg.append(group);
  }
  const top = y(picture.depth_m) - 10;
  svg.append(node("path", { class: "pipe", d: `M${left + 14 + (each - 8) / 2 + (picture.pumps - 1) * each} ${top}H${left - WALL - 30}` }));
}

function drawSensor(svg, picture, { right, y }) {
  if (!picture.has_sensor) return;
  const face = y(picture.sensor_face_m), cover = y(picture.depth_m), x = right - 9;
  if (picture.looks_down) {
    svg.append(node("path", { class: "pipe", "data-touch": "Sensor", d: `M${x - 8} ${face - 8}h16v5l-4 4h-8l-4 -4z` }), node("path", { class: "dash", d: `M${x} ${face + 3}L${x - 26} ${y(picture.sensor_low_m)}M${x} ${face + 3}V${y(picture.sensor_low_m)}` }));
  } else {
    svg.append(node("path", { class: "thin", d: `M${x} ${cover - 8}V${face - 12}` }), node("path", { class: "pipe", "data-touch": "Sensor", d: `M${x - 4} ${face - 13}h8v9l-4 5l-4 -5z` }));
  }
}

// Floats hang from their cables: head up where the water holds them. `isUp` tells it of a role and level, `isClosed` its contact.
export function drawFloats(svg, picture, room, isUp, isClosed) {
  picture.floats.forEach((float, index) => {
    const x = room.right - 34 - 11 * (index % 3), y = room.y(float.level_m), up = isUp(float);
    svg.append(node("line", { class: "thin", x1: x, x2: x, y1: room.y(picture.depth_m), y2: y }));
    svg.append(node("ellipse", { class: `float${isClosed(float) ? " on" : ""}`, "data-touch": float.role, cx: x + (up ? 7 : 0), cy: y + (up ? -1 : 8), rx: up ? 7 : 4, ry: up ? 4 : 7 }));
  });
}

// Names of the fixed heights at the right edge and the bands at the left.
export function drawMarks(svg, picture, room) {
  const { left, right, y } = room;
  const fixed = [["overflow", picture.overflow_m, "overflow"], ["inlet invert", picture.invert_m, "invert"], ["intake", picture.intake_m, "intake"]];
  const places = spread(fixed.map(([, level]) => y(level) - 4), 27, 14, room.height - 8);
  fixed.forEach(([name, , key], index) => {
    const text = node("text", { class: "soft", x: left - WALL - 6, y: places[index] - (key === "overflow" ? 22 : 0), "text-anchor": "end" });
    text.textContent = name;
    const value = node("text", { class: "num", x: left - WALL - 6, y: places[index] + 12 - (key === "overflow" ? 22 : 0), "text-anchor": "end" });
    value.textContent = picture.marks[key];
    svg.append(text, value);
  });
  for (const band of picture.bands) {
    const high = y(band.high_m), low = y(band.low_m);
    if (low - high < 26) continue;
    const [wide, middle] = widestRoom(picture.flags.map((flag) => y(flag.value)), high, low), x = left + (right - left) * 0.68;
    const volume = node("text", { class: "dim", x, y: middle - 2, "text-anchor": "middle" });
    volume.textContent = band.volume;
    const time = node("text", { class: "dim", x, y: middle + 11, "text-anchor": "middle" });
    time.textContent = band.time;
    svg.append(node("path", { class: "wave", d: `M${left + 5} ${high + 3}V${low - 3}m-3 -4l3 4l3 -4M${left + 2} ${high + 7}l3 -4l3 4` }));
    if (wide < 26) continue;
    const longest = Math.max(band.volume.length, band.time.length) * 7 + 8; // a plate under them: lines and waves stop there
    svg.append(node("g", { class: "plate" }, node("rect", { x: x - longest / 2, y: middle - 12.5, width: longest, height: 26, rx: 3 }), volume, time));
  }
}

// How wide the widest stretch between two heights is that no line crosses, and its middle.
function widestRoom(lines, high, low) {
  const edges = [high, ...lines.filter((at) => at > high + 1 && at < low - 1).sort((a, b) => a - b), low];
  const rooms = edges.slice(1).map((end, index) => [end - edges[index], (end + edges[index]) / 2]);
  return rooms.reduce((widest, room) => (room[0] > widest[0] + 1 ? room : widest));
}

// The flags at the right of the well.
export function drawFlags(svg, picture, room, hold) {
  const { left, right, width, y, height } = room;
  hang(svg, picture.flags, { left, right: right + WALL, poleX: right + WALL + 14, width, y, top: GROUND + 4, bottom: height - 20 }, hold);
  svg.append(...svg.querySelectorAll("g.plate")); // volumes stand over the lines of the flags
}

// What stands behind the flags: the well, filled to somewhere between stop and start.
export function drawStill(svg, picture, room) {
  const at = (id) => picture.settings.find((setting) => setting.id === id)?.value;
  const start = at("start_1"), stop = at("stop") ?? start * 0.6;
  const surface = Math.max(stop, Math.min(start, stop + (start - stop) * 0.6));
  drawWell(svg, picture, surface, room);
  drawFloats(svg, picture, room, (float) => float.level_m < surface, () => false);
  drawMarks(svg, picture, room);
}

// The well as it runs on the bench. `value` gives a column of the trace.
export function drawRunning(svg, picture, bench, value) {
  const room = layout(svg, picture);
  svg.replaceChildren();
  drawWell(svg, picture, value("level_m"), room);
  drawMarks(svg, { ...picture, bands: [] }, room);
  for (const flag of picture.flags) {
    const y = room.y(flag.value);
    svg.append(node("line", { class: "level-mark", x1: room.left, x2: room.right + 16, y1: y, y2: y }));
  }
  const column = Object.fromEntries(bench.floats.map((float) => [float.role, float.column]));
  const closed = (float) => Boolean(value(column[float.role]));
  drawFloats(svg, picture, room, (float) => closed(float) !== (float.role === "low_alarm"), closed);
  nameLevels(svg, picture, room);
  const text = node("text", { class: "num halo", x: (room.left + room.right) / 2 + 18, y: Math.max(room.y(value("level_m")) - 5, 20), "text-anchor": "middle" });
  text.textContent = `${(value("level_m") * bench.main.per_si).toFixed(bench.main.decimals)} ${bench.main.symbol}`;
  svg.append(text);
  for (const pump of svg.querySelectorAll("[data-pump]")) pump.classList.toggle("on", Boolean(value(`pump_${pump.dataset.pump}`)));
}

function nameLevels(svg, picture, room) {
  let lowest = Infinity;
  for (const flag of [...picture.flags].sort((a, b) => a.value - b.value)) {
    const y = Math.min(room.y(flag.value), lowest - 14);
    lowest = y;
    const text = node("text", { class: "soft halo", x: room.right + 20, y: y + 4 });
    text.textContent = `${flag.label.replace(" level", "")} ${flag.text.split(" ")[0]}`;
    svg.append(text);
  }
}
