// In place of a page that is not kept: the stations whose pages are.
const list = document.getElementById("kept-stations");
const pages = await caches.open("goodbalance-pages");

for (const request of await pages.keys()) {
  if (!new URL(request.url).pathname.startsWith("/kept/")) continue;
  const { id, name, at } = await (await pages.match(request)).json();
  const link = Object.assign(document.createElement("a"), { href: `/stations/${id}/survey`, textContent: name });
  const line = document.createElement("li");
  line.append(link, `, as it stood ${new Date(at).toLocaleString([], { dateStyle: "medium", timeStyle: "short" })}`);
  list.append(line);
}
document.getElementById("none-kept").hidden = list.children.length > 0;
document.getElementById("try-again").addEventListener("click", () => location.reload());
