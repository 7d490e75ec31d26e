"""Proving a plan on the bench: the level is driven through every point, and each proof is judged by what happened.

Bench proofs prove the settings and the logic; wiring, sensor and pumps are proved on site.
"""

from goodbalance.core.balance.plan import Plan
from goodbalance.core.balance.proof import Proof
from goodbalance.core.control.trips import Trip
from goodbalance.core.protection.names import SupplyFault, Watching
from goodbalance.core.rehearsal.engine import TimedAction
from goodbalance.core.rehearsal.events import Doing, Thing, among
from goodbalance.core.rehearsal.proving import HAND, OFF, BenchProof, Look, Scene, Seen, prove_scenes
from goodbalance.core.rehearsal.troubles import Trouble
from goodbalance.core.stations.lift.bench import looks
from goodbalance.core.stations.lift.bench.looks import LiftRun, is_up, running_at_end
from goodbalance.core.stations.lift.bench.put_on import lift_bench
from goodbalance.core.stations.lift.bench.rehearse import LiftBench
from goodbalance.core.stations.lift.bench.signs import signs
from goodbalance.core.stations.lift.controller.program import LiftProgram, program_of
from goodbalance.core.stations.lift.names import (
    STARTS,
    Act,
    Alarm,
    Check,
    FloatFault,
    Outcome,
    PumpFault,
    Role,
    StationFault,
    WireFault,
    float_id,
    role_of,
)
from goodbalance.core.stations.lift.names import SettingId as S
from goodbalance.core.stations.lift.proofs import driven, each_pump, motors
from goodbalance.core.stations.lift.proofs.listed import proofs
from goodbalance.core.stations.lift.proofs.scenes import BROKEN_AT_S, CYCLES, Scenes, Shown
from goodbalance.core.stations.lift.survey.choices import LiftChoices, Rules
from goodbalance.core.stations.lift.survey.survey import LiftSurvey
from goodbalance.core.stations.lift.windows.float_ladder import is_alone
from goodbalance.core.stations.shared.crew_proofs import duty_off, most_at_once, stands_in
from goodbalance.core.stations.shared.held import Held

RAMP_MS = 0.002  # how fast the level is driven up: slow against the scan, so that it is read to 2 mm
WITHIN_S = 3500.0  # starts are counted within an hour


def prove_on_bench(
    survey: LiftSurvey,
    choices: LiftChoices,
    plan: Plan,
    held: Held[LiftProgram] | None = None,
    only: frozenset[str] | None = None,
    broken: Trouble | None = None,
) -> tuple[BenchProof, ...]:
    """Play every scene and judge the proofs that the bench can show. What needs a person is left out.

    held: as read back from the devices, so that one wrong number at a keypad fails its proof.
    only: the proofs asked for, by id; all where it is None. broken: a part that is broken before every scene begins.
    """
    held = held or Held(plan, program_of(survey, choices, plan))
    # what is on the bench; what must be seen stays as planned
    scenes = _Scenes(survey, held.plan, choices.rules, program_of(survey, choices, plan))
    return prove_scenes(
        proofs(survey, choices, plan), scenes.of,
        lambda start: lift_bench(survey, choices, held.plan, start, held.program), only, signs, broken,
    )  # fmt: skip


def scenes(survey: LiftSurvey, choices: LiftChoices, plan: Plan) -> dict[str, Scene]:
    """What is done for each proof that the bench can show, by its id."""
    made = _Scenes(survey, plan, choices.rules, program_of(survey, choices, plan))
    return {proof.id: shown[0] for proof in proofs(survey, choices, plan) if (shown := made.of(proof)) is not None}


