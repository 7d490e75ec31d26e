// A trend of levels as a line, pumped stretches marked under it.
import { linearScale, node } from "./svg.js";

const svg = document.getElementById("level-trend");
const picture = JSON.parse(document.getElementById("picture").textContent);
const LEFT = 46, FOOT = 30, TOP = 10;

function clock(time_s) {
  const minutes = Math.round(time_s / 60);
  return `${Math.floor(minutes / 60)}:${String(minutes % 60).padStart(2, "0")}`;
}

function words(x, y, text, anchor = "middle") {
  const made = node("text", { class: "soft", x, y, "text-anchor": anchor });
  made.textContent = text;
  return made;
}

function draw() {
  const { width, height } = svg.getBoundingClientRect();
  svg.setAttribute("viewBox", `0 0 ${width} ${height}`);
  svg.replaceChildren();
  const levels = picture.rows.map(([, level]) => level);
  const low = Math.min(...levels), high = Math.max(...levels), room = Math.max(0.02, (high - low) * 0.06);
  const last = picture.rows[picture.rows.length - 1][0];
  const x = linearScale(0, last, LEFT, width - 8), y = linearScale(low - room, high + room, height - FOOT, TOP);
  for (let part = 0; part <= 4; part += 1) {
    const level = low + ((high - low) * part) / 4, time_s = (last * part) / 4;
    svg.append(node("line", { class: "grid", x1: LEFT, x2: width - 8, y1: y(level), y2: y(level) }), words(LEFT - 6, y(level) + 4, level.toFixed(picture.unit.decimals), "end"));
    svg.append(words(x(time_s), height - 6, clock(time_s), part === 0 ? "start" : part === 4 ? "end" : "middle"));
  }
  for (const [from_s, to_s] of picture.draws) svg.append(node("rect", { class: "pumped", x: x(from_s), y: height - FOOT + 3, width: Math.max(1, x(to_s) - x(from_s)), height: 7 }));
  svg.append(node("polyline", { class: "trace", points: picture.rows.map(([time_s, level]) => `${x(time_s).toFixed(1)},${y(level).toFixed(1)}`).join(" ") }));
  svg.append(words(4, 12, picture.unit.symbol, "start"));
}

new ResizeObserver(draw).observe(svg);
