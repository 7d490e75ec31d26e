"""The regulator's numbers in their windows: filter, gain, reset time, between hunting at night and sagging by day."""

import math

from goodbalance.core.balance.plan import Figure
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term, Trail
from goodbalance.core.balance.window import RULE, Bound, Source
from goodbalance.core.control.identification import Fopdt
from goodbalance.core.control.pid import Gains
from goodbalance.core.control.tuning import (
    CalmGains,
    amigo,
    calm_gains,
    lambda_tuning,
    least_reset_s,
    sensitivity,
    simc,
)
from goodbalance.core.stations.booster.names import SettingId as S
from goodbalance.core.stations.booster.plant.loop_model import SCAN_S, WorkingPoint, loop_model
from goodbalance.core.stations.booster.survey.choices import Sharing, Tuning
from goodbalance.core.stations.booster.survey.survey import LoopPoint
from goodbalance.core.stations.booster.windows.making import LOOP, Windows
from goodbalance.core.stations.shared.making import bound, term

LOW, FULL = "smallest flow, highest suction", "design flow, lowest suction"
RULES = {Tuning.SIMC: simc, Tuning.LAMBDA: lambda_tuning, Tuning.AMIGO: amigo}


def _lean(wanted: float, low: float, high: float) -> float:
    """How far up a window a value stands, by ratio; kept off the edges."""
    if not 0.0 < low < high:
        return 0.5
    return min(0.9, max(0.05, math.log(max(wanted, low) / low) / math.log(high / low)))


