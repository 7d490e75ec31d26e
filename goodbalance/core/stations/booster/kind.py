"""The booster set as one of the kinds."""

from goodbalance.core.balance.quantities import Quantity
from goodbalance.core.stations.booster.bench.rehearse import LONGEST_S, booster_bench
from goodbalance.core.stations.booster.drawing import drawing
from goodbalance.core.stations.booster.proofs.listed import proofs
from goodbalance.core.stations.booster.proofs.on_bench import prove_on_bench
from goodbalance.core.stations.booster.sheet.cautions import by_clock, cautions
from goodbalance.core.stations.booster.sheet.keypad import (
    companions_of,
    family_of,
    held,
    keypad_scale,
    keypad_values,
    recheck,
)
from goodbalance.core.stations.booster.sheet.readings import checked_scaling, is_read, otherwise, readings
from goodbalance.core.stations.booster.survey.choices import BoosterChoices
from goodbalance.core.stations.booster.survey.plausibility import plausibility
from goodbalance.core.stations.booster.survey.survey import BoosterSurvey
from goodbalance.core.stations.booster.trials.measured import measured_findings, measured_of, with_measured
from goodbalance.core.stations.booster.windows.chances import chances
from goodbalance.core.stations.booster.windows.reckon import reckon
from goodbalance.core.stations.kind import StationKind

BOOSTER = StationKind(
    id="booster",
    label="Booster set",
    main=Quantity.PRESSURE,
    start_name="start_pa",
    groups=(
        ("pressures", ""), ("speeds", "Speeds"), ("loop", "The loop"), ("power", "On the generator"), ("timers", "Timers"),
    ),
    survey_model=BoosterSurvey,
    choices_model=BoosterChoices,
    family_of=family_of,
    companions_of=companions_of,
    plausibility=plausibility,
    reckon=reckon,
    chances=chances,
    measured_of=measured_of,
    with_measured=with_measured,
    measured_findings=measured_findings,
    as_found=BoosterSurvey.as_found_of,
    is_read=is_read,
    readings=readings,
    otherwise=otherwise,
    drawing=drawing,
    check_scaling=checked_scaling,
    bench=booster_bench,
    longest_run_s=LONGEST_S,
    keypad_scale=keypad_scale,
    keypad_values=keypad_values,
    recheck=recheck,
    proofs=proofs,
    held=held,
    prove_on_bench=prove_on_bench,
    cautions=cautions,
    by_clock=by_clock,
)  # fmt: skip
