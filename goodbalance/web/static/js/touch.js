// A button over each part of the drawing that can be worked or broken: by touch, mouse or keyboard it brings up what can be done there.
const LEAST = 34; // px, for a finger

export function layTouches(svg, parts, choose) {
  const figure = svg.parentElement;
  const layer = figure.querySelector(".touches") ?? figure.appendChild(Object.assign(document.createElement("div"), { className: "touches" }));
  if (layer.contains(document.activeElement)) return;
  const from = svg.getBoundingClientRect(), found = [];
  for (const mark of svg.querySelectorAll("[data-touch]")) {
    const part = parts.find(({ name, targets }) => name === mark.dataset.touch || targets.includes(mark.dataset.touch));
    if (!part) continue;
    const box = mark.getBoundingClientRect(), wide = Math.max(LEAST, box.width), tall = Math.max(LEAST, box.height);
    const button = Object.assign(document.createElement("button"), { type: "button", className: "touch", title: `${part.name}: work or break it` });
    button.setAttribute("aria-label", button.title);
    Object.assign(button.style, { left: `${box.left - from.left + (box.width - wide) / 2}px`, top: `${box.top - from.top + (box.height - tall) / 2}px`, width: `${wide}px`, height: `${tall}px` });
    button.addEventListener("click", () => choose(part));
    found.push(button);
  }
  layer.replaceChildren(...found);
}
