// Survey: saves each field as it is left, shows remarks at the fields, asks only what the answers make necessary.
import { save, settled, waiting } from "./save_queue.js";
import { showSketch } from "./sketch.js";

const form = document.getElementById("survey");
const units = document.body.dataset.units;
const fields = new Map([...form.querySelectorAll("[data-fact]")].map((field) => [field.dataset.fact, field]));
const boxes = new Map([...form.querySelectorAll("[data-fact-box]")].reverse().map((box) => [box.dataset.factBox, box]));
const savedText = new Map([...fields].map(([path, field]) => [path, field.value]));
const status = document.getElementById("saved");

function asked(conditions) {
  return conditions.every(([path, values]) => values.includes(fields.get(path)?.value.trim()));
}

function showAsked() {
  for (const element of form.querySelectorAll("[data-only-if]")) element.hidden = !asked(JSON.parse(element.dataset.onlyIf));
}

function remarkPlace(path) {
  const box = boxes.get(path);
  if (!box) return null;
  return box.querySelector(":scope > [data-remarks]") || box.closest("[data-table]").querySelector("[data-remarks]");
}

function addRemark(path, text, kind) {
  const place = remarkPlace(path);
  if (!place) return;
  const line = document.createElement("p");
  line.className = `remark is-${kind}`;
  line.textContent = text;
  place.append(line);
}

function showRemarks(remarks) {
  for (const place of form.querySelectorAll("[data-remarks]")) place.replaceChildren();
  for (const [path, field] of fields) {
    field.classList.toggle("is-wrong", path in remarks.problems);
    field.toggleAttribute("aria-invalid", path in remarks.problems);
    boxes.get(path)?.classList.toggle("is-missing", remarks.missing.includes(path));
  }
  for (const [path, text] of Object.entries(remarks.problems)) addRemark(path, text, "problem");
  for (const [path, text] of Object.entries(remarks.read_as)) addRemark(path, text, "read");
  for (const [path, text] of Object.entries(remarks.unusual)) addRemark(path, text, "caution");
  for (const finding of remarks.findings) addRemark(finding.path, finding.text, finding.severity);
  showCounts(remarks);
}

function showCounts(remarks) {
  for (const link of form.querySelectorAll("[data-part]")) {
    const { shape, word } = remarks.counts[link.dataset.part];
    link.querySelector("[data-shape] use").setAttribute("href", `#s-${shape}`);
    link.querySelector("[data-count]").textContent = word;
  }
  const stopped = remarks.findings.some((finding) => finding.severity === "stop");
  document.getElementById("onward").hidden = stopped || Object.keys(remarks.problems).length > 0 || remarks.missing.length > 0;
}

function send(path) {
  const field = fields.get(path);
  if (savedText.get(path) === field.value) return;
  const was = savedText.get(path);
  savedText.set(path, field.value);
  status.textContent = "Saving";
  save("facts", form.dataset.url, { base_seq: Number(document.body.dataset.seq), units, changes: { [path]: field.value }, was: { [path]: was } });
}

function showConflicts(conflicts) {
  for (const [path, there] of Object.entries(conflicts)) {
    const place = remarkPlace(path);
    const line = document.createElement("p");
    line.className = "remark is-problem";
    line.textContent = `${there.author} changed this to "${there.text}" while you were here. `;
    const take = document.createElement("button");
    take.type = "button"; take.className = "button slim"; take.textContent = `Use mine: ${there.mine}`;
    take.addEventListener("click", () => { savedText.set(path, there.text); fields.get(path).value = there.mine; line.remove(); settled(path); send(path); });
    const leave = document.createElement("button");
    leave.type = "button"; leave.className = "button slim"; leave.textContent = "Keep theirs";
    leave.addEventListener("click", () => { fields.get(path).value = there.text; savedText.set(path, there.text); line.remove(); settled(path); });
    line.append(take, " ", leave);
    place.append(line);
  }
}

// what is usual in the place of what nobody has measured: typed as such, so that it counts as unsure
const offers = [...form.querySelectorAll("[data-typical]")], allTypical = form.querySelector("[data-all-typical]");

function openOffers() {
  return offers.filter((offer) => !fields.get(offer.dataset.typical).value.trim() && !offer.closest("[data-only-if][hidden]"));
}

function showOffers() {
  for (const offer of offers) offer.hidden = Boolean(fields.get(offer.dataset.typical).value.trim());
  const count = openOffers().length;
  allTypical.hidden = count < 2;
  allTypical.textContent = `Typical for ${count} left`;
}

function takeTypical(paths) {
  const was = Object.fromEntries(paths.map((path) => [path, savedText.get(path)]));
  const changes = Object.fromEntries(paths.map((path) => [path, "typical"]));
  for (const path of paths) { fields.get(path).value = "typical"; savedText.set(path, "typical"); }
  showOffers();
  status.textContent = "Saving";
  save("facts", form.dataset.url, { base_seq: Number(document.body.dataset.seq), units, changes, was });
}

for (const offer of offers) offer.addEventListener("click", () => takeTypical([offer.dataset.typical]));
allTypical.addEventListener("click", () => takeTypical(openOffers().map((offer) => offer.dataset.typical)));

for (const [path, field] of fields) {
  field.addEventListener("change", () => { showAsked(); showOffers(); send(path); });
  field.addEventListener("keydown", (event) => {
    if (event.key !== "Enter" || field.matches("textarea")) return;
    event.preventDefault(); // Enter accepts the number and goes on to the next field
    const shown = [...fields.values()].filter((other) => other.offsetParent);
    shown[shown.indexOf(field) + 1]?.focus();
  });
}

document.addEventListener("saved", (event) => {
  const { topic, ok, answer } = event.detail;
  if (topic !== "facts" || !ok) return;
  showRemarks(answer);
  showSketch(answer.sketch);
  showConflicts(answer.conflicts);
  status.textContent = "Saved.";
});

// fields typed before the network went away are shown as typed, not as the server last knew them
for (const item of await waiting()) {
  if (item.topic !== "facts" || item.url !== form.dataset.url) continue;
  for (const [path, text] of Object.entries(item.body.changes)) {
    if (fields.has(path)) { fields.get(path).value = text; savedText.set(path, text); }
  }
}
showAsked();
showOffers();
showRemarks(JSON.parse(document.getElementById("remarks").textContent));
