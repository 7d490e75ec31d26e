"""Old floats replaced by relays: which relay takes which float's wires, and what the panel sees at every level.

Where a contact closes and opens is all that the old panel sees: it cannot tell relays from floats.
"""

import math
from dataclasses import dataclass

from goodbalance.core.balance.plan import Finding, Plan, Severity
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term, Worded
from goodbalance.core.control.relays import LevelRelay
from goodbalance.core.control.rotation import Rotation
from goodbalance.core.control.sequencer import Contacts, Sequencer, Timing
from goodbalance.core.stations.lift.controller.relays_of_plan import relays_of
from goodbalance.core.stations.lift.names import STARTS, STOPS, Role
from goodbalance.core.stations.lift.survey.choices import LiftChoices
from goodbalance.core.stations.lift.survey.sensing import ControlKind
from goodbalance.core.stations.lift.survey.survey import LiftSurvey
from goodbalance.core.stations.lift.windows.float_ladder import is_alone

FLOATS = {
    Role.STOP: ("Stop float", "closed while water stands above it"),
    Role.STOP_2: ("Assist stop float", "closed while water stands above it"),
    Role.STOP_3: ("Second assist stop float", "closed while water stands above it"),
    Role.STOP_4: ("Third assist stop float", "closed while water stands above it"),
    Role.LOW_ALARM: ("Low-level alarm float", "closes when water falls below it"),
    Role.LOW_CUT_OUT: ("Low-water float", "closed while water stands above it"),
    Role.HIGH_ALARM: ("High-level alarm float", "closes when water rises to it"),
}


@dataclass(frozen=True, slots=True)
class Wire:
    """One float's pair of wires and the relay that takes them."""

    number: int
    relay: LevelRelay
    old_float: str
    old_contact: str


@dataclass(frozen=True, slots=True)
class Band(Worded):
    """What the panel sees in one band of level, or in a state without level: every relay, and how many pumps it calls."""

    text: str
    terms: tuple[Term, ...]
    closed: tuple[bool, ...]
    called: int


@dataclass(frozen=True, slots=True)
class RetrofitMap:
    """Wires, truth table going up and coming down, states without level, and where the logic turns the wrong way."""

    wires: tuple[Wire, ...]
    rising: tuple[Band, ...]
    falling: tuple[Band, ...]
    without_level: tuple[Band, ...]
    findings: tuple[Finding, ...]


def retrofit_map(
    survey: LiftSurvey, choices: LiftChoices, plan: Plan, relays: tuple[LevelRelay, ...] | None = None
) -> RetrofitMap | None:
    """The map for this plan, with relays as planned or as the controller really holds them, by their numbers.

    None where no relay takes the place of a float: by floats alone, or with a controller that runs the pumps itself.
    """
    if not replaces_floats(survey):
        return None
    relays = relays or relays_of(survey, choices, plan)
    relays = tuple(sorted(relays, key=lambda relay: relay.number))
    wires = tuple(Wire(relay.number, relay, *_old_float(relay)) for relay in relays)
    rising, falling = _ramp(relays)
    lost = tuple(relay.closes(relay.follows(False, None)) for relay in relays)
    dead = tuple(relay.closes(False) for relay in relays)
    without_level = (
        Band("controller without power", (), dead, _called(relays, dead)),
        Band("level signal lost, pumps at rest", (), lost, _called(relays, lost)),
    )
    return RetrofitMap(wires, rising, falling, without_level, tuple(_findings(relays, falling, without_level)))


def replaces_floats(survey: LiftSurvey) -> bool:
    """Whether a panel stays that gets relays in place of its floats."""
    return survey.control.kind is ControlKind.RELAYS_TO_PANEL and not is_alone(survey)


def _old_float(relay: LevelRelay) -> tuple[str, str]:
    return FLOATS.get(Role(relay.role), (f"{relay.label} float", "closes when water rises to it"))


