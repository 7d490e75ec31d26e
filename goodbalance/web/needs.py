"""What a station needs of people, the gravest first, each with the page where it is done."""

from collections.abc import Iterator

from goodbalance.store.summaries import Need
from goodbalance.web.progress import Progress, progress
from goodbalance.web.rendering import VIEWS
from goodbalance.web.work import Work

MOST = 4  # that the list shows of one station
NEXT = 100  # the weight of the next step of the work
PRESSING = 300  # from here on it is more than the next step of the work
GO_ON = {"survey": "Go on with the survey", "reckon": "Look at the windows", "rehearse": "Rehearse it", "enter": "Type and read back", "prove": "Prove it on site", "handover": "Sign and hand over"}


def needs_of(work: Work) -> tuple[Need, ...]:
    """Every one, gravest first; nothing where the station is signed and nothing is open."""
    found = sorted(_needs(work), key=lambda need: -need.weight)
    told = {need.view for need in found if need.weight > NEXT}
    return tuple(need for need in found if need.weight > NEXT or need.view not in told)[:MOST]


def _needs(work: Work) -> Iterator[Need]:
    if work.broken:
        yield Need(1000, "Its record does not hold", "log")
    if work.wire_faults:
        yield Need(950, f"{_count(len(work.wire_faults), 'wiring fault')}: do not energise", "wiring")
    if work.temporary:
        yield Need(900, f"{_count(len(work.temporary), 'jumper or temporary setting', 'jumpers or temporary settings')} still in", "handover")
    states = [work.proof_state(proof)[0] for proof in work.proofs]
    if "failed" in states:
        yield Need(800, f"{_count(states.count('failed'), 'proof')} failed", "prove")
    if work.unsettled:
        yield Need(700, f"{_count(len(work.unsettled), 'difference')} between plan and devices", "enter")
    far = progress(work)
    if work.plan is not None and far["reckon"].shape in ("stop", "empty"):
        yield Need(650, f"Reckon: {far['reckon'].word}", "reckon")
    if "stale" in states:
        yield Need(500, f"{_count(states.count('stale'), 'proof')} to repeat: what it stands on has changed", "prove")
    others = len(work.open_points) - len(work.temporary)
    if others:
        yield Need(400, _count(others, "open point"), "handover")
    if work.left_for_later:
        yield Need(350, f"{_count(len(work.left_for_later), 'fact')} of the survey left for later", "survey")
    if work.history.signatures and work.history.signature is None:
        yield Need(PRESSING, "Changed since it was signed", "handover")
    if work.history.signature is None:
        yield from _next(far)


def _next(far: dict[str, Progress]) -> Iterator[Need]:
    """The next step of the work: the first view that is not done."""
    view = next((view for view, _ in VIEWS if far[view].shape not in ("ok", "caution")), "handover")
    yield Need(NEXT, f"{GO_ON[view]}: {far[view].word}", view)


def _count(number: int, one: str, several: str = "") -> str:
    return f"{number} {one if number == 1 else several or one + 's'}"
