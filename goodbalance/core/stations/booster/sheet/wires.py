"""The wires of a booster set: what leads where for this plan, how it is checked, and what a broken one does."""

from collections.abc import Iterator

from goodbalance.core.balance.plan import Plan
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term
from goodbalance.core.physics.signals import MA_4_20, Scaling
from goodbalance.core.protection.names import WindingBy
from goodbalance.core.protection.plate import Phases
from goodbalance.core.sheets.wiring import Joint, Look
from goodbalance.core.stations.booster.names import SettingId as S
from goodbalance.core.stations.booster.plant.hydraulics import hydraulics
from goodbalance.core.stations.booster.survey.choices import BoosterChoices, OnFailure
from goodbalance.core.stations.booster.survey.control import ControlKind, Device, OutsideSet, SuctionBy
from goodbalance.core.stations.booster.survey.survey import BoosterSurvey
from goodbalance.core.stations.shared import joints as shared
from goodbalance.core.stations.shared import telemetry
from goodbalance.core.stations.shared.facts import LoopBudget, Permits
from goodbalance.core.stations.shared.joints import DRY_CONTACT

MEANINGS = frozenset((
    "supply", "mains.{n}", "motor.{n}", "input.discharge", "input.suction", "input.remote", "contact.suction_switch", "contact.suction_alarm", "contact.flow_switch", "contact.phase", "contact.pressure.{n}", "winding.{n}",
    "pump.{n}", "run.{n}", "speed.{n}", "output.speed", "output.alarm", *(f"telemetry.{name}" for name in ("grave", "other", "common")), "input.setpoint", "link.drives", "link.building", "contact.run",
))  # fmt: skip
SUCTION = "the sensor before the pumps"
NO_WATER = "It reads less than any water: every pump stops after its delay. Safe against running dry."
UNKNOWN = LoopBudget()


def joints(survey: BoosterSurvey, choices: BoosterChoices, plan: Plan) -> tuple[Joint, ...]:
    """Every joint of this plan, in the order it is walked: supplies and motors, sensors, contacts, what runs the pumps, links."""
    return tuple(_joints(survey, choices, plan))


def _joints(survey: BoosterSurvey, choices: BoosterChoices, plan: Plan) -> Iterator[Joint]:
    motor, control = survey.motor, survey.control
    one_phase = motor.phases is Phases.ONE
    yield shared.supply()
    for pump in range(1, survey.pumping.count + 1):
        yield shared.mains(pump, motor.rated_voltage_v, one_phase)
        yield shared.motor(pump, motor.rated_current_a, one_phase, survey.has_drives)
    yield from _sensors(survey, choices, plan)
    yield from _contacts(survey)
    by_panel = control.kind is ControlKind.CONSTANT and control.device is Device.PANEL_REGULATOR
    if by_panel or control.kind is not ControlKind.CONSTANT:
        yield from _runs(survey, by_panel)
    elif survey.pumping.count > 1:
        yield shared.link("drives")
    yield Joint(
        "output.alarm", "Alarm contact", "lamp, sounder, and the unit that calls somebody", ("common", "closes in alarm"), (DRY_CONTACT,),
        (Look("Open while all is well: raise an alarm, and it is seen where it is answered."),),
        "Nothing tells of it: the alarm never comes. Prove it to the far end, and again on every visit.",
    )  # fmt: skip
    yield from telemetry.joints(survey.telemetry, "a stop of the set", False)


