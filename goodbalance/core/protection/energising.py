"""First energising and return to service: steps ordered by hazard, pump by pump, each noted by whoever made it.

The order is that of the hazard: water first, then everything dead, then closed covers, then voltage without motion, then motion.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from enum import StrEnum

from goodbalance.core.balance.asked_number import AskedNumber
from goodbalance.core.balance.facts import Facts
from goodbalance.core.balance.plan import Finding, Severity
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term
from goodbalance.core.protection.duty import MotorDuty
from goodbalance.core.protection.plate import Phases, Plate
from goodbalance.core.protection.readings import OFF_VOLTAGE, UNEVEN_VOLTAGE, VERY_UNEVEN_VOLTAGE, unbalance

LEAST_INSULATION_MOHM, MOST_EARTH_OHM = 1.0, 1.0  # defaults of ours: the maker's and the local rule come first
SAGS = 0.05  # of the voltage at rest, under the load of a motor: more is a weak supply or a bad joint


class Must(StrEnum):
    """How the station must be while a step is made."""

    WET = "wet"
    DEAD = "dead"
    CLOSED = "closed"
    STILL = "still"
    RUNS = "runs"
    DONE = "done"


MUST: dict[Must, str] = {
    Must.WET: "Switches OFF, isolated and locked; valves are moved by hand",
    Must.DEAD: "Dead: isolated, locked, proved dead at the terminals, the drives' charge waited out",
    Must.CLOSED: "Covers on and screwed, people out of the well and off the shafts; the lock is taken off now",
    Must.STILL: "Live, every switch OFF: nothing may move",
    Must.RUNS: "Live; a pump turns in HAND, somebody at its switch",
    Must.DONE: "Live, ready to work by itself: it starts without warning",
}


class Does(StrEnum):
    """Which step."""

    TOLD = "told"
    WATER = "water"
    TERMINALS = "terminals"
    INSULATION = "insulation"
    GUARDS = "guards"
    PANEL = "panel"
    COVERS = "covers"
    SUPPLY = "supply"
    STILL = "still"
    LEAKAGE = "leakage"
    ROTATION = "rotation"
    SWAP = "swap"
    LOADED = "loaded"
    CURRENTS = "currents"
    JUMPERS = "jumpers"
    RESTORED = "restored"
    ACCESS = "access"
    AUTO = "auto"
    TOLD_AGAIN = "again"


@dataclass(frozen=True, slots=True)
class Step:
    """One step: of a pump (1 for pump 1) or of the station (0). asks: numbers that are read in it, by name, each with its label."""

    does: Does
    pump: int
    must: Must
    title: str
    do: str
    see: str
    cautions: tuple[str, ...] = ()
    asks: tuple[tuple[str, AskedNumber], ...] = ()

    @property
    def id(self) -> str:
        """Its name in the record."""
        return f"{self.does}.{self.pump}" if self.pump else str(self.does)


class Made(Facts):
    """What somebody noted of a step: as it must be, or not; the numbers that were read; why it was made out of order, where it was."""

    step: str
    good: bool
    numbers: dict[str, float] = {}
    why_now: str = ""


def _volts(phases: Phases) -> tuple[tuple[str, AskedNumber], ...]:
    names = ("L1 to L2", "L2 to L3", "L3 to L1") if phases is Phases.THREE else ("L to N",)
    return tuple((f"volts_{place}", AskedNumber(label=f"Voltage {name}", quantity=Q.VOLTAGE, low=0.0, high=20_000.0)) for place, name in enumerate(names, 1))


INSULATION = ("insulation", AskedNumber(label="Insulation to earth, megohms", quantity=Q.RATIO, low=0.0, high=1e6))
EARTH = ("earth", AskedNumber(label="Earth wire, panel to motor, ohms", quantity=Q.RATIO, low=0.0, high=1e6))


def steps(duties: Sequence[MotorDuty], water: str, guards: str, floats: bool, leakage: bool, told: tuple[str, str] | None = None) -> tuple[Step, ...]:
    """Every step in its order. water: what the water side needs first; guards: the provisional stops with their numbers; floats: whether any hang.

    leakage: whether an earth leakage protection is fitted; told: who must be told before anything, and again once all is done, where somebody must.
    """
    found = tuple(_steps({pump: duty for duty in duties for pump in duty.pumps}, water, guards, floats, leakage))
    if told is None:
        return found
    first = Step(Does.TOLD, 0, Must.WET, "Who must know is told", told[0], "Name, time and answer stand in the remark.", ("Nothing is opened, bled or switched before.",))
    return (first, *found, Step(Does.TOLD_AGAIN, 0, Must.DONE, "Who was told is told again", told[1], "Name, time and answer stand in the remark; no signal stands."))


def _steps(of: dict[int, MotorDuty], water: str, guards: str, floats: bool, leakage: bool) -> Iterator[Step]:
    pumps, driven = sorted(of), any(duty.driven for duty in of.values())
    plate = of[pumps[0]].plate
    yield Step(Does.WATER, 0, Must.WET, "The water side is ready", water, "Water stands where it must, no air is left, nothing leaks.", ("Stored pressure and gas: no entry into a well without permit, gas test and attendant.",))
    yield Step(Does.TERMINALS, 0, Must.DEAD, "Connections, terminals and dials", "Walk the wiring; pull at every wire; compare plates, overload dials and fuses; look for tools and swarf.", "Everything sits tight and as drawn.", ("A drive keeps its charge for minutes: wait, then prove dead.",))
    for pump in pumps:
        yield _insulation(pump, of[pump].driven)
    yield Step(Does.GUARDS, 0, Must.DEAD, "Provisional stops are in force", f"Set before anything runs: {guards}.", "Each stands as written here; none is bridged.", ("A stop that is bridged for the first run is the one that is missed.",))
    if floats:
        yield Step(Does.PANEL, 0, Must.DEAD, "Floats down, switches OFF", "Let every float hang down and turn every switch to OFF before the controller is programmed.", "No float is up, every switch stands at OFF.")
    yield Step(Does.COVERS, 0, Must.CLOSED, "Covers on, people clear", "Close terminal boxes, couplings and the panel; count people and tools; say aloud that it goes live; take the lock off.", "Nobody is in reach of anything that moves.")
    text = "Switch the supply on. Measure every voltage at the incoming terminals" + (" and the sequence with a phase meter." if plate.phases is Phases.THREE else ".")
    yield Step(Does.SUPPLY, 0, Must.STILL, "Supply voltages at rest" + (" and sequence" if plate.phases is Phases.THREE else ""), text, "Within a tenth of the plate, even, and in the right sequence.", ("Live panel: licensed people, one hand, meter and gloves for the voltage.",), _volts(plate.phases))
    yield Step(Does.STILL, 0, Must.STILL, "Nothing moves in OFF", "Look at every pump, contactor and valve for a minute with all switches in OFF.", "Nothing runs, hums or trips.", ("What moves now moves without being asked: off, isolate, find it first.",))
    if leakage:
        yield Step(Does.LEAKAGE, 0, Must.STILL, "The earth leakage protection trips", "Press its test button, then close it again.", "It opens at once, and all behind it is dead.", ("The button shows that it opens, not at which current or how soon: that takes a tester in licensed hands.",))
    for pump in pumps:
        yield from _first_run(pump, of[pump])
    yield Step(Does.JUMPERS, 0, Must.DEAD, "Jumpers out, temporary values back", "Isolated again, take out every jumper; set back every value that was lowered or raised for a proof. Covers on, lock off.", "Nothing is left in the list of what was put in.", ("A drive keeps its charge for minutes: wait, then prove dead.",))
    yield Step(Does.RESTORED, 0, Must.DONE, "Clock right, stored, read back", "Set the clock of every controller, store, switch off and on where it needs that, read the numbers again.", "They are what the sheet says.")
    yield Step(Does.ACCESS, 0, Must.DONE, "Codes changed, covers on", "Change the access codes that came from the maker and hand them over outside this record; close every cover.", "No code of the maker opens it.")
    tail = " Drives are in their automatic mode." if driven else ""
    yield Step(Does.AUTO, 0, Must.DONE, "Every switch in AUTO", f"Turn every switch to AUTO and watch one whole cycle.{tail}", "It starts and stops by itself as rehearsed.", ("From here on pumps start without warning.",))


def _insulation(pump: int, driven: bool) -> Step:
    apart = " The drive and all electronics are disconnected at both ends: the tester's voltage destroys them." if driven else " Electronics in the starter are disconnected."
    return Step(
        Does.INSULATION, pump, Must.DEAD, f"Insulation and earth of pump {pump}", f"Motor leads off at the panel.{apart} Measure each lead to earth, then the earth wire; connect again.",
        f"At least {LEAST_INSULATION_MOHM:g} megohm and at most {MOST_EARTH_OHM:g} ohm, or as the maker and the local rule say.", ("The tester's voltage stays on a cable: discharge it before you touch.",), (INSULATION, EARTH),
    )  # fmt: skip


def _first_run(pump: int, duty: MotorDuty) -> Iterator[Step]:
    if duty.plate.phases is Phases.THREE:
        yield Step(
            Does.ROTATION, pump, Must.RUNS, f"Rotation of pump {pump} by a bump", "HAND for half a second, then OFF. Look at shaft or fan; where nothing can be seen, at the kick of the casing or the pressure against a closed valve.",
            "It turns as its arrow says.", ("Nobody in reach of the shaft, the hose or the outlet.", "Wrong: OFF. The leads are swapped dead, never under voltage."),
        )  # fmt: skip
        side = "the drive's output, never at its input: a drive turns its motor whatever the mains' sequence is" if duty.driven else "the load side of the starter"
        yield Step(
            Does.SWAP, pump, Must.DEAD, f"Two motor leads of pump {pump} swapped", f"Isolate, lock, prove dead. Swap two leads at {side}. Covers on, lock off.", "Two leads have changed places, nothing else.", ("A drive keeps its charge for minutes: wait, then prove dead.",),
        )  # fmt: skip
    yield Step(
        Does.LOADED, pump, Must.RUNS, f"Supply under the load of pump {pump}", "Run it in HAND on water and measure the voltages at the incoming terminals.", f"No more than {SAGS:.0%} under those at rest.", ("Nothing but its guards stops a pump in HAND: stay beside it.",), _volts(duty.plate.phases),
    )  # fmt: skip
    meter = "the drive's own reading, or a true RMS clamp" if duty.driven else "a clamp meter, lead by lead"
    yield Step(
        Does.CURRENTS, pump, Must.RUNS, f"Currents of pump {pump}", f"In HAND on water read every lead with {meter}, and note them under Motor readings.", "Even, and not over the plate.", ("Nothing but its guards stops a pump in HAND: stay beside it.",),
    )  # fmt: skip


class State(StrEnum):
    """How a step stands."""

    GOOD = "good"
    WRONG = "wrong"
    OPEN = "open"
    NOT_NEEDED = "not_needed"


def states(listed: Sequence[Step], made: Sequence[Made]) -> dict[str, State]:
    """How each step stands after what was noted, the oldest first. Leads that were swapped open the rotation again; a right rotation needs no swap."""
    found = {step.id: State.NOT_NEEDED if step.does is Does.SWAP else State.OPEN for step in listed}
    for each in made:
        if each.step not in found:
            continue
        found[each.step] = State.GOOD if each.good else State.WRONG
        does, _, pump = each.step.partition(".")
        if does == Does.ROTATION:
            found[f"{Does.SWAP}.{pump}"] = State.NOT_NEEDED if each.good else State.OPEN
        if does == Does.SWAP and each.good:
            found[f"{Does.ROTATION}.{pump}"] = State.OPEN
    return found


def before(listed: Sequence[Step], now: dict[str, State], step: Step) -> tuple[Step, ...]:
    """The steps that should be good before this one is made and are not: those before it, of the station and of its own pump.

    A swap comes before the bump that proves it, whatever its place in the list.
    """
    place = listed.index(step)
    mine = [each for each in listed[:place] if each.pump in (0, step.pump)] if step.pump else list(listed[:place])
    if step.does is Does.SWAP:
        mine = [each for each in mine if each.does is not Does.ROTATION]
    if step.does is Does.ROTATION:
        mine += [each for each in listed if each.does is Does.SWAP and each.pump == step.pump]
    return tuple(each for each in mine if now[each.id] not in (State.GOOD, State.NOT_NEEDED))


def remarks(step: Step, plate: Plate, numbers: dict[str, float], at_rest: dict[str, float]) -> list[Finding]:
    """What is odd about what was read in a step. at_rest: what was read of the supply before anything ran."""
    return list(_remarks(step, plate, numbers, at_rest))


def _remarks(step: Step, plate: Plate, numbers: dict[str, float], at_rest: dict[str, float]) -> Iterator[Finding]:
    volts = [value for name, value in numbers.items() if name.startswith("volts_")]
    share = unbalance(volts) if len(volts) == 3 else 0.0
    if share > UNEVEN_VOLTAGE:
        heavy = share > VERY_UNEVEN_VOLTAGE
        text = "The phases differ by {u}: " + ("do not run a motor on them." if heavy else "the motor must be loaded less, as its maker says.")
        yield Finding("uneven_supply", Severity.STOP if heavy else Severity.CAUTION, step.id, text, (Term("u", "unbalance", share, Q.PERCENT),))
    worst_v = max(volts, key=lambda value: abs(value - plate.voltage_v), default=plate.voltage_v)
    if abs(worst_v / plate.voltage_v - 1.0) > OFF_VOLTAGE + 1e-9:
        terms = Term("v", "read", worst_v, Q.VOLTAGE), Term("n", "plate", plate.voltage_v, Q.VOLTAGE)
        yield Finding("off_voltage", Severity.STOP, step.id, "{v} is more than a tenth off the plate's {n}: the maker says what the motor stands.", terms)
    rest_v = [value for name, value in at_rest.items() if name.startswith("volts_")]
    if step.does is Does.LOADED and volts and len(rest_v) == len(volts):
        sags = 1.0 - (sum(volts) / len(volts)) / (sum(rest_v) / len(rest_v)) if sum(rest_v) > 0.0 else 0.0
        if sags > SAGS:
            text = "Under load the supply sags by {s}: a weak supply, a long cable or a bad joint. A joint that sags gets hot."
            yield Finding("sags", Severity.CAUTION, step.id, text, (Term("s", "sag", sags, Q.PERCENT),))
    if numbers.get("insulation", LEAST_INSULATION_MOHM) < LEAST_INSULATION_MOHM:
        text = "{r} megohm to earth is less than {m}: water in cable, joint or winding. Not switched on before it is found; the maker's and the local rule come first."
        yield Finding("insulation", Severity.STOP, step.id, text, (Term("r", "read", numbers["insulation"], Q.RATIO), Term("m", "least", LEAST_INSULATION_MOHM, Q.RATIO)))
    if numbers.get("earth", 0.0) > MOST_EARTH_OHM:
        text = "{r} ohm from panel to motor: the earth wire does not carry a fault away. Not switched on before it does."
        yield Finding("earth", Severity.STOP, step.id, text, (Term("r", "read", numbers["earth"], Q.RATIO),))
