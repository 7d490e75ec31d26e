"""The wires of a lift station: what leads where for this plan, how it is checked, and what a broken one does."""

from collections.abc import Iterator
from dataclasses import replace

from goodbalance.core.balance.plan import Plan
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term
from goodbalance.core.control.contacts import Takes
from goodbalance.core.control.relays import LevelRelay
from goodbalance.core.physics.signals import MA_4_20
from goodbalance.core.protection.names import WindingBy
from goodbalance.core.sheets.wiring import Joint, Look
from goodbalance.core.stations.lift.controller.guards import guards_of
from goodbalance.core.stations.lift.controller.relays_of_plan import floats_of, relays_of
from goodbalance.core.stations.lift.names import STARTS, STOPS, GuardContact, Role
from goodbalance.core.stations.lift.names import SettingId as S
from goodbalance.core.stations.lift.plant.hydraulics import hydraulics
from goodbalance.core.stations.lift.sheet.retrofit import FLOATS
from goodbalance.core.stations.lift.survey.choices import AlarmRelay, LiftChoices
from goodbalance.core.stations.lift.survey.level_sensor import SensorKind
from goodbalance.core.stations.lift.survey.sensing import ControlKind
from goodbalance.core.stations.lift.survey.survey import LiftSurvey
from goodbalance.core.stations.lift.survey.team import Inputs
from goodbalance.core.stations.lift.windows.float_ladder import is_alone
from goodbalance.core.stations.shared import joints as shared
from goodbalance.core.stations.shared import telemetry
from goodbalance.core.stations.shared.joints import DRY_CONTACT

SILENT = "Nothing tells of it: the alarm never comes. Prove it to the far end, and again on every visit."
TOLD = "lamp, sounder, and the unit that calls somebody"
BROKEN = {
    Role.LOW_CUT_OUT: "Every pump stops, as at low water: safe.",
    Role.LOW_ALARM: SILENT,
    Role.HIGH_ALARM: SILENT,
}


MEANINGS = frozenset((
    "supply", "mains.{n}", "motor.{n}", "starter.{n}", "input.level", "input.level.{n}", "output.alarm.{n}", "output.level", "input.speed", "relay.{n}", *(f"contact.{role}" for role in Role), "float.{n}", "contact.low_float",
    "winding.{n}", "contact.phase", "contact.backwards.{n}", "contact.local", "seal.{n}", "feedback.{n}", "pump.{n}", "output.alarm", *(f"telemetry.{name}" for name in ("grave", "other", "common")), "link.drives", "link.building", "contact.run", "contact.run.{n}",
))  # fmt: skip


def joints(survey: LiftSurvey, choices: LiftChoices, plan: Plan) -> tuple[Joint, ...]:
    """Every joint of this plan, in the order it is walked: supplies and motors, sensor, relays, floats, contacts, links."""
    return tuple(_joints(survey, choices, plan))


