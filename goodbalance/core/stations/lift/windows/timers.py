"""Timers of a lift station, each between the two harms of being too short and too long."""

from collections.abc import Iterator

from goodbalance.core.balance.plan import Setting, placed
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term, Trail, given
from goodbalance.core.balance.window import RULE, Bound, Source, Window
from goodbalance.core.stations.lift.names import STARTS, Role
from goodbalance.core.stations.lift.names import SettingId as S
from goodbalance.core.stations.lift.survey.choices import AssistBy, ManyStarts, SpeedMode
from goodbalance.core.stations.lift.survey.level_sensor import SensorKind
from goodbalance.core.stations.lift.survey.sensing import ControlKind
from goodbalance.core.stations.lift.windows.bands import Bands, Levels
from goodbalance.core.stations.lift.windows.consequences import worst_starts

STEP_S = 1.0
LONG_STEP_S = 60.0


class Timers:
    """Windows of the timers for one ladder with its levels in force."""

    def __init__(self, ladder: Bands, levels: Levels, alone_by_floats: bool, ramp_s: float = 0.0) -> None:
        self.ladder, self.levels, self.by_floats, self.ramp_s = ladder, levels, alone_by_floats, ramp_s
        self.hyd, self.survey, self.rules = ladder.hydraulics, ladder.survey, ladder.choices.rules
        self.peak_m3s, self.mean_m3s = self.survey.inflow.peak_m3s, self.survey.inflow.mean_m3s
        submerged_m = ladder.maker_submergence.value
        self.stop_m = levels.get(Role.STOP, submerged_m)
        self.bottom_m = levels.get(Role.LOW_CUT_OUT, levels.get(Role.LOW_ALARM, self.survey.well.intake_m))
        self.top_m = levels.get(Role.HIGH_ALARM, self.survey.inlet.overflow_m)
        self.top_name = "high alarm" if Role.HIGH_ALARM in levels else "overflow"
        self.starts = [levels[role] for role in STARTS if role in levels]

    def settings(self) -> tuple[Setting, ...]:
        """The timers this station has, in the order of a cycle.

        Where drives follow the level a pump may rightly run for hours: no longest run, no assist by time.
        Without a float that calls the assist only the timer can.
        """
        schools = self.ladder.choices.schools
        varies = self.survey.drives.fitted and schools.speed_mode is not SpeedMode.FIXED  # then long runs are honest
        found = [self._delay(), self._gap(), self._feedback()]
        run_on = (self.run_on(self.starts[0]),) if Role.STOP not in self.levels and self.by_floats else ()
        if self.survey.sensor is not None and self.survey.sensor.kind is SensorKind.LOOK_DOWN:
            found[:0] = [self._believed_rate(), self._followed(True), self._followed(False)]
        if self.survey.control.kind is ControlKind.DRIVES_ALONE and self.hyd.pump_count > 1:
            found.append(self._takeover())
        if self.survey.control.has_calls:
            found += [self._least_run(run_on), self._least_rest(), self._stop_delay()]
            found += [] if varies else [self._longest_run()]
            found += [] if schools.many_starts is ManyStarts.UNCOUNTED else [self._starts_limit()]
        by_level = Role.START_2 in self.levels or (self.by_floats and Role.HIGH_ALARM in self.levels)
        by_timer = (schools.assist_by is AssistBy.LEVEL_OR_TIMER or not by_level) and not varies
        own = self.survey.control.kind is ControlKind.RELAYS_ALONE  # a relay that has not pulled holds no pump, whatever the time
        if by_timer and self.hyd.duty_count > 1 and not own:
            found.append(self._assist())
        return (*found, *run_on)

    def _setting(
        self, setting_id: str, labels: tuple[str, str], window: Window, lean: float, proof: str,
        quantity: Q = Q.TIME, step: float = STEP_S,
    ) -> Setting:  # fmt: skip
        chosen = self.ladder.choices.chosen.get(setting_id)
        return placed(setting_id, labels, quantity, window, lean, step, chosen, proof, "timers")

    def _fill(self, low_m: float, high_m: float, low: str, high: str, harm: str, share: int = 1) -> Bound:
        """Upper bound: peak inflow fills from one level to another with no pump running, shared over so many gaps."""
        well = self.hyd.well
        volume_m3 = max(0.0, well.volume_m3(high_m) - well.volume_m3(low_m))
        value = volume_m3 / self.peak_m3s / share
        terms = [
            Term("V", f"volume from {low} to {high}", volume_m3, Q.VOLUME),
            Term("i", "peak inflow", self.peak_m3s, Q.FLOW),
        ]
        if share > 1:
            terms.append(Term("n", "pumps that start one after the other", share, Q.COUNT))
        trail = Trail(
            "t = V / i" + (" / n" if share > 1 else ""), tuple(terms), Term("t", "bound", value, Q.TIME), "survey"
        )
        return Bound(value, f"peak inflow fills from {low} to {high}", harm, Source.PHYSICS, trail)

    def _empty(self, high_m: float, low_m: float, high: str, low: str, calls: int, harm: str) -> Bound:
        """Upper bound: the strongest pumps draw from one level to another while nothing comes in."""
        well = self.hyd.well
        volume_m3 = max(0.0, well.volume_m3(high_m) - well.volume_m3(low_m))
        rate_m3s = self.hyd.strongest_m3s(calls, self.hyd.fast_level_m)
        value = volume_m3 / rate_m3s if rate_m3s > 0.0 else 0.0
        terms = (
            Term("V", f"volume from {high} to {low}", volume_m3, Q.VOLUME),
            Term("Q", "largest rate, nothing flows in", rate_m3s, Q.FLOW),
        )
        trail = Trail("t = V / Q", terms, Term("t", "bound", value, Q.TIME), "survey")
        return Bound(value, f"a pump draws from {high} to {low}", harm, Source.PHYSICS, trail)

    def _rule(self, value: float, cause: str, harm: str, quantity: Q = Q.TIME) -> Bound:
        return Bound(value, cause, harm, Source.RULE, given("t", cause, value, quantity, RULE))

    def _followed(self, rises: bool) -> Setting:
        """How fast a look-down sensor itself follows water that rises, or falls."""
        marks = [*self.starts, self.stop_m, self.top_m, self.bottom_m]
        area_m2 = min(self.hyd.well.area_m2(level_m) for level_m in marks)
        all_m3s = self.hyd.strongest_m3s(self.hyd.duty_count, self.hyd.fast_level_m)
        flow_m3s = self.peak_m3s if rises else max(0.0, all_m3s - self.survey.inflow.min_m3s)
        says = "peak inflow" if rises else "all pumps less the lowest inflow"
        terms = (Term("Q", says, flow_m3s, Q.FLOW), Term("A", "least area of the well between its levels", area_m2, Q.AREA))
        trail = Trail("r = Q / A", terms, Term("r", "bound", flow_m3s / area_m2, Q.RATE_OF_LEVEL), "survey")
        harm = "In a storm its reading lags behind the water: pumps and alarm come too late." if rises else "Its reading lags above the water: pumps run past their stop, and dry."
        low = Bound(flow_m3s / area_m2, f"fastest true {'fill' if rises else 'drawdown'}", harm, Source.PHYSICS, trail)
        high_ms = self.ladder.separation_m / self.rules.false_echo_s
        terms = (Term("d", "least step between levels", self.ladder.separation_m, Q.LEVEL), Term("t", "longest false echo", self.rules.false_echo_s, Q.TIME))
        trail = Trail("r = d / t", terms, Term("r", "bound", high_ms, Q.RATE_OF_LEVEL), RULE)
        harm = "It leaps at foam and at what falls past it." if rises else "It leaps at an echo from beyond: pumps stop for nothing."
        high = Bound(high_ms, "a false echo moves it less than one step", harm, Source.RULE, trail)
        one = S.FILL_RATE if rises else S.EMPTY_RATE
        labels = ("Filling rate it follows", "fill damping") if rises else ("Emptying rate it follows", "empty damping")
        proof = f"Move a board {'up' if rises else 'down'} under the sensor by a step at once and take the time until it reads it: the step over this rate."
        chosen, window = self.ladder.choices.chosen.get(one), Window((low,), (high,))
        return placed(one, labels, Q.RATE_OF_LEVEL, window, 0.3, 0.0001, chosen, proof, "timers")

    def _believed_rate(self) -> Setting:
        """How fast a look-down sensor's level may be believed to change."""
        marks = [*self.starts, self.stop_m, self.top_m, self.bottom_m]
        area_m2 = min(self.hyd.well.area_m2(level_m) for level_m in marks)
        all_m3s = self.hyd.strongest_m3s(self.hyd.duty_count, self.hyd.fast_level_m)
        flow_m3s = max(self.peak_m3s, all_m3s - self.survey.inflow.min_m3s)
        terms = (
            Term("Q", "the larger of peak inflow and all pumps less the lowest inflow", flow_m3s, Q.FLOW),
            Term("A", "least area of the well between its levels", area_m2, Q.AREA),
        )
        low_ms, high_ms = flow_m3s / area_m2, self.ladder.separation_m / self.rules.false_echo_s
        trail = Trail("r = Q / A", terms, Term("r", "bound", low_ms, Q.RATE_OF_LEVEL), "survey")
        harm = "The reading lags behind the water: pumps start and stop too late."
        low = Bound(low_ms, "fastest true fill or drawdown", harm, Source.PHYSICS, trail)
        terms = (
            Term("d", "least step between levels", self.ladder.separation_m, Q.LEVEL),
            Term("t", "longest false echo", self.rules.false_echo_s, Q.TIME),
        )
        trail = Trail("r = d / t", terms, Term("r", "bound", high_ms, Q.RATE_OF_LEVEL), RULE)
        harm = "A false echo carries the reading over a level: pumps start for foam."
        high = Bound(high_ms, "a false echo moves it less than one step", harm, Source.RULE, trail)
        proof = "Hold a board under the sensor for the time of a false echo: nothing may start."
        labels = ("Fastest change believed", "rate-of-change damping")
        chosen = self.ladder.choices.chosen.get(S.BELIEVED_RATE)
        window = Window((low,), (high,))
        return placed(S.BELIEVED_RATE, labels, Q.RATE_OF_LEVEL, window, 0.3, 0.0001, chosen, proof, "timers")

    def _delay(self) -> Setting:
        low = self._rule(self.rules.wave_s, "longest wave or splash", "A wave starts a pump that nobody needs.")
        marks = [*self.starts, self.top_m]
        pairs = [(a, b) for a, b in zip(marks, marks[1:])]
        closest = min(pairs, key=lambda pair: self.hyd.well.volume_m3(pair[1]) - self.hyd.well.volume_m3(pair[0]))
        harm = "The next level is reached first: an assist or an alarm comes for nothing."
        high = self._fill(*closest, "a start", "the level above it", harm)
        proof = "Raise the level over a start and count: the pump must come after this time."
        return self._setting(S.CALL_DELAY, ("Start is believed after", "on-delay"), Window((low,), (high,)), 0.2, proof)

    def _gap(self) -> Setting:
        starting_s = self.survey.control.starting_s + self.ramp_s
        terms = (Term("s", "time a motor takes to start, ramp included", starting_s, Q.TIME),)
        trail = Trail("t = s", terms, Term("t", "bound", starting_s, Q.TIME), "survey")
        harm = "Two starting currents meet: the main fuse or the generator gives in."
        low = Bound(starting_s, "time a motor takes to start", harm, Source.PHYSICS, trail)
        harm = "After a power cut the last pump comes too late: the well overflows."
        overflow_m = self.survey.inlet.overflow_m
        high = self._fill(min(self.top_m, overflow_m), overflow_m, self.top_name, "overflow", harm, self.hyd.duty_count)
        if self.top_name == "overflow":
            high = self._fill(self.starts[-1], overflow_m, "last start", "overflow", harm, self.hyd.duty_count)
        proof = "Switch the supply off and on with all pumps called: they must start this far apart."
        labels = ("Time between two starts", "power-return stagger")
        return self._setting(S.START_GAP, labels, Window((low,), (high,)), 0.3, proof)

    def _feedback(self) -> Setting:
        starting_s = self.survey.control.starting_s
        margin_s = max(1.0, starting_s / 2.0)
        terms = (Term("s", "time a motor takes to start", starting_s, Q.TIME), Term("m", "margin", margin_s, Q.TIME))
        trail = Trail(
            "t = s + m", terms, Term("t", "bound", starting_s + margin_s, Q.TIME), "survey; half again, or 1 s"
        )
        harm = "A healthy starter that is a little slow is given up."
        low = Bound(starting_s + margin_s, "time a motor takes to start, and a margin", harm, Source.RULE, trail)
        harm = "A dead starter is not replaced before the high level."
        high = self._fill(self.starts[0], self.top_m, "duty start", self.top_name, harm)
        proof = "Take the feedback wire off its terminal: the pump must be given up after this time."
        labels = ("Feedback may be missing for", "fail-to-run delay")
        return self._setting(S.FEEDBACK_LOST, labels, Window((low,), (high,)), 0.2, proof)

    def _takeover(self) -> Setting:
        """How long the drive that leads may be silent before another takes the lead."""
        low = self._rule(self.survey.team.silence_s, "longest honest silence of the link", "Two drives lead at once: pumps start twice, and fight.")
        harm = "Nobody leads while the well fills."
        high = self._fill(self.starts[0], self.top_m, "duty start", self.top_name, harm)
        proof = "Switch the leading drive off while a pump runs: another must lead after this time."
        return self._setting(S.TAKEOVER, ("Lead is taken over after", "master timeout"), Window((low,), (high,)), 0.25, proof)

    def _least_run(self, run_on: tuple[Setting, ...]) -> Setting:
        low = self._rule(
            self.rules.shortest_run_s, "shortest run worth a start", "The heat of starting stays in the motor."
        )
        harm = "The pump runs on below its cut-out and draws air."
        uppers = [self._empty(self.starts[0], self.bottom_m, "duty start", "low-level cut-out", 1, harm)]
        harm = "The timer, not the stop, ends the run: the level falls below it each time."
        if run_on:
            cause = "run-on after the float"
            trail = given("t", cause, run_on[0].value, Q.TIME, "the timer of this plan")
            uppers.append(Bound(run_on[0].value, cause, harm, Source.PHYSICS, trail))
        else:
            uppers.append(self._empty(self.starts[0], self.stop_m, "duty start", Role.STOP, 1, harm))
        proof = "Start a pump, drop the level under its stop at once: it must run for this time."
        return self._setting(S.LEAST_RUN, ("Least run time", "minimum on"), Window((low,), tuple(uppers)), 0.15, proof)

    def _least_rest(self) -> Setting:
        harm = "Water running back turns the pump backwards: starting it then shears the shaft."
        low = self._rule(self.rules.run_back_s, "time for the main to come to rest", harm)
        harm = "The well rises past the alarm while a sound pump waits."
        high = self._fill(self.stop_m, self.top_m, Role.STOP, self.top_name, harm)
        proof = "Stop a pump and call it again at once: it must wait this long."
        return self._setting(S.LEAST_REST, ("Least rest", "minimum off"), Window((low,), (high,)), 0.2, proof)

    def _stop_delay(self) -> Setting:
        low = self._rule(0.0, "none needed: calls latch", "Nothing happens.")
        harm = "The level falls on to the low alarm, the pump toward air."
        high = self._empty(
            self.stop_m, self.levels.get(Role.LOW_ALARM, self.bottom_m), Role.STOP, "low alarm", self.hyd.duty_count, harm
        )
        proof = "Let a pump reach its stop level and count: it must stop after this time."
        return self._setting(
            S.STOP_DELAY, ("Run-on after the stop level", "off-delay"), Window((low,), (high,)), 0.0, proof
        )

    def _weakest_drawdown(self, from_m: float, low: str, harm: str, cause: str) -> Bound:
        """Lower bound: the weakest pump alone draws a level down to the stop against mean inflow."""
        well = self.hyd.well
        volume_m3 = max(0.0, well.volume_m3(from_m) - well.volume_m3(self.stop_m))
        weakest_m3s = min(self.hyd.point((p,), self.hyd.slow_level_m).flow_m3s for p in range(self.hyd.pump_count))
        left_m3s = max(weakest_m3s - self.mean_m3s, 0.02 * weakest_m3s)
        value = volume_m3 / left_m3s if left_m3s > 0.0 else 0.0
        terms = (
            Term("V", f"volume from {low} to stop", volume_m3, Q.VOLUME),
            Term("Q", "rate of the weakest pump less mean inflow (at least a fiftieth of it)", left_m3s, Q.FLOW),
        )
        trail = Trail("t = V / Q", terms, Term("t", "bound", value, Q.DURATION), "survey")
        return Bound(value, cause, harm, Source.PHYSICS, trail)

    def _longest_run(self) -> Setting:
        harm = "An honest long run is taken for a fault."
        low = self._weakest_drawdown(self.top_m, self.top_name, harm, "the weakest pump draws down from the high level")
        harm = "A pump that moves nothing cooks its seal before anyone knows."
        high = self._rule(self.rules.useless_run_s, "a pump may run without moving water", harm, Q.DURATION)
        proof = "Set it to a minute, let a pump run: the turn must pass and the alarm come. Set it back."
        labels = ("Longest run", "maximum on")
        return self._setting(S.LONGEST_RUN, labels, Window((low,), (high,)), 0.6, proof, Q.DURATION, LONG_STEP_S)

    def _starts_limit(self) -> Setting:
        """Starts of one pump within an hour that are let pass: those of a healthy station, and no more than its motor stands."""
        worst = worst_starts(self.ladder, self.levels)
        terms = (Term("S", "most starts of a healthy pump, see Consequences", worst, Q.STARTS),)
        result = Term("n", "bound", worst, Q.STARTS)
        low = Bound(worst, "starts of a sound pump", "A sound pump is taken for a faulty one in a busy hour.", Source.PHYSICS, Trail("n = S", terms, result, "figure below"))
        allowed = min(pump.starts_per_hour for pump in self.survey.pumps)
        trail = given("n", "starts the motor stands", allowed, Q.STARTS, "pump maker")
        high = Bound(allowed, "starts the motor stands", "A chattering float heats the motor until its winding gives up.", Source.MAKER, trail)
        proof = "Set it to 2; with the level held over the duty start switch the supply off and on, each time for longer than the least rest: count the starts of the pump that leads. Set it back."
        return self._setting(S.STARTS_LIMIT, ("Most starts an hour", "starts per hour limit"), Window((low,), (high,)), 0.5, proof, Q.STARTS, 1.0)

    def _assist(self) -> Setting:
        harm = "The assist comes on an ordinary day."
        low = self._weakest_drawdown(
            self.starts[0], "duty start", harm, "the duty pump alone needs so long at mean inflow"
        )
        harm = "The duty pump is dead and the alarm comes before the assist."
        high = self._fill(self.starts[0], self.top_m, "duty start", self.top_name, harm)
        proof = "Hold the level between stop and assist start: the assist must come after this time."
        return self._setting(S.ASSIST_AFTER, ("Assist by time after", "lag timer"), Window((low,), (high,)), 0.3, proof)

    def run_on(self, start_m: float) -> Setting:
        """How long pumps run on after the start float has let go, where no float stops them."""
        well, ladder, swing_m = self.hyd.well, self.ladder, self.survey.control.swing_m
        swing_m3 = well.volume_m3(start_m) - well.volume_m3(max(0.0, start_m - swing_m))
        needed_s = (
            max(0.0, 2.0 * (ladder.duty_volume_m3 - swing_m3) / ladder.duty_m3s) if ladder.duty_m3s > 0.0 else 0.0
        )
        terms = (
            Term("V", "volume for the permitted starts", ladder.duty_volume_m3, Q.VOLUME),
            Term("S", "volume of the float's swing", swing_m3, Q.VOLUME),
            Term("Q", "largest rate of one pump", ladder.duty_m3s, Q.FLOW),
        )
        source = "V = S + (Q - i) t at the worst inflow, i = Q / 2"
        trail = Trail("t = max(0, 2 · (V - S) / Q)", terms, Term("t", "bound", needed_s, Q.TIME), source)
        harm = "The pump starts too often: motor and contactor overheat."
        low = Bound(needed_s, "volume for the permitted starts", harm, Source.RULE, trail)
        drained_m, calls = ladder.maker_submergence.value, self.hyd.duty_count
        harm = "All pumps run on and draw air."
        high = self._empty(max(0.0, start_m - swing_m), drained_m, "the float let go", "least submergence", calls, harm)
        proof = "Let the start float drop: the pumps must stop after this time."
        return self._setting(S.RUN_ON, ("Run-on after the float", "timed off"), Window((low,), (high,)), 0.1, proof)


def with_backup_run_on(timers: Timers, float_levels: Levels) -> Iterator[Setting]:
    """The run-on timer of floats behind a sensor that have no stop among them."""
    starts = [level for key, level in float_levels.items() if key in STARTS or key == Role.HIGH_ALARM]
    if starts and Role.STOP not in float_levels:
        yield timers.run_on(min(starts))