class _Scenes(Scenes):
    """How to read each proof off its scene. planned: what the devices should do."""

    def __init__(self, survey: LiftSurvey, plan: Plan, rules: Rules, planned: LiftProgram) -> None:
        super().__init__(survey, plan, rules)
        self.planned = planned

    def of(self, proof: Proof) -> Shown | None:
        """The scene of a proof and what to look at; None where a person must judge by eye."""
        first, of = self.survey.pumping.first_group, proof.of
        match Check(proof.check):
            case Check.UP:
                return self._rising(), self._turns(of, self.planned.relay(of).energises_on_rise, Alarm.HIGH if of == Role.HIGH_ALARM else None)
            case Check.DOWN:
                return self._falling(), self._turns(of, not self.planned.relay(of).energises_on_rise, Alarm.LOW if of == Role.LOW_ALARM else None)
            case Check.ASSIST:
                number = int(of)
                role, rested = STARTS[number - 1], self._rested(number)
                return self._assist(number), lambda run: looks.joined_level(run, role, number, rested)
            case Check.OWN_STOP:
                if self._rested(self.hyd.duty_count):
                    return None  # pumps of the first group come back as the larger ones stop: told apart by eye only
                return self._drawn_down(), lambda run: looks.left_level(run, Role(of).call - 1)
            case Check.TIMER:
                return self._timed(of)
            case Check.FLOAT:
                return self._float(Role(of))
            case Check.COMMON_STOP:
                return self.cycles(), looks.stop_level
            case Check.ALTERNATION:
                return self.cycles(), lambda run: looks.leads(run)[:CYCLES]
            case Check.LEAD:
                return None if proof.expects != Outcome.PUMP_1_LEADS else (self.cycles(), lambda run: looks.leads(run)[:CYCLES] == (1,) * CYCLES)
            case Check.HIGH_ALARM_CLEARS:
                return self._falling(), self._alarm_came(Outcome(proof.expects))
            case Check.STANDBY:
                return self._standby()
            case Check.MOST_AT_ONCE:
                return self._drawn_down(), lambda run: most_at_once(run.events) == len(self.hyd.called(self.hyd.duty_count))
            case Check.FIRST_RESTS:
                return self._assist(first + 1), lambda run: looks.never_together(run, first)
            case Check.SENSOR_FAILURE:
                return self._broken(StationFault.LOOP_OPEN), self._signal_lost(Outcome(proof.expects))
            case Check.LOST_ECHO:
                return self._echo_lost(Outcome(proof.expects))
            case Check.FALSE_ECHO:
                return self._false_echo(), lambda run: not looks.ran(run)
            case Check.LOW_FLOAT:
                return self._broken(StationFault.LOW_FLOAT), lambda run: not looks.running_at_end(run)
            case Check.PHASE:
                return self._broken(SupplyFault.PHASE), self._phase_lost
            case Check.BROKEN_WIRE:
                return self._wire_off(of), self._phase_lost if of == SupplyFault.PHASE else lambda run: not running_at_end(run)
            case (
                Check.FULL_SPEED | Check.ECONOMICAL | Check.LEAST_SPEED | Check.RAMP | Check.HOLDS | Check.OUTSIDE | Check.OUTSIDE_LOST | Check.NODE | Check.LINK | Check.INPUT
                | Check.RUN_CONTACT | Check.LOCAL | Check.BACKWARDS
            ):  # fmt: skip
                return driven.shown(self, proof)
            case Check.ALARM_TELLS:
                return self._rising(), lambda run: looks.tells(run) == proof.expects
            case Check.FLOW | Check.OVERLOAD | Check.UNDERLOAD | Check.RETRIES | Check.TRIES | Check.HOT | Check.CASING | Check.SUPPLY | Check.SWAPPED | Check.POWER_RETURN:
                return each_pump.shown(self, proof) if proof.check == Check.FLOW else motors.shown(self, proof)
            case Check.FAR_END | Check.AWAKE:  # no bench calls anybody, and in HAND its drives turn at full speed
                return None
            case Check.SEAL:
                return None if of else (self._broken(PumpFault.SEAL, "1"), self._seal_wet(proof.expects == Outcome.PUMP_STOPS))

    @staticmethod
    def _turns(role: str, pulls: bool, tells: Alarm | None) -> Look[LiftBench]:
        """The level at which a contact moves; where it raises an alarm only if that was told."""
        return lambda run: looks.contact_level(run, role, pulls) if tells is None or looks.told(run, tells) else None

    def _rested(self, calls: int) -> int:
        """Pumps of the first group that rest once so many calls are latched."""
        pumping = self.survey.pumping
        return pumping.first_group if pumping.first_rests and calls > pumping.first_group else 0

    def _switches(self, place: float, at_s: float = 0.0) -> tuple[TimedAction, ...]:
        return tuple(TimedAction(at_s, Act.SWITCH, str(n + 1), place) for n in range(self.hyd.pump_count))

    def _rising(self) -> Scene:
        area_m2 = self.hyd.well.area_m2(self.start_m)
        flow = TimedAction(0.0, Act.INFLOW, "", area_m2 * RAMP_MS)
        low_m = self.survey.well.intake_m * 0.5
        return Scene("water rising", low_m, (*self._switches(OFF), flow), (self.top_m - low_m) / RAMP_MS * 1.3)

    def _falling(self) -> Scene:
        still = TimedAction(0.0, Act.INFLOW, "", 0.0)
        first = TimedAction(0.0, Act.SWITCH, "1", HAND)
        others = tuple(TimedAction(0.0, Act.SWITCH, str(n + 1), OFF) for n in range(1, self.hyd.pump_count))
        volume_m3 = self.hyd.well.volume_m3(self.top_m)
        slowest_m3s = max(1e-6, self.hyd.point((0,), self.hyd.slow_level_m).flow_m3s)
        return Scene("water falling", self.top_m, (still, first, *others), volume_m3 / slowest_m3s * 1.2 + 60.0)

    def _assist(self, number: int) -> Scene:
        # a fifth more than the pumps before it can take, and enough to rise: the level must come to its start
        area_m2 = self.hyd.well.area_m2(self.start_m)
        flow_m3s = 1.2 * self.hyd.strongest_m3s(number - 1, self.hyd.fast_level_m) + 0.0005 * area_m2
        timer_s = self.plan.value(S.ASSIST_AFTER, 0.0)
        if timer_s:  # so fast that the level comes before the timer
            well, here = self.hyd.well, STARTS[number - 1]
            rise_m3 = well.volume_m3(self.plan.value(here, self.top_m)) - well.volume_m3(self.stop_m)
            flow_m3s = max(
                flow_m3s, self.hyd.strongest_m3s(number - 1, self.hyd.fast_level_m) + 1.3 * rise_m3 / timer_s
            )
        flow = TimedAction(0.0, Act.INFLOW, "", flow_m3s)
        until_s = self.hyd.well.volume_m3(self.top_m) / (flow_m3s * 0.15) + 600.0
        return Scene(f"call {number}", self.stop_m + 0.05, (flow,), min(until_s, 6 * 3600.0))

    def _drawn_down(self) -> Scene:
        """From the top with every pump called in, then nothing flows in."""
        all_m3s = self.hyd.strongest_m3s(self.hyd.duty_count, self.hyd.fast_level_m)
        called_s = (self.hyd.duty_count + 1) * self.gap_s + self.plan.value(S.CALL_DELAY, 0.0) + 10.0
        flows = (TimedAction(0.0, Act.INFLOW, "", all_m3s), TimedAction(called_s, Act.INFLOW, "", 0.0))
        slowest_m3s = max(1e-6, self.hyd.strongest_m3s(1, self.hyd.slow_level_m))
        until_s = called_s + self.hyd.well.volume_m3(self.top_m) / slowest_m3s * 1.5
        return Scene("drawn down by all", self.top_m, flows, until_s)

    def _broken(self, fault: StationFault | SupplyFault | PumpFault, target: str = "") -> Scene:
        # broken while the pump runs; looked at before the well empties
        return self.running_scene(f"{fault} while a pump runs", TimedAction(BROKEN_AT_S, fault, target, 1.0))

    def _echo_lost(self, expects: Outcome) -> Shown:
        """No echo while a pump runs, watched until the sensor gives up and the controller has believed it."""
        sensor = self.survey.sensor
        waits_s = 0.0 if sensor is None else sensor.lost_echo_s
        lost = TimedAction(BROKEN_AT_S, StationFault.LOST_ECHO, "", 1.0)
        scene = self.running_scene("no echo while a pump runs", lost, until_s=BROKEN_AT_S + waits_s + 15.0)
        if expects is Outcome.READING_HELD:
            return scene, lambda run: not run.bench.logic.sensor_failed and not is_up(run, Alarm.SENSOR)
        return scene, self._signal_lost(expects)

    def _false_echo(self) -> Scene:
        """Foam for as long as a false echo lasts, one step under the duty start."""
        at_m = max(self.stop_m, self.start_m - self.rules.separation_m)
        still, on = TimedAction(0.0, Act.INFLOW, "", 0.0), TimedAction(5.0, StationFault.ECHO, "", 1.0)
        return Scene("a false echo", at_m, (still, on, TimedAction(5.0 + self.rules.false_echo_s, StationFault.ECHO, "", 0.0)), 60.0)

    def _wire_off(self, contact: str) -> Scene:
        """A wire taken off while a pump runs; the low-level float and the phase monitor open as when they act."""
        off = TimedAction(BROKEN_AT_S, WireFault.OFF, contact, 1.0)
        least_s = max(self.plan.value(S.LEAST_RUN, 0.0), self.plan.value(S.STOP_DELAY, 0.0))
        return self.running_scene(f"a wire of {contact} off while a pump runs", off, until_s=BROKEN_AT_S + 15.0 + least_s)

    def _standby(self) -> Shown:
        off = duty_off(self.survey.pumping, BROKEN_AT_S, Act.SWITCH)
        scene = self.running_scene("every duty pump to OFF", *off, until_s=BROKEN_AT_S + 2.0 * self.gap_s + 5.0)
        return scene, lambda run: stands_in(self.survey.pumping, looks.started_after(run, BROKEN_AT_S))

    def _float(self, role: Role) -> Shown | None:
        """One float moved by hand: the high and low one at any time, the others while the sensor is out."""
        low_m = max(
            (s.value for s in self.plan.group("floats") if role_of(s.id) in (Role.STOP, Role.LOW_ALARM)), default=0.0
        )
        at_m = max(self.start_m - 0.05, low_m + self.survey.control.swing_m + 0.02)
        still = TimedAction(0.0, Act.INFLOW, "", 0.0)
        if role is Role.LOW_ALARM:
            return Scene(
                "low float down", at_m, (still, TimedAction(5.0, FloatFault.DOWN, role, 1.0)), 8.0
            ), lambda run: is_up(run, Alarm.LOW)
        if role is Role.HIGH_ALARM:
            until_s = 5.0 + (len(self.duty) + 1) * self.gap_s + self.plan.value(S.CALL_DELAY, 0.0) + 5.0
            flow = TimedAction(0.0, Act.INFLOW, "", self.hyd.strongest_m3s(len(self.duty), self.start_m) * 0.8)
            lift = TimedAction(5.0, FloatFault.UP, role, 1.0)
            called = min(len(self.hyd.called(len(self.duty))), len(self.duty))
            look: Look[LiftBench] = lambda run: len(running_at_end(run)) == called and is_up(run, Alarm.HIGH)  # noqa: E731
            return Scene("high float up", at_m, (flow, lift), until_s), look
        roles = {role_of(setting.id) for setting in self.plan.group("floats")}
        first = Role.START_1 if Role.START_1 in roles else Role.HIGH_ALARM
        out, lift = TimedAction(5.0, StationFault.LOOP_OPEN, "", 1.0), TimedAction(20.0, FloatFault.UP, first, 1.0)
        wait_s = (len(self.duty) + 1) * self.gap_s + self.plan.value(S.CALL_DELAY, 0.0) + 5.0
        if role is Role.START_1:
            flow = TimedAction(0.0, Act.INFLOW, "", self.hyd.strongest_m3s(1, self.start_m) * 0.9)
            return Scene(
                "start float up, sensor out", at_m, (flow, out, lift), 20.0 + wait_s
            ), lambda run: len(running_at_end(run)) == 1
        if role.is_start:
            calls = role.call
            flow = TimedAction(0.0, Act.INFLOW, "", self.hyd.strongest_m3s(calls, self.start_m) * 0.9)
            others = tuple(TimedAction(20.0 + n * self.gap_s, FloatFault.UP, STARTS[n], 1.0) for n in range(1, calls))
            called = min(calls, len(self.hyd.called(calls)))
            until_s = 20.0 + calls * (wait_s + self.gap_s)
            return Scene(f"float of call {calls} up", at_m, (flow, out, lift, *others), until_s), lambda run: len(running_at_end(run)) == called
        if role is Role.STOP:
            down_s = 20.0 + wait_s
            rest = self.plan.value(S.STOP_DELAY, 0.0) + self.plan.value(S.LEAST_RUN, 0.0) + 5.0
            acts = (
                still,
                out,
                lift,
                TimedAction(down_s, FloatFault.DOWN, role, 1.0),
                TimedAction(down_s, FloatFault.UP, first, 0.0),
            )
            return Scene("stop float down", at_m, acts, down_s + rest), lambda run: not running_at_end(run) and looks.ran(run)
        return None

    def _timed(self, timer: str) -> Shown | None:
        """Timers that the bench can take the time of."""
        if timer == S.CALL_DELAY:
            return self.running_scene("duty start"), lambda run: looks.after_first_s(
                run, looks.contact(run, Role.START_1), Thing.PUMP, Doing.STARTS
            )
        if timer == S.FEEDBACK_LOST:
            until_s = BROKEN_AT_S + self.plan.value(timer, 0.0) + 15.0
            wires = [TimedAction(BROKEN_AT_S, PumpFault.FEEDBACK, str(n + 1), 1.0) for n in range(self.hyd.pump_count)]
            return self.running_scene("feedback wire off", *wires, until_s=until_s), lambda run: looks.after_first_s(
                run, looks.done(run, PumpFault.FEEDBACK), Thing.PUMP, Doing.GIVEN_UP, Trip.NO_FEEDBACK
            )
        calls_more = any(self.plan.value(one, 0.0) for one in (Role.START_2, float_id(Role.HIGH_ALARM))) or (
            is_alone(self.survey) and self.plan.value(Role.HIGH_ALARM, 0.0)
        )
        if timer == S.START_GAP and len(self.hyd.called(len(self.duty))) > 1 and calls_more:
            back_s = 10.0 + self.plan.value(S.LEAST_REST, 0.0)  # the pumps have rested: only the gap keeps them apart
            lets_s = back_s + self.plan.value(Watching.BACK, 0.0)  # its monitor waits, and where that is chosen a person resets
            lets_s += 5.0 if self.planned.waits_after else 0.0
            reset = (TimedAction(lets_s, Act.RESET, "", 1.0),) if self.planned.waits_after else ()
            cut = (TimedAction(5.0, Act.POWER, "", 0.0), TimedAction(back_s, Act.POWER, "", 1.0), *reset)
            flow = TimedAction(0.0, Act.INFLOW, "", self.hyd.strongest_m3s(len(self.duty), self.start_m))
            until_s = lets_s + 5.0 + (len(self.duty) + 1) * self.gap_s + self.plan.value(S.CALL_DELAY, 0.0)
            return Scene("power comes back", self.top_m, (flow, *cut), until_s), lambda run: looks.apart_s(run, back_s)
        if timer == S.STARTS_LIMIT:
            scene = self._cut_again_and_again(self.plan.value(timer, 0.0))
            return None if scene.until_s > WITHIN_S else (scene, looks.starts_let_pass)  # longer, and the first starts are forgotten
        if timer == S.LONGEST_RUN and not self.plan.value(S.ASSIST_AFTER, 0.0) and not self.survey.pumping.first_group:
            return self._runs_on()
        if timer == S.ASSIST_AFTER:
            flow = TimedAction(0.0, Act.INFLOW, "", self.hyd.strongest_m3s(1, self.start_m))
            until_s = self.plan.value(timer, 0.0) + self.plan.value(S.CALL_DELAY, 0.0) + 2.0 * self.gap_s + 60.0
            return Scene("level held", max(0.0, self.start_m - 0.01), (flow,), until_s), lambda run: looks.apart_s(run, 0.0)
        if timer == S.RUN_ON and self.plan.group("floats"):  # floats behind a sensor: with the sensor out
            roles = {role_of(setting.id) for setting in self.plan.group("floats")}
            role = Role.START_1 if Role.START_1 in roles else Role.HIGH_ALARM
            acts = (TimedAction(0.0, Act.INFLOW, "", 0.0), TimedAction(5.0, StationFault.LOOP_OPEN, "", 1.0))
            drop_s = 25.0 + (len(self.duty) + 1) * self.gap_s + self.plan.value(S.CALL_DELAY, 0.0)
            lift, drop = (TimedAction(at_s, FloatFault.UP, role, up) for at_s, up in ((20.0, 1.0), (drop_s, 0.0)))
            until_s = drop_s + self.plan.value(timer, 0.0) + self.plan.value(S.LEAST_RUN, 0.0) + 10.0
            scene = Scene("float dropped, sensor out", self.start_m, (*acts, lift, drop), until_s)
            return scene, lambda run: looks.after_first_s(
                run, looks.done(run, FloatFault.UP, Doing.CLEARS), Thing.PUMP, Doing.STOPS
            )
        if timer in (S.STOP_DELAY, S.RUN_ON):
            role = Role.START_1 if timer == S.RUN_ON else Role.STOP
            return self.cycles(), lambda run: looks.after_first_s(
                run, looks.contact(run, role, Doing.OPENS), Thing.PUMP, Doing.STOPS
            )
        return None

    def _runs_on(self) -> Shown:
        """As much comes as the lead takes, until it has run longer than it may: told in its time, and the turn passed or not, as planned."""
        planned = self.planned.timing
        passes, level_m = planned.long_passes and len(self.duty) > 1, max(0.0, self.start_m - 0.01)
        flow_m3s, calls_s = self.hyd.point((0,), level_m).flow_m3s, self.plan.value(S.CALL_DELAY, 0.0)
        flows = (TimedAction(0.0, Act.INFLOW, "", 1.2 * flow_m3s), TimedAction(60.0 + calls_s, Act.INFLOW, "", flow_m3s))  # first up to its start
        until_s = 1.1 * planned.max_run_s + 300.0 + calls_s

        def look(run: LiftRun) -> bool:
            told = next(among(run.events, Thing.ALARM, Doing.COMES, of=Alarm.LONG_RUN), None)
            if told is None:
                return False
            began_s = max(start.at_s for start in among(run.events, Thing.PUMP, Doing.STARTS, pump=told.pump) if start.at_s <= told.at_s)
            in_time = abs(told.at_s - began_s - planned.max_run_s) <= 0.05 * planned.max_run_s
            return in_time and (told.pump - 1 in running_at_end(run)) is not passes

        return Scene("one pump kept at work", level_m, flows, until_s), look

    def _cut_again_and_again(self, times: float) -> Scene:
        """The supply goes and comes back once more than a pump may start, with the water held over every start."""
        rests_s = self.plan.value(S.LEAST_REST, 0.0) + 10.0
        runs_s = self.plan.value(Watching.BACK, 0.0) + self.plan.value(S.CALL_DELAY, 0.0) + (len(self.duty) + 1) * self.gap_s + 20.0
        acts, at_s = [TimedAction(0.0, Act.INFLOW, "", self.hyd.strongest_m3s(len(self.duty), self.start_m))], runs_s
        reset_s = self.plan.value(Watching.BACK, 0.0) + 2.0 if self.planned.waits_after else 0.0  # after the supply is back
        for _ in range(round(times) + 1):
            back_s = at_s + rests_s
            acts += [TimedAction(at_s, Act.POWER, "", 0.0), TimedAction(back_s, Act.POWER, "", 1.0)]
            acts += [TimedAction(back_s + reset_s, Act.RESET, "", 1.0)] if self.planned.waits_after else []
            at_s = back_s + reset_s + runs_s
        return Scene("supply away and back, again and again", self.top_m, tuple(acts), at_s)

    def _signal_lost(self, expects: Outcome) -> Look[LiftBench]:
        """After the signal is lost: who runs, and which alarm came."""

        def look(run: LiftRun) -> Seen:
            logic = run.bench.logic
            if expects is Outcome.FLOATS_TAKE_OVER:
                return logic.on_floats and is_up(run, Alarm.SENSOR)
            alarm = Role.HIGH_ALARM if self.hyd.signal.has_live_zero else Role.LOW_ALARM
            stand = not self.hyd.signal.has_live_zero or all(map(logic.stands_as, self.planned.relays))
            return len(running_at_end(run)) == (expects is Outcome.DUTY_RUNS) and logic.is_closed(alarm) and stand

        return look

    def _phase_lost(self, run: LiftRun) -> bool:
        return not running_at_end(run) and is_up(run, Alarm.PHASE)

    def _seal_wet(self, stops: bool) -> Look[LiftBench]:
        """The alarm of that pump, none before it, and whether its pump is stopped."""

        def look(run: LiftRun) -> bool:
            early = any(event.at_s < BROKEN_AT_S for event in among(run.events, Thing.ALARM, Doing.COMES, of=Alarm.SEAL))
            return not early and is_up(run, Alarm.SEAL, 1) and (run.bench.logic.panel.tripped[0] is Trip.SEAL_LEAK) is stops

        return look

    def _alarm_came(self, expects: Outcome) -> Look[LiftBench]:
        """The high alarm, on at the start of a fall, lets go again by the relay's right way; its lamp goes out, or waits for a reset."""
        planned = self.planned.relay(Role.HIGH_ALARM)

        def came(run: LiftRun) -> bool:
            logic = run.bench.logic
            if not self.planned.alone and logic.relay(Role.HIGH_ALARM).energises_on_rise is not planned.energises_on_rise:
                return False
            waits = any(cause.what == Alarm.HIGH for cause in logic.alarms.lamps)
            gone = looks.contact(run, Role.HIGH_ALARM) is not None and not logic.is_closed(Role.HIGH_ALARM)
            return gone and waits is (expects is Outcome.WAITS_FOR_RESET)

        return came
