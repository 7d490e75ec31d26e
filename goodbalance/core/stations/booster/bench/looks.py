"""Reading a run of the booster's bench: when something was said, at which pressure, speed and suction."""

from typing import Any

from goodbalance.core.rehearsal.engine import Event, Run


def minus(value: float | None, less: float) -> float | None:
    """A difference; nothing where there was nothing."""
    return None if value is None else value - less


def _first(run: Run, words: str, after_s: float = 0.0) -> Event | None:
    wanted = words.lower()
    return next((e for e in run.events if e.at_s >= after_s and e.subject != "you" and wanted in e.text.lower()), None)


def event_at(run: Run, words: str, after_s: float = 0.0) -> float | None:
    """When something was first said. [s]"""
    event = _first(run, words, after_s)
    return None if event is None else event.at_s


def stop_at(run: Run, words: str) -> float | None:
    """When the set was stopped for a reason. [s]"""
    return event_at(run, f"stopped: {words}")


def said_pa(run: Run, words: str, after_s: float = 0.0) -> float | None:
    """The pressure named when something was first said. [Pa]"""
    event = _first(run, words, after_s)
    return next((term.value for term in event.terms if term.symbol == "p"), None) if event is not None else None


def _column(run: Run, name: str) -> int:
    return run.bench.columns.index(name) + 1  # type: ignore[attr-defined]


def started(run: Run, after_s: float = 0.0) -> bool:
    """Whether any pump started."""
    return any(e.subject.startswith("pump_") and "starts" in e.text and e.at_s > after_s for e in run.events)


def running_at_end(run: Run) -> tuple[int, ...]:
    """Pumps that run when it ends."""
    return _bench(run).running


def _bench(run: Run) -> Any:
    return run.bench


