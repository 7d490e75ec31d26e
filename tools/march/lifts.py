"""Random lift stations: wells that fill and pumps that empty them, second by second, against the plan's bounds."""

import math
import random

from goodbalance.core.errors import GoodBalanceError
from goodbalance.core.stations.lift.survey.choices import LiftChoices
from goodbalance.core.stations.lift.survey.survey import LiftSurvey
from goodbalance.core.stations.lift.windows.reckon import reckon
from tools.march.worst import Worst

DT_S, HOURS = 1.0, 2.0
G = 9.80665


class Own:
    """A station in a few lines: a straight well, pumps alike with H = a - c Q^2, a main by Hazen-Williams and fittings."""

    def __init__(self, rng: random.Random) -> None:
        self.area = rng.uniform(0.8, 12.0)
        self.invert = rng.uniform(1.8, 4.0)
        self.overflow = self.invert + rng.uniform(0.8, 2.0)
        self.intake = rng.uniform(0.1, 0.3)
        self.outlet = self.invert + rng.uniform(3.0, 15.0)
        self.length, self.diameter = rng.uniform(10.0, 600.0), rng.choice([0.08, 0.1, 0.15, 0.2])
        self.k, self.hw = rng.uniform(2.0, 20.0), rng.uniform(110.0, 145.0)
        self.count = rng.randint(1, 4)
        self.design = rng.uniform(0.003, 0.03)
        self.a = (self.outlet + self.loss(self.design)) * rng.uniform(1.3, 1.8)
        self.c = (self.a - self.outlet - self.loss(self.design)) / self.design**2
        self.mean = self.design * rng.uniform(0.1, 0.5)
        self.low = self.mean * rng.uniform(0.1, 0.6)
        self.peak = self.mean * rng.uniform(1.5, 3.0)
        self.starts, self.response = rng.choice([6.0, 10.0, 15.0, 20.0]), rng.uniform(120.0, 1200.0)
        self.bell, self.submergence = rng.uniform(0.08, 0.25), rng.uniform(0.1, 0.4)
        self.flows = [[self.solved(n, level * 0.05) for level in range(140)] for n in range(self.count + 1)]

    def loss(self, flow: float) -> float:
        velocity = 4.0 * flow / (math.pi * self.diameter**2)
        friction = 10.67 * self.length * flow**1.852 / (self.hw**1.852 * self.diameter**4.8704)
        return friction + self.k * velocity**2 / (2.0 * G)

    def solved(self, pumps: int, level: float) -> float:
        """Total flow of so many pumps at a level, by halving."""
        if pumps == 0 or self.a <= self.outlet - level:
            return 0.0
        low, high = 0.0, pumps * math.sqrt((self.a - min(self.outlet - level, self.a)) / self.c) + 1e-9
        for _ in range(50):
            flow = (low + high) / 2.0
            spare = self.a - self.c * (flow / pumps) ** 2 - (self.outlet - level) - self.loss(flow)
            low, high = (flow, high) if spare > 0.0 else (low, flow)
        return low

    def flow(self, pumps: int, level: float) -> float:
        place = max(0.0, min(138.0, level / 0.05))
        left = int(place)
        row = self.flows[pumps]
        return row[left] + (row[left + 1] - row[left]) * (place - left)

    def survey(self) -> LiftSurvey:
        points = [{"flow_m3s": self.design * s, "head_m": self.a - self.c * (self.design * s) ** 2} for s in (0.0, 0.5, 1.0)]
        return LiftSurvey.model_validate({
            "visit": {"controls_off": True},
            "well": {"shape": "rectangle", "length_m": self.area, "width_m": 1.0, "depth_m": self.overflow + 0.5, "intake_m": self.intake},
            "inlet": {"invert_m": self.invert, "overflow_m": self.overflow},
            "inflow": {"min_m3s": self.low, "mean_m3s": self.mean, "peak_m3s": self.peak},
            "main": {"outlet_m": self.outlet, "length_m": self.length, "diameter_m": self.diameter, "hazen_williams_c": self.hw, "minor_k": self.k},
            "pumping": {"count": self.count},
            "pump_1": {"curve": points, "min_submergence_m": self.submergence, "bell_diameter_m": self.bell, "starts_per_hour": 30.0,
                       "rated_voltage_v": 400.0, "rated_current_a": 9.0, "rated_power_w": 4000.0},
            "sensor": {"mounting_m": 0.05, "range_m": 8.0, "noise_m": 0.005, "counts": 4000},
            "demands": {"starts_per_hour": self.starts, "response_s": self.response}, "as_found": {},
        })  # fmt: skip

    def run(self, levels: dict[str, float], inflow: float, pumps: int, one: bool) -> tuple[int, float]:
        """Most starts of one pump and the longest fill from stop to the duty start. one: a single pump takes every start."""
        level, running, starts = levels["stop"] + 0.01, 0, [0] * self.count
        lead, since, longest = 0, 0.0, 0.0
        for step in range(round(HOURS * 3600.0 / DT_S)):
            level += (inflow - self.flow(running, level)) / self.area * DT_S
            wanted = running
            if level <= levels["stop"]:
                if running:
                    since, lead = step * DT_S, 0 if one else (lead + 1) % self.count
                wanted = 0
            for call in range(1, pumps + 1):
                if level >= levels[f"start_{call}"]:
                    wanted = max(wanted, call)
            for call in range(running, wanted):
                starts[(lead + call) % self.count if not one else call] += 1
                if call == 0:
                    longest = max(longest, step * DT_S - since)
            running = wanted
        return max(starts), longest


def march(stations: int) -> Worst:
    """Reckon and march so many random stations."""
    worst = Worst()
    for seed in range(stations):
        own = Own(random.Random(seed))
        try:
            plan = reckon(own.survey(), LiftChoices(), False)
        except GoodBalanceError:
            worst.refused += 1
            continue
        levels = {setting.id: setting.value for setting in plan.group("levels")}
        if any(s.window.is_empty for s in plan.group("levels")):
            worst.not_sound += 1
            continue
        worst.sound += 1
        _look(own, levels, worst, seed)
    return worst


def _look(own: Own, levels: dict[str, float], worst: Worst, seed: int) -> None:
    stop, start, alarm = levels["stop"], levels["start_1"], levels["high_alarm"]
    alone = own.flow(1, (stop + start) / 2.0)
    permitted = own.starts * HOURS + 1.0  # counted in whole starts
    found = max(own.run(levels, alone * share, 1, True)[0] for share in (0.4, 0.5, 0.6))
    worst.note("starts of one pump, one in service", found / permitted, seed)
    if own.count > 1:
        both = own.flow(2, start)
        found = max(own.run(levels, alone + (both - alone) * share, 2, True)[0] for share in (0.2, 0.5, 0.8))
        worst.note("starts of the assist under a running duty pump", found / permitted, seed)
    worst.note("fill from stop to start at mean inflow, over 30 min", (start - stop) * own.area / own.mean / 1800.0, seed)
    worst.note("the same at the lowest inflow, over 2 h", (start - stop) * own.area / own.low / 7200.0, seed)
    worst.note("response time, over the time from alarm to overflow", own.response / ((own.overflow - alarm) * own.area / own.peak), seed)
    velocity = own.flow(1, own.invert) / (math.pi * own.bell**2 / 4.0)
    vortex = own.bell * (1.0 + 2.3 * velocity / math.sqrt(G * own.bell))
    worst.note("submergence needed, over the stop's", max(vortex, own.submergence) / (stop - own.intake), seed)
    worst.note("last start, over invert less freeboard", levels[f"start_{own.count}"] / (own.invert - 0.10), seed)
