// Printing, and the section on the door card.

for (const button of document.querySelectorAll("[data-print]")) button.addEventListener("click", () => window.print());

const svg = document.getElementById("card-section");
if (svg) {
  const picture = JSON.parse(document.getElementById("picture").textContent);
  const section = await import(svg.dataset.script), room = section.layout(svg, picture);
  section.drawStill(svg, picture, room);
  section.drawFlags(svg, picture, room, null);
  for (const flag of svg.querySelectorAll(".flag")) { flag.removeAttribute("tabindex"); flag.removeAttribute("role"); }
}
