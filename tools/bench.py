"""python -m tools.bench: how fast and how large, as a table. Figures belong to the machine they were taken on."""

import asyncio
import contextlib
import gzip
import multiprocessing
import os
import platform
import socket
import statistics
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

os.environ["GOODBALANCE_FAST_HASH"] = "1"

from goodbalance.core.balance.quantities import UnitSystem
from goodbalance.core.rehearsal.engine import TimedAction, rehearse
from goodbalance.core.stations.booster.trials.loop_trials import bench_of, grid, look_at
from goodbalance.core.stations.lift.survey.choices import SpeedMode
from goodbalance.demo.kestrel_point import PASSWORD, TECHNICIAN, load_demo
from goodbalance.exchange.modbus import DeviceSilent, read_device, read_live
from goodbalance.launch.database_server import free_port
from goodbalance.standins.server import serve_device
from goodbalance.standins.station import stand_in
from goodbalance.store import records
from goodbalance.store.database import session_maker
from goodbalance.web.computing import CORES, against_proofs, answer
from goodbalance.web.loading import load_work
from goodbalance.web.noticing import troubles_of
from tools.stage.server import Visitor, WebServer, empty_session, engine

STATIC = Path("goodbalance/web/static")
VIEWS = ("survey", "reckon", "rehearse", "enter", "prove", "handover")


STAND_INS = 20


def serve_many(ports: list[int]) -> None:
    """As many stand-ins in one process, each with its station going on behind it."""

    async def all_of_them() -> None:
        await asyncio.gather(*(serve_device(stand_in("ebbstone_tray"), port) for port in ports))

    asyncio.run(all_of_them())


def stand_in_channels() -> list[str]:
    """What each of them tells."""
    device = stand_in("ebbstone_tray")
    device.go_on(1.0)
    return [name for name, _ in device.live()]


def answering(port: int, count: int) -> None:
    """Wait until a stand-in answers whole."""
    for _ in range(600):
        try:
            read_live("127.0.0.1", port, count)
            return
        except DeviceSilent:
            time.sleep(0.1)


def timed_ms(job: Callable[[], object], times: int) -> tuple[float, float]:
    """Median and slowest of several runs, after one to warm up. [ms]"""
    job()
    taken = []
    for _ in range(times):
        begun = time.perf_counter()
        job()
        taken.append((time.perf_counter() - begun) * 1000.0)
    return statistics.median(taken), max(taken)


class AtTheServer:
    """The application, and how long each of its answers took until it began: by then a page is rendered whole."""

    def __init__(self, app: Any) -> None:
        self.app = app
        self.took_ms: list[float] = []

    async def __call__(self, scope: Any, receive: Any, send: Any) -> None:
        begun = time.perf_counter()

        async def told(message: Any) -> None:
            if message["type"] == "http.response.start":
                self.took_ms.append((time.perf_counter() - begun) * 1000.0)
            await send(message)

        await self.app(scope, receive, told)

    def timed_ms(self, ask: Callable[[], object], times: int) -> tuple[float, float]:
        """Median and slowest of several answers, after one to warm up. [ms]"""
        ask()
        self.took_ms.clear()
        for _ in range(times):
            ask()
        return statistics.median(self.took_ms), max(self.took_ms)


def row(what: str, figures: tuple[float, float], budget: str) -> None:
    print(f"| {what} | {figures[0]:.1f} ms | {figures[1]:.1f} ms | {budget} |", flush=True)


@contextlib.contextmanager
def stand_in_process(family: str, *more: str) -> Iterator[int]:
    """A simulated device in a process of its own; its port, once it answers."""
    port = free_port()
    with tempfile.TemporaryDirectory() as folder:
        command = [sys.executable, "-m", "goodbalance.standins", family, "--port", str(port), "--file", f"{folder}/kept.json", *more]
        process = subprocess.Popen(command, stdout=subprocess.PIPE, text=True)
        try:
            print(process.stdout.readline() if process.stdout else "", file=sys.stderr, end="")
            while process.poll() is None:
                with contextlib.suppress(OSError), socket.create_connection(("127.0.0.1", port), 0.2):
                    break
            yield port
        finally:
            process.terminate()
            process.wait()


