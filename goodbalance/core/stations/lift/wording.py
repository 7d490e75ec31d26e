"""Every word that the bench of a lift station says: put on last, decided by nobody."""

from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term
from goodbalance.core.control.alarms import Cause
from goodbalance.core.control.relays import LevelRelay
from goodbalance.core.control.trips import Trip
from goodbalance.core.protection import wording as guarding
from goodbalance.core.protection.names import SupplyAct, SupplyFault
from goodbalance.core.rehearsal.engine import TimedAction
from goodbalance.core.rehearsal.events import Doing, Event, Thing
from goodbalance.core.stations.lift.names import (
    Act,
    Alarm,
    AnyAct,
    FloatFault,
    Harm,
    PumpFault,
    Role,
    StationFault,
    WireFault,
)
from goodbalance.core.stations.shared.acts import switch_of

_STATION_FAULTS = {
    StationFault.LOOP_OPEN: ("Sensor loop opened", "Sensor loop closed again"),
    StationFault.LOOP_SHORT: ("Sensor loop shorted", "Short of the sensor loop removed"),
    StationFault.FROZEN: ("Sensor frozen at its reading", "Sensor moves again"),
    StationFault.DRIFT: ("Sensor begins to drift downward", "Sensor set right again"),
    StationFault.ECHO: ("A false echo: the sensor sees foam", "The false echo is gone"),
    StationFault.LOST_ECHO: ("No echo comes back to the sensor", "The sensor has its echo again"),
    StationFault.LOW_FLOAT: ("Low-level float turned down", "Low-level float hangs free again"),
    StationFault.LINK: ("The link between the drives is off", "The drives hear each other again"),
    StationFault.OUTSIDE_LOST: ("The outside speed signal is lost", "The outside speed signal is back"),
}
_FLOAT_FAULTS = {FloatFault.UP: "float caught with its head up", FloatFault.DOWN: "float caught hanging down"}
_PUMP_FAULTS = {
    PumpFault.STARTER: ("starter does not pull in", "starter mended"),
    PumpFault.CLOGGED: ("is clogged", "is clean again"),
    PumpFault.CHECK_VALVE: ("has a leaking check valve", "has a tight check valve again"),
    PumpFault.FEEDBACK: ("feedback wire is off", "feedback wire is back"),
    PumpFault.OVERLOAD: ("turns heavily: a rag in its impeller", "runs freely again"),
    PumpFault.STALLED: ("is blocked: its rotor stands under voltage", "turns again"),
    PumpFault.SHUT: ("has its discharge valve shut", "has its discharge valve open again"),
    PumpFault.DIAL_UP: ("has its overload turned far up", "has its overload as it was"),
    PumpFault.DIAL: ("has its overload turned under its running current", "has its overload as it was"),
    PumpFault.BACKWARDS: ("turns backwards with returning water", "stands still again"),
    PumpFault.NODE: ("has a silent drive: its electronics are dead", "has its drive back"),
    PumpFault.INPUT: ("has its level input off", "has its level input back"),
    PumpFault.SEAL: ("has water in its seal", "has a dry seal again"),
    PumpFault.WELDED: guarding.WELDED,
    PumpFault.CAPACITOR: guarding.CAPACITOR,
    PumpFault.WINDING: guarding.WINDING,
}
_ACTS = {
    Act.PATTERN: ("Inflow follows the day", "Inflow steady"),
    Act.RAIN: ("A rain front comes", "The rain is over"),
    Act.POWER: ("Power back", "Power lost"),
    Act.RUN: ("The outside run contact permits", "The outside run contact forbids"),
    Act.REMOTE: ("Switched to remote", "Switched to local"),
    Act.SILENCE: ("Sounder silenced", "Sounder silenced"),
    Act.RESET: ("Alarms reset", "Alarms reset"),
}
_HARMS = {
    Harm.DRAWS_AIR: "A pump draws air: level is at its intake, {level}",
    Harm.TWO_PHASES: "Pump <n> runs on two phases until its overload opens: fit a phase monitor",
    Harm.OVERFLOWS: "The well overflows at {level}",
    Harm.AGAINST: "Pump <n> is started while it turns backwards: shaft and coupling break",
    Harm.BURNS: "The winding of pump <n> is hotter than it stands: it burns",
    Harm.WRONG_WAY: "Pump <n> turns the wrong way: it moves little, and its impeller may come loose",
    Harm.UNCALLED: guarding.UNCALLED,
    Harm.BOILS: guarding.BOILS,
}
_BRIEF_HARMS = {
    Harm.DRAWS_AIR: "A pump draws air",
    Harm.TWO_PHASES: "A pump runs on two phases until its overload opens",
    Harm.OVERFLOWS: "The well overflows",
    Harm.AGAINST: "A pump is started while it turns backwards",
    Harm.BURNS: "A winding burns",
    Harm.WRONG_WAY: "A pump turns the wrong way",
    Harm.UNCALLED: "A pump runs and nobody calls it",
    Harm.BOILS: "The water in a casing boils",
}


