"""The ring of a survey under way: source of heat, circulator, common pipes, and the branches one below the other."""

from markupsafe import Markup

from goodbalance.web.sketch import Sketch

SOURCE, OUT, BACK, TOP = 60, 120, 376, 70


def draw(to: Sketch) -> None:
    """Heat on the left, branches as rungs between what goes and what comes back."""
    branches = to.count("ring.branches", 6)
    step = min(72, 264 // branches)
    bottom = max(TOP + 36 + step * branches, TOP + 210)
    to.line(f"M{SOURCE} {TOP + 40}V{TOP}H{OUT}V{bottom - 30}", "common.there_m", "common.bore_m", name="pipe", part="common")
    to.line(f"M{BACK} {TOP + 36}V{bottom}H{SOURCE}V{TOP + 100}", "common.back_m", name="pipe back", part="common")
    heater = Markup('<path class="wall {}" d="M{} {}h44v60h-44z"/><path class="ink" d="M{} {}q6 -8 0 -16t0 -16"/>').format(
        "is-told" if "heat.set_c" in to.values else "is-unknown", SOURCE - 22, TOP + 40, SOURCE, TOP + 86
    )
    to.place("heat", SOURCE - 26, TOP + 60, heater, "heat", anchor="end")
    to.tag("heat.set_c", "set", 6, 18)
    to.tag("heat.watts", "heat", 6, 37)
    to.tag("heat.volume_m3", "holds", 6, 56)
    to.pump(SOURCE, bottom - 34, "pump", "pump", "pump.curve.0.head_m", beside=True)
    to.tag("common.there_m", "there", OUT + 8, TOP - 8, ((SOURCE, TOP - 5), (OUT, TOP - 5)))
    to.tag("common.bore_m", "bore", OUT + 8, TOP + 12)
    to.tag("common.back_m", "back", OUT + 8, bottom + 18, ((SOURCE, bottom + 8), (BACK, bottom + 8)))
    for number in range(1, branches + 1):
        here, y = f"branch_{number}", TOP + 36 + step * (number - 1)
        to.line(f"M{OUT} {y}H{BACK}", f"{here}.there_m", f"{here}.there_bore_m", name="pipe", part=here)
        valve = Markup('<path class="wall {}" d="M{x} {}l14 12v-12l-14 12z"/>').format("is-told" if f"{here}.valve" in to.typed else "is-taken", y - 6, x=BACK - 40)
        to.place(here, OUT - 6, y + 4, valve, str(number), anchor="end")
        to.tag(f"{here}.there_m", "there", OUT + 8, y + 17, ((OUT, y + 5), (BACK - 46, y + 5)))
        to.tag(f"{here}.back_m", "back", OUT + 130, y + 17, ((BACK - 26, y + 5), (BACK, y + 5)))
        to.tag(f"{here}.there_bore_m", "bore", OUT + 8, y + 36)
        to.tag(f"{here}.back_bore_m", "bore", OUT + 130, y + 36)
    if to.wanted("common.back_bore_m"):
        to.tag("common.back_bore_m", "bore", OUT + 110, bottom + 18)
    to.tag("ring.branches", "branches", 6, 424)