def pressure_at_end(run: Run) -> float | None:
    """Middle of the pressures of the last forty seconds, so that a short stop among them does not count. [Pa]"""
    place = _column(run, "pressure_pa")
    rows = sorted(row[place] for row in run.trace if row[0] >= run.now_s - 40.0)
    return rows[len(rows) // 2] if rows else None


def lowest(run: Run) -> float | None:
    """Lowest pressure since the last action. [Pa]"""
    return _bench(run).lowest_pa


def highest(run: Run) -> float | None:
    """Highest pressure since the last action. [Pa]"""
    return _bench(run).highest_pa


def speed_at_end(run: Run) -> float | None:
    """Speed of the pumps that run when it ends, a share of full."""
    running = running_at_end(run)
    return _bench(run).plant.speeds[running[0]] if running else None


def _rest_s(run: Run, after_s: float) -> float | None:
    """When the set boosts, tests or stops. [s]"""
    found = [event_at(run, words, after_s) for words in ("boost before", "short stop", "falls asleep")]
    told = [at for at in found if at is not None]
    return min(told) if told else None


def rest_after_speed_s(run: Run, speed: float, after_s: float) -> float | None:
    """Time from the moment the speed had come down to its limit for good. [s]"""
    rest_s = _rest_s(run, after_s)
    if rest_s is None:
        return None
    count = len(_bench(run).plant.speeds)
    place, pumps = _column(run, "speed_1"), _column(run, "pump_1")
    above = [
        row[0] for row in run.trace
        if after_s <= row[0] <= rest_s and (max(row[place : place + count]) > speed + 0.002 or sum(row[pumps : pumps + count]) > 1.0)
    ]  # fmt: skip
    return rest_s - (above[-1] if above else after_s)


def rest_after_flow_s(run: Run, after_s: float, limit_m3s: float) -> float | None:
    """Time from the moment the flow had come under a limit for good, with one pump running. [s]"""
    rest_s, place = _rest_s(run, after_s), _column(run, "flow_m3s")
    if rest_s is None:
        return None
    count, pumps = len(_bench(run).plant.speeds), _column(run, "pump_1")
    above = [
        row[0] for row in run.trace
        if after_s <= row[0] < rest_s and (row[place] >= limit_m3s or sum(row[pumps : pumps + count]) > 1.0)
    ]  # fmt: skip
    return rest_s - (above[-1] if above else after_s)


def rest_after_s(run: Run, after_s: float) -> float | None:
    """Time from a moment to the stop. [s]"""
    return minus(_rest_s(run, after_s), after_s)


def closed_for_s(run: Run, after_s: float) -> float | None:
    """Time from the moment one pump was left and hardly any flow to the stop with its alarm. [s]"""
    told_s, place = event_at(run, "alarm: a pump ran against closed outlets", after_s), _column(run, "flow_m3s")
    if told_s is None:
        return None
    most, pumps = 0.5 * _bench(run).survey.demand.least_m3s, _column(run, "pump_1")
    count = len(_bench(run).plant.speeds)
    above = [
        row[0] for row in run.trace
        if after_s <= row[0] < told_s and (row[place] > most or sum(row[pumps : pumps + count]) > 1.0)
    ]  # fmt: skip
    return told_s - (above[-1] if above else after_s)


def speed_while_filling(run: Run) -> float | None:
    """Speed in the middle of the time it filled; nothing where it did not end by itself."""
    begins, ends = event_at(run, "fill slowly"), event_at(run, "the set regulates")
    if begins is None or ends is None:
        return None
    place, count = _column(run, "speed_1"), len(_bench(run).plant.speeds)
    middle = [row for row in run.trace if row[0] >= (begins + ends) / 2.0]
    return max(middle[0][place : place + count]) if middle else None


def _joined(run: Run, after_s: float = 0.0) -> float | None:
    """When a second pump joined one that runs. [s]"""
    places = [_column(run, f"pump_{n + 1}") for n in range(len(_bench(run).plant.speeds))]
    for before, row in zip(run.trace, run.trace[1:]):
        if (
            row[0] > after_s
            and sum(before[p] for p in places) >= 1.0
            and sum(row[p] for p in places) > sum(before[p] for p in places)
        ):
            return row[0]
    return None


def _speed_at(run: Run, at_s: float) -> float:
    place, count = _column(run, "speed_1"), len(_bench(run).plant.speeds)
    rows = [row for row in run.trace if row[0] < at_s]
    running = [n for n in rows[-1][place : place + count] if n > 0.0]
    return min(running) if running else 0.0


def speed_when_second_joins(run: Run) -> float | None:
    """Speed of the regulating pump just before another joined."""
    at_s = _joined(run)
    return None if at_s is None else _speed_at(run, at_s)


def second_after_s(run: Run) -> float | None:
    """Time from the first start to the second. [s]"""
    starts = [e.at_s for e in run.events if e.subject.startswith("pump_") and "starts" in e.text]
    return starts[1] - starts[0] if len(starts) > 1 else None


def _left(run: Run, after_s: float) -> float | None:
    """When one of several pumps left the others. [s]"""
    places = [_column(run, f"pump_{n + 1}") for n in range(len(_bench(run).plant.speeds))]
    for before, row in zip(run.trace, run.trace[1:]):
        was, now = sum(before[p] for p in places), sum(row[p] for p in places)
        if row[0] > after_s and was >= 2.0 and 1.0 <= now < was:
            return row[0]
    return None


def speed_when_one_leaves(run: Run, after_s: float) -> float | None:
    """Speed of the regulating pumps just before one left."""
    at_s = _left(run, after_s)
    return None if at_s is None else _speed_at(run, at_s)


def not_called_back(run: Run, after_s: float) -> bool:
    """Whether, after one left, none joined again while outlets only closed."""
    at_s = _left(run, after_s)
    return at_s is not None and _joined(run, at_s) is None


def leads(run: Run) -> tuple[int, ...]:
    """The pump that started first each time the set woke; a short stop to feel for flow is no rest."""
    woke, found = False, []
    for event in run.events:
        if event.subject == "mode" and "wakes" in event.text:
            woke = True
        elif woke and event.subject.startswith("pump_") and "starts" in event.text:
            found.append(int(event.subject[5:]))
            woke = False
    return tuple(found)


def most_running(run: Run, after_s: float = 0.0) -> int:
    """The most pumps that ran at once."""
    places = [_column(run, f"pump_{n + 1}") for n in range(len(_bench(run).plant.speeds))]
    return int(max((sum(row[p] for p in places) for row in run.trace if row[0] > after_s), default=0.0))


def suction_before(run: Run, words: str, delay_s: float) -> float | None:
    """Suction pressure when a condition that lasts for a delay began, told by what came of it. [Pa]"""
    at_s = event_at(run, words, 1.0)
    if at_s is None:
        return None
    place = _column(run, "suction_pa")
    rows = [row for row in run.trace if row[0] <= at_s - delay_s + 0.6]
    return rows[-1][place] if rows else None


def stopped_after_flat_out_s(run: Run) -> float | None:
    """Time from every pump at full speed with low pressure to the stop. [s]"""
    stop_s = stop_at(run, "run-out")
    if stop_s is None:
        return None
    bench = _bench(run)
    pumps, speeds = _column(run, "pump_1"), _column(run, "speed_1")
    count, duty = len(bench.plant.speeds), bench.logic.rotation.duty_count
    pressure, limit_pa = _column(run, "pressure_pa"), bench.logic.numbers.burst_stop
    full = (
        bench.logic.numbers.most_speed
        if bench.logic.numbers.gain and bench.logic.numbers.restart > -1e300
        else bench.logic.numbers.fixed_speed
    )
    late = [
        row[0] for row in run.trace
        if row[0] < stop_s and (sum(row[pumps : pumps + count]) < duty or row[pressure] >= limit_pa
                                or sorted(row[speeds : speeds + count])[count - duty] < full - 0.06)
    ]  # fmt: skip
    return stop_s - late[-1] if late else None
