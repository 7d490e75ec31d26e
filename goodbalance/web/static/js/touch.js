// A button over each part of the drawing that can be worked or broken: by touch, mouse or keyboard it brings up what can be done there.
const LEAST = 34, CLOSE = 24, ON_TOP = 12; // px: for a finger; parts alike, and any others, whose middles stand closer share a button
let last = null; // the part brought up last

export function layTouches(svg, parts, choose) {
  const figure = svg.parentElement;
  const layer = figure.querySelector(".touches") ?? figure.appendChild(Object.assign(document.createElement("div"), { className: "touches" }));
  if (layer.contains(document.activeElement)) return;
  const from = svg.getBoundingClientRect();
  const marks = [...svg.querySelectorAll("[data-touch]")].map((mark) => ({ parts: parts.filter(({ name, targets }) => name === mark.dataset.touch || targets.includes(mark.dataset.touch)), box: roomOf(mark.getBoundingClientRect(), from) }));
  layer.replaceChildren(...apart(together(marks.filter((mark) => mark.parts.length))).map((place) => button(place, choose)));
}

function roomOf({ left, top, width, height }, from) {
  const wide = Math.max(LEAST, width), tall = Math.max(LEAST, height), x = left - from.left + (width - wide) / 2, y = top - from.top + (height - tall) / 2;
  return { left: x, right: x + wide, top: y, bottom: y + tall };
}

const middle = ({ left, right, top, bottom }) => [(left + right) / 2, (top + bottom) / 2];
const overlap = (one, other) => one.left < other.right && other.left < one.right && one.top < other.bottom && other.top < one.bottom;
const between = (one, other) => middle(one).map((at, axis) => Math.abs(at - middle(other)[axis]));

// Marks that no finger could tell apart are one place.
function together(marks) {
  const sort = ({ parts }) => parts[0].name.replace(/ \d+$/, "");
  const near = (one, other) => Math.max(...between(one.box, other.box)) < (sort(one) === sort(other) ? CLOSE : ON_TOP);
  const groups = [];
  for (const mark of marks) {
    const joined = groups.filter((group) => group.some((other) => near(mark, other)));
    for (const group of joined) groups.splice(groups.indexOf(group), 1);
    groups.push([...joined.flat(), mark]);
  }
  return groups.map((group) => ({
    parts: [...new Set(group.flatMap((mark) => mark.parts))],
    box: { left: Math.min(...group.map(({ box }) => box.left)), right: Math.max(...group.map(({ box }) => box.right)), top: Math.min(...group.map(({ box }) => box.top)), bottom: Math.max(...group.map(({ box }) => box.bottom)) },
  }));
}

// Places that still overlap share the room at the middle between them.
function apart(places) {
  places.forEach(({ box: one }, index) => {
    for (const { box: other } of places.slice(index + 1)) {
      if (!overlap(one, other)) continue;
      const [across, down] = between(one, other), [low, high] = across >= down ? ["left", "right"] : ["top", "bottom"];
      const [first, second] = one[low] + one[high] < other[low] + other[high] ? [one, other] : [other, one];
      first[high] = second[low] = (Math.max(first[low], second[low]) + Math.min(first[high], second[high])) / 2;
    }
  });
  return places;
}

function button({ parts, box }, choose) {
  const names = parts.map((part) => part.name).join(", ");
  const made = Object.assign(document.createElement("button"), { type: "button", className: "touch", title: parts.length > 1 ? `${names}: work or break one; again for the next` : `${names}: work or break it` });
  made.setAttribute("aria-label", made.title);
  Object.assign(made.style, { left: `${box.left}px`, top: `${box.top}px`, width: `${box.right - box.left}px`, height: `${box.bottom - box.top}px` });
  made.addEventListener("click", () => {
    last = parts[(parts.indexOf(last) + 1) % parts.length];
    choose(last);
  });
  return made;
}
