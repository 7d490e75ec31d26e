"""Every word that the bench of a maintenance pump says: put on last, decided by nobody."""

from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term
from goodbalance.core.control.alarms import Cause
from goodbalance.core.control.trips import Trip
from goodbalance.core.protection import wording as guarding
from goodbalance.core.protection.names import SupplyAct, SupplyFault
from goodbalance.core.rehearsal.engine import TimedAction
from goodbalance.core.rehearsal.events import Doing, Event, Thing
from goodbalance.core.stations.maintenance.names import Act, Alarm, AnyAct, Harm, PumpFault, SetFault, State
from goodbalance.core.stations.shared.acts import switch_of

_SET_FAULTS = {
    SetFault.LOOP_OPEN: ("Pressure sensor's loop opened", "Pressure sensor's loop closed again"),
    SetFault.LOOP_SHORT: ("Pressure sensor's loop shorted", "Short of the pressure sensor's loop removed"),
    SetFault.FROZEN: ("Pressure sensor frozen at its reading", "Pressure sensor moves again"),
    SetFault.DRIFT: ("Pressure sensor begins to read less and less", "Pressure sensor set right again"),
    SetFault.SENSING: ("The sensing line is shut off or blocked", "The sensing line is open again"),
    SetFault.LEAK: ("The line leaks far more than is permitted", "The leak of the line is mended"),
    SetFault.AIR: ("A pocket of air is caught in the line", "The line is free of air"),
}
_PUMP_FAULTS = {
    PumpFault.CHECK_VALVE: ("has a leaking check valve", "has a tight check valve again"), PumpFault.SHUT: ("stands behind a closed valve", "has its valve open again"),
    PumpFault.WORN: ("is worn: it gives an eighth less head", "has its head again"), PumpFault.BACKWARDS: ("turns the wrong way", "turns the right way again"),
    PumpFault.OVERLOAD: ("turns heavily", "runs freely again"), PumpFault.STALLED: ("is blocked: its rotor stands under voltage", "turns again"),
    PumpFault.DIAL: ("has its overload turned under its running current", "has its overload as it was"), PumpFault.DIAL_UP: ("has its overload turned far up", "has its overload as it was"),
    PumpFault.WELDED: guarding.WELDED, PumpFault.CAPACITOR: guarding.CAPACITOR, PumpFault.WINDING: guarding.WINDING,
}  # fmt: skip
_ACTS: dict[AnyAct, tuple[str, str]] = {
    Act.POWER: ("Power back", "Power lost"), Act.MAINS_OFF: ("Main pumps stopped by their people", "Main pumps stopped by their people"),
    Act.SILENCE: ("Sounder silenced", "Sounder silenced"), Act.RESET: ("Reset pressed", "Reset pressed"),
}  # fmt: skip
_AMOUNTS: dict[AnyAct, tuple[str, str, Q]] = {  # text, the symbol in it, and its quantity
    Act.BLEED: ("The bleed lets out {q}", "q", Q.LEAK), Act.SPRINKLERS: ("{n} sprinklers open", "n", Q.COUNT), Act.SUCTION: ("The supply stands at {p}", "p", Q.PRESSURE),
    **{turned: (text, "v", Q.PERCENT) for turned, text in guarding.TURNED.items()},
}  # fmt: skip
_STATES = {
    State.HELD: "The line holds, at {p}", State.WAIT: "The pressure has fallen to {p}: the start delay counts", State.RUNS: "It brings the line up, at {p}",
    State.LEAST: "Over its stop, at {p}: the least run holds it", State.OFF: "Off",
}  # fmt: skip
_HARMS = {
    Harm.MAIN_STARTS: "Main pump <n> starts though nothing burns: the alarm goes, the brigade comes", Harm.RELIEF: "The relief valve lets water out", Harm.AGAINST: "The pump turns against closed water: it heats up",
    Harm.BURNS: "The winding of the pump is hotter than it stands: it burns", Harm.BOILS: guarding.BOILS, Harm.TWO_PHASES: "The pump runs on two phases until its overload opens: fit a phase monitor",
    Harm.UNCALLED: guarding.UNCALLED, Harm.WRONG_WAY: "The pump turns the wrong way: it gives half its head", Harm.UNKEPT: "The line stands under the start and nothing brings it up: the next sag starts the main pump",
}  # fmt: skip


