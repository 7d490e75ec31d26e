"""The numbers of the section: the station cut open, in metres above the floor, volumes and times between the levels."""

import math
from typing import Any

from goodbalance.core.balance.plan import Plan, Setting
from goodbalance.core.stations.lift.names import role_of
from goodbalance.core.stations.lift.plant.hydraulics import hydraulics
from goodbalance.core.stations.lift.survey.choices import LiftChoices
from goodbalance.core.stations.lift.survey.level_sensor import SensorKind
from goodbalance.core.stations.lift.survey.survey import LiftSurvey
from goodbalance.core.stations.lift.windows.float_ladder import is_alone, main_ladder


def drawing(survey: LiftSurvey, choices: LiftChoices, plan: Plan) -> dict[str, Any]:
    """Heights, sensor reach, levels, and for each band its volume and the time peak inflow takes to fill it."""
    hyd = hydraulics(survey)
    well, sensor = hyd.well, survey.sensor
    widest_m2 = max(max(piece.bottom_area_m2, piece.top_area_m2) for piece in well.pieces)
    levels = {setting.id: setting.value for setting in plan.group("levels")}
    edges = [edge for edge in ("stop", "start_1", "high_alarm") if edge in levels]
    marks = [(edge, levels[edge]) for edge in edges] + [("overflow", survey.inlet.overflow_m)]
    bands = []
    for (low_id, low_m), (high_id, high_m) in zip(marks, marks[1:]):
        volume_m3 = well.volume_m3(high_m) - well.volume_m3(low_m)
        if volume_m3 > 0.0:
            fill_s = volume_m3 / survey.inflow.peak_m3s
            bands.append(
                {
                    "low": low_id,
                    "high": high_id,
                    "low_m": low_m,
                    "high_m": high_m,
                    "volume_m3": volume_m3,
                    "fill_s": fill_s,
                }
            )
    return {
        "depth_m": survey.well.depth_m,
        "width_m": survey.well.width_m or math.sqrt(widest_m2 * 4.0 / math.pi),
        "slices": [
            {"low_m": p.bottom_m, "high_m": p.top_m, "low_share": math.sqrt(p.bottom_area_m2 / widest_m2),
             "high_share": math.sqrt(p.top_area_m2 / widest_m2)}
            for p in well.pieces
        ],
        "intake_m": survey.well.intake_m,
        "invert_m": survey.inlet.invert_m,
        "overflow_m": survey.inlet.overflow_m,
        "top_of_starts_m": main_ladder(survey, choices).top_of_starts_m,
        "pumps": hyd.pump_count,
        "has_sensor": sensor is not None,
        "looks_down": sensor is not None and sensor.kind is SensorKind.LOOK_DOWN,
        "sensor_face_m": _face_m(survey),
        "floats": [{"role": role_of(s.id), "label": s.label, "level_m": s.value} for s in _floats(survey, plan)],
        "sensor_low_m": hyd.sensor_low_m,
        "sensor_high_m": hyd.sensor_high_m,
        "step_m": choices.step_m,
        "bands": bands,
    }  # fmt: skip


def _face_m(survey: LiftSurvey) -> float:
    sensor = survey.sensor
    if sensor is None:
        return 0.0
    return (sensor.face_m if sensor.kind is SensorKind.LOOK_DOWN else sensor.mounting_m) or 0.0


def _floats(survey: LiftSurvey, plan: Plan) -> tuple[Setting, ...]:
    return plan.group("levels") if is_alone(survey) else plan.group("floats")
