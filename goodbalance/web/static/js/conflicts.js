// Two people on one number: both are shown, and a person decides.

// `conflicts` as the server tells them; `overrule` saves mine all the same.
export function showConflicts(place, conflicts, overrule, leave) {
  for (const conflict of conflicts) {
    const line = document.createElement("p");
    line.className = "note is-stop";
    line.setAttribute("role", "alert");
    const who = conflict.by ? `${conflict.by} changed` : "Somebody changed";
    line.textContent = `${who} ${conflict.label} to ${conflict.theirs} while you were here. `;
    line.append(button(`Use mine: ${conflict.mine}`, () => { line.remove(); overrule(conflict); }), " ", button("Keep theirs", () => { line.remove(); leave(conflict); }));
    place.prepend(line);
  }
}

function button(text, act) {
  const made = document.createElement("button");
  made.type = "button"; made.className = "button slim"; made.textContent = text;
  made.addEventListener("click", act);
  return made;
}
