"""What was measured on a booster set by hand: step tests, and the speed sweep; and what of it is reckoned with."""

from dataclasses import dataclass

from goodbalance.core.balance.plan import Finding, Severity
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term
from goodbalance.core.record.history import History
from goodbalance.core.stations.booster.survey.choices import BoosterChoices, ProcessBy
from goodbalance.core.stations.booster.survey.survey import BoosterSurvey, LoopPoint, MeasuredLoop
from goodbalance.core.stations.booster.windows.loop_settings import LoopSettings
from goodbalance.core.stations.booster.windows.reckon import make_rooms

WORTH_SAYING = 1.6  # a ratio of measured to reckoned speed of answer beyond which it is a finding


@dataclass(frozen=True, slots=True)
class StepTested:
    """The last step test that was kept, beside what reckoning says of the same point."""

    seq: int
    loop: MeasuredLoop
    fit: float


def measured_of(survey: BoosterSurvey, history: History) -> tuple[StepTested, ...]:
    """The last step test of the record, where there is one."""
    if not survey.holds_constant or not history.step_tests:
        return ()
    entry = history.step_tests[-1]
    model = entry.body["model"]
    region = tuple(LoopPoint.model_validate(point) for point in model.get("region", ()))
    loop = MeasuredLoop(
        region=region,
        gain=model["gain"], time_s=model["time_s"], dead_s=model["dead_s"],
        flow_m3s=entry.body["flow_m3s"], pumps=min(entry.body["pumps"], survey.pumping.count),
    )  # fmt: skip
    return (StepTested(entry.seq, loop, model["fit"]),)


def with_measured(survey: BoosterSurvey, choices: BoosterChoices, measured: tuple[StepTested, ...]) -> BoosterSurvey:
    """The survey with the step test in the place of the reckoned process, where the school says so."""
    if not measured or choices.schools.process is ProcessBy.RECKONED:
        return survey
    return survey.model_copy(update={"measured": measured[-1].loop})


def measured_findings(
    survey: BoosterSurvey, choices: BoosterChoices, measured: tuple[StepTested, ...]
) -> list[Finding]:
    """Where a step test and the reckoning differ much: air in the tank, another curve, a filter nobody told of."""
    if not measured:
        return []
    loop = measured[-1].loop
    plain = survey.model_copy(update={"measured": None})
    room = make_rooms(plain, choices).loop
    assert isinstance(room, LoopSettings)
    by_curve = room.model(loop.flow_m3s, loop.pumps, high=False)
    seen, reckoned = loop.gain / loop.time_s, by_curve.gain / by_curve.time_s
    if 1.0 / WORTH_SAYING <= seen / reckoned <= WORTH_SAYING:
        return []
    terms = (Term("k", "", seen / reckoned, Q.RATIO),)
    text = (
        "In the step test the pressure answered {k} times as fast as reckoned: look at the tank's gas, the flow drawn, and "
        "filters in the drive. The gains follow the test."
    )
    return [Finding("step_differs", Severity.CAUTION, "gain", text, terms)]