def _sensors(survey: BoosterSurvey, choices: BoosterChoices, plan: Plan) -> Iterator[Joint]:
    """The loops of the sensors, with what a meter shows at the pressures that count."""
    hyd, sensor = hydraulics(survey), survey.sensor
    names = ((S.RESTART, "the restart"), (S.CUT_IN, "cut-in"), (S.SET_PRESSURE, "the set pressure"), (S.CUT_OUT, "cut-out"), (S.HIGH_STOP, "the high stop"))
    at = (("its cock shut and vented", 0.0), *((name, plan.value(one, 0.0)) for one, name in names if one in plan))
    stops = choices.schools.sensor_failure is OnFailure.STOP_ALL
    broken = f"The signal falls below what a sensor gives: {'all pumps stop' if stops else 'one pump runs on at the fill speed'}, and the alarm comes."
    if not hyd.signal.has_live_zero:
        broken = "It reads no pressure at all: every pump runs flat out against closed outlets."
    yield shared.loop("input.discharge", "Discharge sensor", "the sensor behind the pumps", hyd.signal, hyd.scaling, Q.PRESSURE, at, sensor.budget, broken)
    suction = survey.suction_sensor
    if survey.control.suction_by is SuctionBy.SENSOR and (suction.low_pa is None or suction.high_pa is None):
        live = Look("Its range is not noted: write it down in the survey, and what a meter must show here follows.")
        dead = Look("Loop off at both ends: continuity core by core; none from core to core, to the shield or to earth. Plus to plus.")
        yield Joint("input.suction", "Suction sensor", SUCTION, ("+ supply", "- signal"), (dead,), (live,), NO_WATER, safety=True)
    elif survey.control.suction_by is SuctionBy.SENSOR and suction.low_pa is not None and suction.high_pa is not None:
        stop = ((S.LOW_SUCTION_STOP, "its stop"),)
        there = (("its cock shut and vented", 0.0), *((name, plan.value(one, 0.0)) for one, name in stop if one in plan))
        scaling = Scaling(MA_4_20.low, MA_4_20.high, suction.low_pa, suction.high_pa)
        yield shared.loop(
            "input.suction", "Suction sensor", SUCTION, MA_4_20, scaling, Q.PRESSURE, there, UNKNOWN, NO_WATER, safety=True,
        )  # fmt: skip
    if survey.remote is not None:
        scaling = Scaling(MA_4_20.low, MA_4_20.high, 0.0, survey.remote.range_pa)
        far = (("its cock shut and vented", 0.0), *((name, plan.value(S.REMOTE_PRESSURE, 0.0)) for name in ("what is held there",) if S.REMOTE_PRESSURE in plan))
        yield shared.loop(
            "input.remote", "Remote sensor", "the sensor at the worst outlet", MA_4_20, scaling, Q.PRESSURE, far, UNKNOWN,
            "The set goes on to its own set pressure, and the alarm comes.",
        )  # fmt: skip


def _contacts(survey: BoosterSurvey) -> Iterator[Joint]:
    """Contacts that permit or tell."""
    control = survey.control
    if control.by_contact:
        switch = survey.suction_switch
        at = "the float in the tank" if survey.switch_in_tank else "the switch before the pumps"
        closed, name = switch.permits is Permits.CLOSED, "float" if survey.switch_in_tank else "switch"
        yield shared.guard("contact.suction_switch", "Suction switch", at, "while there is water", "Every pump stops after its delay, as without water: safe.", closed)
        if switch.alarm:
            broken = "It tells of low water for ever." if closed else "It never tells of low water: nobody is warned before the stop."
            live = Look(f"{'Closed' if closed else 'Open'} while there is water enough. Turn it at its own end: the alarm comes, and pumps run on.")
            yield Joint("contact.suction_alarm", "Low-water alarm", f"the second {name}, over the first", ("", ""), (DRY_CONTACT,), (live,), broken)
    for number in range(1, survey.pumping.count + 1) if survey.own_switches else ():
        yield shared.tells(
            f"contact.pressure.{number}", f"Pressure switch {number}", "the switch at the header", "while the pressure has fallen to its cut-in and not risen to its cut-out",
            "It calls nobody any more: less water, and nobody is told until the pressure of the next switch.",
        )  # fmt: skip
    if control.sees_flow:
        yield shared.tells(
            "contact.flow_switch", "Flow switch", "the switch in the pipe, its arrow with the flow", "while water flows",
            "It tells of no flow for ever: pumps stop under draw and start again by the pressure, over and over.",
        )  # fmt: skip
    if control.phase_monitor:
        yield shared.phase_monitor()
    for number in range(1, survey.pumping.count + 1) if survey.protection.winding_by is WindingBy.CONTACT else ():
        yield shared.winding(number)
    if control.run_contact:
        yield shared.permits(
            "contact.run", "Outside run contact", "the building control's run output", "while the set may run",
            "The set stops, as told from outside; in local it does not count.", safety=False,
        )  # fmt: skip
    if control.outside is OutsideSet.SIGNAL:
        yield _asked(survey)
    if control.outside is OutsideSet.LINK:
        dead = Look("A to A and B to B, the shield earthed once at one end; nothing of it beside motor leads.")
        live = Look("The building reads this set's pressure, and the value in force follows what it asks for. Its plug pulled: what was chosen for that happens.")
        yield Joint("link.building", "Link to the building control", "the building's controller", ("A", "B", "shield"), (dead,), (live,), "Nobody outside is heard: its own set pressure comes back, or the last value stays, as chosen.")


