// Proving on the bench, a few proofs at a time: shows how far it is, can be stopped, and shows the page anew at the end.
import { newKey, post } from "./save_queue.js";

const AT_A_TIME = 3;
const form = document.getElementById("on-bench");

async function proveAll(all, stop, told) {
  const ids = JSON.parse(form.dataset.ids);
  let stopped = false;
  stop.addEventListener("click", () => { stopped = true; });
  all.hidden = true; stop.hidden = false;
  try {
    for (let done = 0; done < ids.length && !stopped; done += AT_A_TIME) {
      told.textContent = `${done} of ${ids.length}`;
      const { ok, answer } = await post(form.dataset.some, { save_key: newKey(), ids: ids.slice(done, done + AT_A_TIME) });
      if (!ok) throw new Error(answer.error);
    }
    location.reload();
  } catch (error) {
    told.textContent = error instanceof TypeError ? "The server cannot be reached." : error.message;
    all.hidden = false; stop.hidden = true;
  }
}

form?.addEventListener("submit", (event) => {
  event.preventDefault();
  event.stopImmediatePropagation();
  proveAll(form.querySelector("[data-all]"), form.querySelector("[data-stop]"), form.querySelector("[data-told]"));
}, true);