def _joints(survey: LiftSurvey, choices: LiftChoices, plan: Plan) -> Iterator[Joint]:
    control, driven = survey.control, survey.drives.fitted
    team = control.kind is ControlKind.DRIVES_ALONE
    if not team:
        yield shared.supply()
    for number, pump in enumerate(survey.pumps, 1):
        yield shared.mains(number, pump.rated_voltage_v, False)
        motor = shared.motor(number, pump.rated_current_a, False, driven)
        if driven:
            yield motor
        else:
            yield replace(motor, meaning=f"starter.{number}")
        if driven and survey.control.kind is ControlKind.RELAYS_TO_PANEL:
            yield replace(shared.mains(number, pump.rated_voltage_v, False), meaning=f"starter.{number}", title=f"Feed of drive {number}", to=f"the supply of drive {number}")
    if survey.sensor is not None:
        yield from _levels(survey, plan)
        if survey.sensor.kind is SensorKind.LOOK_DOWN:
            look = Look("The same two cores as at the controller's input, plus to plus; its face level and clear of the stream, walls and ladder by the maker's cone.")
            live = Look("With the water still it reads what the tape says, and goes on doing so while a pump runs.")
            yield Joint("output.level", "The sensor's own end", "the controller's level input", ("+", "-"), (look,), (live,), "The same as at the input: one loop.")
    if S.OUTSIDE_ZERO_SPEED in plan:
        yield _outside(plan)
    yield from _relays(survey, choices, plan)
    for place, relay in enumerate(relays_of(survey, choices, plan) if is_alone(survey) else floats_of(survey, plan), 1):
        yield _float(place, relay)
    yield from _guards(survey, plan)
    if control.kind not in (ControlKind.RELAYS_ALONE, ControlKind.DRIVES_ALONE) or is_alone(survey):
        for number in range(1, survey.pumping.count + 1) if S.FEEDBACK_LOST in plan else ():
            yield shared.tells(
                f"feedback.{number}", f"Feedback of pump {number}", f"an auxiliary contact of pump {number}'s starter", f"while pump {number} runs",
                "The controller takes the pump for dead and gives it up, though it would run.",
            )  # fmt: skip
    yield from telemetry.joints(survey.telemetry, "the high alarm", choices.schools.alarm_relay is AlarmRelay.IN_HEALTH)
    if driven and survey.pumping.count > 1:
        yield shared.link("drives")


def _levels(survey: LiftSurvey, plan: Plan) -> Iterator[Joint]:
    """The level at the controller's input, or at that of every drive that has one."""
    one = _level(survey, plan)
    if survey.control.kind is not ControlKind.DRIVES_ALONE:
        yield one
        return
    inputs = survey.team.inputs
    for number in range(1, survey.pumping.count + 1 if inputs is not Inputs.TOLD else 2):
        title, to, broken = f"Level input of drive {number}", one.to, "This drive has no level of its own: another's reading serves, or the team stops, as chosen."
        if inputs is Inputs.LOOPED:
            to = "the sensor" if number == 1 else f"the level input of drive {number - 1}, from its - to this +"
            broken = "The loop is open for every drive: no plug is pulled while pumps run by it."
        elif inputs is Inputs.TOLD:
            broken = "No drive knows the level: the team does what it does without one."
        yield replace(one, meaning=f"input.level.{number}", title=title, to=to, broken=broken)


def _level(survey: LiftSurvey, plan: Plan) -> Joint:
    """The loop of the level sensor, with what a meter shows at the levels that count."""
    hyd, sensor = hydraulics(survey), survey.sensor
    if sensor is None:
        raise ValueError("a station without a sensor has no loop")
    names = ((Role.STOP, "the stop"), (Role.START_1, "the duty start"), (Role.HIGH_ALARM, "the high alarm"))
    at = [("the end of its range", hyd.sensor_low_m), *((name, plan.value(role, 0.0)) for role, name in names if role in plan)]
    broken = "The signal falls below what a sensor gives: the controller knows, and does what it does without a level."
    if not hyd.signal.has_live_zero:
        broken = "It reads as an empty well: pumps stop and the well fills unseen. Only a float tells."
    where = "over the water" if sensor.kind is SensorKind.LOOK_DOWN else "in the water; its vent tube ends dry"
    return shared.loop(
        "input.level", "Level sensor", f"the sensor {where}", hyd.signal, hyd.scaling, Q.LEVEL, tuple(at),
        survey.level_budget, broken,
    )  # fmt: skip


def _outside(plan: Plan) -> Joint:
    """The signal by which somebody else says the speed."""
    zero, full = plan.setting(S.OUTSIDE_ZERO_SPEED), plan.setting(S.OUTSIDE_FULL_SPEED)
    dead = Look("Plus to plus; continuity in each core, none to earth. The shield is earthed at one end only, and the two sites share no earth through it.")
    terms = (
        Term("z", "", MA_4_20.low, Q.LOOP_CURRENT), Term("f", "", MA_4_20.high, Q.LOOP_CURRENT), Term("n", "", zero.value, Q.PERCENT),
        Term("m", "", full.value, Q.PERCENT),
    )  # fmt: skip
    live = Look("A pump in AUTO and running: at {z} in the loop its drive shows {n}, at {f} it shows {m}.", terms)
    return Joint("input.speed", "Outside speed signal", "the works that say the speed", ("+", "-"), (dead,), (live,), "The signal is below any that means a speed: the drives do what they do without it, and nobody outside is obeyed.")