class LoopSettings(Windows):
    """Gains in the dependent form, error in % of the sensor's range, output in % of full speed."""

    def make_all(self) -> None:
        """Only where drives hold the pressure."""
        if not self.survey.holds_constant:
            return
        self.filter()
        flows = self.survey.demand
        # error is in per cent of the range of the sensor regulated by; with a far one either of two, with the same gain
        ranges = [self.survey.sensor.range_pa, *([] if self.survey.remote is None else [self.survey.remote.range_pa])]
        night, day = (flows.least_m3s, 1, True, min(ranges)), (flows.design_m3s, self.duty, False, min(ranges))
        self.low, self.full = self.model(*night), self.model(*day)  # at night the process answers most
        self.doubtful = [
            (self.model(*at, point), f"{name}, edge of the step test's doubt")
            for point in self.edges() for at, name in ((night, LOW), (day, FULL))
        ]  # fmt: skip
        self.wide = max(ranges) / min(ranges)  # how much less the process gain is by the sensor of the wider range
        every = [self.low, self.full, *(model for model, _ in self.doubtful)]
        worst = max(every, key=lambda model: model.gain / model.time_s * model.dead_s)
        gains = RULES[self.schools.tuning](worst)
        self.reset_time(gains.ti_s)
        self.gain(gains.kc)

    def edges(self) -> tuple[LoopPoint, ...]:
        """Of all that a step test leaves open the models that are hardest to keep calm: liveliest, latest, and both."""
        measured = self.survey.measured
        if measured is None or not measured.region:
            return ()
        hardest = (
            lambda point: point.gain / point.time_s,
            lambda point: point.dead_s,
            lambda point: point.gain / point.time_s * point.dead_s,
        )
        return tuple(dict.fromkeys(max(measured.region, key=hard) for hard in hardest))

    def model(
        self, flow_m3s: float, pumps: int, high: bool, range_pa: float = 0.0, of: LoopPoint | None = None
    ) -> Fopdt:
        """The process at a demand, at the highest or lowest suction: as measured, carried over by what reckoning says of both."""
        set_pa = self.so_far[S.SET_PRESSURE]
        precharge_pa = self.so_far.get(S.PRECHARGE, 0.0)
        acting = 1 if self.schools.sharing is Sharing.SERIAL else pumps
        at = WorkingPoint(set_pa, flow_m3s * acting / pumps, acting, self.hyd.suction_pa(flow_m3s, high), precharge_pa, range_pa)
        reckoned, measured = loop_model(self.hyd, at, self.so_far[S.FILTER], self.so_far[S.RAMP]), self.survey.measured
        if measured is None:
            return reckoned
        found = measured if of is None else of
        there = WorkingPoint(
            set_pa, measured.flow_m3s, measured.pumps, self.hyd.suction_pa(measured.flow_m3s), precharge_pa
        )
        by_curve = loop_model(self.hyd, there, self.so_far[S.FILTER], self.so_far[S.RAMP])  # what reckoning says where the test was made
        return Fopdt(
            found.gain * reckoned.gain / by_curve.gain,
            max(SCAN_S, found.dead_s * reckoned.dead_s / by_curve.dead_s),  # the controller itself takes a scan
            found.time_s * reckoned.time_s / by_curve.time_s,
        )

    def filter(self) -> None:
        """Time constant of the reading: from a scan to a thirtieth of the time in which the pressure settles."""
        lower = bound("t = s", (term("s", "scan of the controller", SCAN_S, Q.TIME),), SCAN_S, "controller",
                      ("scan of the controller", "The reading's noise shakes the motor."), quantity=Q.TIME)  # fmt: skip
        settle_s = self.rules.settle_s
        terms = (term("s", "the pressure settles within", settle_s, Q.TIME), term("k", "part of it", 30.0, Q.RATIO))
        words = ("settling of the loop", "The regulator sees the dip too late: it swings.")
        upper = bound(
            "t = s/k", terms, settle_s / 30.0, "about a tenth of the reset time", words, Source.RULE, quantity=Q.TIME
        )
        proof = "Watch the reading while the flow is steady: it must be calm."
        labels = ("Filter of the reading", "sensor damping")
        self.make(S.FILTER, labels, (lower,), (upper,), 0.25, proof, LOOP, Q.TIME, 0.1)

    def reset_time(self, wanted_s: float) -> None:
        """Ti: not shorter than any gain could keep calm, not longer than the users wait."""
        lower = []
        for model, name in self._ends():
            value = least_reset_s(model, self.rules.sensitivity)
            terms = (
                *self._of_model(model, name),
                term("M", "largest sensitivity by rule", self.rules.sensitivity, Q.RATIO),
                term("r", "shortest reset time with a calm gain, searched", value, Q.TIME),
            )
            words = (f"calm at {name}", "It pushes before it can see: with no gain does it come to rest.")
            lower.append(bound("t = r", terms, value, "Ms of K e^(-ds)/(Ts+1) with PI", words, quantity=Q.TIME))
        terms = (term("s", "the pressure settles within", self.rules.settle_s, Q.TIME),)
        words = ("settling wanted", "The pressure crawls back for longer than users wait.")
        upper = bound("t = s", terms, self.rules.settle_s, RULE, words, Source.RULE, quantity=Q.TIME)
        lean = _lean(wanted_s, max(b.value for b in lower), upper.value)
        proof = "Open and close a tap: after one swing the pressure must stand at the set pressure again."
        self.make(
            S.RESET_TIME, ("Reset time Ti", "integral time"), tuple(lower), (upper,), lean, proof, LOOP, Q.TIME, 0.1
        )

    def _ends(self) -> tuple[tuple[Fopdt, str], ...]:
        return (self.low, LOW), (self.full, FULL), *self.doubtful

    @staticmethod
    def _of_model(model: Fopdt, name: str) -> tuple[Term, ...]:
        return (
            term("K", f"gain of the process at {name}", model.gain, Q.RATIO),
            term("T", "its time constant", model.time_s, Q.TIME),
            term("d", "its dead time", model.dead_s, Q.TIME),
        )

    def gain(self, wanted: float) -> None:
        """Kc: under hunting at the smallest flow and at design flow, above too slow and above swinging slowly."""
        ti_s, ms = self.so_far[S.RESET_TIME], self.rules.sensitivity
        lower, upper = [], []
        for model, name in self._ends():
            calm = calm_gains(model, ti_s, ms) or CalmGains(math.inf, 0.0)
            terms = (
                *self._of_model(model, name),
                term("i", "reset time", ti_s, Q.TIME),
                term("M", "largest sensitivity by rule", ms, Q.RATIO),
            )
            most = term("k", "largest gain that keeps it, searched on the frequency response", calm.high, Q.RATIO)
            words = (f"calm at {name}", "It hunts: pressure and speed swing without end.")
            says = "Ms of K e^(-ds)/(Ts+1) with PI"
            upper.append(bound("g = k", (*terms, most), calm.high, says, words, quantity=Q.RATIO))
            least = term(
                "k", "least gain that keeps it with so short a reset time; 0 where any does", calm.low, Q.RATIO
            )
            words = (f"reset time at {name}", "It swings slowly: the integral runs ahead of the tank.")
            lower.append(bound("g = k", (*terms, least), calm.low, says, words, quantity=Q.RATIO))
        upper.append(self._calm_motor())
        slow = max(self.low, self.full, key=lambda model: model.time_s / max(model.gain, 1e-9))
        closed_s = self.rules.settle_s / 4.0
        gain = slow.gain / self.wide
        value = slow.time_s / (max(gain, 1e-9) * (closed_s + slow.dead_s))
        terms = (
            term("T", "time constant of the slower process", slow.time_s, Q.TIME),
            term("K", "its gain" + (", by the sensor of the wider range" if self.wide > 1.0 else ""), gain, Q.RATIO),
            term("c", "a quarter of the settling wanted", closed_s, Q.TIME),
            term("d", "dead time", slow.dead_s, Q.TIME),
        )
        words = ("settling wanted", "The pressure sags for longer than users wait.")
        says = "SIMC with the slowest loop that settles in time"
        lower.append(bound("g = T/(K · (c + d))", terms, value, says, words, Source.RULE, quantity=Q.RATIO))
        lean = _lean(wanted, max(b.value for b in lower), min(b.value for b in upper))
        proof = "Open and close outlets at one tap and at design flow: neither may swing more than twice."
        self.make(
            S.GAIN, ("Gain Kc", "proportional gain"), tuple(lower), tuple(upper), lean, proof, LOOP, Q.RATIO, 0.01
        )

    def _calm_motor(self) -> Bound:
        """What the reading's noise, filtered, may shake the speed: white noise through a first-order lag keeps sqrt(dt / 2 tau)."""
        noise = self.survey.sensor.noise_pa / self.survey.sensor.range_pa
        kept = math.sqrt(SCAN_S / (SCAN_S + 2.0 * self.so_far[S.FILTER]))
        value = self.rules.wobble_share / (noise * kept) if noise > 0.0 else 1e4
        terms = (
            term("w", "wobble of the speed to put up with", self.rules.wobble_share, Q.PERCENT),
            term("n", "wobble of the reading, of the sensor's range", noise, Q.PERCENT),
            term("f", "what the filter lets through", kept, Q.RATIO),
        )
        words = ("calm motor", "The reading's noise shakes the speed: bearings and drive wear, staging never settles.")
        return bound("g = w/(n · f)", terms, value, RULE, words, Source.RULE, S.FILTER, Q.RATIO)

    def figures(self) -> tuple[Figure, ...]:
        """How robust the loop is with the numbers in force, at both ends."""
        if not self.made:
            return ()
        found, gains = [], Gains(self.so_far[S.GAIN], self.so_far[S.RESET_TIME])
        for model, figure, name in ((self.low, "ms_low", "smallest flow"), (self.full, "ms_full", "design flow")):
            ms = sensitivity(model, gains)
            result = term("M", "sensitivity", ms, Q.RATIO)
            terms = (
                term("g", "gain", gains.kc, Q.RATIO), term("i", "reset time", gains.ti_s, Q.TIME),
                term("K", "process gain", model.gain, Q.RATIO), term("T", "its time constant", model.time_s, Q.TIME),
                term("d", "its dead time", model.dead_s, Q.TIME),
            )  # fmt: skip
            trail = Trail("M = M", (result, *terms), result, "max |1/(1 + L)| over all frequencies")
            limit = (term("R", "", self.rules.sensitivity, Q.RATIO),)
            keeps = ms <= self.rules.sensitivity * 1.02
            found.append(Figure(figure, f"Sensitivity at {name}", ms, Q.RATIO, trail, keeps, "at most {R}", limit))
        return tuple(found)
