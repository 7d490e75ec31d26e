// Photos from the phone's camera: made small in the page, kept in the queue like all that is typed, shown at once.
import { save, waiting } from "./save_queue.js";

const LONGEST_PX = 1280, QUALITY = 0.75;

// JPEG in base64, upright, at most 1280 pixels an edge; throws where the file is no picture.
async function small(file) {
  const picture = await createImageBitmap(file, { imageOrientation: "from-image" });
  const scale = Math.min(1, LONGEST_PX / Math.max(picture.width, picture.height));
  const sheet = Object.assign(document.createElement("canvas"), { width: Math.max(1, Math.round(picture.width * scale)), height: Math.max(1, Math.round(picture.height * scale)) });
  sheet.getContext("2d").drawImage(picture, 0, 0, sheet.width, sheet.height);
  return sheet.toDataURL("image/jpeg", QUALITY).split(",")[1];
}

function show({ place, image }, words) {
  const box = document.querySelector(`[data-photos="${CSS.escape(place)}"]`);
  if (!box) return;
  const shown = Object.assign(document.createElement("img"), { src: `data:image/jpeg;base64,${image}`, alt: words });
  const last = [...box.querySelectorAll("img")].at(-1);
  if (last) (last.closest("a") ?? last).after(shown);
  else box.prepend(shown);
}

async function take(form, input) {
  if (!input.files.length) return;
  form.querySelector("[role=alert]")?.remove();
  input.closest(".photos-of")?.querySelector("[role=alert]")?.remove();
  try {
    const fields = Object.fromEntries(new FormData(form));
    const body = { device: fields.device, place: fields.place, image: await small(input.files[0]) };
    show(body, "Photo, not yet sent");
    save("photo", form.dataset.small, body);
  } catch {
    const line = Object.assign(document.createElement("p"), { className: "note is-stop", textContent: `${input.files[0].name} is no picture that can be read; accepted: JPEG, PNG or WEBP.` });
    line.setAttribute("role", "alert");
    (input.closest(".photos-of") ?? form).prepend(line);
  }
  input.value = "";
}

for (const form of document.querySelectorAll("form[data-photo]")) {
  const input = [...form.elements].find((field) => field.type === "file");
  input?.addEventListener("change", () => { if (!form.querySelector("button")) take(form, input); });
  form.addEventListener("submit", (event) => { event.preventDefault(); event.stopImmediatePropagation(); take(form, input); }, true);
}
for (const item of await waiting()) if (item.topic === "photo" && item.page === location.pathname) show(item.body, "Photo, not yet sent");