def _relays(survey: LiftSurvey, choices: LiftChoices, plan: Plan) -> Iterator[Joint]:
    """The contacts of a level controller and where they lead, or those with which a pump controller runs pumps and tells people."""
    if survey.control.kind is ControlKind.PUMP_CONTROLLER:
        for number in range(1, survey.pumping.count + 1):
            yield _runs(f"pump.{number}", f"Pump {number} runs", f"{'the drive' if survey.drives.fitted else 'the contactor'} of pump {number}")
        yield _alarm_out(choices)
    if survey.control.kind is ControlKind.DRIVES_ALONE:
        for number in range(1, survey.pumping.count + 1):
            told = _alarm_out(choices)
            yield replace(told, meaning=f"output.alarm.{number}", title=f"Alarm contact of drive {number}", to=f"{TOLD}; wired so that each drive tells by itself")
    if is_alone(survey) or survey.control.has_calls:
        return
    relays = sorted(relays_of(survey, choices, plan), key=lambda relay: relay.number)
    to_panel = survey.control.kind is ControlKind.RELAYS_TO_PANEL
    for relay in relays:
        role = Role(relay.role)
        old = FLOATS.get(role, (f"{relay.label} float", ""))[0]
        if to_panel:
            to = f"the panel's input {relay.label.lower()}: the wires of the old {old.lower()}"
        else:
            to = f"the contactor of pump {role.call}" if role.is_start else TOLD if role in (Role.LOW_ALARM, Role.HIGH_ALARM) else "in series with every contactor"
        yield Joint(
            f"relay.{relay.number}", f"Relay {relay.number}: {relay.label.lower()}", to, _contact_cores(relay), (_rest(relay),),
            (_moves(relay),), _broken(role, to_panel), _stops(role),
        )  # fmt: skip
    for relay in relays if to_panel else ():
        yield Joint(
            f"contact.{relay.role}", f"Input {relay.label.lower()}", f"relay {relay.number} of the controller", ("", ""),
            (DRY_CONTACT,), (Look(f"What relay {relay.number} does is seen here, and at no other input."),), _broken(Role(relay.role), True), _stops(Role(relay.role)),
        )  # fmt: skip


def _stops(role: Role) -> bool:
    return role in STOPS or role is Role.LOW_CUT_OUT


def _contact_cores(relay: LevelRelay) -> tuple[str, ...]:
    return ("common", "closed at rest" if relay.normally_closed else "open at rest")


def _rest(relay: LevelRelay) -> Look:
    """The contact of a controller without power."""
    state = "closed" if relay.closes(False) else "open"
    used = "closed at rest" if relay.normally_closed else "open at rest"
    return Look(f"Controller without power: the contact is {state}. The one that is {used} is wired, not its twin. Continuity in both wires, none to earth.")


def _moves(relay: LevelRelay) -> Look:
    """At which levels the wired contact closes and opens."""
    terms = (Term("c", "", relay.shuts_m, Q.LEVEL), Term("o", "", relay.opens_m, Q.LEVEL))
    return Look("Pumps in OFF: it closes at {c} and opens at {o}, and no other input moves with it.", terms)


def _broken(role: Role, to_panel: bool) -> str:
    if role in BROKEN:
        return BROKEN[role]
    if role in STOPS:
        return "The panel sees its stop open: the pump stops, and does not start. Safe against running dry; the well fills."
    later = "the next start or the high alarm must help" if role is not STARTS[-1] else "only the high alarm is left"
    return f"This {'call' if to_panel else 'pump'} never comes: {later}."


