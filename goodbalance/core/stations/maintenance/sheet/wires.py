"""The wires of a maintenance pump: what leads where for this plan, how it is checked, and what a broken one does."""

from collections.abc import Iterator

from goodbalance.core.balance.plan import Plan
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.protection.names import WindingBy
from goodbalance.core.protection.plate import Phases
from goodbalance.core.sheets.wiring import Joint, Look
from goodbalance.core.stations.maintenance.names import SettingId as S
from goodbalance.core.stations.maintenance.plant.hydraulics import hydraulics
from goodbalance.core.stations.maintenance.survey.choices import MaintenanceChoices
from goodbalance.core.stations.maintenance.survey.survey import MaintenanceSurvey
from goodbalance.core.stations.shared import joints as shared
from goodbalance.core.stations.shared import telemetry
from goodbalance.core.stations.shared.joints import DRY_CONTACT

MEANINGS = frozenset((
    "supply", "mains.{n}", "motor.{n}", "input.line", "contact.phase", "winding.{n}", "pump.{n}", "output.alarm", *(f"telemetry.{name}" for name in ("grave", "other", "common")),
))  # fmt: skip


def joints(survey: MaintenanceSurvey, choices: MaintenanceChoices, plan: Plan) -> tuple[Joint, ...]:
    """The wires of this plan, in the order they are walked. Nothing leads from here to a main pump."""
    return tuple(_joints(survey, plan))


def _joints(survey: MaintenanceSurvey, plan: Plan) -> Iterator[Joint]:
    hyd = hydraulics(survey)
    plate = hyd.curves.plate
    one_phase = plate.phases is Phases.ONE
    yield shared.supply()
    yield shared.mains(1, plate.voltage_v, one_phase)
    yield shared.motor(1, plate.current_a, one_phase, False)
    at = (("its cock shut and vented", 0.0), ("the start", plan.value(S.START_PRESSURE, 0.0)), ("the stop", plan.value(S.STOP_PRESSURE, 0.0)))
    broken = "The signal falls below what a sensor gives: the pump stays out, and the alarm comes. The line sags to the main pump's start."
    if not hyd.signal.has_live_zero:
        broken = "It reads no pressure at all: the pump runs against the closed line until its motor's guards stop it."
    yield shared.loop("input.line", "Pressure sensor of the line", "the sensor on its sensing line", hyd.signal, hyd.scaling, Q.PRESSURE, at, survey.sensor.budget, broken)
    if survey.control.phase_monitor:
        yield shared.phase_monitor()
    if survey.protection.winding_by is WindingBy.CONTACT:
        yield shared.winding(1)
    live = Look("Pump in OFF: no voltage at what it drives. In HAND, for a second: it pulls, and the maintenance pump turns, no main pump.")
    yield Joint("pump.1", "The pump runs", "the contactor of the maintenance pump", ("common", "open at rest"), (DRY_CONTACT,), (live,), "It never runs: the line sags to the main pump's start.")
    yield Joint(
        "output.alarm", "Alarm contact", "lamp, sounder, and the alarm receiver", ("common", "closes in alarm"), (DRY_CONTACT,),
        (Look("Open while all is well: raise an alarm, and it is seen where it is answered. The receiver was told before."),), "Nothing tells of it: the alarm never comes. Prove it to the far end, and again on every visit.",
    )  # fmt: skip
    yield from telemetry.joints(survey.telemetry, "the gravest alarm", False)
