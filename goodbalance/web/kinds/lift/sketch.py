"""The wet well of a survey under way: cut open, heights to scale as soon as they are known."""

from markupsafe import Markup

from goodbalance.web.sketch import Sketch

LEFT, RIGHT, FLOOR, COVER = 150, 290, 360, 90


def draw(to: Sketch) -> None:
    """Well, inlet, rising main, pumps, sensor and floats."""
    depth_m = to.at("well.depth_m", 5.0)
    to.heights(0.0, depth_m, FLOOR, COVER)
    invert_m, overflow_m = to.at("inlet.invert_m", 0.62 * depth_m), to.at("inlet.overflow_m", 0.84 * depth_m)
    intake_m = to.at("well.intake_m", 0.06 * depth_m)
    start_m = to.at("as_found.start_1_m", 0.45 * depth_m)
    to.water(LEFT, RIGHT - LEFT, to.y(min(start_m, invert_m)), FLOOR)
    to.line(f"M{LEFT} {COVER}V{FLOOR}H{RIGHT}V{COVER}", "well.depth_m", part="well")
    to.line(f"M{LEFT - 34} {COVER}H{LEFT}M{RIGHT} {COVER}H{RIGHT + 70}", name="ground")
    to.line(f"M{LEFT - 24} {to.y(invert_m)}H{LEFT}M{LEFT - 24} {to.y(invert_m) - 12}H{LEFT}", "inlet.invert_m", part="inlet")
    to.line(f"M{RIGHT} {to.y(overflow_m)}H{RIGHT + 34}M{RIGHT} {to.y(overflow_m) - 9}H{RIGHT + 34}", "inlet.overflow_m", part="inlet")
    heights = [
        ("well.depth_m", "depth", depth_m), ("inlet.overflow_m", "overflow", overflow_m), ("inlet.invert_m", "inlet", invert_m),
        ("well.intake_m", "intake", intake_m), ("sensor.mounting_m", "sensor", to.at("sensor.mounting_m", 0.03 * depth_m)),
        ("sensor.face_m", "face", to.at("sensor.face_m", 0.95 * depth_m)),
    ]  # fmt: skip
    heights += [(f"{path}_m", word, to.at(f"{path}_m", share * depth_m)) for path, word, share in (*MORE, *(SPANNED if to.says("sensor.span", "levels") else ()))]
    heights += [(f"as_found.{name}_m", word, to.at(f"as_found.{name}_m", 0.0)) for name, word in FOUND]
    to.ladder(heights, 121, LEFT, anchor="end", foot=FLOOR)
    _main(to, depth_m)
    count = to.count("pumping.count", 4)
    for number in range(1, count + 1):
        own = number == 1 or to.says("pumping.twins", "no")
        part = f"pump_{number if own else 1}"
        to.pump(LEFT + (number - 0.5) * (RIGHT - LEFT) / count, to.y(intake_m) - 16, str(number), part, f"{part}.curve.0.head_m")
    _sensing(to)
    for path, word in (("well.diameter_m", "diameter"), ("well.length_m", "length")):
        to.tag(path, word, LEFT - 6, FLOOR + 26, ((LEFT, FLOOR + 10), (RIGHT, FLOOR + 10)))
    to.tag("well.width_m", "width", LEFT - 6, FLOOR + 46)
    to.tag("well.floor_diameter_m", "flat floor", LEFT - 6, FLOOR + 46, ((LEFT + 40, FLOOR + 10), (RIGHT - 40, FLOOR + 10)))
    _beside_pumps(to, intake_m)
    to.tag("inflow.peak_m3s", "peak", 6, COVER - 62)
    to.tag("inflow.mean_m3s", "mean", 6, COVER - 43)
    to.tag("inflow.min_m3s", "lowest", 6, COVER - 24)


MORE = (("well.benching", "benching", 0.1), ("well.joined_above", "joined", 0.3))
SPANNED = (("sensor.zero", "zero", 0.05), ("sensor.full", "full", 0.7))
FOUND = (("low_cut_out", "cut-out"), ("low_alarm", "low"), ("stop", "stop"), ("start_1", "start"), ("start_2", "2nd start"), ("high_alarm", "high"))


def _beside_pumps(to: Sketch, intake_m: float) -> None:
    """What a pump needs over its intake, and how far a sensor sees."""
    x, mounting_m = RIGHT + 8, to.at("sensor.mounting_m", 0.1)
    seen_m = mounting_m + to.at("sensor.range_m", 3.0)
    to.tag("sensor.range_m", "range", x, FLOOR - 52, ((LEFT + 32, to.y(mounting_m)), (LEFT + 32, to.y(seen_m))))
    to.tag("sensor.blanking_m", "blind", x, FLOOR - 52, ((LEFT + 22, COVER + 12), (LEFT + 22, COVER + 30)))
    face_m, far_m = to.at("sensor.face_m", 4.5), to.at("sensor.far_m", 4.0)
    to.tag("sensor.far_m", "reach", x, FLOOR - 72, ((LEFT + 22, to.y(face_m)), (LEFT + 22, to.y(face_m - far_m))))
    covered_m = intake_m + to.at("pump_1.min_submergence_m", 0.4)
    to.tag("pump_1.min_submergence_m", "cover", x, FLOOR - 32, ((RIGHT - 6, to.y(intake_m)), (RIGHT - 6, to.y(covered_m))))
    to.tag("pump_1.bell_diameter_m", "intake", x, FLOOR - 12)


def _main(to: Sketch, depth_m: float) -> None:
    """The rising main, broken off where it goes out of scale."""
    to.line(f"M{RIGHT - 14} {FLOOR - 34}V66H372V20H352", "main.outlet_m", "main.length_m", name="pipe", part="main")
    to.tag("main.outlet_m", "outlet", 346, 14, ((384, 20), (384, FLOOR)), anchor="end")
    to.tag("main.length_m", "length", 366, 54, ((RIGHT - 14, 59), (366, 59)), anchor="end")
    to.tag("main.diameter_m", "bore", 366, 84, anchor="end")


def _sensing(to: Sketch) -> None:
    """What tells the level: a sensor, floats, or both."""
    if not to.says("control.level_by", "floats"):
        high = to.says("sensor.kind", "look_down")
        x, y = LEFT + 22, COVER + 12 if high else to.y(to.at("sensor.mounting_m", 0.1))
        rope = f"M{x} {COVER}V{y}"
        sign = Markup('<path class="ink" d="{}"/><path class="wall" d="M{} {}h12v10h-12z"/>').format(rope, x - 6, y - 5)
        to.place("sensor", x + 14, COVER + 22, sign, "sensor", anchor="start")
    if to.says("control.level_by", "floats", "sensor_and_floats"):
        x = RIGHT - 26
        float_ = '<ellipse class="wall" cx="{0}" cy="{1}" rx="5" ry="7"/><ellipse class="wall" cx="{0}" cy="{2}" rx="5" ry="7"/>'
        sign = Markup('<path class="ink" d="M{0} {3}V{2}"/>' + float_).format(x, FLOOR - 120, FLOOR - 90, COVER)
        to.place("control", x - 10, FLOOR - 104, sign, "floats", anchor="end")
