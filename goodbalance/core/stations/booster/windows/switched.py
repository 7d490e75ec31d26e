"""How often pumps start between two pressures of a tank: switched pumps at their own rate, driven sets that fall asleep."""

import math
from collections.abc import Mapping
from dataclasses import dataclass

from goodbalance.core.physics.vessels import drawdown_m3
from goodbalance.core.stations.booster.names import CUT_INS, CUT_OUTS
from goodbalance.core.stations.booster.names import SettingId as S
from goodbalance.core.stations.booster.plant.hydraulics import BoosterHydraulics, hydraulics
from goodbalance.core.stations.booster.survey.choices import BoosterChoices, NoFlowBy
from goodbalance.core.stations.booster.survey.survey import BoosterSurvey
from goodbalance.core.stations.booster.windows.held import modes

SLICES = 12  # of the band, for the mean rate


def mean_rate_m3s(
    hyd: BoosterHydraulics, speed: float, low_pa: float, high_pa: float, precharge_pa: float, high_supply: bool = True
) -> float:
    """Mean flow of one pump while it fills the tank from one pressure to another: over the water, not the time. [m3/s]

    The shortest cycle at any demand is at least 4 V over this mean, for 1/q is convex in q. The suction loss is left out,
    which makes the rate a little large.
    """
    supply_pa = hyd.source_pa(high_supply)
    low, high = low_pa + hyd.air_pa, max(high_pa, low_pa + 1.0) + hyd.air_pa
    total = 0.0
    for step in range(SLICES):
        share = (step + 0.5) / SLICES
        # equal parts of the water: 1/P goes evenly from the low to the high pressure
        pressure = 1.0 / (1.0 / low + (1.0 / high - 1.0 / low) * share) - hyd.air_pa
        total += hyd.flow_at(speed, hyd.added_m(max(pressure, precharge_pa), supply_pa))
    return total / SLICES


@dataclass(frozen=True, slots=True)
class Cycle:
    """The shortest time between two starts of switched pumps, and the number of pumps that take part in it."""

    time_s: float
    pumps: int


def shortest_cycle(stored_m3: float, rate_m3s: float, pumps: int, join_s: float) -> Cycle:
    """Over all demands: one pump 4 V/q at half its rate; n pumps V/q n/(n - 1) and n - 1 join delays, just over n - 1.

    With n pumps the demand lies between what n - 1 and n give: all run up to the cut-out and stop together.
    """
    if not rate_m3s > 0.0:
        return Cycle(math.inf, 1)
    each_s = stored_m3 / rate_m3s
    found = [Cycle(4.0 * each_s, 1)]
    found += [Cycle(each_s * n / (n - 1.0) + (n - 1) * join_s, n) for n in range(2, pumps + 1)]
    return min(found, key=lambda cycle: cycle.time_s)


def stored_for_m3(cycle_s: float, rate_m3s: float, pumps: int, join_s: float) -> float:
    """The water between cut-in and cut-out for a shortest cycle: shortest_cycle solved for it. [m3]"""
    found = [rate_m3s * cycle_s / 4.0]
    found += [rate_m3s * max(0.0, cycle_s - (n - 1) * join_s) * (n - 1.0) / n for n in range(2, pumps + 1)]
    return max(found)


def switched_together(survey: BoosterSurvey, low_pa: float, speed: float) -> int:
    """How many switched pumps the design flow can bring in at once, at the lowest supply."""
    hyd = hydraulics(survey)
    each = hyd.flow_at(speed, hyd.added_m(low_pa, hyd.source_pa(False)))
    if not each > 0.0:
        return survey.pumping.duty_count
    return max(1, min(survey.pumping.duty_count, math.ceil(survey.demand.design_m3s / each - 1e-9)))


@dataclass(frozen=True, slots=True)
class Rest:
    """One way a set falls asleep: the largest flow drawn at which it does, water given until it wakes, and what refilling takes."""

    flow_m3s: float
    stored_m3: float
    refill_s: float

    def cycle_s(self, delay_s: float) -> float:
        """Time between two starts at that flow: V/q, refilling, and the delay before it sleeps."""
        return self.stored_m3 / self.flow_m3s + self.refill_s + delay_s

    def stored_for_m3(self, cycle_s: float, delay_s: float) -> float:
        """The water a tank must give for a cycle: D/q and the refill, which goes with D, fill what the delay leaves of it."""
        each_s = 1.0 / self.flow_m3s + (self.refill_s / self.stored_m3 if self.stored_m3 > 0.0 else 0.0)
        return max(0.0, cycle_s - delay_s) / each_s


