// Asks for a piece of the page that takes the server some seconds, and puts it in place.
import { post } from "./save_queue.js";

for (const place of document.querySelectorAll("[data-load]")) {
  post(place.dataset.load, {}).then(
    ({ ok, answer }) => { if (ok) place.innerHTML = answer.html; else place.textContent = answer.error; },
    () => { place.textContent = "The server cannot be reached. Load this page again."; },
  );
}
