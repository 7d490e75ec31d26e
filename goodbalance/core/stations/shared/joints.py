"""Wires that several kinds of station have: supplies, motors, sensor loops, contacts, links between devices.

What is looked at dead and live follows from Ohm's law and the nameplate; local codes and the makers' drawings come first.
"""

from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term
from goodbalance.core.physics.signals import WORST_LOOP_A, Scaling, SignalRange
from goodbalance.core.sheets.wiring import Joint, Look
from goodbalance.core.stations.shared.facts import LoopBudget

EARTH_OHM = 1.0  # the most that an earth wire may have to the panel's bar
INSULATION_MOHM = 1.0  # the least a winding may have to earth
VOLTAGE_SHARE = 0.10  # how far the supply may be off the nameplate
TERMINATED_OHM = 60.0  # a pair with 120 ohm at each of its two ends
LEADS = ("U", "V", "W", "PE")

DEAD_SUPPLY = Look("Switched off, locked and proved dead: no voltage between any two of them and to earth.")
EARTHED = Look("The earth wire to the panel's bar: {r} or less.", (Term("r", "", EARTH_OHM, Q.RESISTANCE),))
DRY_CONTACT = Look("Both wires end to end: continuity in each, none from one to the other but through the contact, none to earth.")


def supply() -> Joint:
    """What feeds a device itself."""
    live = Look("The voltage its own label asks for, within what the label allows; its display comes up.")
    return Joint(
        "supply", "Supply of the device", "its own fuse or breaker", ("L", "N", "PE"), (DEAD_SUPPLY, EARTHED), (live,),
        "The device is dead: pumps stop, and alarm relays that are energised in alarm stay silent.", of_device=True,
    )  # fmt: skip


def mains(pump: int, voltage_v: float, one_phase: bool) -> Joint:
    """What feeds a drive or starter."""
    pairs = "Between both of them" if one_phase else "Between every two of the three"
    terms = _voltage(voltage_v)
    live = Look(f"{pairs} {{low}} to {{high}}: the motor's {{v}} and a tenth either way. Pump in OFF.", terms)
    return Joint(
        f"mains.{pump}", f"Supply of pump {pump}", f"the isolator or starter of pump {pump}", ("L", "N", "PE") if one_phase else ("L1", "L2", "L3", "PE"),
        (DEAD_SUPPLY, EARTHED), (live,), "This pump does not run; a lost phase alone burns its motor unless something sees it.",
    )  # fmt: skip


def _voltage(voltage_v: float) -> tuple[Term, ...]:
    return (
        Term("v", "", voltage_v, Q.VOLTAGE), Term("low", "", voltage_v * (1.0 - VOLTAGE_SHARE), Q.VOLTAGE),
        Term("high", "", voltage_v * (1.0 + VOLTAGE_SHARE), Q.VOLTAGE),
    )  # fmt: skip


def motor(pump: int, current_a: float, one_phase: bool, driven: bool) -> Joint:
    """The leads of a motor."""
    alike = "The winding has continuity" if one_phase else "Between every two leads the same resistance"
    apart = "with the drive's leads off and all electronics disconnected" if driven else "with its leads off"
    dead = Look(f"{alike}; to earth {INSULATION_MOHM:g} megohm or more, measured {apart}. The maker's number counts where it is higher.")
    live = Look(
        f"A short bump in HAND: it turns by its arrow{'' if one_phase else '; wrong: isolate, prove dead, swap two leads on the load side, bump again'}. "
        "Running, no more than its nameplate's {a} in any lead.",
        (Term("a", "", current_a, Q.CURRENT),),
    )  # fmt: skip
    broken = "The motor does not start." if one_phase else "The motor hums on two phases and burns unless its overload or a phase monitor stops it."
    return Joint(
        f"motor.{pump}", f"Motor of pump {pump}", f"the motor of pump {pump}", ("L", "N", "PE") if one_phase else LEADS,
        (dead, EARTHED), (live,), broken,
    )  # fmt: skip


