"""The wires of a transfer set: what leads where for this plan, how it is checked, and what a broken one does."""

from collections.abc import Iterator

from goodbalance.core.balance.plan import Plan
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term
from goodbalance.core.protection.names import WindingBy
from goodbalance.core.protection.plate import Phases
from goodbalance.core.sheets.wiring import Joint, Look
from goodbalance.core.stations.shared import joints as shared
from goodbalance.core.stations.shared import telemetry
from goodbalance.core.stations.shared.joints import DRY_CONTACT
from goodbalance.core.stations.transfer.names import Level
from goodbalance.core.stations.transfer.names import SettingId as S
from goodbalance.core.stations.transfer.plant.hydraulics import hydraulics
from goodbalance.core.stations.transfer.survey.choices import TransferChoices
from goodbalance.core.stations.transfer.survey.control import FullBy, SourceBy, TankWire
from goodbalance.core.stations.transfer.survey.survey import TransferSurvey

MEANINGS = frozenset((
    "supply", "mains.{n}", "motor.{n}", "input.line", "input.source.{n}", "contact.source.{n}", "input.tank.{n}", "contact.tank.{n}", "contact.phase", "winding.{n}", "pump.{n}", "output.alarm",
    *(f"telemetry.{name}" for name in ("grave", "other", "common")),
))  # fmt: skip
FAR = "The wire runs far and beside power: shield earthed at one end only, a surge arrester at both."
BROKEN = {
    TankWire.SENSOR: "The signal falls below what a sensor gives: told after its delay, pumps stop where levels lead. Safe.",
    TankWire.WATCHED: "The resistor at its end is missed: told after its delay, pumps stop where levels lead. Safe.",
    TankWire.OPENS: "The pump stops and nobody is told: users run dry. Note it as an open point.",
    TankWire.CLOSES: "The pump fills until the tank overflows, and nobody is told. Do not leave it so.",
}  # fmt: skip


def joints(survey: TransferSurvey, choices: TransferChoices, plan: Plan) -> tuple[Joint, ...]:
    """Every joint of this plan, in the order it is walked: supplies and motors, sensors, contacts, what runs the pumps, alarms."""
    return tuple(_joints(survey, plan))


def _joints(survey: TransferSurvey, plan: Plan) -> Iterator[Joint]:
    hyd = hydraulics(survey)
    yield shared.supply()
    for number, pump in enumerate(hyd.pumps, 1):
        plate = pump.curves.plate
        one_phase = plate.phases is Phases.ONE
        yield shared.mains(number, plate.voltage_v, one_phase)
        yield shared.motor(number, plate.current_a, one_phase, False)
    if survey.control.by_pressure:
        names = ((S.RESTART_PRESSURE, "the restart"), (S.STOP_PRESSURE, "the stop"))
        at = (("its cock shut and vented", 0.0), *((name, plan.value(one, 0.0)) for one, name in names if one in plan))
        broken = "The signal falls below what a sensor gives: all pumps stop, and the alarm comes."
        if not hyd.signal.has_live_zero:
            broken = "It reads no pressure at all: the pump runs against closed valves until the longest run locks it out."
        yield shared.loop("input.line", "Pressure sensor of the line", "the sensor behind the pumps", hyd.signal, hyd.scaling, Q.PRESSURE, at, survey.sensor.budget, broken)
    yield from _sources(survey, plan)
    yield from _tanks(survey, plan)
    if survey.control.phase_monitor:
        yield shared.phase_monitor()
    for number in range(1, survey.pumping.count + 1):
        if survey.protection.winding_by is WindingBy.CONTACT:
            yield shared.winding(number)
        live = Look("Pump in OFF: no voltage at what it drives. In HAND: it pulls, and that pump turns, no other.")
        yield Joint(f"pump.{number}", f"Pump {number} runs", f"the contactor of pump {number}", ("common", "open at rest"), (DRY_CONTACT,), (live,), "This pump never runs; the next in turn takes its place, if there is one.")
    yield Joint(
        "output.alarm", "Alarm contact", "lamp, sounder, and the unit that calls somebody", ("common", "closes in alarm"), (DRY_CONTACT,),
        (Look("Open while all is well: raise an alarm, and it is seen where it is answered."),), "Nothing tells of it: the alarm never comes. Prove it to the far end, and again on every visit.",
    )  # fmt: skip
    yield from telemetry.joints(survey.telemetry, "the gravest alarm", False)


def _sources(survey: TransferSurvey, plan: Plan) -> Iterator[Joint]:
    """What watches each source."""
    for number in range(1, len(survey.sources) + 1):
        of = f" {number}" if len(survey.sources) > 1 else ""
        if survey.control.source_by is SourceBy.SWITCH:
            yield shared.permits(f"contact.source.{number}", f"Low-water switch of source{of}", "the switch or float in the source", "while there is water", "Its pumps stop after their delay, as without water: safe.")
        elif survey.control.source_by is SourceBy.SENSOR:
            stop = Term("s", "", plan.value(Level.SOURCE_STOP.of(number), 0.0), Q.LEVEL)
            live = Look("The display shows the level that a tape finds; it stops at {s}.", (stop,))
            dead = Look("Loop off at both ends: continuity core by core; none from core to core, to the shield or to earth. Plus to plus.")
            yield Joint(f"input.source.{number}", f"Level sensor of source{of}", "the sensor in the source", ("+ supply", "- signal"), (dead,), (live,), "It reads less than any water: its pumps stop. Safe against running dry.", safety=True)


def _tanks(survey: TransferSurvey, plan: Plan) -> Iterator[Joint]:
    """What comes back from each tank."""
    control = survey.control
    if not control.by_levels:
        return
    for number in range(1, survey.tanks.count + 1):
        wanted = [level for level in (Level.LOW_ALARM, Level.START, Level.STOP, Level.HIGH_ALARM) if level.of(number) in plan]
        terms = tuple(Term(f"l{place}", "", plan.value(level.of(number), 0.0), Q.LEVEL) for place, level in enumerate(wanted))
        told = "; ".join(f"{{l{place}}} {level.replace('_', ' ')}" for place, level in enumerate(wanted))
        who, safety = survey.tank_name(number), control.full_by is FullBy.LEVELS
        if control.tank_wire is TankWire.SENSOR:
            live = Look(f"The display shows the level that a tape finds at {who}; what follows at: {told}.", terms)
            dead = Look(f"Loop off at both ends: continuity core by core; none to earth. Plus to plus. {FAR}")
            yield Joint(f"input.tank.{number}", f"Level of {who}", f"the level sensor in {who}", ("+ supply", "- signal"), (dead,), (live,), BROKEN[control.tank_wire], safety)
            continue
        dead = Look(f"Continuity in each pair, none to earth. {'The resistor sits at the float, not in the panel. ' if control.tank_wire is TankWire.WATCHED else ''}{FAR}")
        live = Look(f"Each float moved by hand at {who} is seen here, at its own place: {told}.", terms)
        yield Joint(f"contact.tank.{number}", f"Floats of {who}", f"the floats in {who}", ("", ""), (dead,), (live,), BROKEN[control.tank_wire], safety)
