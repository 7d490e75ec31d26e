"""What the devices of a booster set really do: the plan and the program as somebody saw them hold it."""

from dataclasses import replace

from goodbalance.core.balance.plan import Plan, Setting
from goodbalance.core.control.contacts import Guards, Takes
from goodbalance.core.control.rotation import Alternation
from goodbalance.core.control.trips import Beyond
from goodbalance.core.protection.monitor import monitor_as_told
from goodbalance.core.protection.names import GROUP, After, Restart
from goodbalance.core.protection.numbers import acts_without, as_told
from goodbalance.core.sheets.carried import Function, Told, uncarried, without_drive
from goodbalance.core.sheets.devices import DeviceValues
from goodbalance.core.sheets.profile import Display
from goodbalance.core.stations.booster.controller.numbers import WITHOUT, Numbers, numbers_of
from goodbalance.core.stations.booster.controller.set_value import Asking, Line
from goodbalance.core.stations.booster.controller.water_switch import STOP, WaterSwitch
from goodbalance.core.stations.booster.names import BY_DIAL
from goodbalance.core.stations.booster.names import SettingId as S
from goodbalance.core.stations.booster.plant.hydraulics import SIGNALS
from goodbalance.core.stations.booster.sheet.keypad import keypad_values
from goodbalance.core.stations.booster.survey.choices import (
    BoosterChoices,
    FillEnd,
    NoFlowBy,
    OnFailure,
    OutsideLost,
    PrimeBy,
    Reset,
    RunOut,
    Setback,
    Sharing,
)
from goodbalance.core.stations.booster.survey.control import ControlKind, OutsideSet
from goodbalance.core.stations.booster.survey.survey import BoosterSurvey
from goodbalance.core.stations.booster.survey.week import TIMES
from goodbalance.core.stations.booster.windows.reckon import reckon
from goodbalance.core.stations.shared.crew import MOST, STANDBY, crew_as_told
from goodbalance.core.stations.shared.held import Held


def _function(label: str, name: str, anyway: float | str, harm: str, at: str = "control") -> Function:
    return Function(label, (f"{at}.{name}", f"drive.1.{name}"), anyway, harm)


TURN = _function("Whose turn it is", "alternation", Alternation.FIXED.value, "One pump always leads and wears out first; the others stand until they stick.")
TURN = replace(TURN, meanings=("pumps.alternation", *TURN.meanings))
CLOCK = _function("The clock of the turn", "clock_period", 86400.0, "The turn passes at another time than planned.")
CLOCK = replace(CLOCK, meanings=("pumps.clock_period", *CLOCK.meanings))
SHARING = _function("How pumps share", "sharing", Sharing.SYNCHRONOUS.value, "Pumps share otherwise than the joins and leaves were reckoned for: they hunt.")
NO_FLOW = _function("How no flow is known", "no_flow", NoFlowBy.SPEED.value, "The set never sleeps, or sleeps while somebody draws.")
SETBACK = _function("Pressure falls with the flow", "setback", Setback.NONE.value, "The pressure stays high at night: leaks and energy.")
FILL = _function("Slow fill", "slow_fill", "no", "Empty pipes are filled at full speed: water hammer.")
FILL_END = _function("What ends a fill that takes too long", "fill_end", FillEnd.GO_ON.value, "After the fill time the set runs on into an open pipe.")
SUCTION = _function("After lack of water", "suction_reset", Reset.AUTOMATIC.value, "The set starts again by itself as soon as water is back: somebody may be at the pump.")
CONTACT = _function("The contact of the suction switch", "suction_contact", Takes.CLOSED.value, "It takes the switch the other way round: the set stands while there is water, and runs dry without.")
PRIME_BY = _function("What tells of a lost prime", "prime_by", PrimeBy.POWER.value, "A pump that turns dry is looked for by something else than its threshold was made for.")
PRIME = _function("After a lost prime", "lost_prime", After.BY_HAND.value, "A pump that drew air once stands until somebody resets it: nobody comes for days.")
RUN_OUT = _function("After a run-out", "run_out", RunOut.STOP.value, "The set stops at a run-out, and the house has no water until somebody comes.")
LONG_RUN = _function("A pump that runs too long", "long_run", Beyond.WARNS.value, "A pump that runs too long is told of and runs on: an outlet left open empties the source.")
MANY_STARTS = _function("A pump that starts too often", "many_starts", Beyond.WARNS.value, "A pump that starts too often is told of and starts on until motor or contactor give up.")
RETURN = _function("Starting after a power cut", "power_return", Restart.BY_ITSELF.value, "Pumps start by themselves after a power cut: somebody may be at them.")
LOST = _function("When the sensor is lost", "sensor_failure", OnFailure.STOP_ALL.value, "With the sensor lost nobody has water.")
FORM = _function("The form of the gains", "form", "dependent", "Gain and reset time mean something else than they were reckoned for: the loop hunts or sleeps.")
OUTSIDE = _function("Who may ask from outside", "outside", OutsideSet.NONE.value, "The building asks in vain: nobody outside is obeyed.")
OUTSIDE_LOST = _function("When nobody outside is heard", "outside_lost", OutsideLost.HOLD.value, "A pressure that was asked for once stands for days.")
LOCAL = _function("Local and remote", "local_remote", "no", "Who stands at the set cannot keep the building out while he works.")
RUN = _function("Run command from outside", "run_contact", "no", "The outside cannot stop the set.")
KEYS = _function("Keys without a code", "direct_keys", "no", "The people of the house cannot change the pressure by its keys.")
SMOOTH = _function("Change-over of the loop", "smooth", "yes", "Back in auto the speed jumps, and the pipes with it.")
_WEEK = tuple(
    _function(f"Days of time {number} in the week", f"schedule_{number}_days", "", "The week's clock changes nothing: the pressure of the night stays by day, or the other way round.")
    for number in range(1, TIMES + 1)
)  # fmt: skip
_ALL = (OUTSIDE, OUTSIDE_LOST, LOCAL, RUN, KEYS, SMOOTH, *_WEEK, TURN, CLOCK, STANDBY, MOST, SHARING, NO_FLOW, SETBACK, FILL, FILL_END, SUCTION, CONTACT, PRIME_BY, PRIME, LONG_RUN, MANY_STARTS, RUN_OUT, RETURN, LOST, FORM)
_SIGNAL, _RANGE = ("sensor.signal", "drive.1.signal"), ("sensor.range", "drive.1.range")
_FROM, _TO = ("control.night_from", "drive.1.night_from"), ("control.night_to", "drive.1.night_to")


