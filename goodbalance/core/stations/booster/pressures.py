"""The pressures of a booster set in their windows: set pressure, restart, cut-in and cut-out, limits, precharge."""

import math

from goodbalance.core.balance.plan import Setting, placed
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term, Trail
from goodbalance.core.balance.window import Bound, Source, Window
from goodbalance.core.stations.booster.choices import BoosterChoices
from goodbalance.core.stations.booster.hydraulics import VAPOUR_PA, column_of, hydraulics
from goodbalance.core.stations.booster.survey import BoosterSurvey
from goodbalance.core.physics.vessels import ATMOSPHERE_PA

RULE = "rule of thumb; edit it under Rules"
PRECHARGE_LOW, PRECHARGE = 0.7, 0.9  # of the pressure at which the pumps come back


class Pressures:
    """Windows of every pressure for one survey and one set of choices."""

    def __init__(self, survey: BoosterSurvey, choices: BoosterChoices) -> None:
        self.survey, self.choices, self.rules = survey, choices, choices.rules
        self.hyd = hydraulics(survey)
        self.duty = survey.pumping.duty_count
        self.wobble_pa = max(3.0 * survey.sensor.noise_pa, 5.0 * survey.sensor.range_pa / survey.sensor.counts)

    def settings(self) -> tuple[Setting, ...]:
        """With drives a set pressure and a restart, without them cut-in and cut-out; then limits and precharge."""
        if self.survey.pumping.drives:
            main = self.set_pressure()
            back = self.restart(main.value)
            highest = main.value
        else:
            back = self.cut_in()
            main = self.cut_out(back.value)
            highest = main.value
        stop = self.low_stop()
        found = [main, back, self.high_stop(highest), stop, self.low_reset(stop.value)]
        if self.survey.vessel.volume_m3 > 0.0:
            found.append(self.precharge(back.value))
        return tuple(found)

    def _placed(self, setting_id: str, labels: tuple[str, str], window: Window, lean: float, proof: str) -> Setting:
        chosen = self.choices.chosen.get(setting_id)
        return placed(setting_id, labels, Q.PRESSURE, window, lean, self.choices.step_pa, chosen, proof, "pressures")

    def _bound(
        self, formula: str, terms: tuple[Term, ...], value: float, says: str, words: tuple[str, str],
        source: Source = Source.PHYSICS, refers_to: str = "",
    ) -> Bound:  # fmt: skip
        trail = Trail(formula, terms, Term("p", "bound", value, Q.PRESSURE), says)
        return Bound(value, *words, source, trail, refers_to)

    def _pa(self, symbol: str, meaning: str, value: float) -> Term:
        return Term(symbol, meaning, value, Q.PRESSURE)

    # bounds that several pressures share

    def supplies_the_worst(self, flow_m3s: float, when: str) -> Bound:
        outlets = self.survey.outlets
        column_pa = column_of(outlets.worst_m - outlets.sensor_m)
        loss_pa = column_of(self.hyd.pipe.loss_m(flow_m3s))
        terms = (
            self._pa("c", "column from sensor to worst outlet", column_pa),
            self._pa("l", f"losses of the pipe {when}", loss_pa),
            self._pa("r", "pressure wanted there", outlets.residual_pa),
        )
        words = (f"worst outlet {when}", "The worst outlet gets too little.")
        return self._bound("p = c + l + r", terms, column_pa + loss_pa + outlets.residual_pa, "survey", words)

    def above_the_column(self) -> Bound:
        margin_pa = max(self.rules.column_margin_pa, self.wobble_pa)
        terms = (
            self._pa("c", "standing column from sensor to the highest point", self.hyd.column_pa),
            self._pa("m", "margin by rule, or three times the wobble", margin_pa),
        )
        words = (
            "standing column",
            "The column alone holds this pressure: it never falls so low, the set never starts again.",
        )
        return self._bound("p = c + m", terms, self.hyd.column_pa + margin_pa, "survey", words)

    def under_the_rating(self) -> Bound:
        rating_pa = self.survey.vessel.rating_pa
        terms = (
            self._pa("w", "weakest rating", rating_pa),
            Term("s", "share of it that may be used", self.rules.rating_share, Q.RATIO),
        )
        words = ("weakest rating", "A vessel, pipe or fitting gives way; the relief valve opens.")
        return self._bound(
            "p = w \u00b7 s", terms, rating_pa * self.rules.rating_share, "maker; share by rule", words, Source.MAKER
        )

    def in_sight_of_the_sensor(self) -> Bound:
        range_pa = self.survey.sensor.range_pa
        terms = (self._pa("r", "range of the sensor", range_pa), self._pa("m", "margin: wobble", self.wobble_pa))
        words = ("range of the sensor", "The reading never gets so high: nothing happens.")
        return self._bound("p = r - m", terms, range_pa - self.wobble_pa, "sensor survey", words)

    # the settings

    def set_pressure(self) -> Setting:
        demand, outlets = self.survey.demand, self.survey.outlets
        drop_pa = column_of(outlets.sensor_m - outlets.lowest_m)
        terms = (
            self._pa("a", "permitted at the lowest outlet", outlets.permitted_pa),
            self._pa("c", "column from the sensor down to it", drop_pa),
        )
        words = ("permitted at the lowest outlet", "Taps hammer and leak, heaters and hoses burst down there.")
        lowest = self._bound("p = a - c", terms, outlets.permitted_pa - drop_pa, "code or owner", words, Source.CODE)
        can_pa = self.hyd.delivered_pa(demand.design_m3s, self.duty, self.survey.supply.low_pa)
        terms = (
            self._pa("s", "lowest suction pressure", self.survey.supply.low_pa),
            self._pa(
                "d", "what all duty pumps add at the design flow and full speed", can_pa - self.survey.supply.low_pa
            ),
        )
        words = ("what the pumps can at design flow", "The set runs flat out and never gets there.")
        able = self._bound("p = s + d", terms, can_pa, "pump curve, lowest suction", words)
        window = Window(
            (self.supplies_the_worst(demand.design_m3s, "at design flow"),),
            (lowest, able, self.under_the_rating(), self.in_sight_of_the_sensor()),
        )
        proof = "Open outlets one by one: the pressure must stand here from one tap to the design flow."
        return self._placed("set_pressure", ("Set pressure", "setpoint"), window, 0.15, proof)

    def restart(self, set_pa: float) -> Setting:
        band_pa = max(self.wobble_pa, self.rules.regulation_pa)
        terms = (
            self._pa("s", "set pressure", set_pa),
            self._pa("b", "band: the larger of regulation error and three times the wobble", band_pa),
        )
        words = ("set pressure less its wobble", "It hunts: pumps start at every wobble.")
        upper = self._bound("p = s - b", terms, set_pa - band_pa, RULE, words, Source.RULE, "set_pressure")
        window = Window(
            (self.supplies_the_worst(self.survey.demand.least_m3s, "at the smallest flow"), self.above_the_column()),
            (upper,),
        )
        proof = "With the set asleep open one outlet a little: it must start when the pressure has fallen to this."
        return self._placed("restart", ("Restart pressure", "wake, cut-in"), window, 0.6, proof)

    def cut_in(self) -> Setting:
        reach = self.highest_stop()
        terms = (
            self._pa("o", "highest pressure at which the pumps still stop", reach.value),
            self._pa("h", "least step", self.rules.hysteresis_pa),
        )
        words = ("what the pumps can, less a step", "There is no room left for a cut-out above it.")
        upper = self._bound("p = o - h", terms, reach.value - self.rules.hysteresis_pa, "pump curve", words)
        window = Window(
            (self.supplies_the_worst(self.survey.demand.design_m3s, "at design flow"), self.above_the_column()),
            (upper,),
        )
        return self._placed(
            "cut_in",
            ("Cut-in pressure", "start pressure"),
            window,
            0.1,
            "Draw water slowly: the pump must start at it.",
        )

    def highest_stop(self) -> Bound:
        """A pump must reach its cut-out with every outlet closed, at the lowest suction pressure."""
        shut_pa = self.hyd.delivered_pa(0.0, 1, self.survey.supply.low_pa)
        margin_pa = max(self.wobble_pa, self.rules.regulation_pa)
        terms = (
            self._pa("z", "shut-off pressure at the lowest suction", shut_pa),
            self._pa("m", "margin: regulation error or wobble", margin_pa),
        )
        words = ("shut-off pressure of a pump", "The pump never reaches it and never stops: water boils in it.")
        return self._bound("p = z - m", terms, shut_pa - margin_pa, "pump curve, no flow", words)

    def cut_out(self, cut_in_pa: float) -> Setting:
        terms = (self._pa("i", "cut-in pressure", cut_in_pa), self._pa("h", "least step", self.rules.hysteresis_pa))
        words = ("cut-in and a step", "It starts and stops all the time: motor and contactor overheat.")
        lower = self._bound(
            "p = i + h", terms, cut_in_pa + self.rules.hysteresis_pa, RULE, words, Source.RULE, "cut_in"
        )
        window = Window((lower,), (self.highest_stop(), self.under_the_rating(), self.in_sight_of_the_sensor()))
        return self._placed(
            "cut_out",
            ("Cut-out pressure", "stop pressure"),
            window,
            0.6,
            "Close every outlet: the pump must stop at it and stay stopped.",
        )

    def high_stop(self, highest_pa: float) -> Setting:
        terms = (
            self._pa("s", "highest pressure of normal work", highest_pa),
            self._pa("o", "overshoot to allow for", self.rules.overshoot_pa),
        )
        words = ("normal work and its overshoot", "It trips in normal work.")
        lower = self._bound("p = s + o", terms, highest_pa + self.rules.overshoot_pa, RULE, words, Source.RULE)
        window = Window((lower,), (self.under_the_rating(), self.in_sight_of_the_sensor()))
        return self._placed(
            "high_stop",
            ("High-pressure stop", "high discharge"),
            window,
            0.4,
            "Raise the pressure to it, or lower it to the pressure: every pump must stop.",
        )

    def low_stop(self) -> Setting:
        needed_m = self.hyd.npsh_required_m(self.survey.demand.design_m3s / self.duty, 1.0) or 0.0
        air_pa = VAPOUR_PA - ATMOSPHERE_PA
        wanted_pa = air_pa + column_of(needed_m + self.rules.npsh_margin_m)
        terms = (
            self._pa("v", "vapour pressure less air pressure", air_pa),
            self._pa(
                "n",
                "NPSH a pump requires at the design flow, with its margin",
                column_of(needed_m + self.rules.npsh_margin_m),
            ),
        )
        words = ("NPSH of the pumps", "They cavitate: impellers are eaten away, the pump loses its water.")
        lower = self._bound("p = v + n", terms, wanted_pa, "pump maker's curve", words, Source.MAKER)
        low_pa = self.survey.supply.low_pa
        terms = (
            self._pa("l", "lowest suction pressure of normal work", low_pa),
            self._pa("m", "margin: wobble", self.wobble_pa),
        )
        words = ("lowest suction of normal work", "It trips in normal work.")
        upper = self._bound("p = l - m", terms, low_pa - self.wobble_pa, "survey", words)
        proof = "Throttle the suction valve: every pump must stop at it."
        return self._placed(
            "low_suction_stop", ("Low-suction stop", "dry-run pressure"), Window((lower,), (upper,)), 0.5, proof
        )

    def low_reset(self, stop_pa: float) -> Setting:
        terms = (self._pa("s", "low-suction stop", stop_pa), self._pa("h", "least step", self.rules.hysteresis_pa))
        words = ("low-suction stop and a step", "Pumps restart into the same lack of water, again and again.")
        lower = self._bound(
            "p = s + h", terms, stop_pa + self.rules.hysteresis_pa, RULE, words, Source.RULE, "low_suction_stop"
        )
        high_pa = self.survey.supply.high_pa
        terms = (self._pa("t", "highest suction pressure", high_pa), self._pa("m", "margin: wobble", self.wobble_pa))
        words = ("highest suction pressure", "It never comes back by itself.")
        upper = self._bound("p = t - m", terms, high_pa - self.wobble_pa, "survey", words)
        proof = "Open the suction valve again: the set must come back at it."
        return self._placed(
            "low_suction_reset", ("Low-suction reset", "water back"), Window((lower,), (upper,)), 0.3, proof
        )

    def precharge(self, back_pa: float) -> Setting:
        """Measured with the water side empty."""
        found = []
        for share, words in (
            (
                PRECHARGE_LOW,
                (
                    "seven tenths of the pressure at which pumps come back",
                    "Most of the tank holds dead water; the bladder is overstretched.",
                ),
            ),
            (
                1.0,
                (
                    "pressure at which pumps come back",
                    "The tank is empty before the pumps come back: the pressure drops with a bang.",
                ),
            ),
        ):
            terms = (self._pa("b", "pressure at which pumps come back", back_pa), Term("k", "share", share, Q.RATIO))
            found.append(
                self._bound("p = b \u00b7 k", terms, back_pa * share, "tank makers' practice", words, Source.RULE)
            )
        lean = (PRECHARGE - PRECHARGE_LOW) / (1.0 - PRECHARGE_LOW)
        proof = "Isolate the tank, drain its water side, and read the gas valve with a gauge."
        return self._placed(
            "precharge", ("Precharge", "tank air pressure"), Window((found[0],), (found[1],)), lean, proof
        )


def restart_conventions(set_pa: float, restart_pa: float) -> dict[str, float]:
    """A restart pressure in the three ways controllers take it: absolute, share of the set pressure, drop below it."""
    return {
        "absolute_pa": restart_pa,
        "share_of_set": restart_pa / set_pa if set_pa else math.nan,
        "drop_pa": set_pa - restart_pa,
    }
