"""Numbers and words for the drawings: beams of every setting, and the picture of each kind of station."""

import json
import math
from collections.abc import Callable
from typing import Any

from goodbalance.core.balance.plan import Plan, Setting
from goodbalance.core.balance.quantities import Quantity, UnitSystem, display_unit, show
from goodbalance.web.work import Work

_NO_NUMBER = {"Infinity": 1e12, "-Infinity": -1e12, "NaN": None}


def picture_of(work: Work, plan: Plan, choices: Any) -> dict[str, Any]:
    """Everything the scripts draw: the station, its flags, a beam for each setting."""
    picture = work.kind.drawing(work.survey, choices, plan)
    picture["kind"] = work.kind.id
    unit = display_unit(work.kind.main, work.units)
    picture["settings"] = [beam(setting, work.units) for setting in plan.settings]
    picture["unit"] = {"symbol": unit.symbol, "per_si": unit.from_si(1.0), "decimals": unit.decimals}
    picture["chosen"] = dict(choices.chosen)
    _KINDS[work.kind.id](work, picture)
    for flag in picture["flags"]:
        ways = work.kind.readings(work.survey, flag["value"]).ways(work.units)
        flag["as"] = {"unit": flag["text"], **ways}
    return _drawable(picture)


def _drawable(picture: dict[str, Any]) -> Any:
    """The same with what has no end far off the picture, and nothing where there is no number: JSON knows neither."""
    return json.loads(json.dumps(picture), parse_constant=_NO_NUMBER.get)


def _lift(work: Work, picture: dict[str, Any]) -> None:
    """Volumes and times of the bands, and the fixed heights in words."""
    for band in picture["bands"]:
        band["volume"] = show(band["volume_m3"], Quantity.VOLUME, work.units)
        band["time"] = show(band["fill_s"], Quantity.DURATION, work.units)
    picture["flags"] = [setting for setting in picture["settings"] if setting["group"] == "levels"]
    picture["highest"] = picture["depth_m"]
    picture["marks"] = {
        key: show(picture[f"{key}_m"], Quantity.LEVEL, work.units)
        for key in ("depth", "invert", "overflow", "intake", "sensor_low", "sensor_high")
    }


def _booster(work: Work, picture: dict[str, Any]) -> None:
    """Axes, and the cases of the sweep in words."""
    flow = display_unit(Quantity.FLOW, work.units)
    picture["flow"] = {"symbol": flow.symbol, "per_si": flow.from_si(1.0), "decimals": flow.decimals}
    by_id = {setting["id"]: setting for setting in picture["settings"]}
    picture["flags"] = [by_id[name] for name in picture["flag_ids"]]
    picture["highest"] = picture["top_pa"]
    for stop in picture["stops"]:
        speed = (
            "" if stop["speed"] is None else f"{stop['pumps']} at {show(stop['speed'], Quantity.PERCENT, work.units)}"
        )
        stop["words"] = speed or "cannot"


_KINDS: dict[str, Callable[[Work, dict[str, Any]], None]] = {"lift": _lift, "booster": _booster}


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
        "chosen": setting.chosen is not None,
        "lean": setting.lean,
        "wish": setting.recommended_lean if found and not setting.window.is_empty else None,
        "empty": setting.window.is_empty,
        "unit": {
            "symbol": unit.symbol,
            "per_si": unit.from_si(1.0),
            "decimals": max(unit.decimals, min(3, round(finest))),
        },
    }