def loop(
    meaning: str, title: str, to: str, signal: SignalRange, scaling: Scaling, quantity: Q, at: tuple[tuple[str, float], ...],
    budget: LoopBudget, broken: str, safety: bool = False,
) -> Joint:  # fmt: skip
    """A sensor's loop. at: names and values at which the signal is told. Source of the budget: V - 0.022 A (R_input + R_cable),
    with a second input in series the sum of both."""
    by_current = signal.quantity is Q.LOOP_CURRENT
    cores = ("+ supply", "- signal") if by_current else ("+ supply", "signal", "0 V")
    dead = Look(
        "Loop off at both ends: continuity core by core; none from core to core, to the shield or to earth. Plus to plus: "
        "turned round it reads nothing, or for ever full. The shield is earthed at one end only."
    )
    told, terms = [], []
    for number, (name, value) in enumerate(at):
        told.append(f"{{s{number}}} at {{v{number}}}, {name}")
        terms += [Term(f"s{number}", "", signal.healthy(scaling.signal(value)), signal.quantity), Term(f"v{number}", "", value, quantity)]
    live = [Look(("A meter in the loop reads " if by_current else "Between signal and 0 V a meter reads ") + "; ".join(told) + ".", tuple(terms))]
    if by_current:
        live.append(_budget(budget))
    if by_current and budget.second_ohm is not None:
        live.append(Look("The second input reads the same at the same moment: its - goes on to this one's +, never beside it. Nothing of the two shares a ground that shorts one out."))
        broken += " The second input looped in goes with it; its own plug pulled does the same here."
    return Joint(meaning, title, to, cores, (dead,), tuple(live), broken, safety)


def _budget(budget: LoopBudget) -> Look:
    """What the loop's supply leaves for the transmitter."""
    left_v, least_v = budget.left_v, budget.least_v
    if left_v is None or least_v is None:
        return Look(
            "At the transmitter, while it gives its most, at least the voltage its maker asks: the supply less {a} times the input and the cable. "
            "Note the three in the survey, and it is worked out.", (Term("a", "", WORST_LOOP_A, Q.LOOP_CURRENT),),
        )  # fmt: skip
    enough = "enough" if left_v >= least_v else "NOT enough"
    terms = (
        Term("s", "", budget.supply_v or 0.0, Q.SIGNAL_VOLTAGE), Term("r", "", budget.whole_ohm or 0.0, Q.RESISTANCE), Term("a", "", WORST_LOOP_A, Q.LOOP_CURRENT),
        Term("l", "", left_v, Q.SIGNAL_VOLTAGE), Term("n", "", least_v, Q.SIGNAL_VOLTAGE),
    )  # fmt: skip
    both = "" if budget.second_ohm is None else ", both inputs and the cable,"
    return Look(f"At {{a}} the supply's {{s}} less what {{r}}{both} take leave {{l}} at the transmitter; it needs {{n}}: {enough}.", terms)


def permits(meaning: str, title: str, to: str, when: str, broken: str, safety: bool = True) -> Joint:
    """A contact that is closed while all is well: a broken wire or a pulled plug does what the contact does when it opens."""
    live = Look(f"Closed {when}. Open it at its own end: what it stops, stops. No jumper sits across it.")
    return Joint(meaning, title, to, ("", ""), (DRY_CONTACT, Look("No jumper across it; continuity " + when + ".")), (live,), broken, safety)


def guard(meaning: str, title: str, to: str, when: str, broken: str, closed: bool) -> Joint:
    """A contact that lets pumps run in one of its states. closed: in which; broken: what a broken wire does where it is closed."""
    if closed:
        return permits(meaning, title, to, when, broken)
    live = Look(f"Open {when}, closed otherwise. Close it at its own end: what it stops, stops.")
    return Joint(meaning, title, to, ("", ""), (DRY_CONTACT,), (live,), "Nothing notices: pumps run on as if all were well. Have it built the other way round where that is possible.")


def tells(meaning: str, title: str, to: str, when: str, broken: str) -> Joint:
    """A contact that closes to tell something."""
    live = Look(f"Open now, and closed {when}: close it at its own end, and what it tells is seen.")
    return Joint(meaning, title, to, ("", ""), (DRY_CONTACT,), (live,), broken)


def phase_monitor() -> Joint:
    """The contact of a phase monitor."""
    return permits(
        "contact.phase", "Phase monitor", "the monitor's contact", "while all phases are there, in order",
        "Every pump stops, as with a lost phase: safe.",
    )  # fmt: skip


def winding(number: int) -> Joint:
    """The contacts or thermistors in a motor's winding."""
    return permits(
        f"winding.{number}", f"Contacts in the winding of pump {number}", f"the two thin cores from the motor of pump {number}", "while the winding is cool",
        "The pump stops and waits for a person, as with a hot winding: safe.",
    )  # fmt: skip


def link(devices: str) -> Joint:
    """The serial link between devices."""
    dead = Look(
        "A to A and B to B, the shield earthed once; with everything off {r} from A to B: 120 ohm at the two ends, and at no other.",
        (Term("r", "", TERMINATED_OHM, Q.RESISTANCE),),
    )  # fmt: skip
    live = Look("Every one of them sees the others: each has an address of its own.")
    return Joint("link.drives", f"Link between {devices}", "the next one, and on", ("A", "B", "shield"), (dead,), (live,), f"The {devices} lose sight of each other: who leads, and whether anybody runs, is undecided.")
