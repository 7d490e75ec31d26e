"""The timers of a booster set in their windows: each between waiting too long and not waiting long enough."""

from dataclasses import dataclass

from goodbalance.core.balance.plan import TIMERS
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.window import RULE, Bound, Source
from goodbalance.core.physics.surge import pipe_period_s
from goodbalance.core.physics.vessels import drawdown_m3
from goodbalance.core.stations.booster.names import SettingId as S
from goodbalance.core.stations.booster.plant.loop_model import compliance_m3pa
from goodbalance.core.stations.booster.survey.choices import NoFlowBy, Setback, Sharing
from goodbalance.core.stations.booster.survey.control import ControlKind, SuctionBy
from goodbalance.core.stations.booster.windows.making import Windows, least_join_s
from goodbalance.core.stations.booster.windows.suction_dips import dip
from goodbalance.core.stations.booster.windows.switched import Rest, most_starts, rest_by_flow, rests
from goodbalance.core.stations.shared.making import Terms, bound, term

LEAN = 0.4
CLOSED_MARGIN_S = 5.0
BAR_PA = 1e5
DIP_SHARE = 1.5  # of a dip of the suction, that its delay sits out: the regulator comes down later than the pressure is back
STEADY = 3.0  # times the least lag at which setback does not run away


@dataclass(frozen=True, slots=True)
class _Between:
    """A timer between two rules: each the rule, how many times it, its name, the cause and the harm beyond it."""

    label: str
    twin: str
    low: tuple[str, float, str, str, str]
    high: tuple[str, float, str, str, str]
    proof: str
    lean: float = LEAN


_SITS_OUT = ("pause_s", 1.0, "pause of the users to sit out awake", "pause of the users")
_CLOSED = (
    "hot_s",
    1.0,
    "a pump may run against closed outlets for",
    "closed outlets",
    "The water in the pump gets hot, seals suffer.",
)
_DRY = ("dry_s", 1.0, "a pump may run dry for", "running dry")
_BETWEEN = {
    S.SLEEP_DELAY: _Between(
        "Sleep delay", "no-flow delay", (*_SITS_OUT, "It sleeps between two taps of one wash and wakes at once."), _CLOSED,
        "Close every outlet and take the time until the pump stops.",
    ),
    S.FLOW_DELAY: _Between(
        "Stop delay after the flow ends", "flow-off delay",
        (*_SITS_OUT, "It stops between two taps of one wash and starts at once."), _CLOSED,
        "Close every outlet and take the time until the pump stops.",
    ),
    S.LEAVE_DELAY: _Between(
        "Leave delay", "stage-off delay",
        ("settle_s", 1.0, "the pressure settles within", "settling of the loop", "A pump leaves on every passing rise and is called back."),
        ("hot_s", 2.5, "two and a half times what a pump may run closed", "idle pumps", "A pump too many stirs its water for long."),
        "Close outlets at once: take the time until a pump leaves.",
    ),
    S.LOW_SUCTION_DELAY: _Between(
        "Low-suction delay", "dry-run delay",
        ("surge_s", 1.0, "longest honest dip of the suction", "honest dips of the suction", "It trips each time a pump starts."),
        (*_DRY, "The seal runs dry and burns."),
        "Close the suction valve and take the time until the pumps stop.", 0.3,
    ),
    S.NO_PRIME_DELAY: _Between(
        "No-prime delay", "lost-prime delay",
        ("prime_s", 1.0, "longest honest start to full pressure", "honest starts", "It trips while the pump still takes water."),
        (*_DRY, "A pump that turns in air burns its seal."),
        "In HAND close the suction valve: the pump must be given up after this.",
    ),
}  # fmt: skip


