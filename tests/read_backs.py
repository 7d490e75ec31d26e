"""Devices as somebody read them back, for tests: a sheet, and what stood under some of its codes."""

from typing import Any

from goodbalance.core.balance.plan import Plan
from goodbalance.core.sheets.devices import DeviceValues, Noted, Source, stands_of, values_of
from goodbalance.core.sheets.entry_sheet import EntrySheet
from goodbalance.core.sheets.profile import Display
from goodbalance.core.stations.shared.held import Held


def noted(typed: dict[str, str], source: Source = Source.READ_BACK, seq: int = 5) -> dict[tuple[str, str], Noted]:
    return {("", code): Noted(text, source, "Ada", "2026-03-02T08:00:00.000Z", seq) for code, text in typed.items()}


def read(sheet: EntrySheet, typed: dict[str, str]) -> DeviceValues:
    """What the devices hold when these codes showed this."""
    return values_of(sheet, stands_of(sheet, {}, noted(typed), {}))


def held(kind: Any, survey: Any, choices: Any, sheet: EntrySheet, typed: dict[str, str], display: Display) -> Held[Any]:
    return kind.keypad.held(survey, choices, read(sheet, typed), display)


def unplaced(plan: Plan, sheet: EntrySheet) -> tuple[str, ...]:
    """Settings of the plan that no row of the sheet holds."""
    return tuple(setting.id for setting in plan.settings if setting.id not in {row.setting for row in sheet.rows})