def rests(survey: BoosterSurvey, choices: BoosterChoices, values: Mapping[str, float]) -> tuple[Rest, ...]:
    """Every mode of a driven set asleep, at the largest flow that still lets it sleep. What is asked of values: the
    pressures, the speeds, boost and precharge; the bump speed where short stops tell no flow."""
    hyd, found = hydraulics(survey), []
    restart_pa, full = values[S.RESTART], values.get(S.MOST_SPEED, 1.0)
    wakes_m3s = hyd.flow_at(full, hyd.added_m(restart_pa, hyd.source_pa(True)))
    for held in modes(survey, choices, values, every_day=True):
        rest_pa = held(0.0) + values.get(S.BOOST, 0.0)
        stored = 0.0
        if S.PRECHARGE in values:
            stored = drawdown_m3(
                survey.vessel.volume_m3, values[S.PRECHARGE], restart_pa, max(rest_pa, restart_pa), hyd.air_pa
            )
        flow = _sleeps_under_m3s(survey, choices, values, held(0.0))
        pumps, join_s = survey.pumping.duty_count, values.get(S.JOIN_DELAY, 0.0)
        alone_s = stored / wakes_m3s if wakes_m3s > 0.0 else 0.0
        refill_s = alone_s if pumps == 1 or alone_s <= join_s else max(join_s, alone_s / pumps)
        found.append(Rest(max(flow, 1e-9), stored, refill_s))
    return tuple(found)


def rest_by_flow(survey: BoosterSurvey, values: Mapping[str, float]) -> Rest:
    """A switched pump that stops when the flow ends: it fills the tank to its shut-off pressure, then flow gives out."""
    hyd, low_pa, stored = hydraulics(survey), values[S.CUT_IN], 0.0
    shut_pa = hyd.shut_off_pa()
    if S.PRECHARGE in values:
        stored = drawdown_m3(survey.vessel.volume_m3, values[S.PRECHARGE], low_pa, max(shut_pa, low_pa), hyd.air_pa)
    fills_m3s = hyd.flow_at(1.0, hyd.added_m(low_pa, hyd.source_pa(True)))
    pumps = switched_together(survey, low_pa, 1.0)
    return Rest(flow_switch_m3s(survey), stored, stored / (pumps * fills_m3s) if fills_m3s > 0.0 else 0.0)


def _sleeps_under_m3s(
    survey: BoosterSurvey, choices: BoosterChoices, values: Mapping[str, float], held_pa: float
) -> float:
    """The largest flow at which no flow is told, over the supply."""
    hyd = hydraulics(survey)
    if choices.schools.no_flow is NoFlowBy.FLOW:
        return flow_switch_m3s(survey)
    if choices.schools.no_flow is NoFlowBy.BUMP:
        speed = bump_speed(survey, held_pa)
    else:
        speed = values.get(S.SLEEP_SPEED, 0.0)
    return max(hyd.flow_at(speed, hyd.added_m(held_pa, hyd.source_pa(high))) for high in (False, True))


def stored_m3(survey: BoosterSurvey, values: Mapping[str, float]) -> tuple[float, float, float]:
    """What the tank gives between stop and start, and the two pressures; nothing without a tank. [m3, Pa, Pa]

    Of several pressures held without flow the lowest counts: from it the tank gives least.
    """
    if survey.own_switches and S.CUT_OUT in values:
        band = tightest(survey, values)
        return band.stored_m3, band.low_pa, band.high_pa
    low_pa = values.get(S.RESTART, values.get(S.CUT_IN, 0.0))
    works_to_pa = values.get(S.SET_PRESSURE, values.get(S.CUT_OUT))
    at_rest = [values[name] for name in (S.NO_FLOW_PRESSURE, S.NIGHT_PRESSURE) if name in values]
    if works_to_pa is not None:
        works_to_pa = min([works_to_pa, *at_rest])
    high_pa = hydraulics(survey).shut_off_pa() if works_to_pa is None else works_to_pa + values.get(S.BOOST, 0.0)
    if S.PRECHARGE not in values:
        return 0.0, low_pa, high_pa
    air_pa = hydraulics(survey).air_pa
    gives = drawdown_m3(survey.vessel.volume_m3, values[S.PRECHARGE], low_pa, max(high_pa, low_pa), air_pa)
    return gives, low_pa, high_pa


