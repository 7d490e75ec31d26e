"""What a scan of the booster's bench changed, in words; and the harm it does."""

from typing import TYPE_CHECKING

from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term
from goodbalance.core.rehearsal.engine import Event
from goodbalance.core.stations.booster.controller.stops import Mode

if TYPE_CHECKING:
    from goodbalance.core.stations.booster.bench.rehearse import BoosterBench

MODE_WORDS = {
    Mode.ASLEEP: "The set falls asleep at {p}",
    Mode.FILLING: "Pipes fill slowly from {p} on",
    Mode.RUNNING: "The set wakes at {p}",
    Mode.BOOSTING: "Boost before sleep, at {p}",
    Mode.TESTING: "Short stop at {p}: does anybody draw?",
}
STOP_WORDS = {
    "sensor": "Stopped: pressure sensor failed",
    "low_suction": "Stopped: lack of water",
    "high": "Stopped: high pressure",
    "burst": "Stopped: run-out, a burst?",
    "fill": "Stopped: pipes do not fill",
}


class Before:
    """How a bench stood before a scan, to tell what the scan changed."""

    def __init__(self, bench: "BoosterBench") -> None:
        logic = bench.logic
        self.mode, self.stage, self.running = logic.mode, logic.stage, bench.running
        self.stops, self.tripped = set(logic.stops), list(logic.tripped)
        self.lead, self.alarms = logic.rotation.order[0], dict(logic.alarms.lamps)

    def events(self, bench: "BoosterBench", now_s: float) -> list[Event]:
        logic = bench.logic
        same = logic.mode is self.mode and bench.running == self.running and logic.tripped == self.tripped
        if (
            same
            and logic.stops.keys() == self.stops
            and logic.rotation.order[0] == self.lead
            and logic.alarms.lamps.keys() == self.alarms.keys()
        ):
            return []
        at = (Term("p", "pressure", bench.plant.pressure_pa, Q.PRESSURE),)
        found = []
        for name in sorted(set(logic.stops) - self.stops):
            found.append(
                Event(now_s, "harm" if name in ("burst", "high") else "sensor", f"{STOP_WORDS[name]}, at {{p}}", at)
            )
        for name in sorted(self.stops - set(logic.stops)):
            found.append(Event(now_s, "sensor", f"No longer {STOP_WORDS[name].lower()}"))
        if logic.mode is not self.mode and not logic.stopped:
            words = MODE_WORDS[logic.mode]
            if logic.mode is Mode.RUNNING and self.mode is not Mode.ASLEEP:
                words = "The set regulates at {p}"
            found.append(Event(now_s, "mode", words, at))
        for pump in sorted({*self.running} ^ {*bench.running}):
            after = pump in bench.running
            bench.starts[pump] += after
            found.append(
                Event(now_s, f"pump_{pump + 1}", f"Pump {pump + 1} {'starts' if after else 'stops'} at {{p}}", at)
            )
        for pump, (before, after) in enumerate(zip(self.tripped, logic.tripped)):
            if after and not before:
                found.append(Event(now_s, "harm", f"Pump {pump + 1} given up: {after}"))
        if logic.rotation.order[0] != self.lead:
            found.append(Event(now_s, "panel", f"Turn changes: pump {logic.rotation.order[0] + 1} is next"))
        for alarm in logic.alarms.lamps.keys() - self.alarms.keys():
            found.append(Event(now_s, "alarm", f"Alarm: {logic.alarms.words[alarm]}"))
        for alarm in self.alarms.keys() - logic.alarms.lamps.keys():
            found.append(Event(now_s, "alarm", f"Alarm clears: {logic.alarms.words[alarm]}"))
        return found


def harms(bench: "BoosterBench", now_s: float) -> tuple[list[Event], frozenset[str]]:
    """What goes beyond what parts and people stand: told once as it begins."""
    plant, hyd = bench.plant, bench.hyd
    if not bench.running and plant.pressure_pa < 1e5:
        return [], frozenset()
    found: dict[str, Event] = {}
    weakest = hyd.weakest
    if plant.pressure_pa > weakest.at_sensor_pa:
        there = Term("p", "pressure", plant.pressure_pa + weakest.down_pa, Q.PRESSURE)
        at = (there, Term("w", "weakest", weakest.rating_pa, Q.PRESSURE))
        found["over"] = Event(now_s, "harm", f"{{p}} at the {weakest.name}, over {{w}}", at)
    for pump in bench.running:
        flow, speed = plant.pump_m3s(pump, plant.pressure_pa), plant.speeds[pump]
        needed_m = hyd.npsh_required_m(max(0.0, flow), speed)
        if needed_m is not None and flow > 0.0 and hyd.npsh_available_m(plant.inlet_pa) < needed_m:
            found[f"cavitates_{pump}"] = Event(
                now_s,
                "harm",
                f"Pump {pump + 1} cavitates: suction at {{s}}",
                (Term("s", "", plant.inlet_pa, Q.PRESSURE),),
            )
        if flow > hyd.most_m3s * max(speed, 1e-9) * 1.02:
            found[f"end_{pump}"] = Event(
                now_s, "harm", f"Pump {pump + 1} runs beyond its curve: {{q}}", (Term("q", "", flow, Q.FLOW),)
            )
        if pump in plant.backwards:
            found[f"back_{pump}"] = Event(now_s, "harm", f"Pump {pump + 1} turns the wrong way: it gives half its head")
        if pump in plant.air_bound:
            found[f"dry_{pump}"] = Event(now_s, "harm", f"Pump {pump + 1} turns without water: its seal runs dry")
    return [event for name, event in found.items() if name not in bench.harmed], frozenset(found)
