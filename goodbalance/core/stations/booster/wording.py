"""Every word that the bench of a booster set says: put on last, decided by nobody."""

from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term
from goodbalance.core.control.alarms import Cause
from goodbalance.core.control.trips import Trip
from goodbalance.core.protection import wording as guarding
from goodbalance.core.protection.names import SupplyFault
from goodbalance.core.rehearsal.engine import TimedAction
from goodbalance.core.rehearsal.events import Doing, Event, Thing
from goodbalance.core.stations.booster.names import Act, Alarm, AnyAct, Harm, Mode, PumpFault, SetFault, Stop
from goodbalance.core.stations.shared.acts import switch_of

_SET_FAULTS = {
    SetFault.LOOP_OPEN: ("Sensor loop opened", "Sensor loop closed again"),
    SetFault.LOOP_SHORT: ("Sensor loop shorted", "Short of the sensor loop removed"),
    SetFault.FROZEN: ("Sensor frozen at its reading", "Sensor moves again"),
    SetFault.DRIFT: ("Sensor begins to read less and less", "Sensor set right again"),
    SetFault.REMOTE_LOST: ("Remote sensor's plug pulled", "Remote sensor plugged in again"),
    SetFault.DRY: ("The supply runs empty", "The supply has water again"),
    SetFault.FLOW_STUCK: ("Flow switch stuck: it says that water flows", "Flow switch moves again"),
    SetFault.WATERLOGGED: ("The tank is waterlogged: its gas is gone", "The tank has its gas again"),
    SetFault.BURST: ("A pipe bursts", "The burst is closed"),
    SetFault.OUTSIDE_LOST: ("Nobody outside is heard any more", "The outside is heard again"),
    SetFault.SUCTION_JUMPER: ("A jumper sits across the suction switch", "The jumper is out"),
    SetFault.SUCTION_WIRE: ("A wire of the suction sensor or switch is off", "The wire of the suction is back"),
}
_PUMP_FAULTS = {
    PumpFault.TRIP: ("drive trips", "drive is mended; OFF resets it"),
    PumpFault.AIR: ("is full of air", "is primed and vented again"),
    PumpFault.CHECK_VALVE: ("has a leaking check valve", "has a tight check valve again"),
    PumpFault.SHUT: ("stands behind a closed valve", "has its valve open again"),
    PumpFault.BACKWARDS: ("turns the wrong way", "turns the right way again"),
    PumpFault.OVERLOAD: ("turns heavily", "runs freely again"),
    PumpFault.STALLED: ("is blocked: its rotor stands under voltage", "turns again"),
    PumpFault.DIAL_UP: ("has its overload turned far up", "has its overload as it was"),
    PumpFault.DIAL: ("has its overload turned under its running current", "has its overload as it was"),
    PumpFault.WELDED: guarding.WELDED,
    PumpFault.CAPACITOR: guarding.CAPACITOR,
    PumpFault.WINDING: guarding.WINDING,
    PumpFault.NO_CALL: ("has a pressure switch that does not close any more", "has its pressure switch back"),
    PumpFault.CALLS_ON: ("has a pressure switch that does not open any more", "has its pressure switch back"),
}
_ACTS: dict[AnyAct, tuple[str, str]] = {
    Act.POWER: ("Power back", "Power lost"),
    Act.GENERATOR: ("The generator carries the set", "Back on the mains"),
    Act.NIGHT: ("The clock comes to night", "The clock comes to day"),
    Act.REMOTE: ("Switched to remote", "Switched to local"),
    Act.RUN: ("The outside run contact closes", "The outside run contact opens"),
    Act.WEEK: ("The week's clock counts again", "The week's clock is put off"),
    Act.LOOP: ("The loop is back in auto", "The loop is put by: speed by hand"),
    Act.DRAIN: ("Pipes and tank drained", "Pipes and tank drained"),
    Act.SILENCE: ("Sounder silenced", "Sounder silenced"),
    Act.RESET: ("Reset pressed", "Reset pressed"),
}
_AMOUNTS: dict[AnyAct, tuple[str, str, Q]] = {  # text, the symbol in it, and its quantity
    Act.OUTLETS: ("Outlets open for {share} of the design flow", "share", Q.PERCENT),
    Act.SUCTION: ("Supply pressure set to {p}", "p", Q.PRESSURE),
    Act.HAND_SPEED: ("Speed in HAND set to {n}", "n", Q.PERCENT),
    Act.OUTSIDE: ("The outside asks with {share} of its span", "share", Q.PERCENT),
    Act.KEYS: ("The keys ask for {p}", "p", Q.PRESSURE),
    Act.LOOP_SPEED: ("Speed of the loop by hand: {n}", "n", Q.PERCENT),
    Act.CLOCK: ("The clock is set on by {t}", "t", Q.DURATION),
    Act.RAN: ("As if the pumps that run had run {t} longer", "t", Q.DURATION),
    **{turned: (text, "v", Q.PERCENT) for turned, text in guarding.TURNED.items()},
}
_MODES = {
    Mode.ASLEEP: "The set falls asleep at {p}",
    Mode.FILLING: "Pipes fill slowly from {p} on",
    Mode.RUNNING: "The set regulates at {p}",
    Mode.BOOSTING: "Boost before sleep, at {p}",
    Mode.TESTING: "Short stop at {p}: does anybody draw?",
}
_STOPS = {
    Stop.SENSOR: "Stopped: pressure sensor failed",
    Stop.LOW_SUCTION: "Stopped: lack of water",
    Stop.HIGH: "Stopped: high pressure",
    Stop.BURST: "Stopped: run-out, a burst?",
    Stop.FILL: "Stopped: pipes do not fill",
}
_HARMS = {
    Harm.CAVITATES: "Pump <n> cavitates: suction at {s}",
    Harm.BEYOND_CURVE: "Pump <n> runs beyond its curve: {q}",
    Harm.BACKWARDS: "Pump <n> turns the wrong way: it gives half its head",
    Harm.RUNS_DRY: "Pump <n> turns without water: its seal runs dry",
    Harm.BURNS: "The winding of pump <n> is hotter than it stands: it burns",
    Harm.TWO_PHASES: "Pump <n> runs on two phases until its overload opens: fit a phase monitor",
    Harm.UNCALLED: guarding.UNCALLED,
    Harm.BOILS: guarding.BOILS,
}


