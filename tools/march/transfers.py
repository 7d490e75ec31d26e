"""Random transfer sets: a line and its valves marched second by second, pumps and pipes as parabolas, all written apart from the core."""

import math
import random

from goodbalance.core.balance.plan import Plan
from goodbalance.core.errors import GoodBalanceError
from goodbalance.core.stations.transfer.survey.choices import TransferChoices
from goodbalance.core.stations.transfer.survey.survey import TransferSurvey
from goodbalance.core.stations.transfer.windows.reckon import reckon
from tools.march.worst import Worst

DENSITY, G = 999.1, 9.80665
VISCOSITY, WALL_M = 1.1375e-6, 1.5e-6  # of water at 15 degrees, of a smooth pipe
DT_S = 0.02
BAR_M = 1e5 / (1000.0 * G)


class Own:
    """A set in a few lines: one to three pumps H = a - c q^2 on one source, one or two tanks over a smooth pipe."""

    def __init__(self, rng: random.Random) -> None:
        self.full_by = rng.choice(["pressure", "pressure", "levels", "both"])
        self.pumps, self.standby = rng.choice([1, 1, 2, 2, 3]), rng.random() < 0.5
        self.rate = math.exp(rng.uniform(math.log(4e-4), math.log(2e-2)))
        self.low, self.high = -rng.uniform(0.5, 12.0), 0.0
        self.high = self.low + rng.uniform(0.6, 4.0)
        self.safe = self.low - rng.uniform(0.3, 2.0)
        self.source_m2 = rng.choice([None, rng.uniform(2.0, 40.0)])
        count = rng.choice([1, 1, 2])
        first = rng.uniform(8.0, 45.0)
        self.inlets = [first, first + rng.uniform(0.5, 9.0)][:count]
        self.area = [rng.uniform(2.0, 30.0) * max(0.2, self.rate / 2e-3) for _ in range(count)]
        self.closes = [rng.uniform(1.2, 3.0) for _ in range(count)]
        self.snaps = [rng.random() < 0.6 for _ in range(count)]
        self.throttles = [0.0 if snaps else rng.uniform(0.03, 0.25) for snaps in self.snaps]
        self.drop = [rng.uniform(0.1, 0.5) if snaps else rng.choice([0.0, 0.02, 0.1]) for snaps in self.snaps]
        self.closing = [rng.uniform(3.0, 25.0) for _ in range(count)]
        self.kv = [self.rate * rng.uniform(0.9, 2.5) for _ in range(count)]
        self.mean = [self.rate * rng.uniform(0.05, 0.3) / count for _ in range(count)]
        self.line_m, self.k = rng.uniform(20.0, 600.0), rng.uniform(5.0, 40.0)
        self.width = math.sqrt(4.0 * self.rate / (math.pi * rng.uniform(0.4, 1.4)))
        self.static = max(self.inlets) - self.low
        worst = self.static + self.friction(self.rate) + BAR_M * (self.rate / min(self.kv)) ** 2
        many = self.duty
        self.a = worst * rng.uniform(1.15, 1.5) + (many - 1) * self.friction(self.rate) * 2.0 + 4.0
        self.c = max(0.5, (self.a - worst)) / self.rate**2 * rng.uniform(0.5, 1.0)
        self.leak = rng.choice([0.0, 0.0, rng.uniform(1e-8, 4e-7)])
        self.wave = rng.choice([300.0, 420.0, 1000.0, 1200.0])
        self.starts = rng.choice([6.0, 12.0, 20.0, 30.0])
        self.schools = {
            "restart_by": rng.choice(["pressure_and_time", "pressure_and_time", "time_alone"]), "delay_from": rng.choice(["drop", "stop"]), "after_cut": rng.choice(["anew", "kept", "skipped"]),
            "source_reset": rng.choice(["automatic", "by_hand"]), "alternation": rng.choice(["all_stopped", "fixed", "run_hours", "clock"]), "alarm_reset": rng.choice(["automatic", "by_hand"]),
        }  # fmt: skip
        self.wire = rng.choice(["sensor", "watched", "opens"])
        self.source_by = rng.choice(["sensor", "switch", "none"])
        self.reacts = (rng.choice([0.0, 0.5, 1.5]), rng.choice([0.2, 1.0]), rng.choice([0.0, 1.0, 2.0]))  # filter, scan, run-down

    @property
    def duty(self) -> int:
        return self.pumps - 1 if self.standby and self.pumps > 1 else self.pumps

    def friction(self, flow: float) -> float:
        """Loss of the common line's fittings, by which it is laid out."""
        return self.k * (flow / (math.pi * self.width**2 / 4.0)) ** 2 / (2.0 * G)

    def survey(self) -> TransferSurvey:
        """The same as the core asks it."""
        points = [{"flow_m3s": self.rate * s, "head_m": self.a - self.c * (self.rate * s) ** 2, "power_w": 0.6 * self.a * 9806.65 * self.rate * (0.7 + s)} for s in (0.0, 0.6, 1.2, 1.6)]
        points = [point for point in points if point["head_m"] > 0.5]
        power_w = 0.6 * self.a * 9806.65 * self.rate * 2.4
        tanks = {
            f"tank_{n + 1}": {
                "floor_m": inlet - self.closes[n] - 0.5, "area_m2": self.area[n], "overflow_m": self.closes[n] + 0.35, "entry_m": self.closes[n] + 0.5, "branch_m": 0.1, "branch_diameter_m": 1.0, "branch_k": 0.0,
                "valve_m3s": self.kv[n], "closes_m": self.closes[n], "throttles_m": self.throttles[n], "opens_drop_m": self.drop[n], "closing_s": self.closing[n], "mean_m3s": self.mean[n], "peak_m3s": self.mean[n] * 1.8,
            }
            for n, inlet in enumerate(self.inlets)
        }  # fmt: skip
        return TransferSurvey.model_validate({
            "visit": {"controls_off": True}, "control": {"full_by": self.full_by, "tank_wire": self.wire, "source_by": self.source_by, "phase_monitor": True},
            "source": {"low_m": self.low, "high_m": self.high, "safe_m": self.safe, "area_m2": self.source_m2, "inflow_m3s": self.rate, "loss_m": 0.0},
            "pumping": {"count": self.pumps, "standby": self.standby and self.pumps > 1, "starts_per_hour": self.starts, "curve": points},
            "motor": {"rated_current_a": max(0.3, power_w / (math.sqrt(3.0) * 400.0 * 0.85)), "rated_power_w": max(25.0, 0.8 * power_w), "power_factor": 0.85},
            "line": {"length_m": self.line_m, "diameter_m": self.width, "friction": "darcy_weisbach", "sand_roughness_m": WALL_M, "minor_k": self.k, "rating_pa": 4e6, "wave_ms": self.wave,
                     "leak_m3s": self.leak, "leak_at_pa": 4e5, "density_kgm3": DENSITY, "temperature_c": 15.0},
            "tanks": {"count": len(self.inlets), "outage_s": 600.0, "drinking": False, "peak_lasts_s": 1800.0, "lost_m3": 5000.0, "response_s": 300.0}, **tanks,
            "sensor": {"height_m": 0.0, "range_pa": 16e5, "noise_pa": 1e3, "error_share": 0.002, "filter_s": self.reacts[0], "scan_s": self.reacts[1], "run_down_s": self.reacts[2]},
        })  # fmt: skip

    def holds(self, tank: int, opening: float, pumps: int, source: float) -> tuple[float, float]:
        """Flow and pressure at the sensor while pumps fill one tank through a valve opened to a share."""
        area, factor, flow = math.pi * self.width**2 / 4.0, 0.02, 0.0
        for _ in range(8):
            line = (self.k + factor * self.line_m / self.width) / area**2 / (2.0 * G) + BAR_M / (self.kv[tank] * max(opening, 1e-9)) ** 2
            flow = math.sqrt(max(0.0, self.a + source - self.inlets[tank]) / (self.c / pumps**2 + line))
            reynolds = max(1.0, flow / area * self.width / VISCOSITY)
            factor = 64.0 / reynolds if reynolds < 2300.0 else (-2.0 * math.log10(WALL_M / 3.7 / self.width + 2.51 / reynolds / math.sqrt(factor))) ** -2
        return flow, DENSITY * G * (self.inlets[tank] + line * flow * flow)

    def past(self, tank: int, stop: float, first: int, then: int) -> float:
        """How far the pressure goes past the stop: a valve closing step by step, nobody drawing; more pumps may join at the stop. The source stands high."""
        opening, left, highest, pumps = 1.0, math.inf, 0.0, first
        while left > 0.0:
            flow, pressure = self.holds(tank, opening, pumps, self.high)
            if pressure >= stop and left == math.inf:
                left, pumps = sum(self.reacts), then
                flow, pressure = self.holds(tank, opening, pumps, self.high)
            if left < math.inf:
                highest = max(highest, pressure)
            falls = min(flow / (self.area[tank] * self.throttles[tank]) if self.throttles[tank] else math.inf, 1.0 / self.closing[tank])
            step = min(DT_S, left) if left < math.inf else (5e-5 if pressure > 0.9 * stop else 2e-3) * max(opening, 0.01) / falls
            opening, left = max(0.0, opening - falls * step), left - step
            if opening <= 0.0 and left == math.inf:
                return 0.0  # it never came to the stop
        return max(highest, self.holds(tank, opening, pumps, self.high)[1]) - stop

    def leak_cycle(self, stop: float, restart: float, delay: float) -> float:
        """From start to start of a line that only leaks: it is filled by the weakest source, sags by its leak, and the delay counts."""
        stores = math.pi * self.width**2 / 4.0 * self.line_m + len(self.inlets) * math.pi / 4.0 * 0.1
        stores /= DENSITY * self.wave**2
        filled, taken = restart, 0.0
        top = DENSITY * G * (self.a + self.low)
        reacts = sum(self.reacts)
        while taken < reacts or filled < min(stop, top) - 1.0:  # it runs to the stop, and on while it reacts
            gives = math.sqrt(max(0.0, self.a + self.low - filled / (DENSITY * G)) / self.c)
            step = min(1e-3, 20.0 * stores * (stop - restart + 1e3) / 1e4 / max(gives, 1e-12))
            filled, past = min(top, filled + gives / stores * step), filled >= min(stop, top) - 1.0
            taken += step if past else 0.0
            if top - filled < 1.0:
                break
        pressure, sags = filled, 0.0
        while pressure > restart:
            leaks = self.leak * math.sqrt(pressure / 4e5) / stores
            step = 1e-4 * pressure / leaks
            pressure, sags = pressure - leaks * step, sags + step
        return max(sags, delay) if self.schools["delay_from"] == "stop" else sags + delay

    def choices(self) -> TransferChoices:
        return TransferChoices.model_validate({"schools": self.schools, "rules": {"margin_pa": 6e3, "worn_share": 0.01}})