@dataclass(frozen=True, slots=True)
class Band:
    """Between cut-in and cut-out of one of several switches: what the tank gives, and the mean rate of its pump. [Pa, m3, m3/s]"""

    low_pa: float
    high_pa: float
    stored_m3: float
    rate_m3s: float


def tightest(survey: BoosterSurvey, values: Mapping[str, float]) -> Band:
    """Of switches of their own the one whose pump starts most often: while those before it run on, it comes and goes alone."""
    hyd, found = hydraulics(survey), []
    for starts, stops in zip(CUT_INS, CUT_OUTS):
        if starts in values and stops in values:
            low_pa, high_pa = values[starts], values[stops]
            gives = 0.0
            if S.PRECHARGE in values:
                gives = drawdown_m3(survey.vessel.volume_m3, values[S.PRECHARGE], low_pa, max(high_pa, low_pa), hyd.air_pa)
            rate = mean_rate_m3s(hyd, values.get(S.FIXED_SPEED, 1.0), low_pa, high_pa, values.get(S.PRECHARGE, low_pa))
            found.append(Band(low_pa, high_pa, gives, rate))
    return min(found, key=lambda band: band.stored_m3 / max(band.rate_m3s, 1e-12))


def switched(survey: BoosterSurvey, choices: BoosterChoices, values: Mapping[str, float]) -> tuple[float, int, float]:
    """Mean rate of a pump between cut-in and cut-out, how many join, and how far apart; of switches of their own one alone. [m3/s, -, s]"""
    if survey.own_switches:
        return tightest(survey, values).rate_m3s, 1, 0.0
    hyd, speed, low_pa = hydraulics(survey), values.get(S.FIXED_SPEED, 1.0), values[S.CUT_IN]
    high_pa = values.get(S.CUT_OUT, hyd.shut_off_pa(high=True))
    rate = mean_rate_m3s(hyd, speed, low_pa, high_pa, values.get(S.PRECHARGE, low_pa))
    return rate, switched_together(survey, low_pa, speed), values.get(S.JOIN_DELAY, 2.0 * choices.rules.prime_s / 3.0)


@dataclass(frozen=True, slots=True)
class MostStarts:
    """The most starts an hour of one pump, and what makes them: short stops, a rest on the tank, or switched pumps."""

    per_hour: float
    delay_s: float
    short_stops: bool = False
    rest: Rest | None = None
    stored_m3: float = 0.0
    rate_m3s: float = 0.0
    pumps: int = 1


def most_starts(survey: BoosterSurvey, choices: BoosterChoices, values: Mapping[str, float]) -> MostStarts:
    """At the demand that makes most. A plan without sleep delay or cut-out yet has no answer."""
    if survey.holds_constant and choices.schools.no_flow is NoFlowBy.BUMP:
        delay_s = values[S.SLEEP_DELAY]
        return MostStarts(3600.0 / max(delay_s, 1e-3), delay_s, short_stops=True)
    if survey.holds_constant or S.CUT_OUT not in values:
        delay_s = values[S.SLEEP_DELAY] if survey.holds_constant else values[S.FLOW_DELAY]
        found = rests(survey, choices, values) if survey.holds_constant else (rest_by_flow(survey, values),)
        rest = min(found, key=lambda each: each.cycle_s(delay_s))
        return MostStarts(3600.0 / max(rest.cycle_s(delay_s), 1e-3), delay_s, rest=rest)
    rate, pumps, join_s = switched(survey, choices, values)
    stored = stored_m3(survey, values)[0]
    cycle = shortest_cycle(stored, rate, pumps, join_s)
    return MostStarts(3600.0 / max(cycle.time_s, 1e-3), join_s, False, None, stored, rate, cycle.pumps)


def bump_speed(survey: BoosterSurvey, held_pa: float) -> float:
    """The speed under which a short stop is tried: what twice the smallest flow needs at the lowest supply, and a step."""
    hyd = hydraulics(survey)
    twice = hyd.holding(held_pa, hyd.suction_low_pa, 2.0 * survey.demand.least_m3s, 1).speed
    return min(1.0, twice) + 0.01


def flow_switch_m3s(survey: BoosterSurvey) -> float:
    """The flow under which the flow switch opens; half the smallest flow where nobody noted it."""
    return survey.control.flow_switch_m3s or survey.demand.least_m3s / 2.0
