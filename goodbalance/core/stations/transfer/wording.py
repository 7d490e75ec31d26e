"""Every word that the bench of a transfer set says: put on last, decided by nobody."""

from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term
from goodbalance.core.control.alarms import Cause
from goodbalance.core.control.trips import Trip
from goodbalance.core.protection import wording as guarding
from goodbalance.core.protection.names import SupplyAct, SupplyFault
from goodbalance.core.rehearsal.engine import TimedAction
from goodbalance.core.rehearsal.events import Doing, Event, Thing
from goodbalance.core.stations.shared.acts import switch_of
from goodbalance.core.stations.transfer.names import (
    Act,
    Alarm,
    AnyAct,
    Harm,
    Hold,
    Lock,
    PumpFault,
    SetFault,
    State,
    TankFault,
)

_SET_FAULTS = {
    SetFault.LOOP_OPEN: ("Pressure sensor's loop opened", "Pressure sensor's loop closed again"),
    SetFault.LOOP_SHORT: ("Pressure sensor's loop shorted", "Short of the pressure sensor's loop removed"),
    SetFault.FROZEN: ("Pressure sensor frozen at its reading", "Pressure sensor moves again"),
    SetFault.DRIFT: ("Pressure sensor begins to read less and less", "Pressure sensor set right again"),
    SetFault.BURST: ("The line bursts", "The line is mended"),
    SetFault.LEAK: ("The closed line leaks far more than it did", "The leak of the line is mended"),
    SetFault.AIR: ("A pocket of air is caught in the line", "The line is free of air"),
    SetFault.DRY: ("The source runs empty", "The source has water again"),
    SetFault.SOURCE_WIRE: ("A wire of the source's sensor or switch is off", "The wire of the source is back"),
    SetFault.DENSITY: ("A heavier liquid is in the line than was surveyed", "The liquid is as surveyed"),
}
_TANK_FAULTS = {
    TankFault.STUCK_OPEN: ("its valve sticks open", "its valve moves again"), TankFault.STUCK_SHUT: ("its valve sticks shut", "its valve moves again"),
    TankFault.DRIBBLES: ("its valve never shuts quite", "its valve shuts tight"), TankFault.WIRE_OFF: ("a wire from it is off", "its wire is back"),
    TankFault.WIRE_JOINED: ("two wires from it touch", "its wires are apart again"),
}  # fmt: skip
_PUMP_FAULTS = {
    PumpFault.CHECK_VALVE: ("has a leaking check valve", "has a tight check valve again"), PumpFault.SHUT: ("stands behind a closed valve", "has its valve open again"),
    PumpFault.WORN: ("is worn: it gives an eighth less head", "has its head again"), PumpFault.BACKWARDS: ("turns the wrong way", "turns the right way again"),
    PumpFault.OVERLOAD: ("turns heavily", "runs freely again"), PumpFault.STALLED: ("is blocked: its rotor stands under voltage", "turns again"),
    PumpFault.DIAL: ("has its overload turned under its running current", "has its overload as it was"), PumpFault.DIAL_UP: ("has its overload turned far up", "has its overload as it was"),
    PumpFault.WELDED: guarding.WELDED, PumpFault.CAPACITOR: guarding.CAPACITOR, PumpFault.WINDING: guarding.WINDING,
}  # fmt: skip
_ACTS: dict[AnyAct, tuple[str, str]] = {
    Act.POWER: ("Power back", "Power lost"), Act.PATTERN: ("Users draw as on a usual day", "Users draw evenly"), Act.START: ("Start pressed", "Start pressed"),
    Act.SILENCE: ("Sounder silenced", "Sounder silenced"), Act.RESET: ("Reset pressed", "Reset pressed"),
}  # fmt: skip
_AMOUNTS: dict[AnyAct, tuple[str, str, Q]] = {  # text, the symbol in it, and its quantity; <n> the tank or source
    Act.DRAW: ("Users draw {share} of their mean", "share", Q.PERCENT), Act.SOURCE: ("Source <n> stands at {h}", "h", Q.LEVEL), Act.LEVEL: ("Tank <n> is filled or emptied to {h}", "h", Q.LEVEL),
    Act.BLEED: ("Water is let out: the closed line loses {p} a second", "p", Q.PRESSURE),
    Act.THROTTLE: ("The valve at the pumps is closed by {share}", "share", Q.PERCENT), **{turned: (text, "v", Q.PERCENT) for turned, text in guarding.TURNED.items()},
}  # fmt: skip
_STATES = {
    State.FILL: "It fills, at {p}", State.THROTTLE: "A valve throttles: {p}", State.HELD: "It holds, at {p}", State.WAIT: "The pressure has fallen to {p}: the delay counts",
    State.OFF: "Off", State.LOCKED: "Locked out",
}  # fmt: skip
_HOLDS = {Hold.SOURCE: "Source <n> is low", Hold.WIRE: "The wire to tank <n> is broken", Hold.SENSOR: "The pressure sensor has failed", Hold.HIGH: "Tank <n> stands too high"}
_LOCKS = {Lock.LONG: "Locked out: the longest run is over", Lock.BURST: "Locked out: a pump ran into an open pipe"}
_HARMS = {
    Harm.OVERFLOWS: "Tank <n> overflows", Harm.RUNS_EMPTY: "Tank <n> is empty: its users have no water", Harm.AGAINST: "Pump <n> turns against closed water: it heats up",
    Harm.DRAWS_AIR: "Pump <n> draws air: its source is under the intake", Harm.BURNS: "The winding of pump <n> is hotter than it stands: it burns", Harm.BOILS: guarding.BOILS,
    Harm.TWO_PHASES: "Pump <n> runs on two phases until its overload opens: fit a phase monitor", Harm.UNCALLED: guarding.UNCALLED, Harm.WRONG_WAY: "Pump <n> turns the wrong way: it gives half its head",
}  # fmt: skip