def march(count: int) -> Worst:
    """Reckon and march so many random sets."""
    worst = Worst()
    for seed in range(count):
        own = Own(random.Random(seed))
        try:
            survey = own.survey()
            plan = reckon(survey, own.choices(), False)
        except (GoodBalanceError, ValueError):
            worst.refused += 1
            continue
        worst.sound, worst.not_sound = worst.sound + plan.is_sound, worst.not_sound + (not plan.is_sound)
        if plan.is_sound and own.full_by != "levels":
            _look(own, {setting.id: setting.value for setting in plan.settings}, {figure.id: figure.value for figure in plan.figures}, worst, seed)
    return worst


def _look(own: Own, v: dict[str, float], figures: dict[str, float], worst: Worst, seed: int) -> None:
    tanks, stop = range(len(own.inlets)), v["stop_pressure"]
    teams = {(1, 1), (own.duty, own.duty), (1, own.duty)}
    running = [own.holds(tank, 1.0, pumps, own.high)[1] for tank in tanks for pumps in (1, own.duty)]
    worst.note("highest running pressure into one tank, over the stop", max(running) / stop, seed)
    worst.note("run-out stop, over the lowest running pressure", v["least_pressure"] / min(own.holds(tank, 1.0, 1, own.low)[1] for tank in tanks), seed)
    worst.note("stop, over the shut-off pressure at the lowest source", stop / (DENSITY * G * (own.a + own.low)), seed)
    past, reckoned = max(own.past(tank, stop, *team) for tank in tanks for team in teams), figures["overshoot"]
    if reckoned > 2e3:
        worst.note("past the stop, marched over reckoned, 2 % allowed", past / reckoned / 1.02, seed)
        worst.note("past the stop, reckoned over marched, 2 % allowed", reckoned / past / 1.02, seed)
    if "restart_pressure" in v:
        worst.note("column of the highest inlet, over the restart", DENSITY * G * max(own.inlets) / v["restart_pressure"], seed)
        if own.leak:
            starts = 3600.0 / own.leak_cycle(stop, v["restart_pressure"], v["restart_delay"])
            worst.note("starts for a leak, marched over reckoned, 1 % allowed", starts / figures["leak_starts"] / 1.01, seed)
            worst.note("starts for a leak, reckoned over marched, 1 % allowed", figures["leak_starts"] / starts / 1.01, seed)
    for tank in tanks:
        opens = own.closes[tank] - own.drop[tank]
        worst.note("drawn at most while the delay counts, over what stands above the outlet", own.mean[tank] * 1.8 * v["restart_delay"] / (own.area[tank] * (opens - 0.15)), seed)
        fills = own.area[tank] * own.drop[tank] / (own.holds(tank, 1.0, 1, own.low)[0] - own.mean[tank] * 1.8)
        worst.note("an honest fill at the largest draw, over the longest run", fills / v["longest_run"] if fills > 0.0 else 0.0, seed)


def sets(rng: random.Random, count: int) -> "list[tuple[Own, TransferSurvey, TransferChoices, Plan]]":
    """So many whose plan is sound."""
    found: list[tuple[Own, TransferSurvey, TransferChoices, Plan]] = []
    while len(found) < count:
        own = Own(rng)
        try:
            survey, choices = own.survey(), own.choices()
            plan = reckon(survey, choices, False)
        except (GoodBalanceError, ValueError):
            continue
        if plan.is_sound:
            found.append((own, survey, choices, plan))
    return found