def _asked(survey: BoosterSurvey) -> Joint:
    """The signal by which the building asks for a set pressure."""
    control = survey.control
    dead = Look("Plus to plus; continuity in each core, none to earth. The shield is earthed at one end only.")
    terms = (
        Term("z", "", MA_4_20.low, Q.LOOP_CURRENT), Term("f", "", MA_4_20.high, Q.LOOP_CURRENT), Term("a", "", control.outside_zero_pa or 0.0, Q.PRESSURE),
        Term("b", "", control.outside_full_pa or 0.0, Q.PRESSURE),
    )  # fmt: skip
    live = Look("At {z} in the loop {a} is asked for, at {f} {b}; the value in force stays within its limits.", terms)
    return Joint("input.setpoint", "Outside set pressure", "the building control's output", ("+", "-"), (dead,), (live,), "Nobody outside is heard: its own set pressure comes back, or the last value stays, as chosen.")


def _runs(survey: BoosterSurvey, by_signal: bool) -> Iterator[Joint]:
    """What starts the pumps where their drives only follow, or are contactors."""
    driven = survey.has_drives
    for pump in range(1, survey.pumping.count + 1):
        to = f"{'the drive' if driven else 'the contactor'} of pump {pump}"
        live = Look("Pump in OFF: no voltage at what it drives. In HAND: it pulls, and that pump turns, no other.")
        broken = "This pump never runs; the next in turn takes its place."
        yield Joint(f"pump.{pump}", f"Pump {pump} runs", to, ("common", "open at rest"), (DRY_CONTACT,), (live,), broken)
        if driven:
            yield Joint(f"run.{pump}", f"Run contact at the drive of pump {pump}", f"output of pump {pump} at the controller", ("", ""), (DRY_CONTACT,), (live,), broken)
    if not by_signal:
        return
    still = "It reads no speed: this drive stands, or turns at its least, while the others carry on."
    live = Look("A meter in the loop reads {z} with all at rest and {f} at full speed.", (Term("z", "", MA_4_20.low, Q.LOOP_CURRENT), Term("f", "", MA_4_20.high, Q.LOOP_CURRENT)))
    dead = Look("Plus to plus, one drive after the other; continuity in each core, none to earth. The shield is earthed at one end only.")
    yield Joint("output.speed", "Speed signal out", "the drives, one after the other", ("+", "-"), (dead,), (live,), "Every drive stands, or turns at its least: no pressure.")
    for pump in range(1, survey.pumping.count + 1):
        yield Joint(f"speed.{pump}", f"Speed signal at the drive of pump {pump}", "the regulator's speed signal", ("+", "-"), (dead,), (live,), still)
