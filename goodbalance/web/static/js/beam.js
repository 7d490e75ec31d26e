// The beam: one setting on a pivot between its two harms. Level and locked when well inside, tilted as the number
// leans toward one side, broken when there is no room between them.
import { node } from "./svg.js";

const WIDTH = 216, HEIGHT = 53, REST = 24, HALF = 96;

export function drawBeam(svg, flag) {
  svg.setAttribute("viewBox", `0 0 ${WIDTH} ${HEIGHT}`);
  svg.replaceChildren();
  const lean = Math.max(-1.25, Math.min(1.25, flag.lean));
  const locked = !flag.empty && Math.abs(lean) <= 0.5;
  svg.classList.toggle("locked", locked);
  const pivot = node("path", { class: "pivot", d: `M${WIDTH / 2} ${REST + 4}l-12 21h24z` });
  if (flag.empty) {
    svg.append(half(-1), half(1), pivot, node("path", { class: "marker", d: `M${WIDTH / 2 - 7} 6l14 10M${WIDTH / 2 + 7} 6l-14 10` }));
    return;
  }
  const angle = locked ? 0 : Math.sign(lean) * (Math.abs(lean) - 0.5) * 13;
  const beam = node("g", { transform: `rotate(${angle} ${WIDTH / 2} ${REST})` });
  beam.append(node("line", { class: "bar", x1: WIDTH / 2 - HALF, y1: REST, x2: WIDTH / 2 + HALF, y2: REST }));
  for (const side of [-1, 1]) beam.append(tray(side));
  for (const share of [-0.8, 0, 0.8]) beam.append(node("line", { class: "tick", x1: at(share), x2: at(share), y1: REST + 4, y2: REST + 9 }));
  if (flag.wish !== null && Math.abs(flag.wish - lean) > 0.06) beam.append(node("circle", { class: "wish", cx: at(flag.wish), cy: REST - 7, r: 3.6 }));
  beam.append(node("path", { class: "marker", d: `M${at(lean)} ${REST - 2}v-20h13l-4 4.5 4 4.5h-13` }));
  svg.append(pivot, beam);
}

function at(lean) {
  return WIDTH / 2 + lean * (HALF - 8);
}

function tray(side) {
  const x = WIDTH / 2 + side * HALF;
  return node("path", { class: "tray", d: `M${x} ${REST}v6m-7 5a7 6 0 0 0 14 0zm7 -5l-7 5m7 -5l7 5` });
}

function half(side) {
  const inner = WIDTH / 2 + side * 9;
  const group = node("g", { transform: `rotate(${side * 10} ${WIDTH / 2 + side * HALF * 0.55} ${REST + 2})` });
  group.append(node("line", { class: "bar", x1: inner, y1: REST, x2: WIDTH / 2 + side * HALF, y2: REST }), tray(side));
  group.append(node("path", { class: "tray", d: `M${inner} ${REST}l${side * -4} -4l${side * 2} 5l${side * -3} 4` }));
  return group;
}
