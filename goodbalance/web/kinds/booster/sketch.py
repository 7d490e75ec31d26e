"""The booster set of a survey under way: supply, pumps, tank, riser and outlets, heights to scale as soon as they are known."""

from markupsafe import Markup

from goodbalance.web.sketch import Sketch

BASE, ROOF, RISER, HEADER = 350, 60, 250, 306


def draw(to: Sketch) -> None:
    """From the supply on the left to the worst outlet on the right."""
    heights_m = [to.at(f"outlets.{name}_m", otherwise) for name, otherwise in (("lowest", 0.0), ("worst", 12.0), ("top", 14.0), ("sensor", 1.0))]
    pump_m = to.at("supply.pump_m", 0.0)
    to.heights(min(0.0, *heights_m), max(*heights_m, 3.0), BASE, ROOF)
    _supply(to)
    count = to.count("pumping.count", 5)
    for number in range(1, count + 1):
        x = 132 + (number - 1) * 84 / max(count - 1, 2)
        to.line(f"M{x} 372V{HEADER}", "pumping.curve.0.head_m", name="pipe", part="pumping")
        to.pump(x, 340, str(number), "pumping", "pumping.curve.0.head_m", below=392)
    to.line(f"M118 372H{132 + (count - 1) * 84 / max(count - 1, 2)}M132 {HEADER}H{RISER}V{ROOF}", "outlets.length_m", "outlets.diameter_m", name="pipe", part="outlets")
    to.line(f"M{RISER} {to.y(heights_m[0])}h18M{RISER} {to.y(heights_m[1])}h18M{RISER} {to.y(heights_m[2])}h18", "outlets.worst_m", name="pipe", part="outlets")
    to.ladder(
        [(f"outlets.{name}_m", word, height_m) for (name, word), height_m in zip((("lowest", "lowest"), ("worst", "worst"), ("top", "highest")), heights_m)],
        RISER + 34, RISER + 20, foot=BASE,
    )  # fmt: skip
    to.tag("outlets.residual_pa", "needs", RISER + 34, 200)
    to.tag("outlets.permitted_pa", "stands", RISER + 34, 220)
    to.tag("vessel.rating_pa", "rated", RISER + 34, 240)
    to.tag("outlets.length_m", "length", RISER - 6, 150, ((RISER - 8, ROOF), (RISER - 8, HEADER)), anchor="end")
    to.tag("outlets.diameter_m", "bore", RISER - 6, 170, anchor="end")
    to.tag("outlets.sensor_m", "sensor", RISER - 6, 210, ((RISER - 16, to.y(heights_m[3])), (RISER - 16, BASE)), anchor="end")
    _tank(to)
    for row, (name, word) in enumerate((("design", "largest draw"), ("mean", "mean"), ("least", "least"))):
        to.tag(f"demand.{name}_m3s", word, 6, 24 + 19 * row)
    to.tag("supply.pump_m", "pumps at", 132, 416, ((140, to.y(pump_m)), (140, BASE)))
    if to.says("control.remote", "yes"):
        y = to.y(to.at("remote.height_m", 10.0))
        to.tag("remote.height_m", "far sensor", RISER - 6, y + 4, ((RISER - 24, y), (RISER - 24, BASE)), anchor="end")


def _supply(to: Sketch) -> None:
    """A town main with its pressures, a tank with its levels, or a cistern below."""
    low = [name for name in ("water_low_m", "water_high_m", "outlet_m") if to.fields[f"supply.{name}"]["asked"]]
    if low:
        to.water(20, 86, 330, 384)
        to.line("M20 300V386H106V300", "supply.water_low_m", "supply.water_high_m", part="supply")
        for row, (name, word) in enumerate((("water_high_m", "highest"), ("water_low_m", "lowest"), ("outlet_m", "outlet"))):
            to.tag(f"supply.{name}", word, 6, 176 + 19 * row, ((36 + 12 * row, 318 + 18 * row), (36 + 12 * row, 386)))
        to.line("M106 372H118", "supply.outlet_m", name="pipe", part="supply")
        return
    to.line("M0 372H118", "supply.low_pa", "supply.high_pa", name="pipe", part="supply")
    to.place("supply", 30, 400, Markup('<circle class="wall" cx="30" cy="356" r="9"/><path class="ink" d="M30 372v-7M30 356l4 -5"/>'), "main")
    for row, (name, word) in enumerate((("low_pa", "lowest"), ("high_pa", "highest"), ("main_floor_pa", "never below"))):
        to.tag(f"supply.{name}", word, 6, 290 + 19 * row)


def _tank(to: Sketch) -> None:
    """The pressure tank, the discharge sensor and the relief valve on the header."""
    tank = Markup('<path class="wall {}" d="M196 296v-34a14 14 0 0 1 28 0v34z"/><path class="ink" d="M210 296v10M196 280h28"/>').format(
        "is-told" if "vessel.volume_m3" in to.values else "is-unknown"
    )
    to.place("vessel", 188, 252, tank, "tank", anchor="end")
    to.tag("vessel.volume_m3", "holds", 186, 272, anchor="end")
    if to.wanted("vessel.precharge_found_pa"):
        to.tag("vessel.precharge_found_pa", "charge", 186, 292, anchor="end")
    to.place("sensor", 256, 298, Markup('<path class="ink" d="M238 306v8"/><circle class="wall" cx="238" cy="306" r="4"/>'), "sensor", anchor="start")