def level(level_m: float) -> tuple[Term, ...]:
    """The level at which something happened."""
    return (Term("level", "level", level_m, Q.LEVEL),)


_CALLED = ("duty", "assist", "second assist", "third assist")


def place_of(target: str) -> str:
    """A contact or float as people name it, by its role or the id of its float: starts and stops by whose call they are."""
    role = target.removeprefix("float_")
    known = Role(role) if role in {*Role} else None
    if known is not None and known.call and known is not Role.STOP:
        name = f"{_CALLED[known.call - 1]} {'start' if known.is_start else 'stop'}"
    else:
        name = "low-level cut-out" if known is Role.LOW_CUT_OUT else role.replace("_", " ")
    return name if role == target else f"{name} float"


def done(action: TimedAction, act: AnyAct) -> Event:
    """What a person does."""
    on = 0 if action.value else 1
    if isinstance(act, StationFault):
        text = _STATION_FAULTS[act][on]
    elif isinstance(act, SupplyFault):
        text = guarding.SUPPLY_FAULTS[act][on]
    elif isinstance(act, FloatFault):
        name = place_of(action.target).capitalize()
        text = f"{name} {_FLOAT_FAULTS[act] if action.value else 'float hangs free again'}"
    elif isinstance(act, PumpFault):
        text = f"Pump {action.target} {_PUMP_FAULTS[act][on]}"
    elif isinstance(act, WireFault):
        text = f"A wire of the {place_of(action.target)} contact is {'off' if action.value else 'back'}"
    elif act is Act.INFLOW:
        text = "Inflow set to {flow}"
        return Event(action.at_s, Thing.YOU, Doing.DOES, act, 0, text, (Term("flow", "inflow", action.value, Q.FLOW),))
    elif isinstance(act, SupplyAct):
        return Event(action.at_s, Thing.YOU, Doing.DOES, act, 0, guarding.TURNED[act], (Term("v", "", action.value, Q.PERCENT),))
    elif act is Act.OUTSIDE:
        text = "The outside signal says {share}"
        return Event(action.at_s, Thing.YOU, Doing.DOES, act, 0, text, (Term("share", "outside signal", action.value, Q.PERCENT),))
    elif act is Act.SWITCH:
        text = f"Pump {action.target} switched to {switch_of(action.value).upper()}"
    else:
        text = _ACTS[act][on]
    pump = int(action.target) if isinstance(act, PumpFault) or act is Act.SWITCH else 0
    doing = Doing.DOES if action.value or not isinstance(act, StationFault | SupplyFault | FloatFault | PumpFault | WireFault) else Doing.CLEARS
    return Event(action.at_s, Thing.YOU, doing, act, pump, text)


def pump_moves(at_s: float, pump: int, starts: bool, level_m: float) -> Event:
    """A pump, 0 for pump 1, starts or stops."""
    text = f"Pump {pump + 1} {'starts' if starts else 'stops'} at {{level}}"
    return Event(at_s, Thing.PUMP, Doing.STARTS if starts else Doing.STOPS, "", pump + 1, text, level(level_m))


def full_speed(at_s: float, comes: bool, level_m: float) -> Event:
    """The drives are told full speed, or no longer. [s, m]"""
    text = "Full speed from {level}" if comes else "Less than full speed below {level}"
    return Event(at_s, Thing.SPEED, Doing.COMES if comes else Doing.CLEARS, "full", 0, text, level(level_m))


