"""The speeds of a booster set with drives in their windows: least and most speed, sleep, and when pumps join and leave."""

from goodbalance.core.balance.plan import Finding, Severity
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term
from goodbalance.core.balance.window import RULE, Bound, Source
from goodbalance.core.stations.booster.names import SettingId as S
from goodbalance.core.stations.booster.survey.choices import NoFlowBy, Sharing
from goodbalance.core.stations.booster.windows.held import carried_m3s, modes
from goodbalance.core.stations.booster.windows.making import SPEEDS, Windows
from goodbalance.core.stations.shared.making import bound, term

JOIN_LEAN = 0.85
JOIN_HIGH = 0.98  # a pump that is called only at full speed comes too late


class Speeds(Windows):
    """Windows of every speed at the set pressure."""

    def make_all(self) -> None:
        """Nothing without drives; staging only with two duty pumps or more."""
        if self.survey.has_drives and not self.survey.holds_constant:
            self.fixed_speed()
        if not self.survey.holds_constant:
            return
        self.set_pa = self.so_far[S.SET_PRESSURE]
        self.modes = modes(self.survey, self.choices, self.so_far)
        self.every_day = modes(self.survey, self.choices, self.so_far, every_day=True)
        idle = [self.hyd.no_flow_speeds(held(0.0)) for held in self.modes]
        self.idle_low, self.idle_high = min(low for low, _ in idle), max(high for _, high in idle)
        self.least_speed()
        self.most_speed()
        if self.schools.no_flow is NoFlowBy.SPEED:
            self.sleep()
        if self.duty > 1:
            self.join(JOIN_LEAN)
            self.leave()
            if self.made[-1].window.is_empty and self.made[-2].chosen is None:  # a later join carries more: it may open
                del self.made[-2:]
                self.join(1.0)
                self.leave()

    def findings(self) -> tuple[Finding, ...]:
        """That speed cannot tell no flow, where it cannot and is asked to."""
        asleep = next((setting for setting in self.made if setting.id == S.SLEEP_SPEED), None)
        if asleep is None or not asleep.window.is_empty:
            return ()
        terms = (Term("low", "", self.idle_low, Q.PERCENT), Term("high", "", self.idle_high, Q.PERCENT))
        text = (
            "Speed cannot tell no flow: it holds the pressure at {low} to {high} without any, as the suction changes, and "
            "the smallest flow needs no more. Under Schools let a flow switch or a short stop tell it."
        )
        return (Finding("speed_blind", Severity.CAUTION, S.SLEEP_SPEED, text, terms),)

    def _speed(
        self,
        setting_id: S,
        labels: tuple[str, str],
        lower: tuple[Bound, ...],
        upper: tuple[Bound, ...],
        lean: float,
        proof: str,
    ) -> float:
        return self.make(setting_id, labels, lower, upper, lean, proof, SPEEDS, Q.PERCENT)

    def _cooled(self) -> Bound:
        motor = self.survey.motor
        least = (motor.least_hz or 0.0) / motor.rated_hz
        terms = (
            term("f", "least frequency the motor's maker allows", motor.least_hz or 0.0, Q.FREQUENCY),
            term("r", "frequency at full speed", motor.rated_hz, Q.FREQUENCY),
        )
        words = ("least frequency of the motor", "The motor's own fan no longer cools it; bearings lose their film.")
        return bound("n = f/r", terms, least, "motor maker", words, Source.MAKER, quantity=Q.PERCENT)

    def _full(self) -> Bound:
        words = ("full speed", "Faster than the nameplate the motor overloads with the cube of the speed.")
        return bound(
            "n = f",
            (term("f", "nameplate speed", 1.0, Q.PERCENT),),
            1.0,
            "nameplate",
            words,
            Source.MAKER,
            quantity=Q.PERCENT,
        )

    def _can(self, harm: str) -> Bound:
        """Speed all duty pumps need at design flow and lowest suction."""
        flow = self.survey.demand.design_m3s
        needed = self.hyd.holding(self.set_pa, self.hyd.suction_low_pa, flow, self.duty).speed
        terms = (
            term("Q", "design flow", flow, Q.FLOW),
            term(
                "s", f"speed at which {self.duty} pumps hold the set pressure there, lowest suction", needed, Q.PERCENT
            ),
        )
        words = ("design flow", harm)
        return bound(
            "n = s", terms, needed, "pump curve by affinity", words, refers_to=S.SET_PRESSURE, quantity=Q.PERCENT
        )

    def least_speed(self) -> None:
        """The regulator's lower end: it must lie under the speed without flow, or the pressure climbs when taps close."""
        margin = self.rules.speed_margin_share
        terms = (
            term("i", "speed that holds the pressure without flow, highest suction", self.idle_low, Q.PERCENT),
            term("m", "least step between two speeds", margin, Q.PERCENT),
        )
        words = (
            "speed without flow, at its lowest",
            "With all taps closed the pump cannot slow down enough: the pressure climbs, it never sleeps.",
        )
        upper = bound(
            "n = i - m", terms, self.idle_low - margin, "affinity", words, refers_to=S.SET_PRESSURE, quantity=Q.PERCENT
        )
        proof = "Close every outlet: the speed shown must come under the sleep speed, and never under this."
        self._speed(S.LEAST_SPEED, ("Least speed", "minimum speed"), (self._cooled(),), (upper,), 0.5, proof)

    def most_speed(self) -> None:
        """Highest speed of the drives: what the design flow needs at the lowest suction, to full speed."""
        lower = self._can("At full draw the pressure sags although the pumps could more.")
        proof = "Open outlets beyond the design flow: the speed shown must end here."
        self._speed(S.MOST_SPEED, ("Most speed", "maximum speed"), (lower,), (self._full(),), 1.0, proof)

    def fixed_speed(self) -> None:
        """The one speed at which drives turn that are not regulated."""
        flow, wanted = (
            self.survey.demand.design_m3s,
            self.supplies_the_worst(self.survey.demand.design_m3s, "at design flow"),
        )
        needed = self.hyd.holding(wanted.value, self.hyd.suction_low_pa, flow, self.duty).speed
        terms = (
            term("p", "pressure the worst outlet wants at design flow", wanted.value),
            term("s", "speed at which all duty pumps give it, lowest suction", needed, Q.PERCENT),
        )
        words = ("worst outlet at design flow", "The worst outlet gets too little.")
        lower = bound("n = s", terms, needed, "pump curve by affinity", words, quantity=Q.PERCENT)
        outlets = self.survey.outlets
        most_pa = outlets.permitted_pa - self.hyd.column_of(outlets.sensor_m - outlets.lowest_m)
        shut = self.hyd.speed(self.hyd.added_m(most_pa, self.hyd.suction_high_pa), 0.0, 1)
        terms = (
            term("a", "permitted at the lowest outlet, seen at the sensor", most_pa),
            term("s", "speed that gives it with all outlets closed, highest suction", shut, Q.PERCENT),
        )
        words = ("permitted at the lowest outlet", "With all outlets closed the pressure goes over what is permitted.")
        upper = bound("n = s", terms, shut, "affinity", words, Source.CODE, quantity=Q.PERCENT)
        proof = "Open the design flow in HAND at this speed and read the worst outlet."
        self._speed(
            S.FIXED_SPEED, ("Fixed speed", "manual speed"), (lower, self._cooled()), (upper, self._full()), 0.5, proof
        )

    def _idle(self, harm: str) -> Bound:
        margin = self.rules.speed_margin_share
        terms = (
            term("i", "speed that holds the pressure without flow, lowest suction", self.idle_high, Q.PERCENT),
            term("m", "least step between two speeds", margin, Q.PERCENT),
        )
        words, says = (
            ("speed without flow, at its highest", harm),
            "n = sqrt(H / H0), affinity, over the range of suction",
        )
        return bound(
            "n = i + m", terms, self.idle_high + margin, says, words, refers_to=S.SET_PRESSURE, quantity=Q.PERCENT
        )

    def sleep(self) -> None:
        """Speed under which nobody draws water: between no flow and the smallest flow worth running for."""
        least_m3s, margin = self.survey.demand.least_m3s, self.rules.speed_margin_share
        suctions = [self.hyd.suction_pa(least_m3s, high) for high in (False, True)]
        at_least = min(
            self.hyd.holding(held(least_m3s), pa, least_m3s, 1).speed for pa in suctions for held in self.every_day
        )
        terms = (
            term("l", "speed at the smallest flow worth running for, highest suction, lowest pressure held", at_least, Q.PERCENT),
            term("m", "least step between two speeds", margin, Q.PERCENT),
        )
        words = (
            "smallest flow worth running for",
            "It falls asleep while somebody still draws water, and wakes at once.",
        )
        upper = bound(
            "n = l - m",
            terms,
            at_least - margin,
            "pump curve by affinity",
            words,
            refers_to=S.SET_PRESSURE,
            quantity=Q.PERCENT,
        )
        proof = "Close every outlet: the pump must slow down to this, stop, and stay stopped."
        lower = self._idle("It never sleeps: the pump stirs hot water all night.")
        self._speed(S.SLEEP_SPEED, ("Sleep speed", "no-flow speed"), (lower,), (upper,), 0.4, proof)

    def join(self, lean: float) -> None:
        """Speed at which the running pumps call one more."""
        words = ("a little under full speed", "The pump comes when the pressure has already sagged.")
        terms: tuple[Term, ...] = (term("f", "a little under full speed", JOIN_HIGH, Q.PERCENT),)
        upper = [bound("n = f", terms, JOIN_HIGH, RULE, words, Source.RULE, quantity=Q.PERCENT)]
        most = self.so_far[S.MOST_SPEED]
        margin = self.rules.speed_margin_share
        terms = (term("m", "most speed", most, Q.PERCENT), term("d", "least step", margin, Q.PERCENT))
        words = ("most speed", "The speed never gets there: no pump ever joins.")
        upper.append(
            bound("n = m - d", terms, most - margin, "drive limit", words, Source.CHOICE, S.MOST_SPEED, Q.PERCENT)
        )
        lower = self._idle("A second pump runs without any need.")
        proof = "Open outlets slowly: the next pump must join at this speed."
        self._speed(S.JOIN_SPEED, ("A pump joins at", "stage-on speed"), (lower,), tuple(upper), lean, proof)

    def leave(self) -> None:
        """Speed at which one pump less must do, without being called back at once."""
        serial = self.schools.sharing is Sharing.SERIAL
        upper = self._leave_serial() if serial else self._leave_together()
        margin = self.rules.speed_margin_share
        if serial:
            least = self.so_far[S.LEAST_SPEED]
            terms = (term("l", "least speed", least, Q.PERCENT), term("m", "least step", margin, Q.PERCENT))
            words = ("least speed", "The regulating pump never slows down so far: none ever leaves.")
            lower = bound(
                "n = l + m", terms, least + margin, "drive limit", words, Source.CHOICE, S.LEAST_SPEED, Q.PERCENT
            )
        else:
            lower = self._idle("Pumps never leave: they share a trickle and wear alike.")
        proof = "Close outlets slowly: one pump must leave at this speed and not be called back."
        self._speed(S.LEAVE_SPEED, ("A pump leaves at", "stage-off speed"), (lower,), (upper,), 0.6, proof)

    def _leave_together(self) -> Bound:
        values = []
        join = self.so_far[S.JOIN_SPEED]
        for high in (False, True):
            suction_pa = self.hyd.suction_pa(0.0, high)
            for pumps in range(2, self.duty + 1):
                for held in self.every_day:
                    flow = carried_m3s(self.hyd, held, join, pumps - 1, suction_pa)
                    carried = flow * (1.0 - self.rules.staging_share)
                    speed = self.hyd.speed(self.hyd.added_m(held(carried), suction_pa), carried, pumps)
                    values.append((speed, pumps, carried))
        value, pumps, carried = min(values)
        terms = (
            term("Q", f"flow that {pumps - 1} of {pumps} pumps still carry at the joining speed, less what is to spare", carried, Q.FLOW),
            term("s", f"speed at which {pumps} pumps give it", value, Q.PERCENT),
        )  # fmt: skip
        words = ("one pump less still carries the flow", "The pump is called back at once: the set hunts.")
        says = "no hunting: Q_N(leave) <= Q_N-1(join) (1 - margin)"
        return bound("n = s", terms, value, says, words, refers_to=S.JOIN_SPEED, quantity=Q.PERCENT)

    def _leave_serial(self) -> Bound:
        """In a row the others stand at full speed: one may leave when the regulating one gives nothing any more."""
        margin = self.rules.speed_margin_share
        low = self.idle_low
        terms = (
            term("i", "speed without flow, highest suction", low, Q.PERCENT),
            term("m", "least step between two speeds", margin, Q.PERCENT),
        )
        words = ("the regulating pump gives nothing any more", "The pump is called back at once: the set hunts.")
        return bound(
            "n = i - m",
            terms,
            low - margin,
            "pump curve by affinity",
            words,
            refers_to=S.SET_PRESSURE,
            quantity=Q.PERCENT,
        )
