"""The working pressures of a booster set: set pressure, restart, cut-in and cut-out, night, setback, boost, precharge."""

import math

from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.window import RULE, Bound, Source
from goodbalance.core.physics.vessels import drawdown_m3
from goodbalance.core.stations.booster.names import SettingId as S
from goodbalance.core.stations.booster.survey.choices import NoFlowBy, Setback
from goodbalance.core.stations.booster.survey.control import ControlKind
from goodbalance.core.stations.booster.windows.making import Windows, last_cut_in, least_join_s
from goodbalance.core.stations.booster.windows.switched import mean_rate_m3s, stored_for_m3, switched_together
from goodbalance.core.stations.shared.making import Terms, bound, term

PRECHARGE_LOW, PRECHARGE = 0.7, 0.9  # of the pressure at which the pumps come back


class Pressures(Windows):
    """Pressures the pumps work to, in the order they are decided."""

    def make_all(self) -> None:
        """With drives a set pressure and a restart, without them cut-in and cut-out; then what hangs on them."""
        if self.survey.holds_constant:
            self.set_pressure()
            self.restart()
            if self.schools.setback is not Setback.NONE:
                self.no_flow_pressure()
            if self.schools.night:
                self.night_pressure()
            if self.survey.remote is not None:
                self.remote_pressure()
            if self.survey.vessel.volume_m3 > 0.0 and self.schools.no_flow is not NoFlowBy.BUMP:
                self.boost()
        else:
            self.switched()
        if self.survey.vessel.volume_m3 > 0.0:
            self.precharge()

    def switched(self) -> None:
        """Cut-in and cut-out of pumps that are only switched."""
        self.cut_in()
        if self.survey.control.kind is not ControlKind.FLOW_STOP:
            self.cut_out()

    @property
    def back(self) -> S:
        """The pressure at which pumps come back, of several switches the last one's."""
        return S.RESTART if S.RESTART in self.so_far else last_cut_in(self.so_far)

    def set_pressure(self) -> None:
        """The pressure held: what the worst outlet wants at design flow, to what pumps can and pipes and taps bear."""
        proof = "Open outlets one by one: the pressure must stand here from one tap to the design flow."
        upper = (
            self.at_the_lowest_outlet(),
            self.what_the_pumps_can(),
            *self.under_the_rating(),
            self.in_sight_of_the_sensor(),
        )
        lower = (self.supplies_the_worst(self.survey.demand.design_m3s, "at design flow"),)
        self.make(S.SET_PRESSURE, ("Set pressure", "setpoint"), lower, upper, 0.25, proof)

    def at_the_lowest_outlet(self) -> Bound:
        """What the lowest outlet may get, less the column from the sensor down to it."""
        outlets = self.survey.outlets
        drop_pa = self.hyd.column_of(outlets.sensor_m - outlets.lowest_m)
        terms = (
            term("a", "permitted at the lowest outlet", outlets.permitted_pa),
            term("c", "column from the sensor down to it", drop_pa),
        )
        words = ("permitted at the lowest outlet", "Taps hammer and leak, heaters and hoses burst down there.")
        return bound("p = a - c", terms, outlets.permitted_pa - drop_pa, "code or owner", words, Source.CODE)

    def what_the_pumps_can(self) -> Bound:
        """What all duty pumps give at full speed at design flow from the lowest suction."""
        flow, low_pa = self.survey.demand.design_m3s, self.hyd.suction_low_pa
        can_pa = self.hyd.delivered_pa(flow, self.duty, low_pa)
        terms = (
            term("s", "lowest suction pressure, at design flow", low_pa),
            term("d", "what all duty pumps add at the design flow and full speed", can_pa - low_pa),
        )
        words = ("what the pumps can at design flow", "The set runs flat out and never gets there.")
        return bound("p = s + d", terms, can_pa, "pump curve, lowest suction", words)

    def restart(self) -> None:
        """Where a sleeping set wakes: enough at the worst outlet, a step under the set pressure."""
        harm = "It hunts: pumps start at every wobble."
        upper = (self.step_below(S.SET_PRESSURE, "set pressure", harm, self.band_pa()),)
        lower = (
            self.supplies_the_worst(self.survey.demand.least_m3s, "at the smallest flow", self.least_residual_pa()),
        )
        proof = "With the set asleep open one outlet a little: it must start when the pressure has fallen to this."
        self.make(S.RESTART, ("Restart pressure", "wake, cut-in"), (*lower, self.above_the_column()), upper, 0.6, proof)

    def least_residual_pa(self) -> float:
        """What the worst outlet must still have before the pumps come back: at night less, where night is set apart."""
        wanted = self.survey.outlets.residual_pa
        return min(wanted, self.rules.night_residual_pa) if self.schools.night else wanted

    def no_flow_pressure(self) -> None:
        """Set pressure at no flow, from where it rises with the flow to the full one."""
        lower = (
            self.supplies_the_worst(0.0, "without flow"),
            self.step_above(
                S.RESTART,
                "restart pressure",
                "It never falls asleep: it wakes at its own set pressure.",
                self.band_pa(),
            ),
        )
        upper = (self.step_below(S.SET_PRESSURE, "set pressure", "There is no setback: nothing is saved.", 0.0),)
        proof = "Close all but one tap: the pressure must settle near this, and rise as outlets open."
        self.make(S.NO_FLOW_PRESSURE, ("Pressure at no flow", "setback"), lower, upper, 0.2, proof)

    def night_low(self) -> Bound:
        """What the worst outlet wants by night, at mean flow."""
        return self.supplies_the_worst(self.survey.demand.mean_m3s, "at mean flow", self.rules.night_residual_pa)

    def night_pressure(self) -> None:
        """Set pressure by night: over the restart, or it never sleeps; under the one by day, or nothing is saved."""
        lower = (
            self.night_low(),
            self.step_above(S.RESTART, "restart pressure", "At night it never falls asleep.", self.band_pa()),
        )
        upper = (
            self.step_below(S.SET_PRESSURE, "set pressure", "It is no lower than by day: nothing is gained.", 0.0),
        )
        proof = "Set the clock past the change: the pressure must go to this, and back by day."
        self.make(S.NIGHT_PRESSURE, ("Night set pressure", "alternate setpoint"), lower, upper, 0.3, proof)

    def remote_pressure(self) -> None:
        """Pressure held at a sensor far away; its columns to the worst outlet and back to the set make its bounds."""
        remote, outlets = self.survey.remote, self.survey.outlets
        assert remote is not None
        drop_pa = self.hyd.column_of(outlets.worst_m - remote.height_m)
        terms: Terms = (
            term("r", "pressure wanted at the worst outlet", outlets.residual_pa),
            term("c", "column from the remote sensor up to it", drop_pa),
        )
        words = ("worst outlet", "The worst outlet gets too little.")
        lower = bound("p = r + c", terms, outlets.residual_pa + drop_pa, "survey", words)
        rise_pa = self.hyd.column_of(remote.height_m - outlets.sensor_m)
        restart_pa = self.so_far[S.RESTART]
        terms = (
            term("w", "restart pressure, at the set", restart_pa),
            term("b", "regulation error or three times the wobble", self.band_pa()),
            term("c", "column up to the remote sensor", rise_pa),
        )
        words = (
            "restart pressure, seen from the far end",
            "It never falls asleep: without flow it holds less than its own restart.",
        )
        asleep = bound(
            "p = w + b - c", terms, restart_pa + self.band_pa() - rise_pa, RULE, words, Source.RULE, S.RESTART
        )
        set_pa = self.so_far[S.SET_PRESSURE]
        terms = (term("s", "set pressure at the set", set_pa), term("c", "column up to the remote sensor", rise_pa))
        words = ("set pressure less the column", "Near the set the pressure goes over what is permitted there.")
        upper = bound("p = s - c", terms, set_pa - rise_pa, "survey", words, refers_to=S.SET_PRESSURE)
        terms = (term("r", "range of the remote sensor", remote.range_pa), term("m", "margin: wobble", self.wobble_pa))
        words = ("range of the remote sensor", "The reading never gets so high: the pumps run flat out.")
        seen = bound("p = r - m", terms, remote.range_pa - self.wobble_pa, "survey", words)
        proof = "Read the far gauge at one tap and at design flow: both must stand here. Then pull the remote sensor's plug."
        self.make(
            S.REMOTE_PRESSURE, ("Remote set pressure", "far setpoint"), (lower, asleep), (upper, seen), 0.25, proof
        )

    def boost(self) -> None:
        """Stored in the tank before the pumps sleep."""
        terms: Terms = (term("b", "regulation error or three times the wobble", self.band_pa()),)
        words = ("what the sensor can tell", "Too little is stored: it wakes again and again.")
        lower = bound("p = b", terms, self.band_pa(), RULE, words, Source.RULE)
        roof_pa = min(
            b.value for b in (*self.under_the_rating(), self.in_sight_of_the_sensor(), self.at_the_lowest_outlet())
        )
        set_pa = self.so_far[S.SET_PRESSURE]
        terms = (
            term("l", "lowest of rating, range and what is permitted", roof_pa),
            term("o", "overshoot to allow for", self.rules.overshoot_pa),
            term("s", "set pressure", set_pa),
        )
        words = (
            "limits above the set pressure",
            "The high-pressure stop trips, or the relief valve opens, each time it sleeps.",
        )
        upper = bound(
            "p = l - o - s",
            terms,
            roof_pa - self.rules.overshoot_pa - set_pa,
            "survey",
            words,
            refers_to=S.SET_PRESSURE,
        )
        shut_pa = self.hyd.shut_off_pa()
        terms = (
            term("z", "shut-off pressure of one pump at the lowest suction", shut_pa),
            term("s", "set pressure", set_pa),
            term("m", "margin", self.band_pa()),
        )
        words = ("shut-off pressure of a pump", "One pump never reaches it and never sleeps.")
        reach = bound(
            "p = z - s - m", terms, shut_pa - set_pa - self.band_pa(), "pump curve", words, refers_to=S.SET_PRESSURE
        )
        proof = "Close every outlet and watch the gauge: it must rise by this before the last pump stops."
        self.make(S.BOOST, ("Boost before sleep", "pressure stored"), (lower,), (upper, reach), 0.3, proof)

    def cut_in(self) -> None:
        """Where pumps that are only switched start: the worst outlet at design flow, and room for a cut-out above."""
        reach = self.highest_stop()
        terms = (
            term("o", "highest pressure at which the pumps still stop", reach.value),
            term("h", "least step", self.rules.hysteresis_pa),
        )
        words = ("what the pumps can, less a step", "There is no room left for a cut-out above it.")
        upper = bound("p = o - h", terms, reach.value - self.rules.hysteresis_pa, "pump curve", words)
        lower = (self.supplies_the_worst(self.survey.demand.design_m3s, "at design flow"), self.above_the_column())
        proof = "Draw water slowly: the pump must start at it."
        self.make(
            S.CUT_IN, ("Cut-in pressure", "start pressure"), lower, (upper, self.at_the_lowest_outlet()), 0.1, proof
        )

    def running_speed(self) -> float:
        """Share of full speed at which pumps run that are only switched."""
        return self.so_far.get(S.FIXED_SPEED, 1.0)

    def highest_stop(self) -> Bound:
        """A pump must reach its cut-out with every outlet closed, at the lowest suction pressure."""
        shut_pa = self.hyd.delivered_pa(0.0, 1, self.hyd.suction_pa(0.0), self.running_speed())
        terms = (
            term("z", "shut-off pressure at the lowest suction", shut_pa),
            term("m", "margin: regulation error or wobble", self.band_pa()),
        )
        words = ("shut-off pressure of a pump", "The pump never reaches it and never stops: water boils in it.")
        return bound("p = z - m", terms, shut_pa - self.band_pa(), "pump curve, no flow", words)

    def cut_out(self) -> None:
        """Where they stop: enough drawdown for the permitted starts, and within what a pump reaches."""
        harm = "It starts and stops all the time: motor and contactor overheat."
        lower = (self.step_above(S.CUT_IN, "cut-in", harm), self.enough_drawdown(S.CUT_IN))
        upper = (
            self.highest_stop(),
            self.at_the_lowest_outlet(),
            *self.under_the_rating(),
            self.in_sight_of_the_sensor(),
        )
        proof = "Close every outlet: the pump must stop at it and stay stopped."
        self.make(S.CUT_OUT, ("Cut-out pressure", "stop pressure"), lower, upper, 0.6, proof)

    def enough_drawdown(self, starts: S) -> Bound:
        """The cut-out from which the tank gives enough between starts: V P0 (1/P1 - 1/P2) = q T/4 for P2, by bisection, for
        the mean rate q falls as P2 rises; none without a tank. starts: the cut-in below it."""
        volume_m3, cut_in = self.survey.vessel.volume_m3, self.so_far[starts]
        charge_pa = self.choices.chosen.get(S.PRECHARGE, PRECHARGE * self.so_far[self.back])
        speed, join_s = self.running_speed(), least_join_s(self.rules)
        pumps = 1 if self.survey.own_switches else switched_together(self.survey, cut_in, speed)
        cycle_s = 3600.0 / self.survey.pumping.starts_per_hour

        def needed_m3(cut_out: float) -> float:
            rate = mean_rate_m3s(self.hyd, speed, cut_in, cut_out, charge_pa)
            return stored_for_m3(cycle_s, rate, pumps, join_s)

        def spare_m3(cut_out: float) -> float:
            if volume_m3 <= 0.0 or charge_pa <= -self.hyd.air_pa:
                return -1.0
            return drawdown_m3(volume_m3, charge_pa, cut_in, cut_out, self.hyd.air_pa) - needed_m3(cut_out)

        low, high = cut_in, max(cut_in, self.hyd.delivered_pa(0.0, 1, self.hyd.source_pa(True), speed))
        value = math.inf
        if spare_m3(high) >= 0.0:
            for _ in range(30):
                middle = (low + high) / 2.0
                low, high = (low, middle) if spare_m3(middle) >= 0.0 else (middle, high)
            value = high
        top = value if math.isfinite(value) else high
        rate = mean_rate_m3s(self.hyd, speed, cut_in, top, charge_pa)
        several = f" ({pumps} pumps join and stop together, {join_s:g} s apart)" if pumps > 1 else ""
        terms = (
            term("i", "cut-in pressure, absolute", cut_in + self.hyd.air_pa),
            term("D", f"drawdown for the starts allowed: q T/4, or what several pumps need{several}", needed_m3(top), Q.VOLUME),
            term("V", "volume of the tank", volume_m3, Q.VOLUME),
            term("c", "precharge, absolute", charge_pa + self.hyd.air_pa),
            term("a", "air pressure", self.hyd.air_pa),
            term("q", "mean rate of a pump from cut-in to cut-out, highest supply", rate, Q.FLOW),
            term("T", "least time between two starts", cycle_s, Q.TIME),
        )  # fmt: skip
        words = ("starts per hour with this tank", "The pump starts more often than its motor stands.")
        return bound("p = 1/(1/i - D/(V · c)) - a", terms, value, "Boyle; V >= q T/4", words, Source.MAKER, starts)

    def precharge(self) -> None:
        """Measured with the water side empty."""
        back_pa, found = self.so_far[self.back], []
        for share, cause, harm in (
            (PRECHARGE_LOW, "seven tenths of the pressure at which pumps come back", "Most of the tank holds dead water; the bladder is overstretched."),
            (1.0, "pressure at which pumps come back", "The tank is empty before the pumps come back: the pressure drops with a bang."),
        ):  # fmt: skip
            terms = (term("b", "pressure at which pumps come back", back_pa), term("k", "share", share, Q.RATIO))
            source = "tank makers' practice"
            found.append(bound("p = b · k", terms, back_pa * share, source, (cause, harm), Source.RULE, self.back))
        lean = (PRECHARGE - PRECHARGE_LOW) / (1.0 - PRECHARGE_LOW)
        proof = "Isolate the tank, drain its water side, and read the gas valve with a gauge."
        self.make(S.PRECHARGE, ("Precharge", "tank air pressure"), (found[0],), (found[1],), lean, proof)
