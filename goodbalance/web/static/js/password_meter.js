// Beside a new password: how hard it is to guess, as the server judges it. Without this script the server says so after sending.
const csrf = document.querySelector('meta[name="csrf"]').content;

for (const input of document.querySelectorAll("[data-meter]")) {
  const shown = document.createElement("p");
  shown.className = "small";
  shown.setAttribute("role", "status");
  const meter = Object.assign(document.createElement("meter"), { min: 0, max: 4, low: 2.5, high: 2.9, optimum: 4, value: 0 });
  meter.setAttribute("aria-label", "How hard to guess");
  const words = document.createElement("span");
  shown.append(meter, " ", words);
  shown.hidden = true;
  input.after(shown);
  let waiting = 0, asking = new AbortController();
  const leave = () => { clearTimeout(waiting); asking.abort(); };
  input.form.addEventListener("submit", leave);
  input.addEventListener("input", () => {
    shown.hidden = !input.value;
    leave();
    asking = new AbortController();
    waiting = setTimeout(() => judge(input, meter, words, asking.signal), 250);
  });
}

async function judge(input, meter, words, signal) {
  const asked = input.value;
  const form = new URLSearchParams({ csrf, password: asked, name: input.form.elements.name?.value ?? "", token: input.dataset.meter });
  const answer = await fetch("/password/strength", { method: "POST", body: form, headers: { Accept: "application/json" }, signal }).catch(() => null);
  if (!answer?.ok || input.value !== asked) return;
  const said = await answer.json();
  meter.value = said.score;
  words.textContent = said.words;
}
