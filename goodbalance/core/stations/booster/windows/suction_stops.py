"""When a booster set is stopped for lack of water and when it comes back: between air in the pumps and trips in normal work."""

import math

from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.window import RULE, Bound, Source
from goodbalance.core.physics.wells import vortex_submergence_m
from goodbalance.core.stations.booster.names import SettingId as S
from goodbalance.core.stations.booster.survey.control import SuctionBy
from goodbalance.core.stations.booster.survey.supply import SupplyKind
from goodbalance.core.stations.booster.windows.held import carried_m3s, modes
from goodbalance.core.stations.booster.windows.making import Windows, last_cut_in
from goodbalance.core.stations.booster.windows.suction_dips import working_low_pa
from goodbalance.core.stations.shared.making import Terms, bound, term

OPENING_MS = 1.0  # velocity from which the diameter of an opening is guessed that nobody measured
TRIED = 24  # flows looked at for where the outlet draws air


class SuctionStops(Windows):
    """Low-suction stop and its reset, as the suction sensor reads them; or where a pressure switch in the pipe lets go."""

    by_switch = False
    margin_of = "three times the wobble of the suction reading"

    def make_all(self) -> None:
        """By what a sensor reads, or at the dial of a pressure switch; a float in the tank has its own room."""
        if self.survey.control.suction_by is SuctionBy.NONE or self.survey.switch_in_tank:
            return
        if self.survey.control.suction_by is SuctionBy.SENSOR:
            self.margin_pa = 3.0 * self.survey.suction_sensor.noise_pa
            self.low_stop(())
            self.low_reset()
            return
        self.by_switch, self.margin_pa, self.margin_of = True, self.survey.suction_switch.off_pa, "how far the suction switch may be off its mark"
        self.low_stop((self.turns_back(),))
        if self.survey.suction_switch.alarm:
            self.low_alarm()

    def low_stop(self, more: tuple[Bound, ...]) -> None:
        """Suction at which all pumps stop: over NPSH, air and an empty source, under the lowest of normal work."""
        lower, kind = [self.npsh_of_the_pumps()], self.survey.supply.kind
        lower.append(self.main_floor() if kind is SupplyKind.TOWN_MAIN else self.outlet_draws_air())
        if kind is not SupplyKind.SUCTION_LIFT:
            lower.append(self.emptied())
        low_pa, rest_pa = working_low_pa(self.survey, self.so_far), self.hyd.source_pa(False)
        spring_pa = rest_pa - low_pa
        terms = (
            term("t", "lowest supply at rest", rest_pa), term("f", "spring-back: suction loss that returns when the pumps stop", spring_pa),
            term("m", self.margin_of, self.margin_pa), term("k", "twice, at stop and reset", 2.0, Q.RATIO),
        )  # fmt: skip
        words = ("room for the reset", "No reset fits between it and the lowest supply: it comes back into lack, or never.")
        value = rest_pa - spring_pa - 2.0 * self.margin_pa
        upper = (self.normal_work(), bound("p = t - f - k · m", terms, value, "survey", words), *more)
        then = "Turn its dial back where it was." if self.by_switch else "Then let the sensor read none: they must stop too."
        labels = ("Low-suction stop", "dry-run pressure")
        self.make(S.LOW_SUCTION_STOP, labels, (*lower, *self.seen(True)), (*upper, *self.seen(False)), 0.4, f"Throttle the suction valve: every pump must stop at it. {then}")

    def normal_work(self) -> Bound:
        """Under the lowest suction of normal work."""
        low_pa = working_low_pa(self.survey, self.so_far)
        terms: Terms = (term("l", "lowest suction of normal work", low_pa), term("m", self.margin_of, self.margin_pa))
        return bound("p = l - m", terms, low_pa - self.margin_pa, "survey", ("lowest suction of normal work", "It trips in normal work."))

    def turns_back(self) -> Bound:
        """So far under the lowest supply at rest that the switch, which turns back over its mark, does so then."""
        rest_pa, band_pa = self.hyd.source_pa(False), self.survey.suction_switch.band_pa
        terms = (
            term("t", "lowest supply at rest", rest_pa), term("b", "the switch turns back over where it lets go by", band_pa), term("m", self.margin_of, self.margin_pa),
        )  # fmt: skip
        words = ("the switch must turn back", "On a day of low supply it never comes back by itself.")
        return bound("p = t - b - m", terms, rest_pa - band_pa - self.margin_pa, "switch; survey", words, Source.MAKER)

    def low_alarm(self) -> None:
        """Suction at which the second switch warns: apart from the stop, and under normal work."""
        stop_pa = self.so_far[S.LOW_SUCTION_STOP]
        terms = (term("s", "low-suction stop", stop_pa), term("m", self.margin_of, self.margin_pa), term("k", "twice, for two switches", 2.0, Q.RATIO))
        words = ("the stop itself", "It comes with the stop or after it: nobody is warned.")
        lower = bound("p = s + k · m", terms, stop_pa + 2.0 * self.margin_pa, "two switches", words, refers_to=S.LOW_SUCTION_STOP)
        labels = ("Low-suction alarm", "low water warning")
        self.make(S.LOW_SUCTION_ALARM, labels, (lower,), (self.normal_work(),), 0.5, "Throttle the suction valve: the alarm comes at this, before the pumps stop.")

    def seen(self, low: bool) -> tuple[Bound, ...]:
        """What the suction sensor can read."""
        sensor = self.survey.suction_sensor
        end_pa = sensor.low_pa if low else sensor.high_pa
        if self.by_switch or end_pa is None:
            return ()
        sign = 1.0 if low else -1.0
        terms = (term("e", "end of the suction sensor's range", end_pa), term("m", self.margin_of, self.margin_pa))
        words = ("range of the suction sensor", "The reading never gets there: nothing happens.")
        return (bound(f"p = e {'+' if low else '-'} m", terms, end_pa + sign * self.margin_pa, "sensor survey", words),)

    def main_floor(self) -> Bound:
        """What must stay in a town main: as its supplier says, else by rule."""
        told = self.survey.supply.main_floor_pa
        floor_pa = self.rules.main_floor_pa if told is None else told
        terms = (term("m", "pressure that must stay in the main", floor_pa),)
        name = "pressure to leave in a main, by rule" if told is None else "water company's limit"
        words = (name, "The main is sucked empty: neighbours run dry, dirt is drawn in.")
        says, source = (RULE, Source.RULE) if told is None else ("water company", Source.CODE)
        return bound("p = m", terms, floor_pa, says, words, source)

    def opening(self) -> tuple[float, float]:
        """Height and diameter of the tank's outlet or of the foot valve; guessed where nobody measured them. [m]"""
        supply, design = self.survey.supply, self.survey.demand.design_m3s
        wide_m = supply.outlet_diameter_m or (4.0 * design / OPENING_MS / math.pi) ** 0.5
        if supply.outlet_m is not None:
            return supply.outlet_m, wide_m
        if supply.kind is SupplyKind.SUCTION_LIFT:  # no lower than that is known to hold water
            return (supply.water_low_m or 0.0) - 2.0 * vortex_submergence_m(wide_m, design), wide_m
        return supply.pump_m or 0.0, wide_m

    def outlet_draws_air(self) -> Bound:
        """What the sensor reads when the water stands so low over the opening that air is drawn in, at the worst flow.

        More flow needs more water over the opening, but loses more on its way: neither end need be the worst.
        """
        pump_m, design = self.survey.supply.pump_m or 0.0, self.survey.demand.design_m3s
        lifts = self.survey.supply.kind is SupplyKind.SUCTION_LIFT
        outlet_m, wide_m = self.opening()

        def reads_pa(flow: float) -> float:
            level_m = outlet_m + vortex_submergence_m(wide_m, flow)
            return self.hyd.column_of(level_m - pump_m) - self.hyd.suction_loss_pa(flow)

        worst = max((design * step / TRIED for step in range(TRIED + 1)), key=reads_pa)
        terms = (
            term("o", "column from the pump suction up to the opening", self.hyd.column_of(outlet_m - pump_m)),
            term("s", "water over it against a vortex, D (1 + 2.3 Fr)", self.hyd.column_of(vortex_submergence_m(wide_m, worst))),
            term("f", "lost on the suction side at that flow", self.hyd.suction_loss_pa(worst)),
            term("m", self.margin_of, self.margin_pa),
        )  # fmt: skip
        words = ("the outlet draws air" if not lifts else "the foot valve draws air", "Pumps run dry and burn their seals: it never trips.")
        return bound("p = o + s - f + m", terms, reads_pa(worst) + self.margin_pa, "survey; ANSI/HI 9.8", words)

    def emptied(self) -> Bound:
        """What the sensor reads once air has come in: nothing, wherever the opening stands.

        It governs where the opening stands below the pump, as the last water before the air reads less than the air itself,
        and where a main's supplier asks for nothing.
        """
        terms = (
            term("a", "reading of a suction full of air", 0.0),
            term("m", self.margin_of, self.margin_pa),
        )
        words = ("an emptied suction reads nothing", "Emptied at once, the set runs dry: it never trips.")
        return bound("p = a + m", terms, self.margin_pa, "survey", words)

    def one_pump(self) -> tuple[float, float]:
        """The largest flow one pump carries before the next joins, and its speed there, at the lowest suction. [m3/s, -]"""
        low_pa, design = self.hyd.suction_low_pa, self.survey.demand.design_m3s
        if not self.survey.holds_constant:
            speed = self.so_far.get(S.FIXED_SPEED, 1.0)
            return self.hyd.flow_at(speed, self.hyd.added_m(self.so_far[last_cut_in(self.so_far)], low_pa)), speed
        found = []
        for held in modes(self.survey, self.choices, self.so_far):
            flow = min(design, carried_m3s(self.hyd, held, 1.0, 1, low_pa))
            flow = max(flow, design / self.duty)
            found.append((flow, min(1.0, self.hyd.speed(self.hyd.added_m(held(flow), low_pa), flow, 1))))
        return max(found, key=lambda each: self.hyd.npsh_required_m(*each) or 0.0)

    def npsh_of_the_pumps(self) -> Bound:
        """Least suction for the NPSH a pump requires at the most one carries: p = pv - pa + rho g (NPSHr + m)."""
        flow, speed = self.one_pump()
        needed_m = self.hyd.npsh_required_m(flow, speed) or 0.0
        pull_pa = self.hyd.vapour_pa - self.hyd.air_pa
        need_pa = self.hyd.column_of(needed_m + self.rules.npsh_margin_m)
        terms = (
            term("v", "vapour pressure less air pressure", pull_pa),
            term("n", "NPSH a pump requires, with its margin, at the largest flow one carries", need_pa),
            term("Q", "that flow: what one pump gives before the next joins", flow, Q.FLOW),
        )
        words = ("NPSH of the pumps", "They cavitate: impellers are eaten away, the pump loses its water.")
        return bound("p = v + n", terms, pull_pa + need_pa, "pump maker's curve", words, Source.MAKER)

    def low_reset(self) -> None:
        """Suction at which they come back: over stop and spring-back of the suction loss, under the lowest at rest."""
        stop_pa, rest_pa = self.so_far[S.LOW_SUCTION_STOP], self.hyd.source_pa(False)
        spring_pa = rest_pa - working_low_pa(self.survey, self.so_far)
        terms: Terms = (
            term("s", "low-suction stop", stop_pa),
            term("f", "spring-back: suction loss that returns when the pumps stop", spring_pa),
            term("m", self.margin_of, self.margin_pa),
        )
        words = ("stop and spring-back", "Pumps restart into the same lack of water, again and again.")
        value = stop_pa + spring_pa + self.margin_pa
        lower = bound("p = s + f + m", terms, value, "survey", words, refers_to=S.LOW_SUCTION_STOP)
        terms = (
            term("t", "lowest supply at rest", rest_pa), term("m", self.margin_of, self.margin_pa)
        )  # fmt: skip
        words = ("lowest supply at rest", "On a day of low supply it never comes back by itself.")
        upper = bound("p = t - m", terms, rest_pa - self.margin_pa, "survey", words)
        proof = "Open the suction valve again: the set must come back at it."
        labels = ("Low-suction reset", "water back")
        self.make(S.LOW_SUCTION_RESET, labels, (lower, *self.seen(True)), (upper, *self.seen(False)), 0.5, proof)
