"""Numbers and words for the drawings: beams of every setting, and the picture of each kind of station."""

import json
import math
from typing import Any

from goodbalance.core.balance.plan import Plan, Setting, Standing
from goodbalance.core.balance.quantities import UnitSystem, display_unit, show
from goodbalance.web.kinds.pages import pages_of
from goodbalance.web.memory import Memory
from goodbalance.web.work import Decided, Work

_drawn: Memory[tuple[str, Decided, UnitSystem], dict[str, Any]] = Memory(256)
_NO_NUMBER = {"Infinity": 1e12, "-Infinity": -1e12, "NaN": None}


def picture_of(work: Work, plan: Plan, choices: Any) -> dict[str, Any]:
    """Everything the scripts draw: the station, its flags, a beam for each setting. Drawn once for a record and a plan."""
    return _drawn.once((work.head, work.decided_by(choices), work.units), lambda: _draw(work, plan, choices))


def _draw(work: Work, plan: Plan, choices: Any) -> dict[str, Any]:
    settings = [beam(setting, work.units) for setting in plan.settings]
    picture = pages_of(work).picture(work, plan, choices, settings)
    unit = display_unit(work.kind.main, work.units)
    picture["settings"] = settings
    picture["unit"] = {"symbol": unit.symbol, "per_si": 1.0 / unit.si_per_unit, "at_zero": unit.at_zero, "decimals": unit.decimals}
    picture["chosen"] = dict(choices.chosen)
    instruments = work.kind.instruments
    for flag in picture["flags"] if instruments is not None else ():
        flag["as"] = {"unit": flag["text"], **instruments.readings(work.survey, flag["value"]).ways(work.units)}
    return _drawable(picture)


def _drawable(picture: dict[str, Any]) -> Any:
    """The same with what has no end far off the picture, and nothing where there is no number: JSON knows neither."""
    return json.loads(json.dumps(picture), parse_constant=_NO_NUMBER.get)


def beam(setting: Setting, units: UnitSystem) -> dict[str, Any]:
    """One setting for its beam, and for its flag. value, low, high and step in SI."""
    unit = display_unit(setting.quantity, units)
    found = setting.recommended == setting.recommended
    finest = -math.log10(max(1e-9, unit.from_si(setting.step) - unit.at_zero))
    return {
        "id": setting.id,
        "group": setting.group,
        "label": setting.label,
        "value": setting.value,
        "low": setting.window.low,
        "high": setting.window.high,
        "step": setting.step,
        "below_zero": setting.window.low < 0.0,
        "text": show(setting.value, setting.quantity, units, setting.more_decimals),
        "standing": setting.standing.value,
        "outside": setting.standing in (Standing.BELOW, Standing.ABOVE),
        "chosen": setting.chosen is not None,
        "lean": setting.lean,
        "wish": setting.recommended_lean if found and not setting.window.is_empty else None,
        "empty": setting.window.is_empty,
        "unit": {
            "symbol": unit.symbol,
            "per_si": 1.0 / unit.si_per_unit,
            "at_zero": unit.at_zero,
            "decimals": max(unit.decimals, min(3, round(finest))),
        },
    }
