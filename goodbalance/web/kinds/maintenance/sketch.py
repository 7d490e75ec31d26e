"""The fire line of a survey under way: supply, main pumps, the maintenance pump beside them, and the line."""

from markupsafe import Markup

from goodbalance.web.sketch import Sketch

ROW, RISER = 340, 262


def draw(to: Sketch) -> None:
    """From the supply on the left to the highest sprinkler on the right."""
    height_m, lowest_m = to.at("sensor.height_m", 1.0), to.at("line.lowest_m", 0.0)
    to.heights(min(lowest_m, height_m, 0.0), max(height_m, 3.0), 380, 250)
    to.line(f"M0 {ROW}H90", "suction.low_pa", "suction.high_pa", name="pipe", part="suction")
    to.tag("suction.low_pa", "supply lowest", 6, ROW + 44)
    to.tag("suction.high_pa", "highest", 6, ROW + 64)
    mains = to.count("mains.count", 3)
    for number in range(1, mains + 1):
        y = ROW - 46 * (number - 1)
        to.line(f"M90 {ROW}V{y}H220V{ROW}", "mains.churn_pa", name="pipe", part="mains")
        to.pump(155, y, f"main {number}", "mains", "mains.churn_pa")
    top = ROW - 46 * mains - 4
    to.line(f"M90 {ROW}V{top}H220V{ROW}", "pumping.curve.0.head_m", name="pipe", part="pumping")
    to.pump(155, top, "maintenance", "pumping", "pumping.curve.0.head_m")
    to.tag("mains.churn_pa", "closed outlet", 6, top - 34)
    for number in range(1, mains + 1):
        to.tag(f"mains.start_{number}_pa", f"main {number} starts", 6, top - 34 - 20 * number)
    to.line(f"M220 {ROW}H{RISER}V40H292M{RISER} 100h30M{RISER} 160h30", "line.volume_m3", name="pipe", part="line")
    for y in (40, 100, 160):
        to.line(f"M292 {y}v8m-6 0h12", name="ink")
    to.tag("line.volume_m3", "holds", 390, 206, anchor="end")
    to.tag("line.permitted_m3s", "may leak", 390, 225, anchor="end")
    to.tag("line.sprinkler_m3s", "one sprinkler", 390, 30, anchor="end")
    to.tag("line.rating_pa", "stands", 390, 244, anchor="end")
    y = to.y(height_m)
    to.place("sensor", 242, ROW + 20, Markup('<circle class="wall" cx="242" cy="{}" r="4"/>').format(ROW), "sensor")
    to.tag("sensor.height_m", "sensor at", 390, 404, ((RISER + 30, y), (RISER + 30, to.y(lowest_m))), anchor="end")
    to.tag("line.lowest_m", "lowest at", 390, 423, anchor="end")
