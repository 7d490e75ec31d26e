"""Gains tried on the nonlinear set: demand steps at low, mean and high demand, side by side; and a search for the worst case."""

import math
from dataclasses import dataclass, replace

from goodbalance.core.balance.plan import Plan
from goodbalance.core.control.identification import Fopdt
from goodbalance.core.control.pid import Gains, Pid
from goodbalance.core.control.tuning import Margins, amigo, lambda_tuning, margins, sensitivity, simc, ziegler_nichols
from goodbalance.core.stations.booster.controller.numbers import Numbers, numbers_of
from goodbalance.core.stations.booster.names import SettingId as S
from goodbalance.core.stations.booster.plant.hydraulics import hydraulics
from goodbalance.core.stations.booster.plant.loop_model import DRIVE_LAG_S, SCAN_S
from goodbalance.core.stations.booster.plant.zone import BoosterPlant
from goodbalance.core.stations.booster.survey.choices import BoosterChoices
from goodbalance.core.stations.booster.survey.survey import BoosterSurvey
from goodbalance.core.stations.booster.windows.loop_settings import LoopSettings
from goodbalance.core.stations.booster.windows.reckon import make_rooms

CALM_S, WATCHED_S = 30.0, 45.0
SPARE_SHARE = 0.97  # of the most speed, so that the regulator and not its upper end decides
SETTLED_SHARE = 0.02  # of the set pressure within which it counts as settled
GAIN_SHARES = (0.25, 0.4, 0.6, 0.8, 1.0, 1.25)  # of the gain in the plan
RESET_SHARES = (0.5, 0.75, 1.0, 1.5, 2.5)  # of the reset time in the plan
SPREAD = (0.85, 1.15)  # of the tank's gas and of the pumps' head, in the search


@dataclass(frozen=True, slots=True)
class Case:
    """A demand step: its name, the shares of the design demand before and after, pumps, and whether the supply is high."""

    name: str
    before: float
    after: float
    pumps: int
    high: bool
    gas: float = 1.0  # of the tank's volume
    head: float = 1.0  # of the pump curve


@dataclass(frozen=True, slots=True)
class Trial:
    """What a demand step did. Pressures as differences from the set pressure; settling infinite where it never did."""

    case: Case
    dip_pa: float
    overshoot_pa: float
    settle_s: float
    iae_pas: float  # integral of the absolute error
    swings: int  # how often it crossed the set pressure by more than the noise
    trace: tuple[tuple[float, float, float], ...] = ()  # time, pressure, speed


@dataclass(frozen=True, slots=True)
class Candidate:
    """One set of gains, by whom, with its robustness at both ends and its trials."""

    name: str
    gains: Gains
    low: Margins
    full: Margins
    trials: tuple[Trial, ...]

    @property
    def ms(self) -> float:
        """The larger sensitivity of both ends."""
        return max(self.low.ms, self.full.ms)


@dataclass(frozen=True, slots=True)
class Searched:
    """Gains looked at over every case: the worst of each."""

    gains: Gains
    ms: float
    worst_iae_pas: float
    worst_dip_pa: float
    worst_settle_s: float
    robust: bool  # Ms kept at both ends


@dataclass(frozen=True, slots=True)
class Bench:
    """What every trial shares."""

    survey: BoosterSurvey
    numbers: Numbers
    precharge_pa: float
    low: Fopdt
    full: Fopdt
    sensitivity: float


def bench_of(survey: BoosterSurvey, choices: BoosterChoices, plan: Plan) -> Bench:
    """The set as its regulator meets it, and the process at both ends of the demand."""
    room = make_rooms(survey, choices).loop
    assert isinstance(room, LoopSettings)
    return Bench(
        survey,
        numbers_of(survey, choices, plan),
        plan.value(S.PRECHARGE, 0.0),
        room.low,
        room.full,
        choices.rules.sensitivity,
    )


def cases_of(bench: Bench) -> tuple[Case, ...]:
    """A tap opened at night, the mean flow, and the last step to the design flow."""
    demand, duty = bench.survey.demand, bench.survey.pumping.duty_count
    tap, mean = demand.least_m3s / demand.design_m3s, demand.mean_m3s / demand.design_m3s
    more = min(1.0, 1.5 * mean)
    return (
        Case("one tap, then two", tap, 2.0 * tap, 1, True),
        Case(
            "mean flow, then half more",
            mean,
            more,
            next((n for n in range(1, duty) if _holds(bench, more, n)), duty),
            False,
        ),
        Case("half, then design flow", 0.5, 1.0, duty, False),
    )


def _holds(bench: Bench, share: float, pumps: int) -> bool:
    """Whether so many pumps hold the set pressure with outlets open to a share, with speed to spare, lowest supply."""
    hyd, set_pa = hydraulics(bench.survey), bench.numbers.set_pressure
    drawn = BoosterPlant(hyd, bench.precharge_pa, set_pa, hyd.source_pa(False), open_share=share).drawn_m3s(set_pa)
    speed = hyd.speed(hyd.added_m(set_pa, hyd.suction_pa(drawn)), drawn, pumps)
    return speed <= SPARE_SHARE * bench.numbers.most_speed


