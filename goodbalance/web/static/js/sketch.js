// The drawing beside the survey: a tag touched leads to its field, the field in use lights up with what it measures.
const place = document.getElementById("sketch");

export function showSketch(html) {
  if (!place || html === undefined) return;
  place.querySelector("[data-drawn]").innerHTML = html;
  light(document.activeElement);
}

function light(field) {
  const path = field?.dataset?.fact, part = field?.closest?.("[id^=part-]")?.id.slice(5);
  for (const tag of place.querySelectorAll("[data-tag]")) tag.classList.toggle("in-use", tag.dataset.tag === path);
  const tag = place.querySelector(".tag.in-use");
  if (tag && place.scrollHeight > place.clientHeight) { // on a phone only a part of it is in sight
    const at = tag.querySelector(".touch").getBoundingClientRect(), room = place.getBoundingClientRect();
    place.scrollTop += at.top - room.top - room.height / 2;
  }
  for (const sign of place.querySelectorAll("[data-place], [data-of]")) sign.classList.toggle("in-use", (sign.dataset.place ?? sign.dataset.of) === part);
}

if (place) {
  document.addEventListener("focusin", (event) => { if (event.target.dataset.fact) light(event.target); });
  place.addEventListener("click", (event) => {
    const tag = event.target.closest("[data-tag], [data-place]");
    if (!tag) return;
    const to = tag.dataset.tag ? document.querySelector(`#survey [data-fact="${CSS.escape(tag.dataset.tag)}"]`) : document.querySelector(`#part-${tag.dataset.place}`);
    if (!to) return;
    event.preventDefault();
    to.scrollIntoView({ block: tag.dataset.tag ? "center" : "start" });
    const field = tag.dataset.tag ? to : to.querySelector("input, select, textarea");
    field?.focus({ preventScroll: true });
    field?.select?.();
  });
}