def held(survey: BoosterSurvey, choices: BoosterChoices, device: DeviceValues, display: Display) -> Held[Numbers]:
    """What the devices hold takes the place of what is planned; where nobody looked it is as planned.

    Of drives that each hold every number the one whose turn it is goes by its own. What no device has a place for does not act, and is listed with the harm.
    """
    plan = reckon(survey, choices, False)
    wanted = keypad_values(survey, choices, plan, display)
    asked = {meaning: each.value for meaning, each in wanted.items()}

    def as_in(values: DeviceValues) -> tuple[Plan, Numbers]:
        """Plan and numbers by these values."""
        kept = {setting.id: values.settings.get(setting.id, setting.value) for setting in plan.settings}
        left = reckon(survey, choices.model_copy(update={"chosen": kept}), False)
        lacking = frozenset(s.id for s in plan.settings if s.id not in values.placed and _acts_without(plan, s) is not None)
        told = _Told(values, asked)
        return left, told.program(numbers_of(survey, told.choices(choices), left, lacking))

    left, numbers = as_in(device)
    heirs = tuple(numbers if device.is_held_by(each) else as_in(each)[1] for each in device.heirs[: survey.pumping.count - 1])
    if any(heir != numbers for heir in heirs):
        numbers = replace(numbers, heirs=heirs, each_leads="drive.1.set_pressure" in device.places)
    missing = uncarried(plan, wanted, device, _ALL, lambda setting: _acts_without(plan, setting))
    return Held(left, numbers, missing + without_drive(device, survey.pumping.count if survey.has_drives else 0))


def _acts_without(plan: Plan, setting: Setting) -> float | None:
    """What acts in the place of a setting that no device holds; None for what is set at itself (the gas of a tank, switches of lack of water) or found by the device."""
    if setting.id in (S.PRECHARGE, S.CLOSED_LOAD) or (setting.id in BY_DIAL and S.LOW_SUCTION_RESET not in plan):
        return None
    if setting.group == GROUP:
        return acts_without(setting.id)
    if setting.id in WITHOUT:
        return WITHOUT[setting.id]
    if setting.id == S.EMERGENCY_PUMPS:
        return 99.0  # every pump may start on the generator
    return plan.value(S.SET_PRESSURE, 0.0)  # by night, without flow and on the generator the set pressure goes on


