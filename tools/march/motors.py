"""Random motors with what guards them: currents, heat and power marched by a model of its own against the plan's settings."""

import math
import random
from typing import Any

from goodbalance.core.errors import GoodBalanceError
from goodbalance.core.stations.lift.survey.choices import LiftChoices
from goodbalance.core.stations.lift.survey.survey import LiftSurvey
from goodbalance.core.stations.lift.windows.reckon import reckon
from tools.march import lifts
from tools.march.worst import Worst

HOURS, DT_S = 6.0, 1.0
BURNS = 1.4


class Own:
    """A motor of three phases: magnetising and working current from its plate, shaft power straight over the flow of its pump."""

    def __init__(self, rng: random.Random) -> None:
        self.well = lifts.Own(rng)
        self.volts, self.amps = 400.0, rng.uniform(2.0, 60.0)
        self.cos, self.eff = rng.uniform(0.72, 0.92), rng.uniform(0.70, 0.93)
        self.input = math.sqrt(3.0) * self.volts * self.amps * self.cos
        self.service = rng.choice((1.0, 1.0, 1.15))
        self.standing, self.start, self.stall = rng.uniform(4.5, 8.0), rng.uniform(0.2, 2.5), rng.uniform(6.0, 25.0)
        self.low, self.high, self.uneven = rng.uniform(0.88, 0.97), rng.uniform(1.0, 1.07), rng.uniform(0.0, 0.02)
        self.idle_load, self.full_load = rng.uniform(0.3, 0.6), rng.uniform(0.75, 0.97)  # of the plate's input, without flow and at the curve's end
        self.refill, self.patience = rng.uniform(120.0, 900.0), rng.uniform(3600.0, 14400.0)

    def load(self, flow: float) -> float:
        """Of the plate's input."""
        return self.idle_load + (self.full_load - self.idle_load) * min(1.0, flow / self.well.design)

    def current(self, load: float, volts: float) -> float:
        idle, works = self.amps * math.sqrt(1.0 - self.cos**2), self.amps * self.cos
        return math.sqrt((idle * volts) ** 2 + (works * load / volts) ** 2)

    def survey(self) -> LiftSurvey:
        facts: dict[str, Any] = self.well.survey().model_dump()
        for point in facts["pump_1"]["curve"]:
            if point["flow_m3s"] is not None:
                point["power_w"] = self.load(point["flow_m3s"]) * self.input * self.eff
        facts["pump_1"] |= {
            "rated_voltage_v": self.volts, "rated_current_a": self.amps, "power_factor": self.cos, "rated_power_w": self.input * self.eff,
            "service_factor": self.service, "standing_factor": self.standing,
        }  # fmt: skip
        facts["control"] |= {"phase_monitor": True}
        facts["protection"] |= {
            "start_s": self.start, "stall_s": self.stall, "low_voltage": self.low, "high_voltage": self.high, "uneven": self.uneven, "monitor": "voltages",
            "underload_by": "power", "refill_s": self.refill, "patience_s": self.patience,
        }  # fmt: skip
        return LiftSurvey.model_validate(facts)


def heat(amps: list[float], trip: float, per_class: float) -> float:
    """The largest heat of a thermal image while currents flow, a second each; tau of a class that trips in its seconds at six times the trip current."""
    tau, theta, most = per_class / math.log(36.0 / 35.0), 0.0, 0.0
    for current in amps:
        theta += ((current / trip) ** 2 - theta) * DT_S / tau
        most = max(most, theta)
    return most


def march(motors: int) -> Worst:
    """Reckon and march so many random motors."""
    worst = Worst()
    for seed in range(motors):
        own = Own(random.Random(seed))
        choices = LiftChoices.model_validate({"protection": {"after": "tries"}})
        try:
            plan = reckon(own.survey(), choices, False)
        except GoodBalanceError:
            worst.refused += 1
            continue
        guards = {setting.id: setting for setting in plan.group("protection")}
        whole = not any(setting.window.is_empty for setting in guards.values())
        worst.sound, worst.not_sound = worst.sound + whole, worst.not_sound + (not whole)
        _look(own, {name: setting.value for name, setting in guards.items() if not setting.window.is_empty}, worst, seed)
    return worst


def _look(own: Own, v: dict[str, float], worst: Worst, seed: int) -> None:
    flows = [own.well.flow(n, level * 0.2) / n for n in range(1, own.well.count + 1) for level in range(int(own.well.invert / 0.2) + 1)]
    honest = [own.load(flow) for flow in flows if flow > 0.0] or [own.full_load]
    if "overload_1" in v:
        trip, code = v["overload_1"], 1.25 if own.service >= 1.15 else 1.15
        hours = [own.current(max(honest), volts) for volts in (own.low, 1.0, own.high) for _ in range(int(HOURS * 1200.0))]
        worst.note("heat of the overload through hours of the most honest load, at every honest voltage", heat(hours, trip, v.get("overload_class_1", 10.0)), seed)
        worst.note("trip current, over the plate's times the code", trip / (own.amps * code), seed)
        if "overload_class_1" in v:
            per_class, standing = v["overload_class_1"], own.amps * own.standing
            worst.note("heat of the overload after a start at the lowest voltage", heat([standing * own.low] * max(1, round(own.start)), trip, per_class), seed)
            tau, over = per_class / math.log(36.0 / 35.0), standing / trip
            worst.note("time to the trip with a standing rotor, over what it stands", tau * math.log(over**2 / (over**2 - 1.0)) / own.stall, seed)
    if "underload_1" in v:
        worst.note("power at a closed valve, over the under-load", own.idle_load * own.input / v["underload_1"], seed)
        worst.note("under-load, over the least power of honest work", v["underload_1"] / (min(honest) * own.input), seed)
    if {"retry_wait_1", "retries_1"} <= v.keys():
        worst.note("refill, over the wait before a try", own.refill / v["retry_wait_1"], seed)
        worst.note("all tries, over what can be waited for", v["retry_wait_1"] * v["retries_1"] / own.patience, seed)
    if "supply_low" in v:
        worst.note("under-voltage trip, over the lowest honest voltage", v["supply_low"] / (own.low * own.volts), seed)
        worst.note("current just over the under-voltage trip, over the overload", own.current(max(honest), v["supply_low"] / own.volts) / v.get("overload_1", math.inf), seed)
    if "supply_high" in v:
        worst.note("highest honest voltage, over the over-voltage trip", own.high * own.volts / v["supply_high"], seed)
    if "supply_uneven" in v:
        load = own.current(max(honest), 1.0) / (own.amps * own.service)
        worst.note("heat of the winding at the unbalance trip, over what burns it", load**2 * (1.0 + 200.0 * v["supply_uneven"] ** 2) / BURNS, seed)
        worst.note("usual unbalance, over its trip", own.uneven / v["supply_uneven"], seed)
    if "supply_delay" in v:
        worst.note("supply delay, over what a standing rotor stands", v["supply_delay"] / own.stall, seed)