def _at(pressure_pa: float, symbol: str = "p") -> tuple[Term, ...]:
    return (Term(symbol, "pressure", pressure_pa, Q.PRESSURE),)


def done(action: TimedAction, act: AnyAct) -> Event:
    """What a person does."""
    on = 0 if action.value else 1
    if act in _AMOUNTS:
        text, symbol, quantity = _AMOUNTS[act]
        return Event(action.at_s, Thing.YOU, Doing.DOES, act, 0, text, (Term(symbol, "", action.value, quantity),))
    if isinstance(act, SetFault):
        text = _SET_FAULTS[act][on]
    elif isinstance(act, SupplyFault):
        text = guarding.SUPPLY_FAULTS[act][on]
    elif isinstance(act, PumpFault):
        text = f"The pump {_PUMP_FAULTS[act][on]}"
    elif act is Act.SWITCH:
        text = f"The pump switched to {switch_of(action.value).upper()}"
    else:
        text = _ACTS[act][on]
    pump = 1 if isinstance(act, PumpFault) or act is Act.SWITCH else 0
    return Event(action.at_s, Thing.YOU, Doing.DOES if action.value or isinstance(act, Act | SupplyAct) else Doing.CLEARS, act, pump, text)


def enters(at_s: float, state: State, pressure_pa: float) -> Event:
    """It goes into a state. [s, Pa]"""
    return Event(at_s, Thing.SET, Doing.ENTERS, state, 0, _STATES[state], _at(pressure_pa))


def pump_moves(at_s: float, starts: bool, pressure_pa: float) -> Event:
    """The maintenance pump starts or stops. [s, Pa]"""
    return Event(at_s, Thing.PUMP, Doing.STARTS if starts else Doing.STOPS, "", 1, f"The pump {'starts' if starts else 'stops'} at {{p}}", _at(pressure_pa))


def main_moves(at_s: float, main: int, starts: bool, pressure_pa: float) -> Event:
    """A main pump, 0 for the first, starts for a fire, or its people stopped it. [s, Pa]"""
    text = f"Main pump {main + 1} starts at {{p}}: a sprinkler is open" if starts else f"Main pump {main + 1} stands again"
    return Event(at_s, Thing.LIMIT, Doing.COMES if starts else Doing.CLEARS, f"main_{main + 1}", 0, text, _at(pressure_pa))


def given_up(at_s: float, trip: Trip) -> Event:
    """It is given up. [s]"""
    return Event(at_s, Thing.PUMP, Doing.GIVEN_UP, trip, 1, f"The pump is given up: {trip}")


def alarm_moves(at_s: float, cause: Cause, comes: bool, words: str) -> Event:
    """An alarm comes or clears. [s]"""
    return Event(at_s, Thing.ALARM, Doing.COMES if comes else Doing.CLEARS, cause.what, cause.pump, f"Alarm: {words}" if comes else f"Alarm clears: {words}")


def alarm_words(cause: Cause, trip: Trip | None = None, voltages: bool = False) -> str:
    """What an alarm says. trip: why the pump was given up; voltages: whether the monitor sees them too."""
    return {
        Alarm.SENSOR: "pressure sensor failed", Alarm.LONG: "runs too long: more leaks than is permitted, or the pump is worn", Alarm.NOT_AUTO: "not in AUTO",
        Alarm.PHASE: f"phase missing or swapped{', or the voltage off' if voltages else ''}", Alarm.PUMP: f"the pump: {trip}", Alarm.WAITS: f"{guarding.WAITS[0].lower()}{guarding.WAITS[1:]}",
    }[Alarm(cause.what)]  # fmt: skip


def over_rating(at_s: float, part: str, there_pa: float, rating_pa: float) -> Event:
    """More pressure at a part than it stands. part: its name. [s, Pa]"""
    return Event(at_s, Thing.HARM, Doing.COMES, Harm.OVER_RATING, 0, f"{{p}} at the {part}, over {{w}}", (*_at(there_pa), *_at(rating_pa, "w")))


def hurts(at_s: float, harm: Harm, of: int) -> Event:
    """A harm to the pump, or by a main pump, 0 for the first. [s]"""
    return Event(at_s, Thing.HARM, Doing.COMES, harm, of + 1, _HARMS[harm].replace("<n>", str(of + 1)).replace("pump 1", "the pump") if harm is not Harm.MAIN_STARTS else _HARMS[harm].replace("<n>", str(of + 1)))
