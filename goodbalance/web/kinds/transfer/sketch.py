"""The transfer of a survey under way: sources, pumps, the line with its branches, and the tanks at their heights."""

from markupsafe import Markup

from goodbalance.web.sketch import Sketch

BASE, ROOF, LINE_Y = 346, 60, 362
TANKS, WIDTH = 266, 132


def draw(to: Sketch) -> None:
    """From the source on the left to the tanks on the right."""
    tanks = to.count("tanks.count", 3)
    floors = [to.at(f"tank_{number}.floor_m", 18.0 + 2.0 * number) for number in range(1, tanks + 1)]
    tops = [floors[number - 1] + to.at(f"tank_{number}.overflow_m", 3.0) for number in range(1, tanks + 1)]  # told from its floor
    low_m, safe_m, high_m = to.at("source.low_m", -1.0), to.at("source.safe_m", -1.5), to.at("source.high_m", 1.0)
    to.heights(min(low_m, safe_m, 0.0) - 1.0, max(*tops, high_m, 1.0) * 1.04, BASE, ROOF)
    to.water(14, 60, to.y(high_m), to.y(min(low_m, safe_m)) + 12)
    to.line(f"M14 {to.y(high_m) - 12}V{to.y(min(low_m, safe_m)) + 12}H74V{to.y(high_m) - 12}", "source.low_m", "source.high_m", part="source")
    for row, (name, word, level_m) in enumerate((("high", "highest", high_m), ("low", "lowest", low_m), ("safe", "safe", safe_m))):
        to.tag(f"source.{name}_m", word, 6, 382 + 20 * row, ((20 + 12 * row, to.y(level_m)), (20 + 12 * row, to.y(0.0))))
    pumps = to.count("pumping.count", 3)
    for number in range(1, pumps + 1):
        part = "second" if number == 2 and to.says("pumping.own_source", "yes") else "pumping"
        to.pump(146 + 32 * (number - 1), LINE_Y - 20, str(number), part, "pumping.curve.0.head_m")
    to.line(f"M74 {LINE_Y - 20}H132M146 {LINE_Y - 36}H{_left(tanks, tanks) + 6}", "line.length_m", "line.diameter_m", name="pipe", part="line")
    to.tag("line.length_m", "length", 280, 422, ((146, LINE_Y - 28), (_left(tanks, tanks), LINE_Y - 28)))
    to.tag("line.diameter_m", "bore", 146, 422)
    to.tag("line.rating_pa", "stands", 146, 402)
    to.place("sensor", 256, LINE_Y - 12, Markup('<circle class="wall" cx="256" cy="{}" r="4"/>').format(LINE_Y - 36), "sensor")
    to.tag("sensor.height_m", "sensor at", 280, 402, ((240, to.y(to.at("sensor.height_m", 0.0))), (240, to.y(0.0))))
    for number, (floor_m, top_m) in enumerate(zip(floors, tops), 1):
        _tank(to, number, tanks, floor_m, top_m)


OF_A_TANK = (("floor_m", "floor"), ("overflow_m", "overflow"), ("area_m2", "area"), ("mean_m3s", "gives"), ("entry_m", "entry"), ("peak_m3s", "at most"), ("branch_m", "branch"), ("branch_diameter_m", "its bore"), ("outlet_m", "outlet"))


def _left(number: int, tanks: int) -> float:
    """Where a tank begins."""
    return round(TANKS + (number - 1) * WIDTH / tanks, 1)


def _tank(to: Sketch, number: int, tanks: int, floor_m: float, top_m: float) -> None:
    """One tank with its branch, floor, overflow and what it gives."""
    here = f"tank_{number}"
    x, wide = _left(number, tanks), WIDTH / tanks - 8
    floor, top = to.y(floor_m), min(to.y(top_m), to.y(floor_m) - 26)
    to.water(x, wide, top + 8, floor)
    to.line(f"M{x} {top}V{floor}H{x + wide}V{top}", f"{here}.floor_m", f"{here}.overflow_m", part=here)
    to.line(f"M{x + 6} {LINE_Y - 36}V{floor}", f"{here}.branch_m", name="pipe", part=here)
    to.place(here, x + wide / 2, top - 6, Markup(""), str(number))
    edge, lines = x + wide, OF_A_TANK[: 12 // tanks]
    for index, (name, word) in enumerate(lines):
        y = 76 + 20 * (len(lines) * (number - 1) + index)
        from_floor = {"overflow_m": top, "floor_m": floor, "entry_m": to.y(floor_m + to.at(f"{here}.entry_m", 2.5)), "outlet_m": to.y(floor_m + to.at(f"{here}.outlet_m", 0.15))}
        foot = to.y(0.0) if name == "floor_m" else floor
        to.tag(f"{here}.{name}", f"{number} {word}", 112, y, ((edge + 4, from_floor[name]), (edge + 4, foot)) if name in from_floor else None)