def pump_given_up(at_s: float, pump: int, why: Trip) -> Event:
    """A pump is given up (0 is pump 1). [s]"""
    return Event(at_s, Thing.PUMP, Doing.GIVEN_UP, why, pump + 1, f"Pump {pump + 1} given up: {why}")


def contact_moves(at_s: float, relay: LevelRelay, closes: bool, floats_alone: bool, level_m: float) -> Event:
    """A relay energises or releases; where floats are alone, a float closes or opens."""
    does = ("float closes" if closes else "float opens") if floats_alone else "relay energises" if closes else "relay releases"
    doing = Doing.CLOSES if closes else Doing.OPENS
    return Event(at_s, Thing.CONTACT, doing, relay.role, 0, f"{relay.label} {does} at {{level}}", level(level_m))


def float_moves(at_s: float, relay: LevelRelay, closes: bool, level_m: float) -> Event:
    """A float behind a sensor."""
    text = f"{relay.label} {'closes' if closes else 'opens'} at {{level}}"
    return Event(at_s, Thing.FLOAT, Doing.CLOSES if closes else Doing.OPENS, relay.role, 0, text, level(level_m))


def sensor_moves(at_s: float, failed: bool, on_floats: bool) -> Event:
    """The level sensor is given up, or believed again. [s]"""
    text = "Level signal given up as failed" if failed else "Level signal is back"
    text += ": the floats take over" if on_floats else ""
    return Event(at_s, Thing.SENSOR, Doing.FAILS if failed else Doing.RETURNS, "", 0, text)


def turn_passes(at_s: float, pump: int) -> Event:
    """Another pump leads next (0 is pump 1). [s]"""
    return Event(at_s, Thing.TURN, Doing.PASSES, "", pump + 1, f"Turn changes: pump {pump + 1} is next")


def alarm_moves(at_s: float, cause: Cause, comes: bool, words: str) -> Event:
    """An alarm comes or clears. [s]"""
    text = f"Alarm: {words}" if comes else f"Alarm clears: {words}"
    return Event(at_s, Thing.ALARM, Doing.COMES if comes else Doing.CLEARS, cause.what, cause.pump, text)


def alarm_words(cause: Cause, trip: Trip | None = None, contradicted: bool = False, voltages: bool = False) -> str:
    """What an alarm says. trip: why a pump was given up; contradicted: the signal is there, but a float is against it; voltages: the monitor sees them too."""
    pump = f"Pump {cause.pump}"
    return {
        Alarm.HIGH: "High level",
        Alarm.LOW: "Low level",
        Alarm.SENSOR: "A float contradicts the level sensor" if contradicted else "Level signal lost",
        Alarm.PHASE: f"Phase missing or reversed{', or the voltage off' if voltages else ''}",
        Alarm.WAITS: guarding.WAITS,
        Alarm.PUMP: f"{pump} failed: {trip}",
        Alarm.SUSPECT: f"{pump} needs help each time: check it",
        Alarm.LONG_RUN: f"{pump} ran longer than it may",
        Alarm.STARTS: f"{pump} starts more often than it may",
        Alarm.NODE: f"Drive {cause.pump} is silent",
        Alarm.LINK: "The drives do not hear each other",
        Alarm.INPUT: f"Level input of drive {cause.pump} lost",
        Alarm.SEAL: f"{pump}: water in its seal",
    }[Alarm(cause.what)]


def harms(at_s: float, harm: Harm, level_m: float, pump: int = 0) -> Event:
    """pump: 1 for pump 1, where it is about one."""
    terms = level(level_m) if harm in (Harm.DRAWS_AIR, Harm.OVERFLOWS) else ()
    return Event(at_s, Thing.HARM, Doing.COMES, harm, pump, _HARMS[harm].replace("<n>", str(pump)), terms)


def harm_brief(event: Event) -> str:
    """A harm without its numbers, for a run of days."""
    return f"Pump {event.pump} given up" if event.thing is Thing.PUMP else _BRIEF_HARMS[Harm(event.of)]
