// Making SVG nodes and scales, and numbers as a unit shows them. Pure: no fetch, no state.

export function inUnit(si, unit) { return si * unit.per_si + (unit.at_zero ?? 0); }

export function inSi(value, unit) { return (value - (unit.at_zero ?? 0)) / unit.per_si; }

export function node(name, attributes = {}, ...children) {
  const element = document.createElementNS("http://www.w3.org/2000/svg", name);
  for (const [key, value] of Object.entries(attributes)) element.setAttribute(key, value);
  for (const child of children) element.append(child);
  return element;
}

export function linearScale(low, high, fromPx, toPx) {
  if (!(high > low)) throw new RangeError(`empty range ${low}..${high}`);
  return (value) => fromPx + ((value - low) / (high - low)) * (toPx - fromPx);
}

// Lines at 45 degrees filling a box, drawn one by one so that they print and scale cleanly.
export function hatch(x, y, width, height, gap, className) {
  const lines = node("g");
  for (let start = -height; start < width; start += gap) {
    const x1 = Math.max(0, start), x2 = Math.min(width, start + height);
    if (x2 <= x1) continue;
    lines.append(node("line", { class: className, x1: x + x1, y1: y + height - (x1 - start), x2: x + x2, y2: y + height - (x2 - start) }));
  }
  return lines;
}

// Rows of small waves filling a box: our sign for water.
export function waves(x, y, width, height, gap, className) {
  const rows = node("g");
  const length = 16;
  for (let row = 0; row * gap < height; row += 1) {
    const at = y + row * gap;
    const shift = row % 2 ? length / 2 : 0;
    let path = "";
    for (let start = x + 4 + shift; start + length * 0.7 <= x + width - 2; start += length * 1.5) path += `M${start} ${at}q${length * 0.17} -3 ${length * 0.35} 0t${length * 0.35} 0`;
    if (path) rows.append(node("path", { class: className, d: path }));
  }
  return rows;
}

// Texts that may stand over lines or water, each on a plate of its own and over all else.
export function plates(svg) {
  const texts = [...svg.querySelectorAll(":scope > text.halo")], boxes = texts.map((text) => text.getBBox());
  texts.forEach((text, index) => {
    const { x, y, width, height } = boxes[index];
    svg.append(node("rect", { class: "under", x: x - 3, y, width: width + 6, height, rx: 3 }), text);
  });
}

// Move labels apart so that none comes closer than `gap`; keeps their order, top first, inside low..high.
export function spread(wanted, gap, low, high) {
  const order = wanted.map((at, index) => ({ at, index })).sort((a, b) => a.at - b.at);
  let floor = low;
  for (const item of order) { item.at = Math.max(item.at, floor); floor = item.at + gap; }
  let ceiling = high;
  for (const item of order.slice().reverse()) { item.at = Math.min(item.at, ceiling); ceiling = item.at - gap; }
  const placed = [];
  for (const item of order) placed[item.index] = item.at;
  return placed;
}
