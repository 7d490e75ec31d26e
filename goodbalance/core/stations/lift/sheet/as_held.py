"""What the devices of a lift station really do: the plan and the program as somebody saw them hold it."""

from collections.abc import Iterable
from dataclasses import dataclass, replace
from typing import Any

from goodbalance.core.balance.plan import Plan, Setting
from goodbalance.core.control.contacts import Guards, Takes
from goodbalance.core.control.level_drive import OutsideLost
from goodbalance.core.control.relays import LevelRelay, OnFailure, Turns
from goodbalance.core.control.rotation import Alternation
from goodbalance.core.control.trips import Beyond
from goodbalance.core.physics.signals import Scaling
from goodbalance.core.protection.monitor import monitor_as_told
from goodbalance.core.protection.names import GROUP, Restart
from goodbalance.core.protection.numbers import acts_without, as_told
from goodbalance.core.sheets.carried import Function, Told, uncarried, without_call, without_drive
from goodbalance.core.sheets.devices import DeviceValues
from goodbalance.core.sheets.profile import Display
from goodbalance.core.stations.lift.controller.program import (
    FAILURE_DELAY_S,
    WITHOUT,
    LevelInput,
    LiftProgram,
    SensorOutput,
    at_rest,
    level_without,
    program_of,
)
from goodbalance.core.stations.lift.controller.relays_of_plan import float_of
from goodbalance.core.stations.lift.controller.team import TeamNumbers
from goodbalance.core.stations.lift.names import GuardContact, Role
from goodbalance.core.stations.lift.names import SettingId as S
from goodbalance.core.stations.lift.plant.hydraulics import SIGNALS, hydraulics
from goodbalance.core.stations.lift.sheet.keypad import OF_A_TEAM, USUAL, keypad_values
from goodbalance.core.stations.lift.survey.choices import (
    AlarmLamp,
    AlarmRelay,
    AlarmReset,
    AlarmSounder,
    LiftChoices,
    ManyStarts,
    OnSensorFailure,
    SpeedMode,
    Stops,
    Suspects,
)
from goodbalance.core.stations.lift.survey.level_sensor import LostEcho, Signal
from goodbalance.core.stations.lift.survey.sensing import MAX_FLOATS, LevelBy, LowestFloat, WhoDecides, float_roles
from goodbalance.core.stations.lift.survey.survey import LiftSurvey
from goodbalance.core.stations.lift.survey.team import Inputs, LinkLost
from goodbalance.core.stations.lift.windows.float_ladder import is_alone
from goodbalance.core.stations.lift.windows.reckon import reckon
from goodbalance.core.stations.shared.crew import MOST, STANDBY, crew_as_told
from goodbalance.core.stations.shared.held import Held

