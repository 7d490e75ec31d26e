// The picture beside the hand sweep: the same as in Reckon, without flags to drag.
import { drawStill, layout } from "./section.js";

const svg = document.getElementById("chart"), picture = JSON.parse(document.getElementById("picture").textContent);

function draw() {
  svg.replaceChildren();
  drawStill(svg, picture, layout(svg, picture, false));
}

new ResizeObserver(draw).observe(svg);
draw();
