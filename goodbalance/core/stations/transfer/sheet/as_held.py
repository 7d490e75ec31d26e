"""What the devices of a transfer set really do: the plan and the program as somebody saw them hold it."""

from dataclasses import replace

from goodbalance.core.balance.plan import Setting
from goodbalance.core.control.rotation import Alternation
from goodbalance.core.protection.monitor import monitor_as_told
from goodbalance.core.protection.names import GROUP, Restart
from goodbalance.core.protection.numbers import acts_without, as_told
from goodbalance.core.sheets.carried import Function, Told, uncarried
from goodbalance.core.sheets.devices import DeviceValues
from goodbalance.core.sheets.profile import Display
from goodbalance.core.stations.shared.crew import MOST, STANDBY, crew_as_told
from goodbalance.core.stations.shared.held import Held
from goodbalance.core.stations.shared.pressure_sensor import SIGNALS
from goodbalance.core.stations.transfer.controller.numbers import WITHOUT, Numbers, numbers_of
from goodbalance.core.stations.transfer.sheet.keypad import keypad_values
from goodbalance.core.stations.transfer.survey.choices import (
    AfterCut,
    AlarmReset,
    DelayFrom,
    Reset,
    RestartBy,
    TransferChoices,
)
from goodbalance.core.stations.transfer.survey.control import FullBy
from goodbalance.core.stations.transfer.survey.survey import TransferSurvey
from goodbalance.core.stations.transfer.windows.reckon import reckon


def _function(label: str, meaning: str, anyway: float | str, harm: str) -> Function:
    return Function(label, (meaning,), anyway, harm)


FULL = _function("How it knows that a tank is full", "control.full_by", FullBy.PRESSURE.value, "What comes back from the tanks is not heard: they overflow, or run empty.")
AGAIN = _function("What starts a filled line again", "control.restart_by", RestartBy.PRESSURE_AND_TIME.value, "The pump starts each time the delay is over, or waits for a pressure that never comes.")
FROM = _function("From when on the delay counts", "control.delay_from", DelayFrom.DROP.value, "After a long rest the pump starts at once on a valve that only dribbles, or the tank falls further than reckoned.")
CUT = _function("The delay after a power cut", "control.after_cut", AfterCut.ANEW.value, "A pump starts at the moment the supply is back, or later than anybody expects.")
SOURCE = _function("After lack of water", "control.source_reset", Reset.AUTOMATIC.value, "Pumps start again by themselves as soon as water is back: somebody may be at them.")
RETURN = _function("Starting after a power cut", "control.power_return", Restart.BY_ITSELF.value, "Pumps start by themselves after a power cut: somebody may be at them.")
ALARMS = _function("How alarms clear", "alarm.reset", AlarmReset.AUTOMATIC.value, "A passing alarm is seen by nobody.")
TURN = _function("Whose turn it is", "pumps.alternation", Alternation.FIXED.value, "One pump always leads and wears out first; the others stand until they stick.")
CLOCK = _function("The clock of the turn", "pumps.clock_period", 86400.0, "The turn passes at another time than planned.")
_ALL = (FULL, AGAIN, FROM, CUT, SOURCE, RETURN, ALARMS, TURN, CLOCK, STANDBY, MOST)


def held(survey: TransferSurvey, choices: TransferChoices, device: DeviceValues, display: Display) -> Held[Numbers]:
    """What the devices hold takes the place of what is planned; where nobody looked it is as planned.

    What no device has a place for does not act, and is listed with the harm.
    """
    plan = reckon(survey, choices, False)
    wanted = keypad_values(survey, choices, plan, display)
    told = _Told(device, {meaning: each.value for meaning, each in wanted.items()})
    kept = {setting.id: device.settings.get(setting.id, setting.value) for setting in plan.settings}
    left = reckon(survey, choices.model_copy(update={"chosen": kept}), False)
    lacking = frozenset(setting.id for setting in plan.settings if setting.id not in device.placed)
    numbers = told.program(numbers_of(survey, told.choices(choices), left, lacking))
    return Held(left, numbers, uncarried(plan, wanted, device, _ALL, _acts_without))


def _acts_without(setting: Setting) -> float | None:
    """What acts in the place of a setting that no device holds."""
    return acts_without(setting.id) if setting.group == GROUP else WITHOUT[setting.id]


class _Told(Told):
    """What the devices of one set were told, function by function."""

    def choices(self, planned: TransferChoices) -> TransferChoices:
        """The choices with every school as the devices hold it."""
        schools = planned.schools
        update = {
            "restart_by": self.one(AGAIN, schools.restart_by), "delay_from": self.one(FROM, schools.delay_from), "after_cut": self.one(CUT, schools.after_cut),
            "source_reset": self.one(SOURCE, schools.source_reset), "alternation": self.one(TURN, schools.alternation), "alarm_reset": self.one(ALARMS, schools.alarm_reset),
        }  # fmt: skip
        guards = planned.protection.model_copy(update={"power_return": self.one(RETURN, planned.protection.power_return)})
        rules = planned.rules.model_copy(update={"clock_period_s": float(self.word(CLOCK))}) if schools.alternation is Alternation.CLOCK else planned.rules
        return planned.model_copy(update={"schools": schools.model_copy(update=update), "rules": rules, "protection": guards})

    def program(self, numbers: Numbers) -> Numbers:
        """Numbers of the plan as held, with inputs and filter as the devices were told."""
        signal, range_pa, filter_s, pumps = (self.known((meaning,)) for meaning in ("sensor.signal", "sensor.range", "sensor.filter", "pumps.count"))
        return replace(
            numbers, signal={kind.value: found for kind, found in SIGNALS.items()}.get(str(signal), numbers.signal),
            range_pa=range_pa if isinstance(range_pa, float) and range_pa > 0.0 else numbers.range_pa, filter_s=filter_s if isinstance(filter_s, float) else numbers.filter_s,
            pumps=min(numbers.pumps, max(0, round(pumps))) if isinstance(pumps, float) else numbers.pumps, standby=crew_as_told(self, numbers.pumps, numbers.standby), full_by=self.one(FULL, numbers.full_by),
            motors=as_told(numbers.motors, self.device.by_meaning), monitor=monitor_as_told(numbers.monitor, self.device.by_meaning),
        )  # fmt: skip