TURN = Function(
    "Whose turn it is", ("pumps.alternation", "relays.alternation", "drive.1.alternation"), Alternation.FIXED.value,
    "One pump always leads: it wears out first, and the others stand until they stick.",
)  # fmt: skip
CLOCK = Function(
    "The clock of the turn", ("pumps.clock_period", "relays.clock_period", "drive.1.clock_period"), 86400.0, "The turn passes at another time than planned.",
)  # fmt: skip
RESET = Function(
    "Alarms wait for a reset", ("alarm.reset", "drive.1.alarm_reset"), AlarmReset.AUTOMATIC.value, "An alarm that has passed leaves no trace: nobody learns of it.",
)  # fmt: skip
LAMP = Function(
    "How a new alarm is shown", ("alarm.lamp", "drive.1.alarm_lamp"), AlarmLamp.STEADY.value, "A second alarm looks like the first: nobody goes and sees.",
)  # fmt: skip
SOUNDER = Function("Whether an alarm is heard", ("alarm.sounder", "drive.1.alarm_sounder"), "no", "An alarm is known only to who looks at the lamp.")
SUSPECTS = Function(
    "A pump that needs help each time", ("pumps.suspects", "drive.1.suspects"), "no", "A worn or clogged pump is helped in every cycle, and nobody learns of it before a storm.",
)  # fmt: skip
LONG_RUN = Function(
    "A pump that runs too long", ("pumps.long_run", "drive.1.long_run"), Beyond.STOPS.value, "A pump that runs too long passes its turn though the run was honest: each in turn, and each with an alarm.",
)  # fmt: skip
MANY_STARTS = Function(
    "A pump that starts too often", ("pumps.many_starts", "drive.1.many_starts"), ManyStarts.STOPS.value, "A pump that starts too often is locked out, where it was to be told of alone.",
)  # fmt: skip
RELAY = Function(
    "How alarm relays rest", ("alarm.relay", "drive.1.alarm_relay"), AlarmRelay.IN_ALARM.value, "A dead controller raises no alarm.",
)  # fmt: skip
PHASE = Function(
    "Phase monitor", ("inputs.phase", "drive.1.phase"), "no", "A lost or swapped phase is seen by nothing: motors burn, or turn backwards.",
)  # fmt: skip
LOW_WATER = Function(
    "Separate low-level float", ("inputs.low_float", "drive.1.low_float"), Takes.NONE.value,
    "The low-level float is seen by nothing: with the level sensor wrong the pumps run dry.",
)  # fmt: skip
SEAL = Function("Seal probes", ("inputs.seal", "drive.1.seal"), "no", "Water in the oil is seen by nothing: bearings and winding go next.")
RETURN = Function(
    "Starting after a power cut", ("pumps.power_return", "drive.1.power_return"), Restart.BY_ITSELF.value, "Pumps start by themselves after a power cut: somebody may be at them.",
)  # fmt: skip
LOST = Function(
    "When the level signal is lost", ("pumps.on_failure", "drive.1.on_failure"), OnSensorFailure.STOP_ALL.value, "With the sensor lost the pumps stop and the well fills.",
)  # fmt: skip
PACE = Function("How drives are led", ("drives.mode", "drive.1.mode"), SpeedMode.FIXED.value, "The pumps run at full speed whatever the level.")
OUTSIDE = Function(
    "When the outside speed signal is lost", ("drives.outside_lost", "drive.1.outside_lost"), OutsideLost.LEAST.value,
    "Without the signal the pumps turn at their least speed: in a storm the well fills.",
)  # fmt: skip
ROLES = Function(
    "What each float is there for", tuple(f"float.{number}.role" for number in range(1, 8)), USUAL,
    "The device takes the floats for the usual ones, from the floor up: one that starts may stop, and none may tell of high water.",
)  # fmt: skip
INPUTS = Function("How each drive knows the level", ("drive.1.inputs",), Inputs.OWN.value, "A drive waits for a signal or a word that never comes: it stands.")
FAILOVER = Function("Another's reading serves", ("drive.1.failover",), "no", "One broken wire at the leading drive stops the whole station.")
LINK_LOST = Function("When the link is lost", ("drive.1.link_lost",), LinkLost.STOP.value, "Without the link one pump is left, whatever comes in.")
TAKES_OVER = Function("A stand-by takes the lead", ("drive.1.takes_over",), "no", "With the leading drive dead nobody leads, and the well fills.")
RUN = Function("Run command from outside", ("inputs.run", "drive.1.run"), Takes.NONE.value, "The outside cannot stop the pumps.")
BACKWARDS = Function(
    "A pump that turns backwards", ("inputs.backwards", "drive.1.backwards"), Takes.NONE.value, "A pump is started against returning water: its shaft breaks.",
)  # fmt: skip
LOCAL = Function("Local and remote", ("inputs.remote", "drive.1.remote"), Takes.NONE.value, "Who stands at the panel cannot keep the outside from starting and stopping.")
STOPS_AT = Function(
    "Stops of the pumps", ("pumps.stops", "drive.1.stops"), Stops.COMMON.value, "All pumps stop at once: the main and the works behind it get a blow.",
)  # fmt: skip
DECIDES = Function("Who leads the drives", ("drive.1.decides",), WhoDecides.CONTROLLER.value, "The drives wait for a speed that nobody gives, or obey nobody: they run full.")
SILENT: dict[str, str] = {
    Role.LOW_ALARM: "Nobody is told that the well runs low.", Role.HIGH_ALARM: "Nobody is told that the water rises: it floods unseen.",
    Role.LOW_CUT_OUT: "Nothing but the stop keeps the pumps from running dry.",
}  # fmt: skip
_GUARDS = {
    GuardContact.LOW_FLOAT: LOW_WATER, GuardContact.PHASE: PHASE, GuardContact.RUN: RUN, GuardContact.BACKWARDS: BACKWARDS, GuardContact.LOCAL: LOCAL,
}  # fmt: skip
_ALL = (STOPS_AT, RETURN, RUN, BACKWARDS, LOCAL, LAMP, SOUNDER, LONG_RUN, MANY_STARTS, SUSPECTS, TURN, CLOCK, RESET, RELAY, PHASE, LOW_WATER, SEAL, LOST, PACE, OUTSIDE, ROLES)
_TEAM = (DECIDES, INPUTS, FAILOVER, LINK_LOST, TAKES_OVER)


