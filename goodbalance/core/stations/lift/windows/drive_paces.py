"""Speeds of drives on lift pumps that are no loop: one economical speed, and what an outside signal stands for."""

from scipy.optimize import brentq

from goodbalance.core.balance.plan import Figure, Setting, placed
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term, Trail, given
from goodbalance.core.balance.window import Bound, Source, Window
from goodbalance.core.physics.pumps import between
from goodbalance.core.physics.water import GRAVITY_MS2
from goodbalance.core.stations.lift.names import Role
from goodbalance.core.stations.lift.names import SettingId as S
from goodbalance.core.stations.lift.plant.hydraulics import Hydraulics
from goodbalance.core.stations.lift.survey.level_sensor import WATER_KGM3
from goodbalance.core.stations.lift.windows.bands import Bands, Levels

SLOWEST = 0.05  # slower than this no speed is looked for
STEPS = 40  # speeds of a window that are compared for their energy
PUMP_SHARE = 0.6  # efficiency taken where the maker's power is not noted: the lowest energy is then that of the lowest head
FULL = 1.0


def carrying_speed(hyd: Hydraulics, pumps: tuple[int, ...], level_m: float, flow_m3s: float) -> float:
    """The speed at which these pumps just carry a flow at a level, as a share of full; 1 where even full speed does not.

    Source: affinity laws with the operating point on the main, by bracketed root.
    """

    def short_m3s(speed: float) -> float:
        return hyd.point(pumps, level_m, round(speed, 5)).flow_m3s - flow_m3s

    if short_m3s(FULL) <= 0.0:
        return FULL
    return SLOWEST if short_m3s(SLOWEST) >= 0.0 else float(brentq(short_m3s, SLOWEST, FULL, xtol=1e-4))


def energy_jm3(hyd: Hydraulics, level_m: float, speed: float) -> tuple[float, float, float]:
    """Shaft energy of pump 1 alone for each cubic metre at a level and a share of full speed, with its power [W] and flow [m3/s].

    Source: e = P/Q; power goes with the cube of the speed (affinity). Without the maker's power it is rho g H Q over a fixed
    efficiency. Infinite where nothing flows.
    """
    point = hyd.point((0,), level_m, round(speed, 5))
    if point.flow_m3s <= 0.0:
        return float("inf"), 0.0, 0.0
    rows = sorted((p.flow_m3s, p.power_w) for p in hyd.survey.pumps[0].curve if p.flow_m3s is not None and p.power_w is not None)
    power_w = WATER_KGM3 * GRAVITY_MS2 * point.head_m * point.flow_m3s / PUMP_SHARE
    if len(rows) > 1:
        power_w = between(point.flow_m3s / speed, *zip(*rows)) * speed**3
    return power_w / point.flow_m3s, power_w, point.flow_m3s


