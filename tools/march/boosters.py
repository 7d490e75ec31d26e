"""Random booster sets: tanks by Boyle, pumps by affinity, outlets by columns, all written apart from the core."""

import math
import random

from goodbalance.core.balance.plan import Plan
from goodbalance.core.errors import GoodBalanceError
from goodbalance.core.stations.booster.survey.choices import BoosterChoices
from goodbalance.core.stations.booster.survey.survey import BoosterSurvey
from goodbalance.core.stations.booster.windows.reckon import reckon
from tools.march.worst import Worst

AIR_PA, METRE_PA, VAPOUR_PA = 101_325.0, 998.2061 * 9.80665, 2339.2
DT_S = 0.05


class Own:
    """A set in a few lines: H = a n^2 - c Q^2, NPSH straight between three points, no pipe losses."""

    def __init__(self, rng: random.Random) -> None:
        self.kind = rng.choice(["constant", "constant", "on_off"])
        self.count = rng.randint(1, 4)
        self.sensor, self.worst = 0.0, rng.uniform(8.0, 30.0)
        self.lowest, self.top = rng.uniform(-12.0, 2.0), self.worst + rng.uniform(0.0, 4.0)
        self.residual, self.permitted = rng.uniform(1.0e5, 2.0e5), rng.uniform(5e5, 9e5)
        self.rating = rng.choice([8e5, 10e5, 16e5])
        self.outlet, self.width = rng.uniform(0.05, 0.4), rng.uniform(0.06, 0.2)
        self.water_low = self.outlet + rng.uniform(0.6, 6.0)
        self.water_high = self.water_low + rng.choice([0.02, 0.1, 0.5, 3.0])
        self.lost = rng.uniform(0.0, 8e3)
        self.design = rng.uniform(0.002, 0.012)
        each = self.design / self.count
        self.c = rng.uniform(8.0, 25.0) / (each * 1.2) ** 2
        self.a = self.worst + self.residual / METRE_PA + self.c * each**2 + rng.uniform(2.0, 20.0)
        self.most = min(each * rng.uniform(1.3, 1.9), 0.95 * math.sqrt(self.a / self.c))
        self.mean, self.least = self.design * rng.uniform(0.2, 0.5), self.design * rng.uniform(0.02, 0.08)
        self.switch = self.least * rng.uniform(0.3, 0.9)
        self.tank, self.starts = rng.choice([0.1, 0.5, 1.5, 4.0]), rng.choice([15.0, 20.0, 40.0, 60.0])
        self.npsh = (rng.uniform(0.8, 4.0), rng.uniform(4.0, 13.0))
        self.no_flow = rng.choice(["flow", "speed"])
        self.night = rng.random() < 0.3

    def survey(self) -> BoosterSurvey:
        points = [
            {"flow_m3s": self.most * s, "head_m": self.a - self.c * (self.most * s) ** 2, "npsh_m": self.needed(self.most * s, 1.0)}
            for s in (0.0, 0.5, 1.0)
        ]  # fmt: skip
        return BoosterSurvey.model_validate({
            "visit": {"controls_off": True},
            "control": {"kind": self.kind, "flow_switch": True, "flow_switch_m3s": self.switch},
            "supply": {"kind": "flooded", "pump_m": 0.0, "water_low_m": self.water_low, "water_high_m": self.water_high, "loss_pa": self.lost,
                       "temperature_c": 20.0, "outlet_m": self.outlet, "outlet_diameter_m": self.width},
            "suction_sensor": {"low_pa": -1e5, "high_pa": 2e5, "noise_pa": 200.0},
            "outlets": {"sensor_m": 0.0, "worst_m": self.worst, "lowest_m": self.lowest, "top_m": self.top, "residual_pa": self.residual,
                        "permitted_pa": self.permitted, "length_m": 0.5, "diameter_m": 1.0, "hazen_williams_c": 150.0, "minor_k": 0.0},
            "demand": {"least_m3s": self.least, "mean_m3s": self.mean, "design_m3s": self.design},
            "pumping": {"count": self.count, "starts_per_hour": self.starts, "curve": points},
            "vessel": {"volume_m3": self.tank, "rating_pa": self.rating},
            "motor": {"rated_current_a": 8.0, "rated_power_w": 4000.0, "least_hz": 15.0},
            "sensor": {"range_pa": 16e5, "noise_pa": 1e3},
        })  # fmt: skip

    def needed(self, flow: float, speed: float) -> float:
        """NPSH straight from no flow to the largest, by affinity."""
        share = flow / speed / self.most if speed > 0.0 else 0.0
        return (self.npsh[0] + (self.npsh[1] - self.npsh[0]) * min(1.0, share)) * speed**2

    def gives(self, speed: float, pressure: float, suction: float) -> float:
        rest = self.a * speed**2 - (pressure - suction) / METRE_PA
        return math.sqrt(rest / self.c) if rest > 0.0 else 0.0

    def speed(self, pressure: float, suction: float, flow: float) -> float:
        return math.sqrt(max(0.0, ((pressure - suction) / METRE_PA + self.c * flow**2) / self.a))

    def supply(self, flow: float, high: bool) -> float:
        return (self.water_high if high else self.water_low) * METRE_PA - self.lost * (flow / self.design) ** 2

    def stored(self, precharge: float, low: float, high: float) -> float:
        empty = precharge + AIR_PA
        return self.tank * empty * (1.0 / max(low + AIR_PA, empty) - 1.0 / max(high + AIR_PA, empty))

    def switched_starts(self, v: dict[str, float], drawn: float, hours: float = 1.0) -> int:
        """Starts of pump 1 by cut-in and cut-out at a demand: others join while it stays low; all stop together."""
        gas = self.tank * (v["precharge"] + AIR_PA) / (v["cut_in"] + AIR_PA)
        running, starts, low_since = 0, 0, 0.0
        for step in range(round(hours * 3600.0 / DT_S)):
            now, pressure = step * DT_S, self.tank * (v["precharge"] + AIR_PA) / gas - AIR_PA
            if pressure > v["cut_in"]:
                low_since = now
            if running and pressure >= v["cut_out"]:
                running = 0
            elif pressure <= v["cut_in"]:
                if running == 0:
                    running, starts, low_since = 1, starts + 1, now
                elif running < self.count and now - low_since >= v.get("join_delay", math.inf):
                    running, low_since = running + 1, now
            pumped = running * self.gives(1.0, pressure, self.supply(0.0, True))
            gas = min(self.tank * 0.9999, gas - (pumped - drawn) * DT_S)
        return starts


