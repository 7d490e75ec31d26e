"""Proofs of what the drives of a lift station do by themselves: the slowest they turn, their ramp, the level they hold."""

from collections.abc import Iterator

from goodbalance.core.balance.plan import Plan
from goodbalance.core.balance.proof import Answer, Proof
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.stations.lift.names import Check
from goodbalance.core.stations.lift.names import SettingId as S
from goodbalance.core.stations.lift.plant.hydraulics import hydraulics
from goodbalance.core.stations.lift.proofs.functions import GAS, MOVING, SPEED_SHARE, SPILL
from goodbalance.core.stations.lift.survey.choices import LiftChoices, SpeedMode
from goodbalance.core.stations.lift.survey.survey import LiftSurvey

GROUP, HAND = "Drives", "hand"  # of a proof that is made at the drive's own keys
BEFORE = "A pump runs in AUTO, its drive's display in sight."
ALONE = "In HAND no level contact stops the pump: stay beside it."
FIXED_SPEED, HOLDS_SHARE = 0.97, 0.85  # a drive that may turn no slower hardly turns slower; of the full flow, what it moves at least
BY_WATER = (SpeedMode.BY_LEVEL, SpeedMode.HOLD_LEVEL)  # ways in which the water brings the drives to their least speed


def proofs(survey: LiftSurvey, choices: LiftChoices, plan: Plan, tolerance_m: float) -> Iterator[Proof]:
    """By the water where its level leads the drives there, else by hand at the drive's own keys."""
    if S.LEAST_SPEED not in plan:
        return
    mode, knows, least = choices.schools.speed_mode, survey.sensor is not None, plan.value(S.LEAST_SPEED, 0.0)
    by_water = knows and mode in BY_WATER and least <= FIXED_SPEED
    way = (BEFORE, (MOVING, GAS), "Let the pump draw the water down to its stop with hardly any inflow; read the lowest speed.") if by_water else (
        "A pump in HAND at its drive, the others OFF.", (ALONE, GAS), "At the drive's own keys ask for no speed at all, and read what it keeps to; back to AUTO after.",
    )  # fmt: skip
    seen = "It goes down to this speed and no lower, and still moves water."
    yield Proof(Check.LEAST_SPEED, "The slowest it turns", GROUP, *way, seen, Answer.NUMBER, least, SPEED_SHARE, Q.PERCENT, proves=(S.LEAST_SPEED,), of="" if by_water else HAND)
    ramp_s = plan.value(S.RAMP, 0.0)
    if S.RAMP in plan and ramp_s > 0.0:
        yield _ramp(ramp_s, least, knows and mode in (SpeedMode.BY_LEVEL, SpeedMode.ECONOMICAL) and least <= FIXED_SPEED)
    if S.HOLD_LEVEL in plan:
        held_m, shown = plan.value(S.HOLD_LEVEL, 0.0), knows and holding_m3s(survey, plan) is not None and least <= FIXED_SPEED
        yield Proof(
            Check.HOLDS, "The level is held", GROUP, BEFORE, (MOVING, GAS), "Let about half of a pump's flow come in and wait until the level stands.", "It stands at this level and does not swing on.",
            Answer.NUMBER, held_m, max(0.03, 2.0 * tolerance_m), proves=(S.HOLD_LEVEL, S.HOLD_GAIN, S.HOLD_RESET), of="" if shown else HAND,
        )  # fmt: skip


def _ramp(ramp_s: float, least: float, by_water: bool) -> Proof:
    """From the least speed where a start in AUTO has that at once, else from rest, by hand."""
    seconds = ramp_s * (1.0 - least) if by_water else ramp_s
    before, cautions, action, seen = (
        "At rest in OFF, the water over the full-speed level.", (MOVING, SPILL), "Turn one switch to AUTO and take the time from the start to full speed.",
        "From the least speed, which it has at once, it takes this long.",
    ) if by_water else (
        "A pump at rest, in HAND at its drive, asked for full speed.", (ALONE, GAS), "Start it at the drive's own keys and take the time from rest to full speed; back to AUTO after.", "It takes this long.",
    )  # fmt: skip
    return Proof(
        Check.RAMP, "From its start to full speed", GROUP, before, cautions, action, seen, Answer.NUMBER, seconds, max(2.0, 0.25 * seconds), Q.TIME,
        proves=(S.RAMP,), of="" if by_water else HAND,
    )  # fmt: skip


def holding_m3s(survey: LiftSurvey, plan: Plan) -> float | None:
    """An inflow that one pump can hold, half way between its flow at the least and at full speed; None where the two are nearly one."""
    hyd, at_m = hydraulics(survey), plan.value(S.HOLD_LEVEL, 0.0)
    slow_m3s, fast_m3s = (min(hyd.point((pump,), at_m, speed).flow_m3s for pump in range(hyd.pump_count)) for speed in (plan.value(S.LEAST_SPEED, 1.0), 1.0))
    return None if slow_m3s > HOLDS_SHARE * fast_m3s else 0.5 * (slow_m3s + fast_m3s)
