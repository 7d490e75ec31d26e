"""What stops a booster set or holds it back: high pressure, bursts, filling, generator."""

import math

from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.window import RULE, Source
from goodbalance.core.protection.plate import Phases, apparent_va
from goodbalance.core.stations.booster.names import SettingId as S
from goodbalance.core.stations.booster.windows.closing import Closing
from goodbalance.core.stations.booster.windows.making import POWER, SPEEDS, Windows, last_cut_in
from goodbalance.core.stations.shared.making import Terms, bound, term


class Limits(Windows):
    """Stops and limits, each with its own way to come back."""

    def make_all(self) -> None:
        """The burst stop always; the rest where the choices ask for it. With a loop the high-pressure stop comes after it."""
        if not self.survey.holds_constant:
            self.high_stop(())
        self.burst_stop()
        if self.survey.holds_constant and self.schools.slow_fill:
            self.fill_pressure()
            self.fill_speed()
        if self.survey.motor.generator:
            self.emergency_pumps()
            if self.survey.holds_constant:
                self.emergency_pressure()

    @property
    def normal_high_pa(self) -> float:
        """Highest pressure of normal work; where only the end of the flow stops a pump, its shut-off pressure."""
        works_to = self.so_far.get(S.HIGHEST_SET, self.so_far.get(S.SET_PRESSURE, self.so_far.get(S.CUT_OUT)))
        return self.hyd.shut_off_pa(high=True) if works_to is None else works_to + self.so_far.get(S.BOOST, 0.0)

    def high_stop(self, tried: tuple[Closing, ...]) -> None:
        """Every pump stops, and waits for a person. tried: what closing outlets at once does, where a loop regulates."""
        terms: Terms = (
            term("s", "highest pressure of normal work, with boost", self.normal_high_pa),
            term("o", "overshoot to allow for", self.rules.overshoot_pa),
        )
        words = ("normal work and its overshoot", "It trips in normal work.")
        lower = [bound("p = s + o", terms, self.normal_high_pa + self.rules.overshoot_pa, RULE, words, Source.RULE)]
        for closing in tried:
            terms = (
                term("s", "set pressure", self.so_far[S.SET_PRESSURE]),
                term("o", f"overshoot, outlets closed at once from {closing.name}, tried with these gains", closing.overshoot_pa),
                term("m", "margin: wobble", self.wobble_pa),
            )  # fmt: skip
            words = (f"closing from {closing.name}", "It trips and waits for a person whenever many taps close at once.")
            value = self.so_far[S.SET_PRESSURE] + closing.overshoot_pa + self.wobble_pa
            lower.append(bound("p = s + o + m", terms, value, "trial on the nonlinear set, highest supply", words))
        upper = (*self.under_the_rating(), self.in_sight_of_the_sensor())
        proof = "Raise the pressure to it, or lower it to the pressure: every pump must stop."
        self.make(S.HIGH_STOP, ("High-pressure stop", "high discharge"), tuple(lower), upper, 0.4, proof)

    def burst_stop(self) -> None:
        """Run-out: with all pumps at full speed a pressure under this means a burst.

        The highest supply counts: there a pump beyond its curve still gives most pressure.
        """
        pumps, flow = self.duty, self.hyd.most_m3s
        speed = self.so_far.get(S.FIXED_SPEED, 1.0)
        end_pa = self.hyd.delivered_pa(flow * speed * pumps, pumps, self.hyd.suction_pa(flow * speed * pumps, True), speed)
        terms: Terms = (
            term("Q", "largest flow of a pump at that speed", flow * speed, Q.FLOW),
            term("e", "pressure behind the pumps at that flow, at their most speed, highest supply", end_pa),
        )
        words = ("end of the pump curve", "Beyond it motors overload and pumps cavitate while the street floods.")
        lower = [bound("p = max(0, e)", terms, max(0.0, end_pa), "pump maker's curve", words, Source.MAKER)]
        if end_pa <= 0.0:
            words = ("what the sensor can tell from nothing", "A burst is not told from an empty pipe.")
            terms = (term("w", "wobble of the reading", self.wobble_pa),)
            lower.append(bound("p = w", terms, self.wobble_pa, "sensor survey", words))
        holds = S.SET_PRESSURE in self.so_far
        back, name = (S.SET_PRESSURE, "set pressure") if holds else (last_cut_in(self.so_far), "last cut-in pressure" if self.survey.own_switches else "cut-in pressure")
        harm = "It trips while the pumps, flat out, still hold their pressure."
        upper = self.step_below(back, name, harm, self.band_pa())
        proof = "In HAND at full speed open the hydrant or drain until the pressure falls to it: in AUTO it must stop the set."
        labels = ("Burst stop", "run-out limit")
        self.make(S.BURST_STOP, labels, tuple(lower), (upper,), 0.4, proof)

    def fill_pressure(self) -> None:
        """Up to here the pipes are filled slowly; from here the set regulates."""
        terms = (term("w", "three times the wobble", self.wobble_pa),)
        words = ("what the sensor can tell from nothing", "Filling ends while the pipes are still full of air.")
        lower = bound("p = w", terms, self.wobble_pa, "sensor survey", words)
        reach_pa = self.hyd.column_pa
        terms = (term("c", "standing column to the highest point", reach_pa),)
        words = (
            "standing column",
            "The highest pipes are still empty when the set begins to push: water hammers into them.",
        )
        full = bound("p = c", terms, reach_pa, "survey", words)
        upper = self.step_below(S.RESTART, "restart pressure", "Filling comes back in normal work.", self.band_pa())
        proof = "Drain the pipes, switch on: the set must run slowly up to this pressure."
        self.make(S.FILL_PRESSURE, ("Fill pressure", "slow-fill end"), (lower, full), (upper,), 0.15, proof)

    def fill_speed(self) -> None:
        """Fixed speed of one pump while pipes fill."""
        fill_pa = self.so_far[S.FILL_PRESSURE]
        least_m3s = self.survey.demand.least_m3s
        reach = self.hyd.speed(self.hyd.added_m(fill_pa, self.hyd.suction_pa(0.0)), least_m3s, 1)
        margin = self.rules.speed_margin_share
        terms: Terms = (
            term("f", "speed that reaches the fill pressure with one tap left open, lowest supply", reach, Q.PERCENT),
            term("m", "least step between two speeds", margin, Q.PERCENT),
        )
        words = ("what reaches the fill pressure", "Filling never ends: the pump boils.")
        lower = bound("n = f + m", terms, reach + margin, "affinity", words, quantity=Q.PERCENT)
        slow_m3s = self.hyd.pipe.area_m2 * self.rules.fill_velocity_ms
        flow = min(slow_m3s, self.hyd.most_m3s)
        most = self.hyd.speed(self.hyd.added_m(fill_pa, self.hyd.suction_pa(0.0, True)), flow, 1)
        terms = (
            term("v", "velocity while empty pipes fill", self.rules.fill_velocity_ms, Q.VELOCITY),
            term("Q", "flow at that velocity in the pipe", slow_m3s, Q.FLOW),
            term("s", "speed that gives it near the fill pressure", most, Q.PERCENT),
        )
        words = ("slow filling", "Air is not let out in time: water hammers when the pipes are full.")
        upper = [bound("n = s", terms, most, RULE, words, Source.RULE, quantity=Q.PERCENT)]
        terms = (term("f", "full speed", 1.0, Q.PERCENT),)
        upper.append(bound("n = f", terms, 1.0, "drive", ("full speed", "No drive turns faster."), quantity=Q.PERCENT))
        proof = "While it fills read the speed: it must stand still at this."
        labels = ("Fill speed", "slow-fill speed")
        self.make(S.FILL_SPEED, labels, (lower,), tuple(upper), 0.4, proof, SPEEDS, Q.PERCENT)

    def emergency_pumps(self) -> None:
        """How many pumps the generator carries: all but one running, the last one starting."""
        motor = self.survey.motor
        each_va = apparent_va(motor.phases, motor.rated_voltage_v, motor.rated_current_a)
        root = ", times the root of 3" if motor.phases is Phases.THREE else ""
        carries = (motor.generator_va or 0.0) / each_va - motor.start_factor + 1.0
        terms: Terms = (
            term("G", "what the generator carries", motor.generator_va or 0.0, Q.APPARENT_POWER),
            term("a", f"one pump by nameplate, V I{root}", each_va, Q.APPARENT_POWER),
            term("s", "current of a start over nameplate", motor.start_factor, Q.RATIO),
            term("k", "the pump that starts", 1.0, Q.COUNT),
        )
        words = ("what the generator carries", "It stalls when the next pump starts, and everything goes dark.")
        value = float(math.floor(carries + 1e-9))
        upper = [bound("N = floor(G/a - s + k)", terms, value, "nameplates; whole pumps", words, quantity=Q.COUNT)]
        terms = (term("d", "duty pumps", float(self.duty), Q.COUNT),)
        upper.append(
            bound("N = d", terms, float(self.duty), "survey", ("duty pumps", "There are no more."), quantity=Q.COUNT)
        )
        one = (term("k", "one pump", 1.0, Q.COUNT),)
        words = ("one pump", "No water on the generator at all.")
        lower = bound("N = k", one, 1.0, "rule", words, Source.RULE, quantity=Q.COUNT)
        proof = "Run on the generator and open outlets: no more pumps than this may run."
        labels = ("Pumps on the generator", "emergency supply")
        self.make(S.EMERGENCY_PUMPS, labels, (lower,), tuple(upper), 1.0, proof, POWER, Q.COUNT)

    def emergency_pressure(self) -> None:
        """Set pressure on the generator: what the worst outlet then wants, to what the pumps it carries can."""
        flow, pumps = self.survey.demand.mean_m3s, max(1, int(self.so_far[S.EMERGENCY_PUMPS]))
        wanted = self.supplies_the_worst(flow, "at mean flow", self.rules.emergency_residual_pa)
        above = self.step_above(
            S.RESTART, "restart pressure", "On the generator it never falls asleep.", self.band_pa()
        )
        can_pa = self.hyd.delivered_pa(flow, pumps, self.hyd.suction_low_pa)
        terms = (term("c", f"what {pumps} of the pumps can at mean flow, lowest suction", can_pa),)
        words = ("what those pumps can", "They run flat out and overload the generator.")
        able = bound("p = c", terms, can_pa, "pump curve", words, refers_to=S.EMERGENCY_PUMPS)
        normal = self.step_below(
            S.SET_PRESSURE, "set pressure", "It is no lower than on the mains: nothing is saved.", 0.0
        )
        proof = "Run on the generator: the pressure must stand at this."
        labels = ("Generator set pressure", "reduced pressure")
        self.make(S.EMERGENCY_PRESSURE, labels, (wanted, above), (able, normal), 0.2, proof)
