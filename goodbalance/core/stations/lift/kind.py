"""The lift station as one of the kinds."""

from goodbalance.core.balance.quantities import Quantity
from goodbalance.core.rehearsal.engine import LONGEST_RUN_S
from goodbalance.core.stations.kind import Levels, StationKind
from goodbalance.core.stations.lift.bench.rehearse import lift_bench
from goodbalance.core.stations.lift.bench.week import report
from goodbalance.core.stations.lift.drawing import drawing
from goodbalance.core.stations.lift.proofs.listed import proofs
from goodbalance.core.stations.lift.proofs.on_bench import prove_on_bench
from goodbalance.core.stations.lift.sheet.cautions import by_clock, cautions
from goodbalance.core.stations.lift.sheet.keypad import (
    companions_of,
    family_of,
    held,
    keypad_scale,
    keypad_values,
    recheck,
)
from goodbalance.core.stations.lift.sheet.readings import checked_scaling, is_read, otherwise, readings
from goodbalance.core.stations.lift.sheet.retrofit import replaces_floats, retrofit_map
from goodbalance.core.stations.lift.survey.choices import LiftChoices
from goodbalance.core.stations.lift.survey.plausibility import plausibility
from goodbalance.core.stations.lift.survey.survey import LiftSurvey
from goodbalance.core.stations.lift.trials.measured import measure, measured_findings, measured_of, with_measured
from goodbalance.core.stations.lift.trials.trends import drawdown_runs, hourly_m3s, trend_findings, trend_report
from goodbalance.core.stations.lift.windows.chances import chances
from goodbalance.core.stations.lift.windows.reckon import reckon

LIFT = StationKind(
    id="lift",
    label="Lift station",
    main=Quantity.LEVEL,
    start_name="start_level_m",
    groups=(
        ("levels", ""),
        ("floats", "Floats behind the sensor, hung by hand"),
        ("drives", "Drives"),
        ("timers", "Timers"),
    ),
    survey_model=LiftSurvey,
    choices_model=LiftChoices,
    family_of=family_of,
    companions_of=companions_of,
    plausibility=plausibility,
    reckon=reckon,
    chances=chances,
    measured_of=measured_of,
    with_measured=with_measured,
    measured_findings=measured_findings,
    as_found=LiftSurvey.as_found_of,
    is_read=is_read,
    readings=readings,
    otherwise=otherwise,
    drawing=drawing,
    check_scaling=checked_scaling,
    bench=lift_bench,
    longest_run_s=LONGEST_RUN_S,
    keypad_scale=keypad_scale,
    keypad_values=keypad_values,
    recheck=recheck,
    proofs=proofs,
    held=held,
    prove_on_bench=prove_on_bench,
    cautions=cautions,
    by_clock=by_clock,
    levels=Levels(measure, trend_report, trend_findings, hourly_m3s, drawdown_runs, retrofit_map, replaces_floats, report),
    sheet_section="relays",
)