class Times(Windows):
    """Delays, by ratio between the shortest and the longest that make sense."""

    def make_all(self) -> None:
        """Those the kind of control has."""
        control = self.survey.control
        if self.survey.has_drives:
            self.ramp()
        if self.survey.holds_constant:
            self._between(S.SLEEP_DELAY, more=self._starts_asleep())
            if self.schools.setback is not Setback.NONE:
                self.setback_time()
            if self.schools.slow_fill:
                self.fill_timeout()
        if control.kind is ControlKind.FLOW_STOP:
            self._between(S.FLOW_DELAY, more=self._starts_by_flow())
        if self.duty > 1 and not self.survey.own_switches:
            self.join_delay()
            if self.survey.holds_constant:
                self._between(S.LEAVE_DELAY, 0.5 if self.schools.sharing is Sharing.SERIAL else LEAN)
        if S.CUT_OUT in self.so_far and not self.survey.own_switches:
            self.least_run()
        if control.suction_by is not SuctionBy.NONE:
            self._between(S.LOW_SUCTION_DELAY, more=self._dips())
        self._between(S.NO_PRIME_DELAY)
        self.burst_delay()
        self.closed_delay()
        self.starts_alarm()
        self.max_run()

    def _rule(self, value: float, cause: str, harm: str, name: str) -> Bound:
        terms = (term("r", name, value, Q.TIME),)
        return bound("t = r", terms, value, RULE, (cause, harm), Source.RULE, quantity=Q.TIME)

    def _timer(
        self, setting_id: S, labels: tuple[str, str], lower: Bound, upper: Bound, proof: str, lean: float = LEAN,
        more: tuple[Bound, ...] = (),
    ) -> None:  # fmt: skip
        self.make(setting_id, labels, (lower, *more), (upper,), lean, proof, TIMERS, Q.TIME)

    def ramp(self) -> None:
        """From rest to full speed: slow enough for drive and pipe, quick enough that the loop and not the ramp decides."""
        motor, outlets = self.survey.motor, self.survey.outlets
        terms: Terms = (term("d", "shortest ramp the drive takes without tripping", motor.ramp_s, Q.TIME),)
        words = ("drive", "The drive trips: over-current on the way up, over-voltage on the way down.")
        lower = [bound("t = d", terms, motor.ramp_s, "drive; its maker", words, Source.MAKER, quantity=Q.TIME)]
        period_s, times = pipe_period_s(outlets.length_m, outlets.wave_ms), self.rules.periods
        terms = (
            term("L", "length of pipe to the worst outlet", outlets.length_m, Q.LENGTH),
            term("a", "speed of a pressure wave in it", outlets.wave_ms, Q.VELOCITY),
            term("k", "pipe periods a ramp must last", times, Q.RATIO),
        )
        words = ("pipe periods", "Each change of speed is a shock to the pipe: hangers, joints and check valves suffer.")
        lower.append(bound("t = k · 2 · L/a", terms, times * period_s, RULE, words, Source.RULE, quantity=Q.TIME))
        third_s = self.rules.settle_s / 3.0 if self.survey.holds_constant else self.rules.prime_s
        name = "a third of the time the pressure settles in" if self.survey.holds_constant else "longest honest start"
        upper = self._rule(third_s, name, "The ramp and not the regulator decides: the pressure sags and overshoots.", name)
        proof = "In HAND go from rest to full speed and take the time; nothing may trip, no pipe may knock."
        labels = ("Ramp", "acceleration time")
        self.make(S.RAMP, labels, tuple(lower), (upper,), 0.1, proof, TIMERS, Q.TIME, 0.1)

    def _starts_asleep(self) -> tuple[Bound, ...]:
        """How long it must wait before it sleeps, so that the largest flow at which it sleeps does not start it too often."""
        if self.schools.no_flow is NoFlowBy.BUMP:
            least_s = 3600.0 / self.survey.pumping.starts_per_hour
            terms = (
                term("h", "an hour", 3600.0, Q.TIME), term("S", "starts allowed", self.survey.pumping.starts_per_hour, Q.STARTS)
            )  # fmt: skip
            words = ("starts per hour while little is drawn", "Each short stop ends in a start: motor and drive wear.")
            return (bound("t = h/S", terms, least_s, "each short stop is a start", words, Source.MAKER, quantity=Q.TIME),)
        return tuple(
            self._spaced(rest, "largest flow at which it falls asleep") for rest in rests(self.survey, self.choices, self.so_far)
        )  # fmt: skip

    def _dips(self) -> tuple[Bound, ...]:
        """How long the suction lies under its stop while pumps bring the pressure back."""
        found = dip(self.survey, self.so_far) if S.LOW_SUCTION_STOP in self.so_far else None
        if found is None:
            return ()
        terms = (
            term("d", "so long it lies there", found.lasts_s, Q.TIME), term("s", "lowest suction, pumps at full speed until the pressure is back", found.suction_pa),
            term("q", "what they draw then", found.flow_m3s, Q.FLOW), term("l", "low-suction stop", self.so_far[S.LOW_SUCTION_STOP]), term("k", "half as long again: the regulator comes down late", DIP_SHARE, Q.RATIO),
        )  # fmt: skip
        words = ("suction under its stop while the pressure comes back", "It trips with water enough, when most is wanted.")
        return (bound("t = k · d", terms, DIP_SHARE * found.lasts_s, "survey", words, refers_to=S.LOW_SUCTION_STOP, quantity=Q.TIME),)

    def _starts_by_flow(self) -> tuple[Bound, ...]:
        """The same for a pump that stops when the flow ends."""
        return (self._spaced(rest_by_flow(self.survey, self.so_far), "flow at which the flow switch opens"),)

    def _spaced(self, rest: Rest, name: str) -> Bound:
        allowed = self.survey.pumping.starts_per_hour
        value = max(0.0, 3600.0 / allowed - rest.cycle_s(0.0))
        terms = (
            term("h", "an hour", 3600.0, Q.TIME),
            term("S", "starts allowed", allowed, Q.STARTS),
            term("D", "water the tank gives between stop and start", rest.stored_m3, Q.VOLUME),
            term("q", name, rest.flow_m3s, Q.FLOW),
            term("r", "refilling", rest.refill_s, Q.TIME),
        )
        words = ("starts per hour while little is drawn", "It sleeps and wakes more often than its motor stands.")
        return bound("t = max(0, h/S - D/q - r)", terms, value, "cycle: drawdown, refill, delay", words, Source.MAKER, quantity=Q.TIME)

    def _between(self, setting_id: S, lean: float | None = None, more: tuple[Bound, ...] = ()) -> None:
        """A timer that two rules alone bound, and what else bounds it from below."""
        timer = _BETWEEN[setting_id]
        low, high = (
            self._rule(getattr(self.rules, rule) * times, cause, harm, name)
            for rule, times, name, cause, harm in (timer.low, timer.high)
        )
        lean = timer.lean if lean is None else lean
        self._timer(setting_id, (timer.label, timer.twin), low, high, timer.proof, lean, more)

    def setback_time(self) -> None:
        """How slowly the pressure wanted follows the flow: what fills the tank counts as flow too and raises it further.

        With p = S q and q = D + C dp/dt a lag t gives (t - S C) dp/dt = S D - p, which runs away unless t > S C.
        """
        design, low_pa, full_pa = (
            self.survey.demand.design_m3s,
            self.so_far[S.NO_FLOW_PRESSURE],
            self.so_far[S.SET_PRESSURE],
        )
        times = 2.0 if self.schools.setback is Setback.SQUARE else 1.0
        slope = times * max(0.0, full_pa - low_pa) / design
        stores = compliance_m3pa(self.hyd, low_pa, self.so_far.get(S.PRECHARGE, 0.0))
        value = STEADY * slope * stores
        terms: Terms = (
            term("D", "rise of the pressure from no flow to design flow", max(0.0, full_pa - low_pa)),
            term("k", "steepest, over the mean", times, Q.RATIO),
            term("Q", "design flow", design, Q.FLOW),
            term("C", "water the tank and pipes take", stores * BAR_PA, Q.VOLUME),
            term("b", "while the pressure rises by this", BAR_PA),
            term("s", "times over, to be safe", STEADY, Q.RATIO),
        )
        words = (
            "water that fills the tank",
            "Filling the tank looks like demand: pressure and flow drive each other up and down.",
        )
        formula = "t = s · k · D/Q · C/b"
        lower = [bound(formula, terms, value, "zone with a lag, stable for t > S C", words, quantity=Q.TIME)]
        third_s = self.rules.settle_s / 3.0
        terms = (term("s", "a third of the time the pressure settles in", third_s, Q.TIME),)
        words = (
            "settling of the loop",
            "The pressure wanted runs ahead of the pressure held: the loop never comes to rest.",
        )
        lower.append(bound("t = s", terms, third_s, RULE, words, Source.RULE, quantity=Q.TIME))
        upper = self._rule(
            2.0 * self.rules.wait_s,
            "users short of pressure",
            "Outlets opened at once get too little until it has followed.",
            "twice what users may be short of pressure for",
        )
        labels = ("The setback follows in", "compensation filter")
        proof = "Open outlets at once: the pressure must be back at the full set pressure after three times this."
        self.make(S.SETBACK_TIME, labels, tuple(lower), (upper,), LEAN, proof, TIMERS, Q.TIME)

    def join_delay(self) -> None:
        """How long pressure is short before the next pump joins: over a passing dip, under what users bear."""
        least_s = self.rules.settle_s / 3.0 if self.survey.holds_constant else least_join_s(self.rules)
        name = "settling of the loop" if self.survey.holds_constant else "two honest starts"
        lower = self._rule(
            least_s, name, "A pump joins on every passing dip: the set hunts.", f"a third of the time for {name}"
        )
        upper = self._rule(
            self.rules.wait_s,
            "users short of pressure",
            "They stand under a trickle until help comes.",
            "users may be short of pressure for",
        )
        refills = self._refilling()
        proof = "Open outlets at once: take the time until the next pump starts."
        labels = ("Join delay", "stage-on delay")
        bounds = (lower,) if refills is None else (lower, refills)
        self.make(S.JOIN_DELAY, labels, bounds, (upper,), LEAN, proof, TIMERS, Q.TIME)

    def _refilling(self) -> Bound | None:
        """Time one pump alone needs, at mean flow, to bring the tank from the restart to the set pressure."""
        if not self.survey.holds_constant or S.PRECHARGE not in self.so_far:
            return None
        low_pa, high_pa = self.so_far[S.RESTART], self.so_far[S.SET_PRESSURE]
        takes_m3 = drawdown_m3(
            self.survey.vessel.volume_m3, self.so_far[S.PRECHARGE], low_pa, max(low_pa, high_pa), self.hyd.air_pa
        )
        mean_m3s = self.survey.demand.mean_m3s
        gives_m3s = self.hyd.flow_at(1.0, self.hyd.added_m((low_pa + high_pa) / 2.0, self.hyd.suction_pa(mean_m3s)))
        spare_m3s = gives_m3s - mean_m3s  # with none one pump never does it: help may come at once
        terms = (
            term("D", "what the tank takes from the restart to the set pressure", takes_m3, Q.VOLUME),
            term("q", "flow of one pump half way, full speed, lowest supply", gives_m3s, Q.FLOW),
            term("m", "mean flow drawn meanwhile", mean_m3s, Q.FLOW),
        )
        words = (
            "one pump filling the tank",
            "Pumps join while one alone would have done: the tank overfills, all leave, and it begins again.",
        )
        if not spare_m3s > 0.0:
            return bound("t = 0", terms, 0.0, "pump curve: one gives less than is drawn", words, quantity=Q.TIME)
        return bound("t = D/(q - m)", terms, takes_m3 / spare_m3s, "Boyle, pump curve", words, quantity=Q.TIME)

    def least_run(self) -> None:
        """How long a switched pump runs at least; closed outlets must not overpressure meanwhile."""
        lower = self._rule(0.0, "nothing", "Without it only the tank spaces the starts.", "no least run")
        spare_m3 = self.survey.vessel.volume_m3
        low_pa, high_pa = self.so_far[S.CUT_OUT], self.so_far[S.HIGH_STOP]
        least = term("s", "at least", 1.0, Q.TIME)
        if spare_m3 > 0.0:
            takes_m3 = drawdown_m3(spare_m3, self.so_far[S.PRECHARGE], low_pa, max(high_pa, low_pa))
            flow = self.hyd.flow_at(1.0, self.hyd.added_m(low_pa, self.hyd.suction_high_pa)) or 1e-6
            value, formula = max(least.value, takes_m3 / flow), "t = max(s, D/q)"
            terms: Terms = (
                term("D", "water the tank takes from cut-out to the high-pressure stop", takes_m3, Q.VOLUME),
                term("q", "flow of a pump at cut-out, highest suction", flow, Q.FLOW),
                least,
            )
        else:
            value, formula, terms = least.value, "t = s", (least,)
        words = ("room above the cut-out", "It must run on with every outlet closed: the high-pressure stop trips.")
        upper = bound(formula, terms, value, "Boyle", words, quantity=Q.TIME)
        self._timer(
            S.LEAST_RUN,
            ("Least run", "minimum run time"),
            lower,
            upper,
            "Draw one glass: the pump must run on so long.",
            0.0,
        )

    def fill_timeout(self) -> None:
        """Until filling is given up: longer than the pipes need, shorter than a burst may run."""
        outlets = self.survey.outlets
        speed, fill_pa = self.so_far[S.FILL_SPEED], self.so_far[S.FILL_PRESSURE]
        head_m = self.hyd.added_m(max(0.0, fill_pa * 0.5), self.hyd.suction_pa(0.0))
        flow = max(self.hyd.flow_at(speed, head_m), 1e-6)
        room_m3 = self.hyd.pipe.volume_m3 + self.survey.vessel.volume_m3 * 0.5
        least_s = 5.0
        needed_s = max(least_s, room_m3 / flow)
        terms: Terms = (
            term("s", "shorter than this it tells nothing", least_s, Q.TIME),
            term("V", f"pipe of {outlets.length_m:g} m and half the tank", room_m3, Q.VOLUME),
            term("q", "flow at the fill speed, half way up", flow, Q.FLOW),
        )
        words = ("filling the pipes", "Filling is given up although all is well.")
        lower = bound("t = max(s, V/q)", terms, needed_s, "survey", words, quantity=Q.TIME)
        terms = (term("f", "filling the pipes", needed_s, Q.TIME), term("k", "times over", 10.0, Q.RATIO))
        words = ("a pipe that stands open", "Water runs out of an open pipe for long before anybody knows.")
        upper = bound("t = f · k", terms, 10.0 * needed_s, RULE, words, Source.RULE, quantity=Q.TIME)
        self._timer(
            S.FILL_TIMEOUT,
            ("Fill timeout", "slow-fill time limit"),
            lower,
            upper,
            "Leave a drain open while it fills: it must give up after this.",
        )

    def burst_delay(self) -> None:
        """How long pressure may lie under the burst pressure: every pump gets its turn, the street is not flooded."""
        start_s = self.rules.prime_s + (self.so_far.get(S.JOIN_DELAY, 0.0) * (self.duty - 1))
        terms = (
            term("p", "longest honest start", self.rules.prime_s, Q.TIME),
            term("j", "join delays until every pump runs", start_s - self.rules.prime_s, Q.TIME),
        )
        words = ("all pumps called in", "It trips before every pump has had its turn.")
        lower = bound("t = p + j", terms, start_s, RULE, words, Source.RULE, quantity=Q.TIME)
        upper = self._rule(
            self.rules.hot_s * 2.5,
            "water in the street",
            "A burst floods on.",
            "two and a half times what a pump may run closed",
        )
        self._timer(
            S.BURST_DELAY,
            ("Burst delay", "run-out delay"),
            lower,
            upper,
            "With a hydrant open take the time until the set stops.",
        )

    def closed_delay(self) -> None:
        """How long one pump may take no more power than without flow: a stuck flow switch, or a cut-out out of reach."""
        waits = self.so_far.get(S.SLEEP_DELAY, self.so_far.get(S.FLOW_DELAY, self.so_far.get(S.LEAST_RUN, 0.0)))
        terms = (
            term("w", "delay before it stops, or least run", waits, Q.TIME),
            term("m", "for boost, start and noise", CLOSED_MARGIN_S, Q.TIME),
        )
        words = ("stops of normal work", "It comes before the stop of normal work, and raises an alarm each night.")
        lower = bound("t = w + m", terms, waits + CLOSED_MARGIN_S, RULE, words, Source.RULE, quantity=Q.TIME)
        upper = self._rule(
            self.rules.hot_s, "closed outlets", "The water in the pump boils, seals suffer.", "a pump may run against closed outlets for"
        )  # fmt: skip
        proof = "Hold the flow switch so that it tells of flow, close every outlet: it must stop after this, with an alarm."
        labels = ("Closed-outlet stop", "dead-head delay")
        self._timer(S.CLOSED_DELAY, labels, lower, upper, proof, 0.5)

    def starts_alarm(self) -> None:
        """Starts of one pump in an hour from which somebody must look: most often a tank that has lost its gas."""
        allowed, worst = self.survey.pumping.starts_per_hour, most_starts(self.survey, self.choices, self.so_far)
        usual = worst.per_hour if worst.per_hour > allowed * (1.0 + 1e-6) else min(worst.per_hour, allowed)
        terms = (term("s", "most starts of a healthy set", usual, Q.STARTS),)
        words = ("starts of normal work", "It cries wolf on every busy day.")
        lower = bound("S = s", terms, usual, "figure above", words, quantity=Q.STARTS)
        terms = (term("a", "starts allowed", allowed, Q.STARTS),)
        words = ("starts allowed", "A waterlogged tank wears motor and contactor out before anybody knows.")
        upper = bound("S = a", terms, allowed, "motor maker", words, Source.MAKER, quantity=Q.STARTS)
        proof = "Set it to 2, draw and close three times: the alarm must come. Set it back and read it back."
        labels = ("Start alarm", "starts per hour")
        self.make(S.STARTS_ALARM, labels, (lower,), (upper,), 0.5, proof, TIMERS, Q.STARTS, 1.0)

    def max_run(self) -> None:
        """Run without a stop that raises an alarm: longer than an honest busy day, shorter than a week."""
        upper_s = 7.0 * 86400.0
        lower = self._rule(
            self.rules.longest_run_s,
            "longest honest run",
            "It trips on a busy day.",
            "longest honest run without a stop",
        )
        upper = self._rule(upper_s, "a week", "A leak nobody sees keeps the pumps running for weeks.", "seven days")
        self.make(
            S.MAX_RUN, ("Longest run", "maximum run time"), (lower,), (upper,), LEAN,
            "Set it to a minute for the test: an alarm must come; set it back and read it back.", TIMERS, Q.DURATION, 600.0,
        )  # fmt: skip
