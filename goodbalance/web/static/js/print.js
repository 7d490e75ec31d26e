// Printing, and the section on the door card.
import { drawFlags, drawMarks, drawWell, layout } from "./section_lift.js";

for (const button of document.querySelectorAll("[data-print]")) button.addEventListener("click", () => window.print());

const svg = document.getElementById("card-section");
if (svg) {
  const picture = JSON.parse(document.getElementById("picture").textContent);
  const room = layout(svg, picture);
  const stop = (picture.flags.find((flag) => flag.id === "stop") ?? picture.flags[0]).value;
  drawWell(svg, picture, stop, room);
  drawMarks(svg, picture, room);
  drawFlags(svg, picture, room, null);
  for (const flag of svg.querySelectorAll(".flag")) { flag.removeAttribute("tabindex"); flag.removeAttribute("role"); }
}
