"""The numbers of the section: the station cut open, in metres above the floor, volumes and times between the levels."""

import math
from typing import Any

from goodbalance.core.balance.plan import Plan
from goodbalance.core.stations.lift.choices import LiftChoices
from goodbalance.core.stations.lift.hydraulics import hydraulics
from goodbalance.core.stations.lift.ladder import Ladder
from goodbalance.core.stations.lift.survey import LiftSurvey, SensorKind


def drawing(survey: LiftSurvey, choices: LiftChoices, plan: Plan) -> dict[str, Any]:
    """Heights, sensor reach, levels, and for each band its volume and the time peak inflow takes to fill it."""
    hyd = hydraulics(survey)
    well, sensor = hyd.well, survey.sensor
    widest_m2 = max(max(piece.bottom_area_m2, piece.top_area_m2) for piece in well.pieces)
    levels = {setting.id: setting.value for setting in plan.settings}
    edges = ["stop", "start_1", "high_alarm"]
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
        "top_of_starts_m": Ladder(survey, choices).top_of_starts_m,
        "pumps": hyd.pump_count,
        "looks_down": sensor.kind is SensorKind.LOOK_DOWN,
        "sensor_face_m": sensor.face_m if sensor.kind is SensorKind.LOOK_DOWN else sensor.mounting_m,
        "sensor_low_m": hyd.sensor_low_m,
        "sensor_high_m": hyd.sensor_high_m,
        "step_m": choices.step_m,
        "bands": bands,
    }  # fmt: skip