def held(survey: LiftSurvey, choices: LiftChoices, device: DeviceValues, display: Display) -> Held[LiftProgram]:
    """What the devices hold takes the place of what is planned; where nobody looked it is as planned.

    What no device has a place for does not act, and is listed with the harm.
    """
    plan = reckon(survey, choices, False)
    wanted = keypad_values(survey, choices, plan, display)
    asked = {meaning: each.value for meaning, each in wanted.items()}

    def as_in(values: DeviceValues) -> tuple[Plan, LiftProgram]:
        """Plan and program by these values."""
        kept = {setting.id: values.settings.get(setting.id, setting.value) for setting in plan.settings}
        left = reckon(survey, choices.model_copy(update={"chosen": kept}), False)
        return left, _Told(values, asked, survey, choices, plan).program(left)

    left, program = as_in(device)
    if survey.drives.fitted:
        heirs = tuple(program if device.is_held_by(each) else as_in(each)[1] for each in device.heirs[: survey.pumping.count - 1])
        program = replace(program, heirs=heirs if any(heir != program for heir in heirs) else ())
    functions = (*_ALL, *_TEAM) if survey.drives.fitted else tuple(each for each in _ALL if each not in (PACE, OUTSIDE))
    if by_relays(asked):
        functions = tuple(each for each in functions if each is not STOPS_AT)  # each stop has a relay
    without = lambda setting: _acts_without(survey, setting)  # noqa: E731
    missing = uncarried(plan, wanted, device, functions, without, SILENT)
    return Held(left, program, missing + without_call(device, survey.pumping.count) + without_drive(device, survey.pumping.count if survey.drives.fitted else 0))


def by_relays(asked: Iterable[str]) -> bool:
    """Whether numbered relays with levels of their own do the work, by the meanings the plan asks."""
    return any(meaning.startswith("relay.") for meaning in asked)


def _acts_without(survey: LiftSurvey, setting: Setting) -> float | None:
    """What acts in the place of a setting that no device holds; None for floats, which are hung."""
    if setting.group == "floats" or (setting.group == "levels" and is_alone(survey)):
        return None
    if setting.group == GROUP and setting.id != S.SEAL_LIMIT:
        return acts_without(setting.id)
    return level_without(setting.id) if setting.group == "levels" else WITHOUT[S(setting.id)]


