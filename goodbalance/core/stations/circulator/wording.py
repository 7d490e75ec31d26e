"""Every word that the bench of a ring says: put on last, decided by nobody."""

from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term
from goodbalance.core.control.alarms import Cause
from goodbalance.core.rehearsal.engine import TimedAction
from goodbalance.core.rehearsal.events import Doing, Event, Thing
from goodbalance.core.stations.circulator.names import (
    Act,
    Alarm,
    AnyAct,
    BranchFault,
    Harm,
    PumpFault,
    RingFault,
    State,
)
from goodbalance.core.stations.shared.acts import switch_of

_RING_FAULTS = {
    RingFault.AIR: ("Air is caught in the pump", "The pump is vented again"), RingFault.BACKFLOW: ("The check valve is missing or hangs open", "The check valve holds again"),
    RingFault.WEAK_HEATER: ("The heat gives only a twentieth", "The heat gives all again"), RingFault.CLOCK_LOST: ("The clock's reserve is dead", "The clock's reserve is renewed"),
    RingFault.TWELVE_HOURS: ("The clock is set twelve hours wrong", "The clock is set right"), RingFault.SENSOR: ("The sensor at the return is dead", "The sensor at the return reads again"),
    RingFault.TWO_CONTROLS: ("A second timer in its supply is off from six to noon", "The second timer is taken out"), RingFault.CREEP: ("The return is shut off from the mixing valve", "The return goes to the mixing valve again"),
}  # fmt: skip
_PUMP_FAULTS = {
    PumpFault.BACKWARDS: ("The pump is mounted backwards", "The pump is mounted the right way"), PumpFault.STUCK: ("The rotor is held fast", "The rotor turns again"),
    PumpFault.WORN: ("The pump has lost four tenths of its head", "The pump has its head again"),
}  # fmt: skip
_AMOUNTS: dict[AnyAct, tuple[str, str, Q]] = {
    Act.TAP: ("Tap {n} gives {q}", "q", Q.LEAK), Act.COLD_TAP: ("The cold tap {n} gives {q}", "q", Q.LEAK), Act.VALVE: ("The valve of branch {n} stands {q} turns open", "q", Q.RATIO),
    Act.EMITTERS: ("The valves of the heaters stand {q} open", "q", Q.PERCENT),
}  # fmt: skip
_ACTS: dict[AnyAct, tuple[str, str]] = {
    Act.POWER: ("Power back", "Power lost"), Act.SET_CLOCK: ("The clock is set to the time", "The clock is set to the time"), Act.OUTSIDE: ("The outside contact closes", "The outside contact opens"),
    Act.PATTERN: ("People draw as they usually do", "Nobody draws by habit any more"), Act.BUTTON: ("The button is pushed", "The button is pushed"), Act.SILENCE: ("Sounder silenced", "Sounder silenced"), Act.RESET: ("Reset pressed", "Reset pressed"),
}  # fmt: skip
STATES = {State.RUNS: "It runs", State.RESTS: "It rests", State.KICK: "It turns for a moment, so that it does not seize", State.OFF: "Off"}
ALARMS = {Alarm.NO_FLOW: "it is told to run and moves no water", Alarm.SENSOR: "sensor at the return failed", Alarm.CLOCK: "clock not set: the supply was away", Alarm.NOT_AUTO: "not in AUTO"}
_HARMS = {
    Harm.DRY: "The pump runs in air: its bearings run dry", Harm.UNLIT: "The heater is out: too little flows through it, and the ring cools", Harm.CROSSES: "Cold water comes up the return into the tap: no check valve holds it",
}  # fmt: skip


def _warm(symbol: str, value: float) -> Term:
    return Term(symbol, "", value, Q.TEMPERATURE)


def done(action: TimedAction, act: AnyAct) -> Event:
    """What a person does."""
    on = 0 if action.value else 1
    if act in _AMOUNTS:
        text, symbol, quantity = _AMOUNTS[act]
        return Event(action.at_s, Thing.YOU, Doing.DOES, act, 0, text.replace("{n}", action.target), (Term(symbol, "", action.value, quantity),))
    if isinstance(act, RingFault):
        text = _RING_FAULTS[act][on]
    elif isinstance(act, PumpFault):
        text = _PUMP_FAULTS[act][on]
    elif isinstance(act, BranchFault):
        text = f"The valve of branch {action.target} is {'shut' if action.value else 'open again'}"
    elif act is Act.SWITCH:
        text = f"The pump switched to {switch_of(action.value).upper()}"
    else:
        text = _ACTS[act][on]
    return Event(action.at_s, Thing.YOU, Doing.DOES if action.value or isinstance(act, Act) else Doing.CLEARS, act, 1 if act is Act.SWITCH else 0, text)


def enters(at_s: float, state: State) -> Event:
    """It goes into a state. [s]"""
    return Event(at_s, Thing.SET, Doing.ENTERS, state, 0, STATES[state])


def pump_moves(at_s: float, starts: bool, back_c: float) -> Event:
    """The pump starts or stops. [s]"""
    return Event(at_s, Thing.PUMP, Doing.STARTS if starts else Doing.STOPS, "", 1, f"The pump {'starts' if starts else 'stops'}, the return at {{t}}", (_warm("t", back_c),))


def tap_hot(at_s: float, tap: int, after_s: float, tap_c: float) -> Event:
    """An opened tap has become hot. tap: 1 for the first. [s]"""
    return Event(at_s, Thing.CONTACT, Doing.PASSES, f"tap_{tap}", 0, f"Tap {tap} is hot after {{w}}, at {{t}}", (Term("w", "", after_s, Q.TIME), _warm("t", tap_c)))


def cold_cool(at_s: float, tap: int, after_s: float) -> Event:
    """An opened cold tap runs cold. [s]"""
    return Event(at_s, Thing.CONTACT, Doing.PASSES, f"cold_{tap}", 0, f"The cold tap {tap} runs cold after {{w}}", (Term("w", "", after_s, Q.TIME),))


def alarm_moves(at_s: float, cause: Cause, comes: bool, words: str) -> Event:
    """An alarm comes or clears. [s]"""
    return Event(at_s, Thing.ALARM, Doing.COMES if comes else Doing.CLEARS, cause.what, 0, f"Alarm: {words}" if comes else f"Alarm clears: {words}")


def hurts(at_s: float, harm: Harm, of: int, value: float, limit: float) -> Event:
    """A harm. of: the branch, 1 for the first, 0 where it is about the ring; value, limit: what it stands at, and what is allowed."""
    if harm in _HARMS:
        return Event(at_s, Thing.HARM, Doing.COMES, harm, of, _HARMS[harm])
    texts: dict[Harm, tuple[str, Q]] = {
        Harm.COOL: (f"Branch {of} ends at {{v}} while it runs; {{l}} is asked: bacteria grow there", Q.TEMPERATURE), Harm.STAGNANT: ("It has rested for {v}; the rule allows {l}", Q.HOURS),
        Harm.SCALD: (f"Tap {of} gives {{v}}, over {{l}}: somebody is scalded", Q.TEMPERATURE), Harm.WARM_COLD: (f"The cold tap {of} still runs at {{v}}; {{l}} is the limit", Q.TEMPERATURE),
        Harm.FAST: ("Water runs at {v}, over {l}: it wears the pipe away", Q.VELOCITY), Harm.HOT_RETURN: ("Water comes back at {v}; the source wants at most {l}", Q.TEMPERATURE),
    }  # fmt: skip
    text, quantity = texts[harm]
    return Event(at_s, Thing.HARM, Doing.COMES, harm, of, text, (Term("v", "", value, quantity), Term("l", "", limit, quantity)))