def march(stations: int) -> Worst:
    """Reckon and march so many random sets."""
    worst = Worst()
    for seed in range(stations):
        own = Own(random.Random(seed))
        try:
            schools = {"no_flow": own.no_flow, "night": own.night, "slow_fill": False} if own.kind == "constant" else {}
            plan = reckon(own.survey(), BoosterChoices.model_validate({"schools": schools}), False)
        except GoodBalanceError:
            worst.refused += 1
            continue
        values = {setting.id: setting.value for setting in plan.settings}
        open_ones = {setting.id for setting in plan.settings if not setting.window.is_empty}
        if open_ones < values.keys():
            worst.not_sound += 1
        else:
            worst.sound += 1
        _suction(own, values, open_ones, worst, seed)
        _pressures(own, plan, values, open_ones, worst, seed)
        if own.kind == "constant":
            _speeds(own, values, open_ones, worst, seed)
        elif "cut_out" in open_ones and {"join_delay"} & values.keys() <= open_ones:
            rate = own.gives(1.0, (values["cut_in"] + values["cut_out"]) / 2.0, own.supply(0.0, True))
            shares = [0.45, 0.5, 0.6, *(over * n for n in range(1, own.count) for over in (1.02, 1.05, 1.1))]
            tried = [own.switched_starts(values, rate * share) for share in shares if rate * share <= own.design]
            worst.note("starts of a switched pump, over the permitted", max(tried) / (own.starts + 1.0), seed)
    return worst


def _suction(own: Own, v: dict[str, float], open_ones: set[str], worst: Worst, seed: int) -> None:
    if "low_suction_stop" not in open_ones:
        return
    stop = v["low_suction_stop"]
    reads = -math.inf
    for step in range(101):
        flow = own.design * step / 100.0
        velocity = flow / (math.pi * own.width**2 / 4.0)
        level = own.outlet + own.width * (1.0 + 2.3 * velocity / math.sqrt(9.80665 * own.width))
        reads = max(reads, level * METRE_PA - own.lost * (flow / own.design) ** 2)
    worst.note("what the suction reads when the outlet draws air, over the stop (absolute)", (reads + AIR_PA) / (stop + AIR_PA), seed)
    held = [v[name] for name in ("set_pressure", "night_pressure", "cut_in") if name in v]
    needed = 0.0
    for pressure in held:
        limit = own.design if own.kind == "constant" else math.inf
        for step in range(1, 41):
            flow = min(limit, own.gives(1.0, pressure, own.supply(own.design, False))) * step / 40.0
            speed = own.speed(pressure, stop, flow) if own.kind == "constant" else 1.0
            if speed <= 1.0:
                needed = max(needed, own.needed(flow, speed))
    room = (AIR_PA + stop - VAPOUR_PA) / METRE_PA
    worst.note("NPSH of the largest flow one pump carries, over what the stop leaves", (needed + 0.5) / room, seed)
    if "low_suction_reset" in open_ones:
        back = v["low_suction_reset"]
        worst.note("spring-back at the stop, over the reset (absolute)", (stop + own.lost + AIR_PA) / (back + AIR_PA), seed)
        worst.note("reset, over the lowest supply at rest (absolute)", (back + AIR_PA) / (own.supply(0.0, False) + AIR_PA), seed)