def _ramp(relays: tuple[LevelRelay, ...]) -> tuple[tuple[Band, ...], tuple[Band, ...]]:
    """Drive the level through the middle of every band, up and down again, with the panel latching."""
    marks = sorted({level for relay in relays for level in (relay.on_m, relay.off_m) if math.isfinite(level)})
    edges = [(None, marks[0]), *zip(marks, marks[1:]), (marks[-1], None)]
    panel = Sequencer(Rotation(sum(relay.role in STARTS for relay in relays)), Timing(start_gap_s=0.0))
    states = [relay.follows(False, marks[0] - 1.0) for relay in relays]
    found: list[list[Band]] = [[], []]
    for way, bands in enumerate((edges, edges[::-1])):
        for low, high in bands:
            middle = (marks[0] - 0.001) if low is None else (marks[-1] + 0.001) if high is None else (low + high) / 2.0
            states = [relay.follows(was, middle) for relay, was in zip(relays, states)]
            closed = tuple(relay.closes(on) for relay, on in zip(relays, states))
            panel.scan(_contacts(relays, closed), 0.0)
            found[way].append(Band(*_band_name(low, high), closed, sum(panel.running)))
    return tuple(found[0]), tuple(found[1])


def _band_name(low: float | None, high: float | None) -> tuple[str, tuple[Term, ...]]:
    if low is None:
        return "below {high}", (Term("high", "upper edge", high or 0.0, Q.LEVEL),)
    if high is None:
        return "above {low}", (Term("low", "lower edge", low, Q.LEVEL),)
    return "{low} to {high}", (Term("low", "lower edge", low, Q.LEVEL), Term("high", "upper edge", high, Q.LEVEL))


def _contacts(relays: tuple[LevelRelay, ...], states: tuple[bool, ...]) -> Contacts:
    closed = {relay.role: shut for relay, shut in zip(relays, states)}
    starts = tuple(on for role, on in closed.items() if role in STARTS)
    stops = tuple(closed.get(STOPS[call], closed[Role.STOP]) for call in range(len(starts)))
    return Contacts(stops, closed.get(Role.LOW_CUT_OUT, True), starts)


def _called(relays: tuple[LevelRelay, ...], states: tuple[bool, ...]) -> int:
    """How many pumps a panel that had none latched would call."""
    contacts = _contacts(relays, states)
    if not contacts.low_water_closed:
        return 0
    return sum(start and stays for start, stays in zip(contacts.start_closed, contacts.stop_closed))


def _findings(relays: tuple[LevelRelay, ...], falling: tuple[Band, ...], without: tuple[Band, ...]) -> list[Finding]:
    found = []
    dead, lost = without
    closed = {relay.role: (on_dead, on_lost) for relay, on_dead, on_lost in zip(relays, dead.closed, lost.closed)}
    if not closed[Role.HIGH_ALARM][0]:
        text = "Without power the controller raises no high alarm. Energise the alarm relays in health (see Schools in Reckon), or give it a power-fail alarm of its own."
        found.append(Finding("silent_without_power", Severity.CAUTION, Role.HIGH_ALARM, text))
    if not closed[Role.HIGH_ALARM][1]:
        text = "With the level signal lost no alarm comes: nobody knows that the pumps are blind."
        found.append(Finding("silent_without_signal", Severity.STOP, Role.HIGH_ALARM, text))
    if dead.called:
        found.append(
            Finding(
                "runs_without_power",
                Severity.STOP,
                Role.STOP,
                "Without power at the controller a pump is called and nothing stops it.",
            )
        )
    if lost.called:
        text = "With the level signal lost a pump is called; only a separate low-level float stops it."
        found.append(Finding("runs_without_signal", Severity.CAUTION, Role.START_1, text))
    if any(relay.role in (Role.STOP, Role.LOW_CUT_OUT) and relay.energises_on_rise is relay.normally_closed for relay in relays):
        found.append(
            Finding(
                "stop_turned",
                Severity.STOP,
                Role.STOP,
                "A stop or low-water relay works the wrong way round: it closes when the level falls, and pumps run dry.",
            )
        )
    if falling[-1].called:
        found.append(
            Finding("never_stops", Severity.STOP, Role.STOP, "Drawn right down, a pump is still called: it runs dry.")
        )
    return found
