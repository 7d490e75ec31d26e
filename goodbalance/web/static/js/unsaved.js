// Shows what waits in this browser: how much and why, each item in a list, all of it as a text to keep.

const bar = document.getElementById("unsaved");
const list = document.getElementById("unsaved-list");
let now = { items: [] };

const many = (count) => (count === 1 ? "1 change waits" : `${count} changes wait`);
let told = "";

// `items`: all that is kept here; `trouble`: why sending stopped; `stored`: whether this browser could keep the last one.
export function showUnsaved(state) {
  now = state;
  const own = state.items.filter((item) => item.person === state.person && !item.aside);
  const aside = state.items.filter((item) => item.person === state.person && item.aside);
  const foreign = state.items.filter((item) => item.person !== state.person);
  const words = [];
  if (own.length && state.trouble === "sign in") words.push(`${own.length} to send. Sign in again: it is sent then.`);
  else if (own.length && state.trouble) words.push(`${own.length} to send. ${state.trouble}`);
  if (!state.stored && own.length) words.push("This browser has no room to keep it: leave this page open until it is saved.");
  const refused = aside.filter((item) => !item.aside.label), undecided = aside.filter((item) => item.aside.label);
  if (refused.length) words.push(`${refused.length} refused: ${refused.at(-1).aside.text}`);
  if (undecided.length) words.push(`${undecided.length} to decide: ${undecided.at(-1).aside.text}`);
  if (foreign.length) words.push(`${many(foreign.length)} for ${[...new Set(foreign.map((item) => item.name || "somebody else"))].join(", ")} to sign in here.`);
  if (!words.length && told) words.push(told);
  bar.hidden = !words.length;
  bar.querySelector("[data-text]").textContent = words.join(" ");
  if (list.open) drawList();
}

// What had waited is there now: a page that stands as it was before comes anew, unless somebody is typing in it.
let typing = false;
document.addEventListener("input", () => { typing = true; });
document.addEventListener("waits", () => { typing = false; });
document.addEventListener("all-sent", ({ detail }) => {
  if (!detail.forms && !document.body.dataset.keptAt) return;
  if (!typing) { location.reload(); return; }
  told = `${detail.count} sent. This page shows what stood here before: load it again to see what the server has.`;
  bar.querySelector("[data-anew]").hidden = false;
});

function drawList() {
  const own = now.items.filter((item) => item.person === now.person);
  list.querySelector("tbody").replaceChildren(...own.map(drawItem));
  list.querySelector("[data-none]").hidden = own.length > 0;
}

function drawItem(item) {
  const row = document.createElement("tr");
  const cells = [new Date(item.made_at).toLocaleTimeString(), item.page, inWords(item), item.aside ? item.aside.text : "waits"];
  for (const text of cells) row.insertCell().textContent = text;
  const buttons = row.insertCell();
  const [again, leave] = item.aside?.label ? ["Use mine", "Keep theirs"] : ["Send again", "Forget"];
  if (item.aside) buttons.append(button(again, () => now.retry(item)), " ", button(leave, () => { now.forget(item); }));
  return row;
}

function button(text, act) {
  const made = document.createElement("button");
  made.type = "button"; made.className = "button slim"; made.textContent = text;
  made.addEventListener("click", act);
  return made;
}

// What a person typed, without keys and tokens.
function inWords(item) {
  const hidden = new Set(["save_key", "csrf", "base_seq", "units", "was", "seen", "next", "image"]);
  const { changes, chosen, ...rest } = item.fields ?? item.body;
  const parts = Object.entries({ ...changes, ...chosen, ...rest }).filter(([name]) => !hidden.has(name));
  return parts.map(([name, value]) => `${name}: ${typeof value === "object" ? JSON.stringify(value) : value}`).join("; ").slice(0, 2000);
}

function asText() {
  const lines = now.items.filter((item) => item.person === now.person).map((item) => `${new Date(item.made_at).toISOString()}  ${item.page}\n  ${inWords(item)}\n  ${item.aside ? item.aside.text : "not yet sent"}\n`);
  const link = document.createElement("a");
  link.href = `data:text/plain;charset=utf-8,${encodeURIComponent(lines.join("\n"))}`;
  link.download = "good-balance-not-saved.txt";
  link.click();
}

bar.querySelector("[data-retry]").addEventListener("click", () => now.retry?.());
bar.querySelector("[data-anew]").addEventListener("click", () => location.reload());
bar.querySelector("[data-show]").addEventListener("click", () => { list.showModal(); drawList(); });
list.querySelector("[data-text]").addEventListener("click", asText);