@dataclass(frozen=True, slots=True)
class _Told(Told):
    """What the devices of one station were told, function by function."""

    survey: LiftSurvey
    choices: LiftChoices
    plan: Plan

    def program(self, left: Plan) -> LiftProgram:
        """The program by what was told; left: the plan with every number as the devices hold it."""
        device, by_meaning = self.device, self.device.by_meaning
        planned = {setting.id for setting in self.plan.settings}
        lacking = frozenset(s.id for s in self.plan.settings if s.id not in device.placed and _acts_without(self.survey, s) is not None)
        beside: dict[str, float] = {
            setting_id: value
            for setting_id in S
            for meaning in (f"setting.{setting_id}", f"relays.{setting_id}")
            if setting_id not in planned and isinstance(value := by_meaning.get(meaning), float)
        }
        survey, choices = self._survey(), self._choices()
        program = program_of(survey, choices, left, beside, lacking)
        takes_over = not self.survey.control.has_floats or LOST.meanings[0] not in by_meaning or self.word(LOST) == "floats"
        own = program_of(survey, choices, self.plan, beside, lacking).relays if self._by_relays else program.relays
        relays = tuple(self._relay(relay) for relay in own)
        program = replace(program, guards=self._guards(program.guards), **self._crew(program))
        if not self._by_relays and self.word(STOPS_AT) == Stops.COMMON and self.wanted.get(STOPS_AT.meanings[0]) is not None:
            relays = tuple(relay for relay in relays if not Role(relay.role).is_stop or relay.role == Role.STOP)
        if program.alone:
            relays = self._floats(relays)
        cycles = self.known(("pumps.suspect_cycles", "drive.1.suspect_cycles"))
        if program.suspect_cycles and isinstance(cycles, float):
            program = replace(program, suspect_cycles=max(1, round(cycles)))
        return replace(
            program, relays=relays, floats=self._floats(program.floats), sensor=self._input(program.sensor), takes_over=takes_over,
            output=self._output(program.output), team=self._team(program.team), motors=as_told(program.motors, by_meaning),
            monitor=monitor_as_told(program.monitor, by_meaning),
        )  # fmt: skip

    def _crew(self, program: LiftProgram) -> dict[str, Any]:
        """How many pumps the controller knows, how they are grouped, and whether it reads a sensor, as it was told."""
        found: dict[str, Any] = {}
        for name, meanings, most in (("pumps", ("pumps.count", "drive.1.count"), program.pumps), ("first_group", ("pumps.first_group", "drive.1.first_group"), None)):
            told = self.known(meanings)
            if isinstance(told, float):
                found[name] = round(told) if most is None else min(most, max(0, round(told)))
        word = self.known(("pumps.first_rests", "drive.1.first_rests"))
        if word in ("yes", "no"):
            found["first_rests"] = word == "yes"
        if self.known(STANDBY.meanings) is not None or self.known(MOST.meanings) is not None:
            found["standby"] = crew_as_told(self, program.pumps, program.standby)
        if self.survey.control.has_sensor and self.known(("level.source",)) == LevelBy.FLOATS:
            found["blind"] = True
        return found

    def _guards(self, planned: Guards) -> Guards:
        """What the devices make of each guarding contact; how it is built nobody can type."""
        taken = dict(planned.taken)
        for guard, function in _GUARDS.items():
            if any(meaning in self.wanted for meaning in function.meanings):
                word = self.word(function)
                taken[guard] = Takes.CLOSED if word == "yes" else next((each for each in Takes if each == word), planned.taken.get(guard, Takes.NONE))
        return Guards(planned.fitted, {guard: takes for guard, takes in taken.items() if takes is not Takes.NONE})

    def _team(self, planned: TeamNumbers | None) -> TeamNumbers | None:
        """How drives that decide by themselves work together, as they were told."""
        if planned is None or INPUTS.meanings[0] not in self.wanted:
            return planned
        return TeamNumbers(
            self.one(INPUTS, planned.inputs), self.word(FAILOVER) == "yes", self.one(LINK_LOST, planned.link_lost), self.word(TAKES_OVER) == "yes",
            planned.takeover_s,
        )  # fmt: skip

    def _floats(self, floats: tuple[LevelRelay, ...]) -> tuple[LevelRelay, ...]:
        """Each float as the device takes it, from the floor up: hung where it hangs, and taken for what it was told."""
        control, by_meaning = self.survey.control, self.device.by_meaning
        swing_m, found = control.swing_m, []
        if by_meaning.get("level.source") == LevelBy.SENSOR:
            return ()  # told of a sensor alone it heeds no float
        count, lowest = by_meaning.get("floats.count"), by_meaning.get("floats.lowest")
        known = min(len(floats), round(count)) if isinstance(count, float) else len(floats)
        usual: tuple[str, ...] = tuple(each.role for each in floats)
        if (known != len(floats) or lowest is not None) and control.has_usual_floats(self.survey.pumping.duty_count) and 0 < known <= MAX_FLOATS:
            low = LowestFloat.LOW_ALARM if (lowest or usual[0]) == Role.LOW_ALARM else LowestFloat.STOP
            usual = float_roles(control.level_by, low, control.top_float, known, self.survey.pumping.duty_count)
        for number, (each, role) in enumerate(zip(floats[:known], usual), 1):
            told = by_meaning.get(f"float.{number}.role", USUAL)
            told = role if told == USUAL else told
            found.append(each if told == each.role else float_of(str(told), each.label, each.level_m, swing_m))
        return tuple(found)

    def _survey(self) -> LiftSurvey:
        control = self.survey.control
        update = {
            "seal_probes": control.seal_probes and self.word(SEAL) != "no",
        }
        return self.survey.model_copy(update={"control": control.model_copy(update=update)})

    def _choices(self) -> LiftChoices:
        schools, rules = self.choices.schools, self.choices.rules
        update: dict[str, object] = {
            "alarm_reset": self.one(RESET, schools.alarm_reset), "alarm_lamp": self.one(LAMP, schools.alarm_lamp),
            "alarm_sounder": AlarmSounder.SOUNDER if self.yes(SOUNDER, schools.alarm_sounder is AlarmSounder.SOUNDER) else AlarmSounder.LAMP_ONLY,
            "long_run": self.one(LONG_RUN, schools.long_run),
            "many_starts": schools.many_starts if schools.many_starts is ManyStarts.UNCOUNTED else self.one(MANY_STARTS, schools.many_starts),
            "suspects": Suspects.TOLD if self.yes(SUSPECTS, schools.suspects is Suspects.TOLD) else Suspects.IGNORED,
        }  # fmt: skip
        if self.survey.pumping.duty_count > 1:
            update["alternation"] = self.one(TURN, schools.alternation)
        if not self._by_relays:
            update["alarm_relay"] = self.one(RELAY, schools.alarm_relay)
            update["sensor_failure"] = self.one(LOST, schools.sensor_failure)
        if self.survey.drives.fitted:
            obeys = self.one(DECIDES, self.survey.drives.decide) is self.survey.drives.decide
            update["speed_mode"] = self.one(PACE, schools.speed_mode) if obeys else SpeedMode.FIXED
            update["outside_lost"] = self.one(OUTSIDE, schools.outside_lost)
        if self.survey.control.seal_probes:
            update["seal_leak"] = self.one(SEAL, schools.seal_leak)
        period = rules.model_copy(update={"clock_period_s": float(self.word(CLOCK))})
        protection = self.choices.protection
        protection = protection.model_copy(update={"power_return": self.one(RETURN, protection.power_return)})
        return self.choices.model_copy(update={"schools": schools.model_copy(update=update), "rules": period, "protection": protection})

    @property
    def _by_relays(self) -> bool:
        """Whether numbered relays with levels of their own do the work, each with its own way on a lost signal."""
        return by_relays(self.wanted)

    def _relay(self, relay: LevelRelay) -> LevelRelay:
        """A relay as its controller holds it, by its number."""
        known = self.device.by_meaning
        if not relay.number:
            return relay
        own = f"relay.{relay.number}"
        turns, word = relay.turns, known.get(f"{own}.turns", relay.turns.value)
        if known.get(f"{own}.function", "level") != "level" or word == "rest":
            return at_rest(relay)
        turns = next((each for each in Turns if each == word), turns)
        if any(f"{own}.{name}" in known for name in ("level", "gap", "turns")):
            level, gap = known.get(f"{own}.level", relay.level_m), known.get(f"{own}.gap", relay.gap_m)
            relay = relay.set_by(float(level), float(gap), turns)
        on, off = known.get(f"{own}.on", relay.on_m), known.get(f"{own}.off", relay.off_m)
        contact = known.get(f"{own}.contact", "closed" if relay.normally_closed else "open")
        lost = OnFailure(str(known.get(f"{own}.on_failure", relay.on_failure.value)))
        return replace(relay, on_m=float(on), off_m=float(off), normally_closed=contact == "closed", on_failure=lost)

    def _output(self, planned: SensorOutput | None) -> SensorOutput | None:
        """What a look-down sensor makes of the level, as it was told; None for one without settings of its own."""
        sensor, known = self.survey.sensor, self.device.by_meaning
        if planned is None or sensor is None:
            return planned
        ends, offset_m = [], sensor.offset_m  # the field found it to sit so much higher than its settings know
        for name, level_m in (("zero", planned.scaling.value_low - offset_m), ("full", planned.scaling.value_high - offset_m)):
            away_m = known.get(f"echo.{name}_distance")
            there_m = (sensor.face_m or 0.0) - float(away_m) if away_m is not None else level_m
            ends.append(float(known.get(f"echo.{name}_level", there_m)) + offset_m)
        lost = next((each for each in LostEcho if each == known.get("echo.lost")), planned.lost)
        lost_s = float(known.get("echo.lost_delay", planned.lost_s))
        if ends[0] == ends[1]:
            return replace(planned, lost=lost, lost_s=lost_s)
        scaling = replace(planned.scaling, value_low=ends[0], value_high=ends[1])
        return replace(planned, scaling=scaling, lost=lost, lost_s=lost_s)

    def _input(self, planned: LevelInput) -> LevelInput:
        """The level input as it was told: a wrong end of the scale misreads every level."""
        known = dict(self.device.by_meaning)
        for meaning, name in OF_A_TEAM.items():
            if f"drive.1.{name}" in known:
                known.setdefault(meaning, known[f"drive.1.{name}"])
        hyd = hydraulics(self.survey)
        signal = SIGNALS[Signal(str(known["sensor.signal"]))] if "sensor.signal" in known else hyd.signal
        fail_low = known.get("sensor.fail_low")
        if isinstance(fail_low, float) and signal.fail_low is not None:
            signal = replace(signal, fail_low=fail_low)
        offset_m = float(known.get("sensor.offset", hyd.offset_m))
        zero_m, full_m = (
            float(known.get(f"sensor.{end}_level", float(known.get(f"sensor.bare_{end}", level_m - hyd.offset_m)) + offset_m))
            for end, level_m in (("zero", hyd.scaling.value_low), ("full", hyd.scaling.value_high))
        )
        if zero_m == full_m:
            return planned  # no controller takes a scale without length
        delay_s = float(known.get("sensor.fail_delay", FAILURE_DELAY_S))
        return LevelInput(signal, Scaling(signal.low, signal.high, zero_m, full_m), delay_s)
