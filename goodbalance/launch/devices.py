"""Simulated devices beside the demo: started with it, holding what its stations say, allowed to be read, ended with it."""

import contextlib
import json
import os
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path

from sqlalchemy import Engine

from goodbalance.core.balance.quantities import UnitSystem
from goodbalance.launch.database_server import free_port
from goodbalance.launch.serving import DEVICES
from goodbalance.store import records
from goodbalance.store.database import session_maker
from goodbalance.web.loading import load_work

STATIONS = {"Slipway sump": "Stand-in of the slipway", "Aquarium booster": "Stand-in of the aquarium"}


@contextlib.contextmanager
def devices_of_demo(engine: Engine, folder: Path) -> Iterator[None]:
    """A stand-in for the controller of each of these stations, with its sheet typed in."""
    started, listed = [], []
    for family, name, file in typed_in(engine, folder / "devices"):
        port = free_port()
        command = [sys.executable, "-m", "goodbalance.standins", family, "--port", str(port), "--file", str(file), "--with-parent"]
        started.append(subprocess.Popen(command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL))
        listed.append(f"{name}=127.0.0.1:{port} write")
    os.environ[DEVICES] = "; ".join(listed)
    try:
        yield
    finally:
        for process in started:
            process.terminate()
        for process in started:
            process.wait()


def typed_in(engine: Engine, folder: Path) -> list[tuple[str, str, Path]]:
    """Family, name and file of each stand-in; a file that is not there yet is written from the station's sheet and read-backs."""
    found = []
    with session_maker(engine)() as session:
        for row in records.stations(session):
            work = load_work(session, row.id, UnitSystem.METRIC) if row.name in STATIONS else None
            if work is None or work.sheet is None:
                continue
            file = folder / f"demo-{work.profile.id}.json"
            if not file.exists():
                shown = {s.row.parameter.code: s.typed or s.row.shows for s in work.stands if s.row.device == work.profile.id}
                folder.mkdir(parents=True, exist_ok=True)
                file.write_text(json.dumps({code: text for code, text in shown.items() if text}), encoding="utf-8")
            found.append((work.profile.id, STATIONS[row.name], file))
    return found
