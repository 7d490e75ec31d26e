"""Reading a bench run: levels at which things happened, times between them, who ran."""

from goodbalance.core.rehearsal.engine import Event, Run


def first_level(events: list[Event], subject: str, doing: str = "") -> float | None:
    """Level of the first event of a subject after the start of the run; a subject that ends in _ stands for all of its kind."""
    for event in events:
        named = event.subject.startswith(subject) if subject.endswith("_") else event.subject == subject
        if event.at_s > 0.0 and named and doing in event.text and event.terms:
            return event.terms[0].value
    return None


def joined_level(events: list[Event], number: int, rested: int = 0) -> float | None:
    """Level of the call that brought the number-th pump of a cycle; `rested` pumps of the first group rest by then.

    The pump itself may wait for the start gap while the water rises on: then its call's level counts, not where it started.
    """
    running: set[int] = set()
    called_m = None
    for event in events:
        if event.subject == f"relay_start_{number}" and event.at_s > 0.0:
            called_m = event.terms[0].value if "closes" in event.text or "energises" in event.text else called_m
        if event.subject.startswith("pump_"):
            pump = int(event.subject.removeprefix("pump_")) - 1
            (running.add if "starts" in event.text else running.discard)(pump)
            if sum(one >= rested for one in running) == number - rested:
                return event.terms[0].value if called_m is None else called_m
    return None


def leads(events: list[Event]) -> tuple[int, ...]:
    """Which pump started first in each cycle."""
    found, running = [], 0
    for event in events:
        if event.subject.startswith("pump_"):
            starts = "starts" in event.text
            if starts and running == 0:
                found.append(int(event.subject.removeprefix("pump_")))
            running += 1 if starts else -1
    return tuple(found)


def left_level(events: list[Event], left: int) -> float | None:
    """Level at which a pump stopped and so many were left running, after all had run."""
    running = 0
    for event in events:
        if event.subject.startswith("pump_"):
            running += 1 if "starts" in event.text else -1
            if "stops" in event.text and running == left:
                return event.terms[0].value
    return None


def never_together(events: list[Event], first: int) -> bool | None:
    """Whether no pump of the first group stayed on beside one of the second for more than one scan. None: none met."""
    running: set[int] = set()
    met, since_s = False, None
    for event in events:
        if not event.subject.startswith("pump_"):
            continue
        if since_s is not None and event.at_s - since_s > 1.5:
            return False
        pump = int(event.subject.removeprefix("pump_")) - 1
        (running.add if "starts" in event.text else running.discard)(pump)
        mixed = any(p < first for p in running) and any(p >= first for p in running)
        met = met or any(p >= first for p in running)
        since_s = (event.at_s if since_s is None else since_s) if mixed else None
    return (since_s is None) if met else None


def between_s(run: Run, subject: str, doing: str, then: str, did: str) -> float | None:
    """Time from one event to the first of another kind after it, both after the start. None where one never came."""
    began_s = None
    for event in run.events:
        if began_s is None:
            if event.at_s > 0.0 and event.subject == subject and doing in event.text:
                began_s = event.at_s
        elif event.subject.startswith(then) and did in event.text:
            return event.at_s - began_s
    return None


def apart_s(run: Run, after_s: float) -> float | None:
    """Time between the first two pump starts after a time. None where there were not two."""
    starts = _starts(run, after_s)
    return starts[1].at_s - starts[0].at_s if len(starts) > 1 else None


def started_after(run: Run, after_s: float) -> frozenset[int]:
    """Pumps that started after a time, 0 for pump 1."""
    return frozenset(int(event.subject.removeprefix("pump_")) - 1 for event in _starts(run, after_s))


def _starts(run: Run, after_s: float) -> list[Event]:
    return [e for e in run.events if e.at_s > after_s and e.subject.startswith("pump_") and "starts" in e.text]


def running_at_end(run: Run) -> tuple[int, ...]:
    """Pumps that turn at the end of the run, 0 for pump 1."""
    return run.bench.running  # type: ignore[attr-defined]


def ran(run: Run) -> bool:
    """Whether any pump ever started."""
    return any("starts" in event.text for event in run.events if event.subject.startswith("pump_"))


def alarms(run: Run) -> set[str]:
    """Alarms that are up at the end of the run."""
    return set(run.bench.logic.alarms.lamps)  # type: ignore[attr-defined]
