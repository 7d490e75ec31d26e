"""What a circulator really does: the plan and the program as somebody saw its device hold it."""

from dataclasses import replace

from goodbalance.core.balance.plan import Setting
from goodbalance.core.sheets.carried import Function, Told, uncarried
from goodbalance.core.sheets.devices import DeviceValues
from goodbalance.core.sheets.profile import Display
from goodbalance.core.stations.circulator.controller.numbers import WITHOUT, Numbers, numbers_of
from goodbalance.core.stations.circulator.names import Mode
from goodbalance.core.stations.circulator.names import SettingId as S
from goodbalance.core.stations.circulator.sheet.keypad import keypad_values
from goodbalance.core.stations.circulator.survey.choices import MAX_OWN, CirculatorChoices, Wins
from goodbalance.core.stations.circulator.survey.survey import CirculatorSurvey
from goodbalance.core.stations.circulator.survey.use import Outside
from goodbalance.core.stations.circulator.windows.reckon import reckon
from goodbalance.core.stations.shared.held import Held
from goodbalance.core.stations.shared.week import Days, Period

MODE = Function("By what it goes", ("control.mode",), Mode.SPEED.value, "It goes by another law: some branch is cold, or the valves whistle.")
CLOCK = Function("Whether its own clock counts", ("control.by_clock",), "no", "It runs always, and gives heat and power away; or not when it is wanted.")
OUTSIDE = Function("What outside may ask", ("control.outside",), Outside.NONE.value, "What the taps, the thermostat or the building ask is not heard.")
WINS = Function("Which of two controls counts", ("control.wins",), Wins.BOTH.value, "It rests when it is asked to run, or runs when it is asked to rest, and nobody finds out why.")
_TIMES = tuple(
    Function(f"Time {number} of the week", (f"schedule_{number}_days", f"schedule_{number}_from", f"schedule_{number}_to"), "unused", "It rests when it is wanted warm.")
    for number in range(1, MAX_OWN + 1)
)


def held(survey: CirculatorSurvey, choices: CirculatorChoices, device: DeviceValues, display: Display) -> Held[Numbers]:
    """What the device holds takes the place of what is planned; where nobody looked it is as planned.

    What no device has a place for does not act, and is listed with the harm. Valves are set by hand: they stand as planned.
    """
    plan = reckon(survey, choices, False)
    wanted = keypad_values(survey, choices, plan, display)
    told = _Told(device, {meaning: each.value for meaning, each in wanted.items()})
    kept = {setting.id: device.settings.get(setting.id, setting.value) for setting in plan.settings}
    left = reckon(survey, choices.model_copy(update={"chosen": kept}), False)
    lacking = frozenset(setting.id for setting in plan.settings if setting.id in WITHOUT and setting.id not in device.placed)
    numbers = told.program(numbers_of(survey, choices, left, lacking))
    return Held(left, numbers, uncarried(plan, wanted, device, (MODE, CLOCK, OUTSIDE, WINS, *_TIMES), _acts_without))


def _acts_without(setting: Setting) -> float | None:
    """What acts in the place of a setting that no device holds; None for valves, and for the lead, which goes into the hours."""
    return None if setting.id == S.LEAD else WITHOUT.get(setting.id)


class _Told(Told):
    """What the device of a ring was told, function by function."""

    def program(self, numbers: Numbers) -> Numbers:
        """Numbers of the plan as held, with mode, clock, hours and outside control as the device was told."""
        clock = self.yes(CLOCK, numbers.by_clock)
        times = tuple(each for number in range(1, MAX_OWN + 1) if (each := self._time(number)) is not None) if clock and numbers.by_clock else numbers.times if numbers.by_clock else ()
        return replace(numbers, mode=self.one(MODE, numbers.mode), by_clock=clock, times=times, outside=self.one(OUTSIDE, numbers.outside), wins=self.one(WINS, numbers.wins))

    def _time(self, number: int) -> Period | None:
        """A time of the week as the device holds it; None where it is not used, or has no place."""
        days, begins, ends = (self._part(f"schedule_{number}_{part}") for part in ("days", "from", "to"))
        if not isinstance(days, str) or days not in {each.value for each in Days}:
            return None
        return Period(Days(days), float(begins or 0.0), float(ends or 0.0))

    def _part(self, meaning: str) -> float | str | None:
        seen = self.known((meaning,))
        if seen is not None:
            return seen
        return self.wanted.get(meaning) if meaning in self.device.places else None