def _at(pressure_pa: float, symbol: str = "p") -> tuple[Term, ...]:
    return (Term(symbol, "pressure", pressure_pa, Q.PRESSURE),)


def done(action: TimedAction, act: AnyAct) -> Event:
    """What a person does."""
    on = 0 if action.value else 1
    if act in _AMOUNTS:
        text, symbol, quantity = _AMOUNTS[act]
        return Event(action.at_s, Thing.YOU, Doing.DOES, act, 0, text.replace("<n>", action.target), (Term(symbol, "", action.value, quantity),))
    if isinstance(act, SetFault):
        text = _SET_FAULTS[act][on]
    elif isinstance(act, SupplyFault):
        text = guarding.SUPPLY_FAULTS[act][on]
    elif isinstance(act, TankFault):
        text = f"Tank {action.target}: {_TANK_FAULTS[act][on]}"
    elif isinstance(act, PumpFault):
        text = f"Pump {action.target} {_PUMP_FAULTS[act][on]}"
    elif act is Act.SWITCH:
        text = f"Pump {action.target} switched to {switch_of(action.value).upper()}"
    else:
        text = _ACTS[act][on]
    pump = int(action.target) if isinstance(act, PumpFault) or act is Act.SWITCH else 0
    return Event(action.at_s, Thing.YOU, Doing.DOES if action.value or isinstance(act, Act | SupplyAct) else Doing.CLEARS, act, pump, text)


def enters(at_s: float, state: State, pressure_pa: float) -> Event:
    """The set goes into a state. [s, Pa]"""
    return Event(at_s, Thing.SET, Doing.ENTERS, state, 0, _STATES[state], _at(pressure_pa))


def held(at_s: float, hold: Hold, of: int, begins: bool, level_m: float | None) -> Event:
    """Something holds pumps back, or lets them go (of: 0 for the first tank or source). [s, m]"""
    text = _HOLDS[hold].replace("<n>", str(of + 1))
    terms = () if level_m is None else (Term("h", "level", level_m, Q.LEVEL),)
    text = f"{text}, at {{h}}" if terms else text
    return Event(at_s, Thing.LIMIT, Doing.COMES if begins else Doing.CLEARS, f"{hold}_{of + 1}", 0, text if begins else f"No longer: {text[0].lower()}{text[1:]}", terms)


def locked(at_s: float, lock: Lock) -> Event:
    """Pumps are locked out. [s]"""
    return Event(at_s, Thing.LIMIT, Doing.COMES, lock, 0, _LOCKS[lock])


def pump_moves(at_s: float, pump: int, starts: bool, pressure_pa: float) -> Event:
    """A pump, 0 for pump 1, starts or stops. [s, Pa]"""
    return Event(at_s, Thing.PUMP, Doing.STARTS if starts else Doing.STOPS, "", pump + 1, f"Pump {pump + 1} {'starts' if starts else 'stops'} at {{p}}", _at(pressure_pa))


def pump_given_up(at_s: float, pump: int, why: Trip) -> Event:
    """A pump is given up (0 is pump 1). [s]"""
    return Event(at_s, Thing.PUMP, Doing.GIVEN_UP, why, pump + 1, f"Pump {pump + 1} given up: {why}")


def turn_passes(at_s: float, pump: int) -> Event:
    """Another pump leads next (0 is pump 1). [s]"""
    return Event(at_s, Thing.TURN, Doing.PASSES, "", pump + 1, f"Turn changes: pump {pump + 1} is next")


def alarm_moves(at_s: float, cause: Cause, comes: bool, words: str) -> Event:
    """An alarm comes or clears. [s]"""
    return Event(at_s, Thing.ALARM, Doing.COMES if comes else Doing.CLEARS, cause.what, cause.pump, f"Alarm: {words}" if comes else f"Alarm clears: {words}")


def alarm_words(cause: Cause, trip: Trip | None = None, voltages: bool = False) -> str:
    """What an alarm says. trip: why a pump was given up; voltages: whether the monitor sees them too."""
    return {
        Alarm.SENSOR: "pressure sensor failed", Alarm.SOURCE: f"lack of water in source {cause.pump}", Alarm.WIRE: f"wire to tank {cause.pump} broken", Alarm.HIGH: f"tank {cause.pump} too high",
        Alarm.LOW: f"tank {cause.pump} low", Alarm.LONG: "ran too long: a valve sticks, or a pipe leaks", Alarm.BURST: "no pressure: a burst?",
        Alarm.PHASE: f"phase missing or swapped{', or the voltage off' if voltages else ''}", Alarm.PUMP: f"pump {cause.pump}: {trip}", Alarm.WAITS: f"{guarding.WAITS[0].lower()}{guarding.WAITS[1:]}",
    }[Alarm(cause.what)]  # fmt: skip


def over_rating(at_s: float, part: str, there_pa: float, rating_pa: float) -> Event:
    """More pressure at a part than it stands. part: its name. [s, Pa]"""
    return Event(at_s, Thing.HARM, Doing.COMES, Harm.OVER_RATING, 0, f"{{p}} at the {part}, over {{w}}", (*_at(there_pa), *_at(rating_pa, "w")))


def hurts(at_s: float, harm: Harm, of: int) -> Event:
    """A harm to one pump or at one tank, 0 for the first. [s]"""
    return Event(at_s, Thing.HARM, Doing.COMES, harm, of + 1, _HARMS[harm].replace("<n>", str(of + 1)))
