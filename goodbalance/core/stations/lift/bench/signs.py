"""What a person in front of a lift station can see: water, display, pumps with their currents, contacts, lamps."""

import math
from collections.abc import Iterator

from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.control.alarms import Cause
from goodbalance.core.control.trips import Trip
from goodbalance.core.rehearsal.troubles import Sign
from goodbalance.core.stations.lift.bench.rehearse import LiftBench
from goodbalance.core.stations.lift.names import Alarm, GuardContact
from goodbalance.core.stations.shared.supply import supply_signs

WATER, DISPLAY, SUPPLY, LAMPS, CONTACTS = "The water", "The display", "The supply", "Lamps and alarms", "Contacts"
TRIPS = {Trip.OVERLOAD: "Its overload has tripped: flag or button at the starter", Trip.NO_FEEDBACK: "Its feedback was missed: so the controller says"}
NEAR_M = 0.03  # two people at a level stick
LIKE_M = 0.2  # so far the same happens at another level, for nobody knows how much came in
MOVES_MS = 2e-5  # less than 1.2 mm a minute stands still
NEAR_SHARE, LEAST_A = 0.05, 0.2  # two people at a clamp meter


def signs(bench: LiftBench) -> tuple[Sign, ...]:
    """In the order in which they are asked; always the same ones of one station."""
    return (*_water(bench), *_pumps(bench), *_lamps(bench), *_contacts(bench))


def _water(bench: LiftBench) -> Iterator[Sign]:
    plant, logic = bench.plant, bench.logic
    level_m = plant.level_m
    yield Sign("level", WATER, "Level, by stick or tape", level_m, Q.LEVEL, LIKE_M)
    pace_ms = plant.net_m3s(bench.running, logic.now_s) / plant.hydraulics.well.area_m2(level_m)
    yield Sign("rises", WATER, "It rises", float(pace_ms > MOVES_MS))
    yield Sign("falls", WATER, "It falls", float(pace_ms < -MOVES_MS))
    if not logic.alone:
        shown_m = None if not logic.panel.power or logic.level_m is None else logic.level_m
        yield Sign("display", DISPLAY, "Level on the display", shown_m, Q.LEVEL, LIKE_M)
        yield Sign("off", DISPLAY, "The display over the stick", None if shown_m is None else shown_m - level_m, Q.LEVEL, NEAR_M, between=("display", "level"))
    yield Sign("supply", DISPLAY, "The controller has supply", float(logic.panel.power))
    yield from supply_signs(SUPPLY, bench.supply, bench.faults.parts, logic.panel.power)


def _pumps(bench: LiftBench) -> Iterator[Sign]:
    panel = bench.logic.panel
    for pump, watch in enumerate(bench.motors.watches):
        place, number = f"Pump {pump + 1}", pump + 1
        yield Sign(f"called.{number}", place, "The controller calls it", float(panel.running[pump]))
        yield Sign(f"runs.{number}", place, "It is switched on: its starter pulled in, or its drive running", float(pump in bench.running))
        leads_a = watch.leads_a() if pump in bench.running else (0.0,) * watch.plate.phases.leads
        yield Sign(f"current.{number}", place, "Its current, on the lead that carries most", max(leads_a), Q.CURRENT, LEAST_A, NEAR_SHARE)
        if len(leads_a) > 1:
            yield Sign(f"lead_low.{number}", place, "The same on the lead that carries least", min(leads_a), Q.CURRENT, LEAST_A, NEAR_SHARE)
        yield Sign(f"tripped.{number}", place, "It is given up: tripped, waits for a person", float(panel.tripped[pump] is not None))
        for trip, label in TRIPS.items():
            yield Sign(f"{trip.name.lower()}.{number}", place, label, float(panel.tripped[pump] is trip))


def _lamps(bench: LiftBench) -> Iterator[Sign]:
    logic, control = bench.logic, bench.plant.hydraulics.survey.control
    up = bench.alarms.lamps if logic.panel.power else {}
    words = {Alarm.HIGH: "High level", Alarm.LOW: "Low level"}
    if not logic.alone:
        words[Alarm.SENSOR] = "Level signal lost, or a float against it"
    if logic.program.guards.heeded(GuardContact.PHASE):
        words[Alarm.PHASE] = "Phase missing or reversed"
    if logic.program.waits_after:
        words[Alarm.WAITS] = "It waits for a person after a power cut"
    if logic.leader is not None:
        words[Alarm.LINK] = "The drives do not hear each other"
    for alarm, label in words.items():
        yield Sign(f"alarm.{alarm}", LAMPS, label, float(Cause(alarm) in up))
    of_pump = {Alarm.PUMP: "failed", Alarm.LONG_RUN: "ran too long", **({Alarm.STARTS: "starts too often"} if logic.panel.timing.most_starts < math.inf else {}), **({Alarm.SEAL: "water in its seal"} if control.seal_probes else {})}
    for pump in range(1, logic.panel.pump_count + 1):
        for alarm, label in of_pump.items():
            yield Sign(f"alarm.{alarm}.{pump}", LAMPS, f"Pump {pump} {label}", float(Cause(alarm, pump) in up))


def _contacts(bench: LiftBench) -> Iterator[Sign]:
    """Closed or open, as a meter or the lamp of an input shows it."""
    logic = bench.logic
    if not logic.alone:
        for relay, on in zip(logic.relays, logic.energised):
            yield Sign(f"contact.{relay.role}", CONTACTS, f"{relay.label}: its contact is closed at the panel", float(relay.closes(on) and relay.role not in logic.cut))
    closed = logic.energised if logic.alone else logic.floats_closed
    for relay, shut in zip(bench.float_relays, closed):
        yield Sign(f"float.{relay.role}", CONTACTS, f"{relay.label}{' float' if logic.alone else ''}: its contact is closed", float(shut))
