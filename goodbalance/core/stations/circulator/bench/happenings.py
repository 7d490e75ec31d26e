"""What one scan changed on the bench of a ring, and the harm that is done."""

from dataclasses import dataclass
from typing import Protocol

from goodbalance.core.rehearsal.events import Event
from goodbalance.core.stations.circulator import wording
from goodbalance.core.stations.circulator.controller.logic import RingLogic
from goodbalance.core.stations.circulator.names import Harm
from goodbalance.core.stations.circulator.plant.plant import RingPlant
from goodbalance.core.stations.circulator.survey.heat import HeatKind

DRY_S, OVER_K, LONG_S = 60.0, 0.5, 3.0 * 3600.0  # so long a pump may turn in air; by so much a temperature may be over its limit; after so long a run it is as warm as it gets


@dataclass(frozen=True, slots=True)
class Limits:
    """What the rules allow, for telling harm. margin_k: under the least temperature, that counts."""

    least_c: float
    scald_c: float
    cold_c: float
    cold_s: float
    rest_s: float
    velocities: tuple[tuple[str, float], ...]
    margin_k: float


class Before:
    """How logic and pump stood before a scan, to tell what the scan changed."""

    def __init__(self, logic: RingLogic, running: tuple[int, ...]) -> None:
        self.state, self.running, self.alarms = logic.state, running, dict(logic.alarms.lamps)

    def events(self, logic: RingLogic, running: tuple[int, ...], back_c: float, now_s: float) -> list[Event]:
        """State, pump and alarms. [s]"""
        found = []
        if logic.state is not self.state:
            found.append(wording.enters(now_s, logic.state))
        if bool(self.running) is not bool(running):
            found.append(wording.pump_moves(now_s, bool(running), back_c))
        lamps, words = logic.alarms.lamps, logic.alarms.words
        found += [wording.alarm_moves(now_s, alarm, True, words[alarm]) for alarm in lamps if alarm not in self.alarms]
        found += [wording.alarm_moves(now_s, alarm, False, words[alarm]) for alarm in self.alarms if alarm not in lamps]
        return found


Hurt = frozenset[tuple[Harm, int]]  # each harm with its branch, 1 for the first


class Worked(Protocol):
    """What of a bench may do harm."""

    plant: RingPlant
    logic: RingLogic
    limits: Limits
    running: tuple[int, ...]
    rested_s: float
    began_s: float
    dry_s: float | None
    opened_s: dict[int, float]
    cold_opened_s: dict[int, float]


def harms(bench: Worked, known: Hurt, now_s: float) -> tuple[list[Event], Hurt]:
    """What goes beyond what pipes and people stand, told once as it begins, and all that is beyond it now."""
    plant, limits, runs = bench.plant, bench.limits, bool(bench.running)
    heat, found = plant.eq.survey.heat, dict[tuple[Harm, int], tuple[float, float]]()
    settled = plant.calm_s() > 3600.0 or now_s - bench.began_s > LONG_S
    if runs and settled and not plant.eq.survey.heats and plant.flows.running.flow_m3s > 0.0:
        for number, end_c in enumerate(plant.coldest()[1], 1):
            if end_c < limits.least_c - limits.margin_k:
                found[Harm.COOL, number] = end_c, limits.least_c
    if not runs and now_s - bench.rested_s > limits.rest_s + 60.0 and not plant.eq.survey.heats:
        found[Harm.STAGNANT, 0] = now_s - bench.rested_s, limits.rest_s
    for number, tap in enumerate(plant.taps):
        if tap > 0.0 and plant.at_taps[number] > limits.scald_c + OVER_K:
            found[Harm.SCALD, number + 1] = plant.at_taps[number], limits.scald_c
        if tap > 0.0 and plant.backflow and not runs:
            found[Harm.CROSSES, 0] = 0.0, 0.0
    for number, since_s in bench.cold_opened_s.items():
        if now_s - since_s > limits.cold_s and plant.cold_taps_c[number] > limits.cold_c + OVER_K:
            found[Harm.WARM_COLD, number + 1] = plant.cold_taps_c[number], limits.cold_c
    fast = _fastest(plant, dict(limits.velocities))
    if fast is not None:
        found[Harm.FAST, 0] = fast
    if bench.dry_s is not None and now_s - bench.dry_s > DRY_S:
        found[Harm.DRY, 0] = 0.0, 0.0
    if runs and not plant.lit and plant.flows.running.flow_m3s > 0.0:
        found[Harm.UNLIT, 0] = 0.0, 0.0
    if runs and settled and heat.kind is HeatKind.LOW_TEMPERATURE and plant.back_c > heat.highest_return_c + OVER_K:
        found[Harm.HOT_RETURN, 0] = plant.back_c, heat.highest_return_c
    return [wording.hurts(now_s, harm, of, *values) for (harm, of), values in found.items() if (harm, of) not in known], frozenset(found)


def _fastest(plant: RingPlant, rules: dict[str, float]) -> tuple[float, float] | None:
    """The velocity that is furthest over what its pipe stands while water circulates, and what it stands."""
    running, eq = plant.flows.running, plant.eq
    if running.flow_m3s <= 0.0:
        return None
    over = []
    for piece, branch in eq.always_pieces:
        velocity = (running.flow_m3s if branch is None else running.branches_m3s[branch]) / piece.area_m2
        limit = eq.fastest_ms(piece.material, eq.flow_c, rules)
        if velocity > limit * 1.005:
            over.append((velocity / limit, velocity, limit))
    return max(over)[1:] if over else None
