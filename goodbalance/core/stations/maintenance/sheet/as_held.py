"""What the devices of a maintenance pump really do: the plan and the program as somebody saw them hold it."""

from dataclasses import replace

from goodbalance.core.balance.plan import Setting
from goodbalance.core.protection.monitor import monitor_as_told
from goodbalance.core.protection.names import GROUP, Restart
from goodbalance.core.protection.numbers import acts_without, as_told
from goodbalance.core.sheets.carried import Function, Told, uncarried
from goodbalance.core.sheets.devices import DeviceValues
from goodbalance.core.sheets.profile import Display
from goodbalance.core.stations.maintenance.controller.numbers import WITHOUT, Numbers, numbers_of
from goodbalance.core.stations.maintenance.names import OTHERS
from goodbalance.core.stations.maintenance.sheet.keypad import keypad_values
from goodbalance.core.stations.maintenance.survey.choices import AlarmReset, MaintenanceChoices, RunOn
from goodbalance.core.stations.maintenance.survey.survey import MaintenanceSurvey
from goodbalance.core.stations.maintenance.windows.reckon import reckon
from goodbalance.core.stations.shared.held import Held
from goodbalance.core.stations.shared.pressure_sensor import SIGNALS

RUN_ON = Function("Whether a started pump runs a least time", ("control.run_on",), RunOn.TIMER.value, "It starts for every drop, or climbs to its shut-off each time.")
RETURN = Function("Starting after a power cut", ("control.power_return",), Restart.BY_ITSELF.value, "The pump starts by itself after a power cut: somebody may be at it.")
ALARMS = Function("How alarms clear", ("alarm.reset",), AlarmReset.AUTOMATIC.value, "A passing alarm is seen by nobody.")


def held(survey: MaintenanceSurvey, choices: MaintenanceChoices, device: DeviceValues, display: Display) -> Held[Numbers]:
    """What the devices hold takes the place of what is planned; where nobody looked it is as planned.

    What no device has a place for does not act, and is listed with the harm. A main pump's start is not looked for: it is its own people's.
    """
    plan = reckon(survey, choices, False)
    wanted = keypad_values(survey, choices, plan, display)
    told = _Told(device, {meaning: each.value for meaning, each in wanted.items()})
    kept = {setting.id: device.settings.get(setting.id, setting.value) for setting in plan.settings}
    left = reckon(survey, choices.model_copy(update={"chosen": kept}), False)
    lacking = frozenset(setting.id for setting in plan.settings if setting.id not in device.placed and setting.group != OTHERS)
    numbers = told.program(numbers_of(survey, told.choices(choices), left, lacking))
    typed = replace(plan, settings=tuple(setting for setting in plan.settings if setting.group != OTHERS))
    return Held(left, numbers, uncarried(typed, wanted, device, (RUN_ON, RETURN, ALARMS), _acts_without))


def _acts_without(setting: Setting) -> float | None:
    """What acts in the place of a setting that no device holds."""
    return acts_without(setting.id) if setting.group == GROUP else WITHOUT[setting.id]


class _Told(Told):
    """What the devices were told, function by function."""

    def choices(self, planned: MaintenanceChoices) -> MaintenanceChoices:
        """The choices with every school as the devices hold it."""
        update = {"run_on": self.one(RUN_ON, planned.schools.run_on), "alarm_reset": self.one(ALARMS, planned.schools.alarm_reset)}
        guards = planned.protection.model_copy(update={"power_return": self.one(RETURN, planned.protection.power_return)})
        return planned.model_copy(update={"schools": planned.schools.model_copy(update=update), "protection": guards})

    def program(self, numbers: Numbers) -> Numbers:
        """Numbers of the plan as held, with input and filter as the devices were told."""
        signal, range_pa, filter_s = (self.known((meaning,)) for meaning in ("sensor.signal", "sensor.range", "sensor.filter"))
        return replace(
            numbers, signal={kind.value: found for kind, found in SIGNALS.items()}.get(str(signal), numbers.signal),
            range_pa=range_pa if isinstance(range_pa, float) and range_pa > 0.0 else numbers.range_pa, filter_s=filter_s if isinstance(filter_s, float) else numbers.filter_s,
            motors=as_told(numbers.motors, self.device.by_meaning), monitor=monitor_as_told(numbers.monitor, self.device.by_meaning),
        )  # fmt: skip
