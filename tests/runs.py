"""Runs of chosen stations as they stand in tests/core/runs: what happens, when, and where the bench stands at the end.

`python -m tests.runs` writes them anew after a controller was changed on purpose; what differs is then read line by line.
"""

from collections.abc import Iterator
from pathlib import Path
from typing import Any

from goodbalance.core.rehearsal.engine import Run, TimedAction, rehearse
from goodbalance.core.stations.booster.kind import BOOSTER
from goodbalance.core.stations.lift.kind import LIFT
from tests import boosters, stations, transfers

FOLDER = Path(__file__).parent / "core/runs"
SET_DAY = (
    (1, "outlets", 0.3, ""), (60, "outlets", 1.0, ""), (120, "trip", 1.0, "1"), (160, "trip", 0.0, "1"), (161, "switch", 1.0, "1"),
    (165, "switch", 2.0, "1"), (200, "outlets", 0.05, ""), (260, "outlets", 0.0, ""), (420, "suction", 5e4, ""),
    (430, "outlets", 0.4, ""), (470, "loop_open", 1.0, ""), (490, "loop_open", 0.0, ""), (520, "burst", 1.0, ""),
    (560, "burst", 0.0, ""), (570, "reset", 1.0, ""),
)  # fmt: skip
WELL_DAY = (
    (0, "pattern", 1.0, ""), (5000, "starter", 1.0, "1"), (8000, "starter", 0.0, "1"), (8010, "switch", 1.0, "1"),
    (8020, "switch", 2.0, "1"), (9000, "rain", 1.0, ""), (30000, "frozen", 1.0, ""), (31000, "frozen", 0.0, ""),
    (40000, "loop_open", 1.0, ""), (43000, "loop_open", 0.0, ""), (43010, "reset", 1.0, ""),
)  # fmt: skip
TWO_TANKS = {"tanks": {"count": 2, "drinking": False, "lost_m3": 20.0}, "tank_2": transfers.tank(floor_m=26.0), "pumping": {"count": 2}, "line": {"diameter_m": 0.1}}
TANK_DAY = (
    (0, "pattern", "", 1.0), (20000, "stuck_open", "1", 1.0), (34000, "stuck_open", "1", 0.0), (34010, "reset", "", 1.0), (40000, "leak", "", 1.0), (42000, "leak", "", 0.0),
    (50000, "dry", "", 1.0), (51000, "dry", "", 0.0), (60000, "power", "", 0.0), (60600, "power", "", 1.0), (70000, "stuck_shut", "2", 1.0),
)  # fmt: skip
FLOATS = {"kind": "pump_controller", "level_by": "sensor_and_floats", "floats": 4}


def acts(day: tuple[tuple[float, str, float, str], ...]) -> tuple[TimedAction, ...]:
    return tuple(TimedAction(float(at_s), kind, target, value) for at_s, kind, value, target in day)


def set_run(schools: dict[str, Any], **changes: dict[str, Any]) -> Run[Any]:
    survey, choices = boosters.survey(**changes), boosters.choices(None, schools)
    return rehearse(BOOSTER.bench(survey, choices, boosters.reckon(survey, choices, False)), acts(SET_DAY), 700.0)


def well_run(schools: dict[str, Any], **changes: dict[str, Any]) -> Run[Any]:
    survey, choices = stations.survey(**changes), stations.choices(schools=schools)
    return rehearse(LIFT.bench(survey, choices, LIFT.reckon(survey, choices, False)), acts(WELL_DAY), 45000.0)


def runs() -> Iterator[tuple[str, Run[Any]]]:
    """Each run by its name."""
    yield "set", set_run({})
    yield "set, serial", set_run({"sharing": "serial"})
    yield "set, short stops", set_run({"no_flow": "bump"})
    yield "set, slow fill", set_run({"slow_fill": True})
    yield "set, far sensor", set_run({}, remote={"height_m": 18.0, "range_pa": 6e5})
    yield "set, on off", set_run({}, control={"kind": "on_off"})
    yield "set, a switch for each pump", set_run({}, control={"kind": "on_off", "own_switches": True}, vessel={"volume_m3": 0.8})
    yield "set, fixed", set_run({}, control={"kind": "fixed"})
    yield "well", well_run({})
    yield "well, own stops", well_run({"stops": "own"})
    yield "well, floats behind a sensor", well_run({}, control=FLOATS)
    yield "well, three pumps, assist by time", well_run({"assist_by": "level_or_timer"}, pumping={"count": 3, "standby": True})
    yield "transfer", transfers.run(transfers.survey(**TWO_TANKS), 90000.0, *TANK_DAY)
    yield "transfer, by levels", transfers.run(transfers.survey(**TWO_TANKS, control={"full_by": "levels"}), 90000.0, *TANK_DAY)


def told(run: Run[Any]) -> str:
    """A run as text: its events, and the last row of its trace."""
    lines = []
    for event in run.events:
        numbers = ", ".join(f"{term.symbol} {term.value:.4g}" for term in event.terms)
        pump = f" pump {event.pump}" if event.pump else ""
        lines.append(f"{event.at_s:.1f} {event.thing} {event.doing} {event.of}{pump}: {event.text} {numbers}")
    lines.append("at the end " + ", ".join(f"{value:.4g}" for value in run.trace[-1]))
    return "\n".join(line.rstrip() for line in lines) + "\n"


def file_of(name: str) -> Path:
    return FOLDER / f"{name.replace(', ', '-').replace(' ', '_')}.txt"


if __name__ == "__main__":
    FOLDER.mkdir(exist_ok=True)
    for name, run in runs():
        file_of(name).write_text(told(run), encoding="utf-8")
        print(f"{file_of(name)}: {len(run.events)} events")