def all_faults(parts: tuple[Any, ...], listed: tuple[Any, ...]) -> None:
    """As the page asks for it: the proofs in health first, then in as many processes as there are cores."""
    healthy, _ = answer(against_proofs, *parts, None, listed[:1], within_s=120.0, stands_back=True)
    left = list(listed[1:])

    def lane() -> None:
        while left:
            share = -(-len(left) // (2 * CORES))
            asked, left[:share] = left[:share], []
            _, rows = answer(against_proofs, *parts, healthy, tuple(asked), within_s=120.0, stands_back=True)
            left[:0] = asked[len(rows) :]

    lanes = [threading.Thread(target=lane) for _ in range(CORES)]
    for each in lanes:
        each.start()
    for each in lanes:
        each.join()


def transfers(work: Any, place: Iterator[int]) -> None:
    """Rows of a transfer set: a plan dragged, a day with its pattern, all proofs, faults against proofs."""
    survey, choices, plan = work.survey, work.choices, work.plan
    moved = lambda: choices.model_copy(update={"chosen": {"stop_pressure": 4.6e5 + next(place) % 40 * 1e3}})  # noqa: E731
    row("re-reckon a transfer set while dragging its stop", timed_ms(lambda: work.kind.reckon(survey, moved(), False), 60), "5 ms")
    pattern = (TimedAction(0.0, "pattern", "", 1.0),)
    row("a day of a transfer set on the bench", timed_ms(lambda: rehearse(work.kind.bench(survey, choices, plan), pattern, 86400.0), 7), "150 ms")
    row("every proof of a transfer set on the bench", timed_ms(lambda: work.kind.prove_on_bench(survey, choices, plan), 5), "1000 ms")


def main() -> None:
    with empty_session() as session:
        load_demo(session)
        session.commit()
        stations = {r.name: r.id for r in records.stations(session)}
        work = load_work(session, stations["Slipway sump"], UnitSystem.METRIC)
        survey, choices, plan = work.survey, work.choices, work.plan
    print(f"{platform.system()} {platform.machine()}, {os.cpu_count()} cores, Python {platform.python_version()}\n")
    print("| what | median | slowest | budget |\n|---|---|---|---|")
    place = iter(range(10_000))
    dragged = lambda: choices.model_copy(update={"chosen": {"start_1": 1.0 + next(place) % 40 * 0.01}})  # noqa: E731
    row("re-reckon while dragging", timed_ms(lambda: work.kind.reckon(survey, dragged(), False), 200), "5 ms")
    pattern = (TimedAction(0.0, "pattern", "", 1.0),)
    day = lambda days: rehearse(work.kind.bench(survey, choices, plan), pattern, 86400.0 * days)  # noqa: E731
    row("a day on the bench", timed_ms(lambda: day(1), 7), "40 ms")
    row("seven days on the bench", timed_ms(lambda: day(7), 3), "")
    with session_maker(engine())() as session:
        clinic = load_work(session, stations["Seal clinic lift"], UnitSystem.METRIC)
        three, drives, all_of_it = clinic.survey, clinic.choices, clinic.plan
    row(
        "re-reckon, four pumps with floats and drives",
        timed_ms(lambda: clinic.kind.reckon(three, drives, False), 60),
        "5 ms",
    )
    for mode, budget in (("fixed", ""), ("by_level", ""), ("hold_level", "")):
        schools = drives.schools.model_copy(update={"speed_mode": SpeedMode(mode)})
        decided = drives.model_copy(update={"schools": schools})
        planned = clinic.kind.reckon(three, decided)
        run = lambda: rehearse(clinic.kind.bench(three, decided, planned), pattern, 86400.0)  # noqa: E731, B023
        row(f"a day of four pumps, drives {mode.replace('_', ' ')}", timed_ms(run, 5), budget)
    row(
        "chances of all settings (after the page)",
        timed_ms(lambda: clinic.kind.chances(three, drives, all_of_it), 7),
        "",
    )
    with session_maker(engine())() as session:
        aquarium = load_work(session, stations["Aquarium booster"], UnitSystem.METRIC)
        booster, settled, pressures = aquarium.survey, aquarium.choices, aquarium.plan
    moved = lambda: settled.model_copy(update={"chosen": {"set_pressure": 4.0e5 + next(place) % 40 * 1e3}})  # noqa: E731
    row(
        "re-reckon a booster while dragging",
        timed_ms(lambda: aquarium.kind.reckon(booster, moved(), False), 100),
        "5 ms",
    )
    taps = tuple(
        TimedAction(40.0 * n, "outlets", "", share) for n, share in enumerate((0.05, 0.4, 0.9, 0.3, 0.0, 0.6, 0.1))
    )
    ten = lambda: rehearse(aquarium.kind.bench(booster, settled, pressures), taps, 600.0)  # noqa: E731
    row("ten minutes of a booster on the bench", timed_ms(ten, 9), "60 ms")
    row(
        "every proof of a booster on the bench, with progress",
        timed_ms(lambda: aquarium.kind.prove_on_bench(booster, settled, pressures), 5),
        "1000 ms",
    )
    with session_maker(engine())() as session:
        transfers(load_work(session, stations["Brine header transfer"], UnitSystem.METRIC), place)
        pier = load_work(session, stations["Pier fire line"], UnitSystem.METRIC)
        ring = load_work(session, stations["Bunkhouse ring"], UnitSystem.METRIC)
    row("a day of a maintenance pump on the bench", timed_ms(lambda: rehearse(pier.kind.bench(pier.survey, pier.choices, pier.plan), (), 86400.0), 5), "")
    row("a ring, reckoned", timed_ms(lambda: ring.kind.reckon(ring.survey, ring.choices, False), 20), "")
    row("a week of a ring on the bench", timed_ms(lambda: rehearse(ring.kind.bench(ring.survey, ring.choices, ring.plan), (), 7 * 86400.0 - 1.0), 3), "300 ms")
    drawn = (TimedAction(0.0, "pattern", "", 1.0),)
    row("a week of a ring, people at its taps", timed_ms(lambda: rehearse(ring.kind.bench(ring.survey, ring.choices, ring.plan), drawn, 7 * 86400.0 - 1.0), 3), "")
    row("all proofs of a ring", timed_ms(lambda: ring.kind.prove_on_bench(ring.survey, ring.choices, ring.plan), 3), "")
    for name in ("Slipway sump", "Seal clinic lift", "Aquarium booster", "Brine header transfer"):
        with session_maker(engine())() as session:
            at = load_work(session, stations[name], UnitSystem.METRIC)
            parts, listed = (at.kind, at.survey, at.choices, at.typed_plan, at.held), troubles_of(at)
        row(f"every fault against every proof, {name}: {len(listed)} faults, in pieces", timed_ms(lambda: all_faults(parts, listed), 1), "10000 ms")  # noqa: B023
    trying = bench_of(booster, settled, pressures)
    row("one set of gains looked at for the worst case", timed_ms(lambda: look_at(trying, grid(trying)[7]), 5), "")
    with stand_in_process("sandhopper_lanes") as port:
        registers = stand_in("sandhopper_lanes").registers
        row(f"a device of {len(registers)} numbers read over Modbus", timed_ms(lambda: read_device("127.0.0.1", port, registers), 30), "")
    ports = [free_port() for _ in range(STAND_INS)]
    many = multiprocessing.get_context("spawn").Process(target=serve_many, args=(ports,), daemon=True)
    many.start()
    count = len(stand_in_channels())
    poll = lambda: [read_live("127.0.0.1", port, count) for port in ports]  # noqa: E731
    for port in ports:
        answering(port, count)
    row(f"{STAND_INS} stand-ins polled live, all of them", timed_ms(poll, 10), "1000 ms")
    many.terminate()
    web = WebServer()
    web.app = server = AtTheServer(web.app)
    with web:
        visitor = Visitor(web.address).sign_in(TECHNICIAN, PASSWORD)
        base = f"/stations/{stations['Slipway sump']}"
        for name, views in (("Slipway sump", VIEWS), ("Aquarium booster", (*VIEWS, "sweep", "loop", "energy")), ("Brine header transfer", (*VIEWS, "ways"))):
            for view in views:
                figures = server.timed_ms(lambda at=f"/stations/{stations[name]}/{view}": visitor.get(at), 30)
                row(f"page {view} of {name}, at the server until its answer begins", figures, "25 ms")
        ask = lambda: visitor.json(f"{base}/reckon/preview", {"chosen": {"start_1": 1.0 + next(place) % 40 * 0.01}})  # noqa: E731
        row("drag: preview, request to answer", timed_ms(ask, 60), "60 ms")
    sizes = {
        path: len(gzip.compress(path.read_bytes(), 6)) for path in STATIC.rglob("*") if path.suffix in (".js", ".css")
    }
    print(f"\nAll scripts and styles together, compressed: {sum(sizes.values()) / 1000:.0f} KB (budget 200 KB a page)")


if __name__ == "__main__":
    main()
