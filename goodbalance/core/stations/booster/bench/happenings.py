"""What one scan of the controller changed on the bench of a booster set, and the harm that is done."""

from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term
from goodbalance.core.rehearsal.events import Event
from goodbalance.core.stations.booster import wording
from goodbalance.core.stations.booster.controller.logic import BoosterLogic
from goodbalance.core.stations.booster.names import Harm, Mode
from goodbalance.core.stations.booster.plant.zone import BoosterPlant


class Before:
    """How logic and pumps stood before a scan, to tell what the scan changed."""

    def __init__(self, logic: BoosterLogic, running: tuple[int, ...]) -> None:
        self.mode, self.running = logic.mode, running
        self.stops, self.tripped = dict(logic.stops), list(logic.tripped)
        self.lead, self.alarms = logic.rotation.order[0], dict(logic.alarms.lamps)

    def events(self, logic: BoosterLogic, running: tuple[int, ...], pressure_pa: float, now_s: float) -> list[Event]:
        """What a scan changed: modes, pumps, stops, trips, turns and alarms. [Pa, s]"""
        lamps = logic.alarms.lamps
        same = logic.mode is self.mode and running == self.running and logic.tripped == self.tripped
        if same and logic.stops.keys() == self.stops.keys() and lamps.keys() == self.alarms.keys():
            if logic.rotation.order[0] == self.lead:
                return []
        found = [wording.stops(now_s, stop, pressure_pa) for stop in logic.stops if stop not in self.stops]
        found += [wording.freed(now_s, stop) for stop in self.stops if stop not in logic.stops]
        if logic.mode is not self.mode and not logic.stopped:
            wakes = logic.mode is Mode.RUNNING and self.mode is Mode.ASLEEP
            found.append(wording.enters(now_s, logic.mode, wakes, pressure_pa))
        for pump in sorted({*self.running} ^ {*running}):
            found.append(wording.pump_moves(now_s, pump, pump in running, pressure_pa))
        for pump, (before, after) in enumerate(zip(self.tripped, logic.tripped)):
            if after is not None and before is None:
                found.append(wording.pump_given_up(now_s, pump, after))
        if logic.rotation.order[0] != self.lead:
            found.append(wording.turn_passes(now_s, logic.rotation.order[0]))
        words = logic.alarms.words
        found += [wording.alarm_moves(now_s, alarm, True, words[alarm]) for alarm in lamps if alarm not in self.alarms]
        found += [wording.alarm_moves(now_s, alarm, False, words[alarm]) for alarm in self.alarms if alarm not in lamps]
        return found


Hurt = frozenset[tuple[Harm, int]]  # each harm with the pump it is done to, 0 for pump 1


def harms(
    plant: BoosterPlant, running: tuple[int, ...], flows_m3s: list[float], known: Hurt, now_s: float, burning: frozenset[int] = frozenset(),
    two: bool = False, uncalled: frozenset[int] = frozenset(), boiling: frozenset[int] = frozenset(),
) -> tuple[list[Event], Hurt]:
    """What goes beyond what parts and people stand, told once as it begins, and all that is beyond it now. two: whether motors run on two phases; uncalled: pumps that nobody calls."""
    hyd = plant.hydraulics
    if not running and plant.pressure_pa < 1e5 and not burning:
        return [], frozenset()
    found: dict[tuple[Harm, int], Event] = {}
    weakest = hyd.weakest
    if plant.pressure_pa > weakest.at_sensor_pa:
        there_pa = plant.pressure_pa + weakest.down_pa
        found[Harm.OVER_RATING, 0] = wording.over_rating(now_s, weakest.name, there_pa, weakest.rating_pa)
    there_m = hyd.npsh_available_m(plant.inlet_pa)
    for pump in burning:
        found[Harm.BURNS, pump] = wording.hurts(now_s, Harm.BURNS, pump)
    for pump in boiling:
        found[Harm.BOILS, pump] = wording.hurts(now_s, Harm.BOILS, pump)
    for pump in uncalled.intersection(running):
        found[Harm.UNCALLED, pump] = wording.hurts(now_s, Harm.UNCALLED, pump)
    for pump in running:
        if two:
            found[Harm.TWO_PHASES, pump] = wording.hurts(now_s, Harm.TWO_PHASES, pump)
        flow, speed = flows_m3s[pump], plant.speeds[pump]
        needed_m = hyd.npsh_required_m(max(0.0, flow), speed) if there_m < hyd.most_npsh_m else None
        if needed_m is not None and flow > 0.0 and there_m < needed_m:
            at = Term("s", "", plant.inlet_pa, Q.PRESSURE)
            found[Harm.CAVITATES, pump] = wording.hurts(now_s, Harm.CAVITATES, pump, at)
        if flow > hyd.most_m3s * max(speed, 1e-9) * 1.02:
            found[Harm.BEYOND_CURVE, pump] = wording.hurts(now_s, Harm.BEYOND_CURVE, pump, Term("q", "", flow, Q.FLOW))
        if pump in plant.backwards:
            found[Harm.BACKWARDS, pump] = wording.hurts(now_s, Harm.BACKWARDS, pump)
        if pump in plant.air_bound:
            found[Harm.RUNS_DRY, pump] = wording.hurts(now_s, Harm.RUNS_DRY, pump)
    return [event for harm, event in found.items() if harm not in known], frozenset(found)
