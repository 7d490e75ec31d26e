"""The numbers of a transfer set's picture: sources, pumps and tanks at their heights, with the line's pressures as heights of head."""

from typing import Any

from goodbalance.core.balance.plan import Plan
from goodbalance.core.balance.quantities import Quantity, UnitSystem, show
from goodbalance.core.stations.transfer.names import OF_A_TANK
from goodbalance.core.stations.transfer.names import SettingId as S
from goodbalance.core.stations.transfer.plant.hydraulics import TransferHydraulics, hydraulics
from goodbalance.core.stations.transfer.survey.choices import TransferChoices
from goodbalance.core.stations.transfer.survey.control import FullBy
from goodbalance.core.stations.transfer.survey.survey import TransferSurvey

ON_THE_LINE = (S.LEAST_PRESSURE, S.RESTART_PRESSURE, S.STOP_PRESSURE)
ON_A_TANK = tuple(level.of(1) for level in OF_A_TANK)
SPARE = 0.06  # of the whole height, above and below what is drawn


def drawing(survey: TransferSurvey, choices: TransferChoices, plan: Plan, units: UnitSystem) -> dict[str, Any]:
    """Heights in metres above the datum, levels above the floor of their tank, pressures in pascal at the sensor."""
    hyd = hydraulics(survey)
    by_levels = survey.control.full_by is FullBy.LEVELS
    values = {setting.id: setting.value for setting in plan.settings}
    heights = [hyd.head_m(values.get(S.STOP_PRESSURE, hyd.shut_off_pa(False))), hyd.head_m(hyd.shut_off_pa(False)), *(tank.inlet_m for tank in survey.all_tanks)]
    lows = [survey.sensor.height_m, *(source.low_m for source in survey.sources if source.low_m > survey.sensor.height_m - 15.0)]
    low_m, high_m = min(lows), max(heights)
    span_m = high_m - low_m
    tank = survey.tank_1
    return {
        "by_levels": by_levels, "low_m": low_m - SPARE * span_m, "high_m": high_m + SPARE * span_m, "sensor_m": survey.sensor.height_m, "weight": hyd.weight,
        "pumps": survey.pumping.count, "pump_sources": [pump.source + 1 for pump in hyd.pumps],
        "tanks": [
            {"name": survey.tank_name(number)[:1].upper() + survey.tank_name(number)[1:], "inlet_m": tank.inlet_m, "overflow_m": tank.overflow_m, "closes_m": tank.closes_m, "outlet_m": tank.outlet_m, "valve": tank.has_valve,
             "column": show(hyd.columns_pa[number - 1], Quantity.PRESSURE, units), "full_m": values.get(f"stop_{number}", tank.closes_m)}
            for number, tank in enumerate(survey.all_tanks, 1)
        ],
        "sources": [
            {"name": source.kind.value.replace("_", " "), "low_m": source.low_m, "high_m": source.high_m, "safe_m": source.safe_m, "stop_m": values.get(f"source_stop_{number}"),
             "deep": source.low_m < low_m - SPARE * span_m}
            for number, source in enumerate(survey.sources, 1)
        ],
        "marks": [] if by_levels else _marks(hyd, units),
        "big": {"overflow_m": tank.overflow_m, "closes_m": tank.closes_m if tank.has_valve else None, "outlet_m": tank.outlet_m, "full_m": values.get("stop_1", tank.closes_m)},
        "told": {name: show(getattr(tank, f"{name}_m"), Quantity.LEVEL, units) for name in ("overflow", "closes", "outlet")},
        "flag_ids": [one for one in (ON_A_TANK if by_levels else ON_THE_LINE) if one in values],
    }  # fmt: skip


def _marks(hyd: TransferHydraulics, units: UnitSystem) -> list[dict[str, Any]]:
    """What the line cannot choose: running and shut-off pressures, where nothing is left to set."""
    named = (
        ("shut-off, lowest source", hyd.shut_off_pa(False)), ("running, at most", hyd.highest_running[0]), ("running, at least", hyd.lowest_running[0]),
    )  # fmt: skip
    return [{"name": name, "pa": pa, "text": show(pa, Quantity.PRESSURE, units)} for name, pa in named]
