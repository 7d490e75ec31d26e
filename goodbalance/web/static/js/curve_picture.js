// A pump curve off a picture of its sheet: two marks on each axis, then points. What they are worth the server works out.
import { newKey, post, save } from "./save_queue.js";

const dialog = document.getElementById("curve-picture");
const sheet = dialog.querySelector("canvas"), ink = sheet.getContext("2d");
const part = (name) => dialog.querySelector(`[data-${name}]`);
const STEPS = ["a place on the flow axis whose flow is printed, near its beginning", "another place on the flow axis, near its end", "a place on the other axis whose number is printed, near its foot", "another place on that axis, near its top"];
const LONGEST_PX = 1280, HEADS_LEAST = 3;
let table = "", picture = null, touched = [], cross = null, image = "";

function tell() {
  const step = touched.length;
  part("told").textContent = !picture ? "Choose a photo or a scan of the maker's sheet. It may be held askew."
    : step < 4 ? `Touch ${STEPS[step]}. (${step + 1} of 4)` : `Now touch the points of the curve, from no flow on: ${step - 4} so far, ${HEADS_LEAST} or more. Type what stands at the four marks.`;
  dialog.querySelector(".marks").hidden = step < 4;
  part("undo").disabled = !step;
  part("take").disabled = step < 4 + HEADS_LEAST;
}

function draw() {
  ink.clearRect(0, 0, sheet.width, sheet.height);
  if (picture) ink.drawImage(picture, 0, 0, sheet.width, sheet.height);
  const colour = getComputedStyle(document.documentElement).getPropertyValue("--tape");
  touched.forEach(([x, y], index) => {
    ink.strokeStyle = colour; ink.fillStyle = colour; ink.lineWidth = 2.5;
    ink.beginPath(); ink.moveTo(x - 9, y); ink.lineTo(x + 9, y); ink.moveTo(x, y - 9); ink.lineTo(x, y + 9); ink.stroke();
    ink.font = "600 18px monospace"; ink.lineWidth = 4; ink.strokeStyle = "#fff";
    const word = index < 4 ? `${index < 2 ? "flow" : part("other").textContent.toLowerCase()} ${index % 2 + 1}` : String(index - 3);
    const at = index === 2 || index === 3 ? [x - 12 - ink.measureText(word).width, y + 5] : [x + 8, y - 8];
    ink.strokeText(word, ...at); ink.fillText(word, ...at);
  });
  if (cross) { ink.strokeStyle = colour; ink.lineWidth = 1; ink.strokeRect(cross[0] - 7, cross[1] - 7, 14, 14); }
}

function touch(place) {
  if (!picture) return;
  touched.push(place);
  draw();
  tell();
}

async function choose(file) {
  try {
    picture = await createImageBitmap(file, { imageOrientation: "from-image" });
  } catch {
    wrong(`${file.name} is no picture that can be read; accepted: JPEG, PNG or WEBP.`);
    return;
  }
  const scale = Math.min(1, LONGEST_PX / Math.max(picture.width, picture.height));
  sheet.width = Math.round(picture.width * scale); sheet.height = Math.round(picture.height * scale);
  touched = []; cross = null;
  draw();
  image = sheet.toDataURL("image/jpeg", 0.75).split(",")[1];
  wrong("");
  tell();
  sheet.focus();
}

function wrong(text) {
  part("wrong").hidden = !text;
  part("wrong").textContent = text;
}

async function take() {
  const text = (mark) => dialog.querySelector(`[data-mark="${mark}"]`).value.trim();
  const marks = (axis, from) => [0, 1].map((index) => ({ x: touched[from + index][0], y: touched[from + index][1], text: text(`${axis}.${index}`) }));
  const body = { save_key: newKey(), table, name: part("name").value, units: document.body.dataset.units, flow: marks("flow", 0), other: marks("other", 2), points: touched.slice(4) };
  try {
    const { ok, answer } = await post(dialog.dataset.url, body);
    if (!ok) { wrong(answer.error); return; }
  } catch {
    wrong("The server cannot be reached. Nothing was stored; take the points when you have a signal.");
    return;
  }
  // the sheet itself stays with the numbers that came from it
  const form = document.getElementById(`photo-${table.split(".")[0]}`);
  if (form) await save("photo", form.dataset.small, { device: "survey", place: table.split(".")[0], image });
  location.reload();
}

for (const button of document.querySelectorAll("[data-from-picture]")) {
  button.addEventListener("click", () => { table = button.dataset.fromPicture; dialog.showModal(); tell(); });
}
part("file").addEventListener("change", ({ target }) => { if (target.files.length) choose(target.files[0]); });
part("name").addEventListener("change", ({ target }) => {
  for (const unit of [...dialog.querySelectorAll(".marks .unit")].slice(2)) unit.textContent = target.selectedOptions[0].dataset.unit;
  for (const word of dialog.querySelectorAll("[data-other]")) word.textContent = target.selectedOptions[0].dataset.word;
  draw();
});
part("undo").addEventListener("click", () => { touched.pop(); draw(); tell(); });
part("take").addEventListener("click", take);
part("close").addEventListener("click", () => dialog.close());
sheet.addEventListener("click", (event) => {
  const box = sheet.getBoundingClientRect();
  touch([(event.clientX - box.left) * sheet.width / box.width, (event.clientY - box.top) * sheet.height / box.height]);
});
sheet.addEventListener("keydown", (event) => {
  const way = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
  if (!picture || (!way && event.key !== "Enter")) return;
  event.preventDefault();
  cross ??= [sheet.width / 2, sheet.height / 2];
  const far = event.shiftKey ? 25 : 2;
  if (way) cross = [Math.min(sheet.width, Math.max(0, cross[0] + way[0] * far)), Math.min(sheet.height, Math.max(0, cross[1] + way[1] * far))];
  else touch([...cross]);
  draw();
});
