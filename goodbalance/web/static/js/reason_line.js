// The reason line: the chain of permissives and demands of one pump, the deciding link marked, timers counting.

function element(name, className, text) {
  const made = document.createElement(name);
  if (className) made.className = className;
  if (text !== undefined) made.textContent = text;
  return made;
}

export function seconds(left_s) {
  const whole = Math.ceil(left_s);
  return whole >= 60 ? `${Math.floor(whole / 60)} min ${whole % 60} s left` : `${whole} s left`;
}

// brief: one line a pump, so that several fit the screen; its links stand beneath once it is opened, those that hold and
// decide nothing by their names only
export function drawReason(line, brief = false, opened = false) {
  const box = element("article", `reason${line.runs ? " runs" : ""}${brief ? " brief" : ""}${opened ? " opened" : ""}`);
  box.dataset.pump = line.pump;
  const title = element("h3");
  const deciding = line.links[line.deciding];
  title.append(element("span", "", line.pump), element("span", "verb", line.runs ? "runs" : "does not run"));
  title.append(element("span", "because", `${deciding.name}: ${deciding.text}`));
  if (brief) {
    const links = element("button", "button slim links", "Links");
    links.type = "button"; links.dataset.links = line.pump; links.ariaExpanded = String(opened);
    title.append(links);
  }
  const chain = element("ol", brief ? "chain brief" : "chain");
  line.links.forEach((link, index) => {
    const after = !line.runs && index > line.deciding;
    const plain = brief && link.state === "holds" && index !== line.deciding && link.left_s === null && link.name !== "Speed";
    const item = element("li", `${link.state}${plain ? " plain" : ""}${after ? " after" : ""}${index === line.deciding ? " decides" : ""}`);
    item.append(element("span", "link-name", link.name), element("span", "words", link.text));
    if (link.left_s !== null) item.append(" ", element("span", "left", seconds(link.left_s)));
    chain.append(item);
  });
  box.append(title, chain);
  return box;
}
