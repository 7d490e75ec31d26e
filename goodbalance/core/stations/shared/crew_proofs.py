"""Proofs that so many pumps run at once and no more, and that those that stand by come where they are missed."""

from collections.abc import Iterable, Iterator

from goodbalance.core.balance.proof import Answer, Proof
from goodbalance.core.rehearsal.engine import TimedAction
from goodbalance.core.rehearsal.events import Doing, Event, Thing, among
from goodbalance.core.rehearsal.proving import OFF
from goodbalance.core.stations.shared.crew import Crew


def crew_proofs(crew: Crew, checks: tuple[str, str], group: str, cautions: tuple[str, ...], calls: str) -> Iterator[Proof]:
    """Both, where pumps stand by. checks: that of the most at once and that of the standby; calls: how every pump is called."""
    duty, spare = crew.duty_count, crew.stands_by.count
    if not spare:
        return
    several, away, stay = f"{duty} pumps" if duty > 1 else "one pump", _named(1, duty), _named(duty + 1, crew.count)
    yield Proof(
        checks[0], f"No more than {several} at once", group, "All pumps in AUTO.", cautions, f"{calls} Count the pumps that run.",
        f"{several.capitalize()} run{'' if duty > 1 else 's'}, and never more.", Answer.YES_NO, decided=f"{duty} of {crew.count}",
    )  # fmt: skip
    yield Proof(
        checks[1], "The standby pump takes over", group, f"All pumps in AUTO, {'pumps run' if duty > 1 else 'a pump runs'}.", cautions, f"Turn {away} to OFF. {calls}",
        f"In {'their' if duty > 1 else 'its'} place {stay} come{'' if spare > 1 else 's'}{f', {several} at once at most' if spare > duty else ''}.", Answer.YES_NO, decided=f"{duty} of {crew.count}",
    )  # fmt: skip


def _named(first: int, last: int) -> str:
    """Pumps from one number to another."""
    return f"pump {first}" if first == last else f"pumps {first} {'and' if last == first + 1 else 'to'} {last}"


def duty_off(crew: Crew, at_s: float, switch: str) -> tuple[TimedAction, ...]:
    """The first pumps to OFF, so many as share the work. switch: the act of turning a pump's switch. [s]"""
    return tuple(TimedAction(at_s, switch, str(pump), OFF) for pump in range(1, crew.duty_count + 1))


def stands_in(crew: Crew, running: Iterable[int]) -> bool:
    """Whether only pumps run that stand by, and one at least. running: 0 for pump 1."""
    found = set(running)
    return bool(found) and min(found) >= crew.duty_count and len(found) <= crew.duty_count


def most_at_once(events: Iterable[Event]) -> int:
    """The most pumps that ran at the same time, by their starts and stops."""
    running: set[int] = set()
    most = 0
    for event in among(events, Thing.PUMP, Doing.STARTS, Doing.STOPS):
        (running.add if event.doing is Doing.STARTS else running.discard)(event.pump)
        most = max(most, len(running))
    return most