class DrivePaces:
    """Windows of fixed and told speeds for one ladder with its levels in force. least: the least speed in force."""

    def __init__(self, ladder: Bands, levels: Levels, least: float, room: Bound) -> None:
        self.survey, self.choices, self.hyd = ladder.survey, ladder.choices, ladder.hydraulics
        self.least, self.room = least, room
        self.start_m = levels[Role.START_1]
        self.stop_m = levels.get(Role.STOP, ladder.maker_submergence.value)
        self.duty = tuple(range(self.hyd.duty_count))

    def _least(self) -> Bound:
        harm = "The pump turns and moves nothing, or its motor is not cooled: it burns."
        trail = given("n", "least speed in force", self.least, Q.PERCENT, "its own window")
        return Bound(self.least, "least speed", harm, Source.PHYSICS, trail, refers_to=S.LEAST_SPEED)

    def _carries(self, pumps: tuple[int, ...], flow_m3s: float, of: str, harm: str) -> Bound:
        value = carrying_speed(self.hyd, pumps, self.stop_m, flow_m3s)
        who = "the weakest pump alone" if len(pumps) == 1 else "all duty pumps together"
        terms = (
            Term("n", f"speed at which {who} carries it at the stop level, by search", value, Q.PERCENT), Term("i", of, flow_m3s, Q.FLOW),
        )  # fmt: skip
        trail = Trail("n = n", terms, Term("n", "bound", value, Q.PERCENT), "operating point at speed, by affinity")
        return Bound(value, f"carries the {of}", harm, Source.PHYSICS, trail)

    def economical(self) -> Setting:
        """The speed of everyday: of all that carry the mean inflow the one that takes least energy for each cubic metre."""
        weakest = min(self.duty, key=lambda pump: self.hyd.point((pump,), self.stop_m).flow_m3s)
        mean = self._carries(
            (weakest,), self.survey.inflow.mean_m3s, "mean inflow", "The level climbs on to full speed in every cycle: nothing is saved.",
        )  # fmt: skip
        window = Window((self._least(), mean), (self.room,))
        low, high = window.low, window.high
        lean = 0.0
        if not window.is_empty and high > low:
            speeds = [low + (high - low) * step / STEPS for step in range(STEPS + 1)]
            lean = (min(speeds, key=lambda n: energy_jm3(self.hyd, self.start_m, n)[0]) - low) / (high - low)
        proof = "With the water under the full-speed level the drive shows this speed, and a meter the power that goes with it."
        labels = ("Economical speed", "energy-saving speed")
        return placed(S.ECONOMICAL_SPEED, labels, Q.PERCENT, window, lean, 0.01, self._chosen(S.ECONOMICAL_SPEED), proof, "drives")

    def energy_figures(self, economical: float) -> tuple[Figure, Figure]:
        """What each cubic metre takes at the economical speed and at full, side by side."""
        return tuple(  # type: ignore[return-value]
            self._energy_figure(name, label, speed)
            for name, label, speed in (("energy_economical", "Energy at the economical speed", economical), ("energy_full", "Energy at full speed", FULL))
        )

    def _energy_figure(self, name: str, label: str, speed: float) -> Figure:
        value, power_w, flow_m3s = energy_jm3(self.hyd, self.start_m, speed)
        if not flow_m3s > 0.0:
            trail = given("e", "nothing flows at this speed", value, Q.ENERGY_PER_VOLUME, "operating point")
            return Figure(name, label, value, Q.ENERGY_PER_VOLUME, trail)
        terms = (Term("P", "shaft power of pump 1 at the duty start level", power_w, Q.POWER), Term("Q", "its flow there", flow_m3s, Q.FLOW))
        says = "the maker's power by affinity, P with the cube of the speed"
        if not any(point.power_w is not None for point in self.survey.pumps[0].curve):
            says = f"rho g H Q over an efficiency of {PUMP_SHARE:.0%}: note the maker's power for a better one"
        trail = Trail("e = P / Q", terms, Term("e", "energy for each cubic metre", value, Q.ENERGY_PER_VOLUME), says)
        return Figure(name, label, value, Q.ENERGY_PER_VOLUME, trail)

    def outside(self) -> tuple[Setting, Setting]:
        """What the two ends of the outside signal stand for."""
        zero = Window((self._least(),), (self.room,))
        proof = "Give the signal at its empty end: the drive shows this speed."
        labels = ("Speed at empty outside signal", "minimum reference")
        empty = placed(S.OUTSIDE_ZERO_SPEED, labels, Q.PERCENT, zero, 0.0, 0.01, self._chosen(S.OUTSIDE_ZERO_SPEED), proof, "drives")
        harm = "Whatever the works ask for, the well rises in a storm: full signal is not full work."
        peak = self._carries(self.duty, self.survey.inflow.peak_m3s, "peak inflow", harm)
        above = given("n", "speed at empty signal in force", empty.value, Q.PERCENT, "its own window")
        turned = Bound(empty.value, "speed at empty signal", "More asked for gives less.", Source.PHYSICS, above, refers_to=S.OUTSIDE_ZERO_SPEED)
        full = given("n", "full speed", FULL, Q.PERCENT, "nameplate of the motor")
        most = Bound(FULL, "full speed of the motor", "The motor is overloaded: power goes with the cube of the speed.", Source.MAKER, full)
        window = Window((peak, turned), (most,))
        proof, labels = "Give the signal at its full end: the drive shows this speed.", ("Speed at full outside signal", "maximum reference")
        return empty, placed(S.OUTSIDE_FULL_SPEED, labels, Q.PERCENT, window, 1.0, 0.01, self._chosen(S.OUTSIDE_FULL_SPEED), proof, "drives")

    def _chosen(self, setting_id: str) -> float | None:
        return self.choices.chosen.get(setting_id)
