// Flags on poles: one for each setting that stands on the upright scale of a drawing, to be dragged along it.
import { node, spread } from "./svg.js";

// `hold` is told what a hand does with one: start and keys; without it they only show.
export function hang(svg, flags, room, hold) {
  const places = spread(flags.map((flag) => room.y(flag.value)), Math.min(37, (room.bottom - room.top) / Math.max(1, flags.length - 1)), room.top, room.bottom);
  flags.forEach((flag, index) => svg.append(drawFlag(flag, places[index], room, hold)));
}

function drawFlag(flag, labelY, { left, right, poleX, width, y }, hold) {
  const at = y(flag.value);
  const bad = flag.empty || flag.outside;
  const group = node("g", {
    class: `flag${flag.chosen ? " chosen" : ""}${bad ? " bad" : ""}`, tabindex: 0, role: "slider", "data-flag": flag.id,
    "aria-label": flag.label, "aria-valuenow": flag.value.toFixed(3), "aria-valuetext": `${flag.text}, ${flag.standing}`, "aria-orientation": "vertical",
    "aria-valuemin": Math.min(flag.low, flag.value).toFixed(3), "aria-valuemax": Math.max(flag.high, flag.value).toFixed(3),
  });
  if (!flag.empty) group.append(node("line", { class: "range", x1: right - 7, x2: right - 7, y1: y(flag.low), y2: y(flag.high) }));
  group.append(node("path", { class: "line", fill: "none", d: `M${left} ${at}H${right}L${poleX} ${labelY}` }));
  const wide = width - poleX - 4;
  group.append(node("path", { class: "cloth", d: `M${poleX} ${labelY - 17}h${wide - 9}l9 17l-9 17h${9 - wide}z` }));
  const name = node("text", { x: poleX + 6, y: labelY - 3 });
  name.textContent = flag.label.replace(" level", "").replace("Low-cut-out", "Cut-out").replace(" pressure", "");
  const value = node("text", { class: "num", x: poleX + 6, y: labelY + 11 });
  value.textContent = flag.text;
  group.append(name, value, node("rect", { class: "grip", x: poleX - 6, y: labelY - 22, width: wide + 6, height: 44 }));
  if (hold) listen(group, flag, hold);
  return group;
}

function listen(group, flag, hold) {
  group.addEventListener("pointerdown", (event) => {
    if (event.button !== 0) return;
    event.preventDefault();
    hold.start(flag, event);
  });
  group.addEventListener("keydown", (event) => hold.key(flag, event));
}