def _pressure(pressure_pa: float, symbol: str = "p") -> tuple[Term, ...]:
    return (Term(symbol, "pressure", pressure_pa, Q.PRESSURE),)


def done(action: TimedAction, act: AnyAct) -> Event:
    """What a person does."""
    on, terms = 0 if action.value else 1, ()
    if isinstance(act, SetFault):
        text = _SET_FAULTS[act][on]
    elif isinstance(act, SupplyFault):
        text = guarding.SUPPLY_FAULTS[act][on]
    elif isinstance(act, PumpFault):
        text = f"Pump {action.target} {_PUMP_FAULTS[act][on]}"
    elif act in _AMOUNTS:
        text, symbol, quantity = _AMOUNTS[act]
        amount = action.value * 3600.0 if act in (Act.CLOCK, Act.RAN) else action.value
        return Event(action.at_s, Thing.YOU, Doing.DOES, act, 0, text, (Term(symbol, "", amount, quantity),))
    elif act is Act.SWITCH:
        text = f"Pump {action.target} switched to {switch_of(action.value).upper()}"
    else:
        text = _ACTS[act][on]
    pump = int(action.target) if isinstance(act, PumpFault) or act is Act.SWITCH else 0
    doing = Doing.DOES if action.value or isinstance(act, Act) else Doing.CLEARS
    return Event(action.at_s, Thing.YOU, doing, act, pump, text, terms)


