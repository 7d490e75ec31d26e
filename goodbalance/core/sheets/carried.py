"""What of a plan no device carries, and what follows where it is left so."""

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass
from enum import StrEnum
from types import MappingProxyType
from typing import TypeVar

from goodbalance.core.balance.plan import Plan, Setting
from goodbalance.core.sheets.devices import DeviceValues
from goodbalance.core.sheets.entry_sheet import KeypadValue, harm_outside

Word = TypeVar("Word", bound=StrEnum)


@dataclass(frozen=True, slots=True)
class Uncarried:
    """Something the plan wants that no device has a place for. about: its name in a waiver; harm: what follows without it."""

    about: str
    label: str
    harm: str


@dataclass(frozen=True, slots=True)
class Function:
    """Something controllers do that is no number of the plan: the meanings a device may be told it by, what happens where none
    is told, in our word or in SI, and what follows then."""

    label: str
    meanings: tuple[str, ...]
    anyway: float | str
    harm: str


@dataclass(frozen=True, slots=True)
class Told:
    """What the devices of a station were told. wanted: what the plan asks of each meaning, in our word or in SI."""

    device: DeviceValues
    wanted: Mapping[str, float | str]

    def known(self, meanings: Iterable[str]) -> float | str | None:
        """What somebody saw under the first of these meanings that was looked at."""
        return next((self.device.by_meaning[meaning] for meaning in meanings if meaning in self.device.by_meaning), None)

    def word(self, function: Function) -> float | str:
        """What the devices really do: as somebody saw it, as it is wanted where there is a place, and else what happens anyway.

        Where the plan asks one of the function's meanings, only those it asks count.
        """
        asked = [meaning for meaning in function.meanings if meaning in self.wanted]
        meanings = asked or list(function.meanings)
        seen = self.known(meanings)
        if seen is not None:
            return seen
        has_place = bool(asked) and bool(self.device.places.intersection(meanings))
        return self.wanted[asked[0]] if has_place else function.anyway

    def one(self, function: Function, planned: Word) -> Word:
        """A school as it was told; as planned where the plan asks nothing of it, or the device says none of its answers."""
        if not any(meaning in self.wanted for meaning in function.meanings):
            return planned
        word = self.word(function)
        return next((each for each in type(planned) if each == word), planned)

    def yes(self, function: Function, planned: bool) -> bool:
        """A yes or no as it was told; as planned where the plan asks nothing of it."""
        return self.word(function) == "yes" if any(meaning in self.wanted for meaning in function.meanings) else planned


def uncarried(
    plan: Plan, wanted: Mapping[str, KeypadValue], device: DeviceValues, functions: tuple[Function, ...],
    without: Callable[[Setting], float | None], harms: Mapping[str, str] = MappingProxyType({}),
) -> tuple[Uncarried, ...]:  # fmt: skip
    """Settings and functions the plan wants and no device has a place for; harm is empty where nothing follows.

    without: the value that acts where a setting has no place, in SI; None for what is set by hand and needs none.
    harms: what follows where it is another than that of a number beyond its window, by setting.
    """
    found = []
    for setting in plan.settings:
        acts = None if setting.id in device.placed else without(setting)
        if acts is not None:
            harm = harms.get(setting.id) or harm_outside(setting.window, acts)
            found.append(Uncarried(f"setting.{setting.id}", setting.label, harm))
        made = device.formed.get(setting.id)
        if made is not None and not setting.window.holds(made):
            found.append(Uncarried(f"setting.{setting.id}", setting.label, f"The device makes it itself from another number, outside its window. {harm_outside(setting.window, made)}"))
    for function in functions:
        asked = [meaning for meaning in function.meanings if meaning in wanted]
        habit = next((device.habits[meaning] for meaning in asked if meaning in device.habits), None)
        if habit is not None and habit != wanted[asked[0]].value:
            found.append(Uncarried(function.meanings[0], function.label, f"It always does it in one way of its own ({habit.replace('_', ' ')}). {function.harm}"))
        elif asked and wanted[asked[0]].value != function.anyway and not device.places.intersection(asked):
            found.append(Uncarried(function.meanings[0], function.label, function.harm))
    return tuple(found)


def without_call(device: DeviceValues, pumps: int) -> tuple[Uncarried, ...]:
    """Pumps beyond those that the controller's family can call."""
    most = device.most_pumps or pumps
    return tuple(Uncarried(f"pump.{pump}", f"Pump {pump}", "Nothing calls this pump: it is missing when it is wanted.") for pump in range(most + 1, pumps + 1))


def without_drive(device: DeviceValues, pumps: int) -> tuple[Uncarried, ...]:
    """Pumps that these devices have no drive for, where they hold numbers drive by drive at all."""
    drives = {int(meaning.split(".")[1]) for meaning in device.places if meaning.startswith("drive.")}
    return tuple(
        Uncarried(f"drive.{pump}", f"Drive of pump {pump}", "Nothing turns this pump: it is missing when it is wanted.")
        for pump in range(1, pumps + 1) if drives and pump not in drives
    )  # fmt: skip
