// Two people on one number: both are shown, and a person decides.

import { save, settled } from "./save_queue.js";

// `conflicts` as the server tells them; `overrule` saves mine all the same.
export function showConflicts(place, conflicts, overrule, leave) {
  for (const conflict of conflicts) {
    const line = document.createElement("p");
    line.className = "note is-stop";
    line.setAttribute("role", "alert");
    const who = conflict.by ? `${conflict.by} changed` : "Somebody changed";
    line.textContent = `${who} ${conflict.label} to ${conflict.theirs} while you were here. `;
    line.append(button(`Use mine: ${conflict.mine}`, () => { line.remove(); settled(conflict.label); overrule(conflict); }), " ", button("Keep theirs", () => { line.remove(); settled(conflict.label); leave(conflict); }));
    place.prepend(line);
  }
}

function button(text, act) {
  const made = document.createElement("button");
  made.type = "button"; made.className = "button slim"; made.textContent = text;
  made.addEventListener("click", act);
  return made;
}

// For a button that decides one thing: the page comes again with it, or shows what somebody else has decided meanwhile.
export function reloadOrShow(topic, url) {
  document.addEventListener("saved", ({ detail }) => {
    if (detail.topic !== topic || !detail.ok) return;
    const conflicts = detail.answer.conflicts ?? [];
    if (!conflicts.length) { location.reload(); return; }
    const again = ({ again }) => save(topic, url(), { units: document.body.dataset.units, ...again });
    showConflicts(document.querySelector("main"), conflicts, again, () => location.reload());
  });
}