class _Told(Told):
    """What the devices of one set were told, function by function."""

    def choices(self, planned: BoosterChoices) -> BoosterChoices:
        """The choices with every school as the devices hold it."""
        schools, rules = planned.schools, planned.rules
        update = {
            "alternation": self.one(TURN, schools.alternation), "sharing": self.one(SHARING, schools.sharing),
            "no_flow": self.one(NO_FLOW, schools.no_flow), "setback": self.one(SETBACK, schools.setback),
            "fill_end": self.one(FILL_END, schools.fill_end), "suction_reset": self.one(SUCTION, schools.suction_reset), "prime_by": self.one(PRIME_BY, schools.prime_by), "lost_prime": self.one(PRIME, schools.lost_prime),
            "sensor_failure": self.one(LOST, schools.sensor_failure), "run_out": self.one(RUN_OUT, schools.run_out),
            "long_run": self.one(LONG_RUN, schools.long_run), "many_starts": self.one(MANY_STARTS, schools.many_starts),
        }  # fmt: skip
        times: dict[str, float | int] = {}
        if schools.alternation is Alternation.CLOCK:
            times["clock_period_s"] = float(self.word(CLOCK))
        for name, meanings in (("night_from_h", _FROM), ("night_to_h", _TO)):
            at_s = self.known(meanings)
            if isinstance(at_s, float):
                times[name] = round(at_s / 3600.0)
        guards = planned.protection.model_copy(update={"power_return": self.one(RETURN, planned.protection.power_return)})
        return planned.model_copy(
            update={"schools": schools.model_copy(update=update), "rules": rules.model_copy(update=times), "protection": guards}
        )

    def _asking(self, planned: Asking) -> Asking:
        """Who may ask for what, as the devices were told."""
        ends = {}
        for name, planned_pa in (("zero", planned.zero_pa), ("full", planned.full_pa)):
            told = self.known((f"control.outside_{name}", f"drive.1.outside_{name}"))
            ends[f"{name}_pa"] = told if isinstance(told, float) else planned_pa
        lines = tuple(map(self._line, planned.lines))
        return Asking(
            outside=self.one(OUTSIDE, planned.outside), lost=self.one(OUTSIDE_LOST, planned.lost), lines=lines, **ends,
            local_remote=self.yes(LOCAL, planned.local_remote), run_contact=self.yes(RUN, planned.run_contact), keys=self.yes(KEYS, planned.keys),
            smooth=self.yes(SMOOTH, planned.smooth),
        )  # fmt: skip

    def _kind(self, planned: ControlKind) -> ControlKind:
        """What ends a run of pumps that are only switched, as the device was told."""
        word = self.known(("control.stop",))
        if planned is ControlKind.CONSTANT or word not in ("pressure", "flow"):
            return planned
        if word == "flow":
            return ControlKind.FLOW_STOP
        return ControlKind.ON_OFF if planned is ControlKind.FLOW_STOP else planned

    def _water(self, planned: WaterSwitch | None) -> WaterSwitch | None:
        """Which state of the suction switch's contact the device takes for water."""
        if planned is None:
            return None
        taken = self.one(CONTACT, planned.guards.taken[STOP])
        return replace(planned, guards=Guards(planned.guards.fitted, {STOP: taken}))

    def _pumps(self, planned: int) -> int:
        """How many pumps the device was told of."""
        told = self.known(("pumps.count",))
        return min(planned, max(0, round(told))) if isinstance(told, float) else planned

    def _line(self, planned: Line) -> Line:
        """A line of the week's schedule as it was told."""
        number = planned.number
        days = self.one(_WEEK[number - 1], planned.days)
        at_s = self.known((f"control.schedule_{number}_from", f"drive.1.schedule_{number}_from"))
        return replace(planned, days=days, from_h=at_s / 3600.0 if isinstance(at_s, float) else planned.from_h)

    def program(self, numbers: Numbers) -> Numbers:
        """Numbers of the plan as held, with inputs, fill and form of the gains as the devices were told."""
        signal, range_pa = self.known(_SIGNAL), self.known(_RANGE)
        by_word = {kind.value: found for kind, found in SIGNALS.items()}
        return replace(
            numbers,
            signal=by_word.get(str(signal), numbers.signal),
            range_pa=range_pa if isinstance(range_pa, float) and range_pa > 0.0 else numbers.range_pa,
            slow_fill=numbers.slow_fill and self.word(FILL) == "yes", motors=as_told(numbers.motors, self.device.by_meaning),
            monitor=monitor_as_told(numbers.monitor, self.device.by_meaning),
            water=self._water(numbers.water), asking=self._asking(numbers.asking), kind=self._kind(numbers.kind), pumps=self._pumps(numbers.pumps),
            standby=crew_as_told(self, numbers.pumps, numbers.standby),
            # u = K e + 1/T of the integral: as a reset time of K T
            reset_time=numbers.reset_time * (numbers.gain if self.known(FORM.meanings) == "independent" else 1.0),
        )