def stops(at_s: float, stop: Stop, pressure_pa: float) -> Event:
    """Something stops the set, at a pressure. [s, Pa]"""
    return Event(at_s, Thing.LIMIT, Doing.COMES, stop, 0, f"{_STOPS[stop]}, at {{p}}", _pressure(pressure_pa))


def freed(at_s: float, stop: Stop) -> Event:
    """What stopped it has gone. [s]"""
    return Event(at_s, Thing.LIMIT, Doing.CLEARS, stop, 0, f"No longer {_STOPS[stop].lower()}")


def enters(at_s: float, mode: Mode, wakes: bool, pressure_pa: float) -> Event:
    """The set goes into a mode. wakes: from sleep."""
    text = "The set wakes at {p}" if wakes else _MODES[mode]
    return Event(at_s, Thing.SET, Doing.STARTS if wakes else Doing.ENTERS, mode, 0, text, _pressure(pressure_pa))


def pump_moves(at_s: float, pump: int, starts: bool, pressure_pa: float) -> Event:
    """A pump, 0 for pump 1, starts or stops."""
    text = f"Pump {pump + 1} {'starts' if starts else 'stops'} at {{p}}"
    return Event(at_s, Thing.PUMP, Doing.STARTS if starts else Doing.STOPS, "", pump + 1, text, _pressure(pressure_pa))


def pump_given_up(at_s: float, pump: int, why: Trip) -> Event:
    """A pump is given up (0 is pump 1). [s]"""
    return Event(at_s, Thing.PUMP, Doing.GIVEN_UP, why, pump + 1, f"Pump {pump + 1} given up: {why}")


def turn_passes(at_s: float, pump: int) -> Event:
    """Another pump leads next (0 is pump 1). [s]"""
    return Event(at_s, Thing.TURN, Doing.PASSES, "", pump + 1, f"Turn changes: pump {pump + 1} is next")


def alarm_moves(at_s: float, cause: Cause, comes: bool, words: str) -> Event:
    """An alarm comes or clears. [s]"""
    text = f"Alarm: {words}" if comes else f"Alarm clears: {words}"
    return Event(at_s, Thing.ALARM, Doing.COMES if comes else Doing.CLEARS, cause.what, cause.pump, text)


def alarm_words(cause: Cause, trip: Trip | None = None, voltages: bool = False) -> str:
    """What an alarm says. trip: why a pump was given up; voltages: whether the monitor sees them too."""
    return {
        Alarm.SENSOR: "pressure sensor failed",
        Alarm.LOW_SUCTION: "lack of water",
        Alarm.LOW_WATER: "low water: the supply runs low",
        Alarm.HIGH: "high pressure",
        Alarm.BURST: "run-out: a burst?",
        Alarm.FILL: "pipes do not fill",
        Alarm.REMOTE: "remote sensor failed",
        Alarm.PHASE: f"phase missing or swapped{', or the voltage off' if voltages else ''}",
        Alarm.WAITS: f"{guarding.WAITS[0].lower()}{guarding.WAITS[1:]}",
        Alarm.CLOSED: "a pump ran against closed outlets: flow switch, sensor or cut-out",
        Alarm.STARTS: f"pump {cause.pump} starts too often: has the tank lost its gas?",
        Alarm.PUMP: f"pump {cause.pump}: {trip}",
        Alarm.LONG: f"pump {cause.pump} runs too long",
    }[Alarm(cause.what)]


def over_rating(at_s: float, part: str, there_pa: float, rating_pa: float) -> Event:
    """More pressure at a part than it stands. part: its name."""
    terms = (*_pressure(there_pa), *_pressure(rating_pa, "w"))
    return Event(at_s, Thing.HARM, Doing.COMES, Harm.OVER_RATING, 0, f"{{p}} at the {part}, over {{w}}", terms)


def hurts(at_s: float, harm: Harm, pump: int, *terms: Term) -> Event:
    """A harm to one pump, 0 for pump 1."""
    return Event(at_s, Thing.HARM, Doing.COMES, harm, pump + 1, _HARMS[harm].replace("<n>", str(pump + 1)), terms)
