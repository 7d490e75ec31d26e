"""What one scan of the controller changed on the bench of a maintenance pump, and the harm that is done."""

from typing import Protocol

from goodbalance.core.rehearsal.events import Event
from goodbalance.core.stations.maintenance import wording
from goodbalance.core.stations.maintenance.controller.logic import MaintenanceLogic
from goodbalance.core.stations.maintenance.names import Harm
from goodbalance.core.stations.maintenance.plant.plant import MaintenancePlant
from goodbalance.core.stations.shared.motor_watch import MotorWatch

UNKEPT_S = 20.0  # beyond the start delay, until a line that nobody keeps is told


class Before:
    """How logic and pump stood before a scan, to tell what the scan changed."""

    def __init__(self, logic: MaintenanceLogic, running: tuple[int, ...], mains: frozenset[int]) -> None:
        self.mains = mains
        self.state, self.running, self.tripped, self.alarms = logic.state, running, logic.trip, dict(logic.alarms.lamps)

    def events(self, logic: MaintenanceLogic, running: tuple[int, ...], pressure_pa: float, now_s: float, plant: MaintenancePlant) -> list[Event]:
        """State, pump, trip and alarms; main pumps that start for a fire, or were stopped. [Pa, s]"""
        found = [wording.main_moves(now_s, main, main in plant.mains, pressure_pa) for main in sorted(plant.mains ^ self.mains) if main in plant.for_fire or main in self.mains]
        if logic.state is not self.state:
            found.append(wording.enters(now_s, logic.state, pressure_pa))
        if bool(self.running) is not bool(running):
            found.append(wording.pump_moves(now_s, bool(running), pressure_pa))
        if logic.trip is not None and self.tripped is None:
            found.append(wording.given_up(now_s, logic.trip))
        lamps, words = logic.alarms.lamps, logic.alarms.words
        found += [wording.alarm_moves(now_s, alarm, True, words[alarm]) for alarm in lamps if alarm not in self.alarms]
        found += [wording.alarm_moves(now_s, alarm, False, words[alarm]) for alarm in self.alarms if alarm not in lamps]
        return found


Hurt = frozenset[tuple[Harm, int]]  # each harm with the pump that does it, 0 for the first


class Worked(Protocol):
    """What of a bench may do harm."""

    plant: MaintenancePlant
    logic: MaintenanceLogic
    motors: MotorWatch
    running: tuple[int, ...]
    commanded: tuple[int, ...]
    under_s: float | None


def harms(bench: Worked, known: Hurt, now_s: float, two: bool) -> tuple[list[Event], Hurt]:
    """What goes beyond what parts and people stand, told once as it begins, and all that is beyond it now. two: whether the motor runs on two phases.

    A main pump that starts while a sprinkler is open does what it is there for.
    """
    plant, runs = bench.plant, bool(bench.running)
    found: dict[tuple[Harm, int], Event] = {}
    for name, rating_pa, down_pa in plant.hydraulics.rated_parts:
        if name != "relief valve" and plant.pressure_pa + down_pa > rating_pa:
            found[Harm.OVER_RATING, 0] = wording.over_rating(now_s, name, plant.pressure_pa + down_pa, rating_pa)
    stands = {
        Harm.RELIEF: plant.relieved, Harm.BURNS: bool(bench.motors.burning()), Harm.BOILS: bool(bench.motors.boiling()), Harm.UNCALLED: runs and not bench.commanded,
        Harm.TWO_PHASES: two and runs, Harm.WRONG_WAY: plant.backwards and runs, Harm.AGAINST: plant.shut and runs,
        Harm.UNKEPT: bench.under_s is not None and now_s - bench.under_s > UNKEPT_S + bench.logic.numbers.on_delay,
    }  # fmt: skip
    for harm, holds in stands.items():
        if holds:
            found[harm, 0] = wording.hurts(now_s, harm, 0)
    for main in plant.mains - plant.for_fire:
        found[Harm.MAIN_STARTS, main] = wording.hurts(now_s, Harm.MAIN_STARTS, main)
    return [event for harm, event in found.items() if harm not in known], frozenset(found)