def _pressures(own: Own, plan: Plan, v: dict[str, float], open_ones: set[str], worst: Worst, seed: int) -> None:
    name = "set_pressure" if own.kind == "constant" else "cut_in"
    if name in open_ones:
        worst.note("pressure wanted at the worst outlet, over what it gets", own.residual / (v[name] - own.worst * METRE_PA), seed)
        column = own.top * METRE_PA
        back = v.get("restart", v.get("cut_in", 0.0))
        worst.note("standing column, over the pressure that brings pumps back", column / back, seed)
    if "cut_out" in open_ones:
        shut = own.a * METRE_PA + own.supply(0.0, False)
        worst.note("cut-out, over the shut-off pressure at the lowest supply", v["cut_out"] / shut, seed)
    if "high_stop" in open_ones:
        there = v["high_stop"] + max(0.0, -own.lowest) * METRE_PA
        worst.note("high stop at the lowest part, over nine tenths of its rating", there / (0.9 * own.rating), seed)
    if "set_pressure" in open_ones and own.kind == "constant" and "high_stop" in open_ones and seed % 4 == 0:
        rise = _overshoot(own, v)
        worst.note("overshoot of outlets closed at once, over the room under the high stop", rise / (v["high_stop"] - v["set_pressure"]), seed)


def _overshoot(own: Own, v: dict[str, float], dt: float = 0.002) -> float:
    """Mean flow to one tap at once, highest supply: an explicit march of tank, drive, lag and regulator."""
    pressure, set_pa = v["set_pressure"], v["set_pressure"]
    supply, k = own.supply(0.0, True), own.mean / math.sqrt(own.residual)
    over = set_pa - own.worst * METRE_PA
    flow = k * math.sqrt(over)
    pumps = next((n for n in range(1, own.count + 1) if own.speed(set_pa, supply, flow / n) <= v["most_speed"]), own.count)
    speed = drive = min(1.0, own.speed(set_pa, supply, flow / pumps))
    empty = v["precharge"] + AIR_PA
    gas, believed, integral, highest, output = own.tank * empty / (pressure + AIR_PA), pressure, speed, pressure, speed
    k *= own.least / own.mean
    for step in range(round(20.0 / dt)):
        if step % round(0.1 / dt) == 0:
            share = 1.0 - math.exp(-0.1 / v["filter"])
            believed += share * (pressure - believed)
            error = (set_pa - believed) / 16e5
            integral = min(v["most_speed"], max(v["least_speed"], integral + v["gain"] * error * 0.1 / v["reset_time"]))
            output = min(v["most_speed"], max(v["least_speed"], integral + v["gain"] * error))
        drive += max(-dt / v["ramp"], min(dt / v["ramp"], output - drive))
        speed += (drive - speed) * dt / 0.3
        drawn = k * math.sqrt(max(0.0, pressure - own.worst * METRE_PA))
        gas -= (pumps * own.gives(speed, pressure, supply) - drawn) * dt
        pressure = own.tank * empty / gas - AIR_PA
        highest = max(highest, pressure)
    return highest - set_pa


def _speeds(own: Own, v: dict[str, float], open_ones: set[str], worst: Worst, seed: int) -> None:
    held = [v["set_pressure"], *([v["night_pressure"]] if "night_pressure" in v else [])]
    ends = [(pa, own.supply(0.0, high)) for pa in held for high in (False, True)]
    if "sleep_speed" in open_ones:
        idle = max(own.speed(pa, suction, 0.0) for pa, suction in ends)
        least = min(own.speed(pa, own.supply(own.least, high), own.least) for pa in held for high in (False, True))
        worst.note("speed without flow, over the sleep speed", idle / v["sleep_speed"], seed)
        worst.note("sleep speed, over the speed at the smallest flow", v["sleep_speed"] / least, seed)
    if "least_speed" in open_ones:
        worst.note("least speed, over the lowest speed without flow", v["least_speed"] / min(own.speed(pa, s, 0.0) for pa, s in ends), seed)
    if {"leave_speed", "join_speed"} <= open_ones:
        ratios = [
            n * own.gives(v["leave_speed"], pa, s) / ((n - 1) * own.gives(v["join_speed"], pa, s))
            for n in range(2, own.count + 1) for pa, s in ends if own.gives(v["join_speed"], pa, s) > 0.0
        ]  # fmt: skip
        worst.note("flow when a pump leaves, over what one less carries", max(ratios, default=0.0), seed)
    if "sleep_delay" in open_ones and ("sleep_speed" in open_ones or own.no_flow == "flow"):
        starts = 0.0
        for pa in held:
            stored = own.stored(v["precharge"], v["restart"], pa + v.get("boost", 0.0))
            for high in (False, True):
                suction = own.supply(0.0, high)
                most = own.switch if own.no_flow == "flow" else own.gives(v["sleep_speed"], pa, suction)
                for share in (0.5, 0.75, 0.98):
                    drawn = most * share
                    fills = max(1e-9, own.gives(v["most_speed"], v["restart"], suction) * own.count - drawn)
                    starts = max(starts, 3600.0 / (stored / max(drawn, 1e-9) + stored / fills + v["sleep_delay"]))
        worst.note("starts of a set that sleeps on its tank, over the permitted", starts / own.starts, seed)
