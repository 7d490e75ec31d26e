"""What one scan of the controller changed on the bench of a transfer set, and the harm that is done."""

from typing import Protocol

from goodbalance.core.rehearsal.events import Event
from goodbalance.core.stations.shared.motor_watch import MotorWatch
from goodbalance.core.stations.transfer import wording
from goodbalance.core.stations.transfer.controller.logic import Seen, TransferLogic
from goodbalance.core.stations.transfer.names import Harm, Hold
from goodbalance.core.stations.transfer.plant.plant import TransferPlant

AGAINST_S = 30.0  # so long a pump has turned against closed water before it is told


class Before:
    """How logic and pumps stood before a scan, to tell what the scan changed."""

    def __init__(self, logic: TransferLogic, running: tuple[int, ...]) -> None:
        self.state, self.running = logic.state, running
        self.holds, self.locks, self.tripped = set(logic.holds), dict(logic.locks), list(logic.tripped)
        self.lead, self.alarms = logic.rotation.order[0], dict(logic.alarms.lamps)

    def events(self, logic: TransferLogic, running: tuple[int, ...], pressure_pa: float, now_s: float, seen: Seen) -> list[Event]:
        """What a scan changed: holds, locks, states, pumps, trips, turns and alarms. [Pa, s]"""
        found: list[Event] = []
        for hold, of in sorted(logic.holds ^ self.holds):
            levels = {Hold.SOURCE: seen.sources, Hold.HIGH: seen.tanks}.get(hold, ())
            found.append(wording.held(now_s, hold, of, (hold, of) in logic.holds, levels[of] if levels else None))
        found += [wording.locked(now_s, lock) for lock in logic.locks if lock not in self.locks]
        if logic.state is not self.state:
            found.append(wording.enters(now_s, logic.state, pressure_pa))
        for pump in sorted({*self.running} ^ {*running}):
            found.append(wording.pump_moves(now_s, pump, pump in running, pressure_pa))
        for pump, (before, after) in enumerate(zip(self.tripped, logic.tripped)):
            if after is not None and before is None:
                found.append(wording.pump_given_up(now_s, pump, after))
        if logic.rotation.order[0] != self.lead:
            found.append(wording.turn_passes(now_s, logic.rotation.order[0]))
        lamps, words = logic.alarms.lamps, logic.alarms.words
        found += [wording.alarm_moves(now_s, alarm, True, words[alarm]) for alarm in lamps if alarm not in self.alarms]
        found += [wording.alarm_moves(now_s, alarm, False, words[alarm]) for alarm in self.alarms if alarm not in lamps]
        return found


Hurt = frozenset[tuple[Harm, int]]  # each harm with the pump or tank it is done to, 0 for the first


class Worked(Protocol):
    """What of a bench may do harm."""

    plant: TransferPlant
    motors: MotorWatch
    running: tuple[int, ...]
    commanded: tuple[int, ...]
    still_s: dict[int, float]

    @property
    def pressure_pa(self) -> float:
        """At the sensor."""


def harms(bench: Worked, known: Hurt, now_s: float, two: bool) -> tuple[list[Event], Hurt]:
    """What goes beyond what parts and people stand, told once as it begins, and all that is beyond it now. two: whether motors run on two phases."""
    plant, hyd, running = bench.plant, bench.plant.hydraulics, bench.running
    found: dict[tuple[Harm, int], Event] = {}
    for name, rating_pa, down_pa in hyd.rated_parts:
        there_pa = bench.pressure_pa + down_pa
        if there_pa > rating_pa:
            found[Harm.OVER_RATING, 0] = wording.over_rating(now_s, name, there_pa, rating_pa)
    tanks = {Harm.OVERFLOWS: plant.spills, Harm.RUNS_EMPTY: [tank for tank, branch in enumerate(hyd.branches) if plant.levels_m[tank] <= branch.tank.outlet_m + 1e-6]}
    gives = plant.gives(running)
    still = [p for p, since in bench.still_s.items() if (p in plant.shut or p in gives) and p in running and now_s - since >= AGAINST_S]
    pumps = {
        Harm.BURNS: bench.motors.burning(), Harm.BOILS: bench.motors.boiling(), Harm.UNCALLED: frozenset(running) - frozenset(bench.commanded), Harm.TWO_PHASES: running if two else (),
        Harm.WRONG_WAY: plant.backwards.intersection(running), Harm.DRAWS_AIR: [p for p in running if p not in gives and p not in plant.shut], Harm.AGAINST: still,
    }  # fmt: skip
    for harm, whose in {**tanks, **pumps}.items():
        for of in whose:
            found[harm, of] = wording.hurts(now_s, harm, of)
    return [event for harm, event in found.items() if harm not in known], frozenset(found)