def _runs(meaning: str, title: str, to: str) -> Joint:
    live = Look("Pump in OFF: no voltage at what it drives. In HAND: it pulls, and that pump turns, no other.")
    return Joint(meaning, title, to, ("common", "open at rest"), (DRY_CONTACT,), (live,), "This pump never runs; the next in turn takes its place after its feedback is missed.")


def _alarm_out(choices: LiftChoices) -> Joint:
    in_health = choices.schools.alarm_relay is AlarmRelay.IN_HEALTH
    used, state = ("closed at rest", "closed: without power it tells") if in_health else ("open at rest", "open: without power it is silent")
    dead = Look(f"Controller without power: the contact is {state}. Continuity in both wires, none to earth.")
    live = Look(f"{'Open while all is well, closed in alarm' if in_health else 'Closed in alarm, open while all is well'}: raise one, and it is seen where it is answered.")
    return Joint("output.alarm", "Alarm contact", TOLD, ("common", used), (dead,), (live,), SILENT)


def _float(place: int, relay: LevelRelay) -> Joint:
    """One float on its cable: which way its contact works, and what a broken one does."""
    role = Role(relay.role)
    shut = "while water stands above it" if relay.energises_on_rise else "while water stands below it"
    broken = {
        Role.LOW_ALARM: SILENT,
        Role.HIGH_ALARM: "Nothing tells of it: neither the alarm nor the call of every pump comes. Lift it by its cable on every visit.",
    }.get(role, "Every pump that runs by the floats stops: safe against running dry; the well fills." if role in STOPS else "This call never comes: the float above must help.")
    height = Look("It hangs at {h}, its cable free of pumps and ladder.", (Term("h", "", relay.level_m, Q.LEVEL),))
    live = Look(f"Its contact is closed {shut}: move it by its cable, from above, and its own input moves, no other.")
    return Joint(f"float.{place}", f"{relay.label} float" if "float" not in relay.label.lower() else relay.label, f"float {place} from the floor", ("", ""), (DRY_CONTACT, height), (live,), broken, role in STOPS)


_GUARDS = {  # title, the other end, when it permits, what a broken wire does where it is closed then, whether each pump has its own
    GuardContact.LOW_FLOAT: ("Separate low-level float", "the float on its cable", "while water stands above it", "Every pump stops, as at low water: safe.", False),
    GuardContact.PHASE: ("Phase monitor", "the monitor's contact", "while all phases are there, in order", "Every pump stops, as with a lost phase: safe.", False),
    GuardContact.RUN: ("Outside run contact", "the run output of whoever commands", "while the pumps may run", "Every pump stops, as told from outside.", False),
    GuardContact.BACKWARDS: ("Backspin contact", "the contact at the shaft", "while the pump stands or turns its way", "This pump is not started: the others go on.", True),
    GuardContact.LOCAL: ("Local and remote", "the switch at the panel", "in remote", "It stands in local: nobody outside is obeyed.", False),
}  # fmt: skip


def _guards(survey: LiftSurvey, plan: Plan) -> Iterator[Joint]:
    """What stops pumps whatever the level controller says, and the seals."""
    for guard, built in guards_of(survey).fitted.items():
        title, to, when, broken, pumps = _GUARDS[GuardContact(guard)]
        for number in range(1, survey.pumping.count + 1) if pumps else (0,):
            own = f".{number}" if number else ""
            yield shared.guard(f"contact.{guard}{own}", title + (f" of pump {number}" if number else ""), to, when, broken, built is Takes.CLOSED)
    for number in range(1, survey.pumping.count + 1) if survey.protection.winding_by is WindingBy.CONTACT else ():
        yield shared.winding(number)
    for number in range(1, survey.pumping.count + 1) if survey.control.seal_probes else ():
        yield Joint(
            f"seal.{number}", f"Seal probe of pump {number}", f"the probe in pump {number}", ("", "earth"),
            (Look("Probe off at the panel: no continuity to earth with a dry oil chamber. Never with an insulation tester through the electronics."),),
            (Look("The probe's own test resistor across the two raises the alarm; taken off, it clears."),),
            "Water in the oil is seen by nothing until the bearings go.",
        )  # fmt: skip