def trial(bench: Bench, gains: Gains, case: Case, keep: bool = False) -> Trial:
    """Let the regulator hold the pressure through one demand step, all pumps of the case at one speed, without staging."""
    n, survey = bench.numbers, _spread(bench.survey, case)
    hyd = hydraulics(survey)
    plant = BoosterPlant(
        hyd, bench.precharge_pa, n.set_pressure, hyd.source_pa(case.high), open_share=case.before, lag_s=DRIVE_LAG_S
    )
    flow = plant.drawn_m3s(n.set_pressure)
    speed = hyd.speed(hyd.added_m(n.set_pressure, hyd.suction_pa(flow, case.high)), flow, case.pumps)
    speed = min(n.most_speed, speed if math.isfinite(speed) else 1.0)
    count = survey.pumping.count
    plant.turn_at([speed if pump < case.pumps else 0.0 for pump in range(count)])
    per = 100.0 / min(n.range_pa, n.remote_range_pa)  # of two sensors the one that makes the loop livelier
    pid = Pid(gains, 100.0 * n.least_speed, 100.0 * n.most_speed, filter_s=n.filter_s)
    pid.take_over(100.0 * speed, n.set_pressure * per, n.set_pressure * per)
    lowest, highest, iae, last_off, crossed, side = 0.0, 0.0, 0.0, 0.0, 0, 0
    rows = []
    band_pa = SETTLED_SHARE * n.set_pressure
    ramps_s = (n.ramp_s,) * count
    for step in range(round((CALM_S + WATCHED_S) / SCAN_S)):
        now_s = step * SCAN_S - CALM_S
        if now_s >= 0.0:
            plant.open_share = case.after
        output = pid.scan(n.set_pressure * per, plant.pressure_pa * per, SCAN_S) / 100.0
        plant.ramp([output if pump < case.pumps else 0.0 for pump in range(count)], ramps_s, SCAN_S)
        plant.advance(SCAN_S)
        if now_s < 0.0:
            continue
        off = plant.pressure_pa - n.set_pressure
        lowest, highest, iae = min(lowest, off), max(highest, off), iae + abs(off) * SCAN_S
        if abs(off) > band_pa:
            last_off = now_s + SCAN_S
        if abs(off) > 0.25 * band_pa and (off > 0.0) != (side > 0):
            crossed, side = crossed + 1, 1 if off > 0.0 else -1
        if keep and step % 2 == 0:
            rows.append((now_s, plant.pressure_pa, plant.speeds[0]))
    settle_s = math.inf if last_off >= WATCHED_S - SCAN_S else last_off
    return Trial(case, -lowest, highest, settle_s, iae, crossed, tuple(rows))


def _spread(survey: BoosterSurvey, case: Case) -> BoosterSurvey:
    """The set with more or less gas in its tank and head in its pumps."""
    if case.gas == case.head == 1.0:
        return survey
    vessel = survey.vessel.model_copy(update={"volume_m3": survey.vessel.volume_m3 * case.gas})
    curve = tuple(
        p if p.head_m is None else p.model_copy(update={"head_m": p.head_m * case.head}) for p in survey.pumping.curve
    )
    return survey.model_copy(update={"vessel": vessel, "pumping": survey.pumping.model_copy(update={"curve": curve})})


def candidates(bench: Bench) -> tuple[Candidate, ...]:
    """The gains in the plan, and those each rule gives for the livelier end of the process."""
    worst = max((bench.low, bench.full), key=lambda model: model.gain / model.time_s * model.dead_s)
    found = [("In the plan", Gains(bench.numbers.gain, bench.numbers.reset_time))]
    found += [("SIMC", simc(worst)), ("Lambda", lambda_tuning(worst)), ("AMIGO", amigo(worst))]
    found.append(("Ziegler-Nichols, to compare", ziegler_nichols(worst)))
    return tuple(
        Candidate(
            name, gains, margins(bench.low, gains), margins(bench.full, gains),
            tuple(trial(bench, gains, case, keep=True) for case in cases_of(bench)),
        )
        for name, gains in found
    )  # fmt: skip


def grid(bench: Bench) -> tuple[Gains, ...]:
    """The gains the search looks at, around those of the plan."""
    now = bench.numbers
    return tuple(Gains(now.gain * k, max(0.1, now.reset_time * t)) for t in RESET_SHARES for k in GAIN_SHARES)


def look_at(bench: Bench, gains: Gains) -> Searched:
    """One set of gains over demand, suction and spread: the worst it does."""
    worst_iae, worst_dip, worst_settle = 0.0, 0.0, 0.0
    for case in cases_of(bench):
        for gas, high in ((SPREAD[0], True), (SPREAD[1], False)):
            one = trial(bench, gains, replace(case, high=high, gas=gas, head=SPREAD[1] if high else 1.0))
            worst_iae, worst_dip = max(worst_iae, one.iae_pas), max(worst_dip, one.dip_pa)
            worst_settle = max(worst_settle, one.settle_s)
    ms = max(sensitivity(bench.low, gains), sensitivity(bench.full, gains))
    return Searched(gains, ms, worst_iae, worst_dip, worst_settle, ms <= bench.sensitivity)


def best_of(searched: tuple[Searched, ...]) -> Searched | None:
    """Among the robust ones that settle the least worst-case error; None where none is robust."""
    robust = [one for one in searched if one.robust]
    return min(robust, key=lambda one: (math.isinf(one.worst_settle_s), one.worst_iae_pas)) if robust else None


def looked_at(survey: BoosterSurvey, choices: BoosterChoices, plan: Plan, first: int, last: int) -> list[Searched]:
    """Some sets of gains over every case: those of the grid from one number to another."""
    bench = bench_of(survey, choices, plan)
    return [look_at(bench, gains) for gains in grid(bench)[first:last]]
