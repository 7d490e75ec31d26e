// The tank from the side: a box, its water, its float.
import { hang } from "../../js/flags.js";
import { linearScale, node } from "../../js/svg.js";

export function layout(svg, picture) {
  const { width, height } = svg.getBoundingClientRect(), y = linearScale(0, picture.depth_m, height - 20, 20);
  svg.setAttribute("viewBox", `0 0 ${width} ${height}`);
  return { width, height, top: 20, bottom: height - 20, left: 30, right: width * 0.5, poleX: width * 0.5 + 14, y, si: (at) => ((height - 20 - at) / (height - 40)) * picture.depth_m };
}

export function drawStill(svg, picture, room) {
  svg.append(node("rect", { class: "void", x: room.left, y: room.top, width: room.right - room.left, height: room.bottom - room.top }));
}

export function drawFlags(svg, picture, room, hold) {
  hang(svg, picture.flags, room, hold);
}

export function drawRunning(svg, picture, bench, value) {
  const room = layout(svg, picture), at = room.y(value("level_m"));
  svg.replaceChildren();
  drawStill(svg, picture, room);
  svg.append(node("rect", { class: "water", x: room.left, y: at, width: room.right - room.left, height: room.bottom - at }));
}
