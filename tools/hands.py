"""What the tools that kill, load and cluster share: applications of their own, people who save, and what was acknowledged."""

import os
import random
import signal
import subprocess
import sys
import threading
import time
import uuid
from collections import Counter
from pathlib import Path

import httpx
from sqlalchemy import select

from goodbalance.core.record.chain import Kind
from goodbalance.launch.database_server import free_port
from goodbalance.store.database import open_engine, session_maker
from goodbalance.store.models import EntryRow, StationRow
from goodbalance.store.verify import broken_records
from tools.stage.server import Visitor

NAME, PASSWORD = "Ada Wren", "quite long enough here"
KEYS = {"GOODBALANCE_SESSION_KEY": "of these tools", "GOODBALANCE_SEAL_KEYS": "of-these-tools", "GOODBALANCE_FAST_HASH": "1"}
START_WITHIN_S = 90.0


class Application:
    """One application in processes of its own, as ./run starts it."""

    def __init__(self, folder: Path, *words: str, database: str = "") -> None:
        self.folder, self.words, self.port = folder, words or ("start",), free_port()
        self.address = f"http://127.0.0.1:{self.port}"
        self.settings = {**os.environ, **KEYS, "GOODBALANCE_VAR": str(folder), "GOODBALANCE_PORT": str(self.port)}
        self.settings.pop("DATABASE_URL", None)
        if database:
            self.settings["DATABASE_URL"] = database
        self.process: subprocess.Popen[bytes] | None = None

    def start(self) -> "Application":
        """Start it and wait until it can work."""
        self.folder.mkdir(parents=True, exist_ok=True)
        with (self.folder / "log").open("a") as log:
            self.process = subprocess.Popen(
                [sys.executable, "-m", "goodbalance.launch", *self.words], env=self.settings, stdout=log, stderr=log
            )
        until = time.monotonic() + START_WITHIN_S
        while time.monotonic() < until:
            if self.process.poll() is not None:
                raise RuntimeError(f"the application ended: {(self.folder / 'log').read_text()[-1500:]}")
            if self.is_ready():
                return self
            time.sleep(0.1)
        raise RuntimeError(f"the application does not answer: {(self.folder / 'log').read_text()[-1500:]}")

    def is_ready(self) -> bool:
        try:
            return httpx.get(f"{self.address}/readyz", timeout=5.0).status_code == 200
        except httpx.HTTPError:
            return False

    def kill(self) -> None:
        """As the power does."""
        assert self.process is not None
        self.process.kill()
        self.process.wait()

    def kill_database(self) -> None:
        """The database that it started; it comes back by itself."""
        try:
            os.kill(int((self.folder / "database" / "pid").read_text()), signal.SIGKILL)
        except (OSError, ValueError):
            pass  # it is down already

    def stop(self) -> None:
        if self.process is not None and self.process.poll() is None:
            self.process.terminate()
            self.process.wait(90)


class Ledger:
    """What was acknowledged, when, and what else was answered."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self.texts: set[str] = set()
        self.times: list[float] = []
        self.answers: Counter[str] = Counter()

    def acknowledged(self, text: str) -> None:
        with self._lock:
            self.texts.add(text)
            self.times.append(time.monotonic())

    def answered(self, how: str) -> None:
        with self._lock:
            self.answers[how] += 1

    def longest_silence_s(self) -> float:
        """The longest time in which nobody had a save acknowledged. [s]"""
        times = sorted(self.times)
        return max((later - sooner for sooner, later in zip(times, times[1:])), default=0.0)

    def check(self, database: str) -> dict[str, int]:
        """How many acknowledged saves are lost, how many saves stand twice, how many records do not hold."""
        engine = open_engine(database, tuple(key.encode() for key in KEYS["GOODBALANCE_SEAL_KEYS"].split()))
        with session_maker(engine)() as session:
            bodies = session.scalars(select(EntryRow.body).where(EntryRow.kind == Kind.OPEN_POINT.value))
            kept = Counter(body.split('"text": "')[1].split('"')[0] for body in bodies)
            broken = len(list(broken_records(session)))
        engine.dispose()
        return {
            "acknowledged": len(self.texts), "lost": sum(text not in kept for text in self.texts),
            "doubled": sum(count > 1 for count in kept.values()), "records that do not hold": broken,
        }  # fmt: skip


class Hand(threading.Thread):
    """Somebody who saves one open point after another, and sends each again, elsewhere too, until it is acknowledged."""

    def __init__(self, applications: list[Application], stations: list[int], ledger: Ledger, seed: int, pause_s: float = 0.0) -> None:
        super().__init__(daemon=True)
        self.applications, self.stations, self.ledger, self.pause_s = applications, stations, ledger, pause_s
        self.dice, self.ending = random.Random(seed), threading.Event()
        self.visitor = Visitor(self.dice.choice(applications).address).sign_in(NAME, PASSWORD)

    def run(self) -> None:
        while not self.ending.wait(self.pause_s):
            self.save(f"{self.name} {uuid.UUID(int=self.dice.getrandbits(128))}")
        self.visitor.http.close()

    def save(self, text: str) -> None:
        key, station = uuid.UUID(int=self.dice.getrandbits(128)).hex, self.dice.choice(self.stations)
        fields = {"csrf": self.visitor.token, "text": text, "save_key": key}
        while not self.ending.is_set():
            address = self.dice.choice(self.applications).address
            try:
                answer = self.visitor.http.post(
                    f"{address}/stations/{station}/open-points", data=fields, follow_redirects=False, timeout=20.0
                )
            except httpx.HTTPError as wrong:
                self.ledger.answered(type(wrong).__name__)
                time.sleep(0.05)
                continue
            self.ledger.answered(str(answer.status_code))
            if answer.status_code == 303 and "/sign-in" not in answer.headers["location"]:
                self.ledger.acknowledged(text)
                return
            time.sleep(0.1)


def made_ready(application: Application, count: int) -> list[int]:
    """The first person and some stations; their numbers."""
    first = Visitor(application.address)
    first.get("/sign-in")
    first.form("/first-person", name=NAME, password=PASSWORD)
    first.get("/")
    for number in range(count):
        first.form("/stations", name=f"Pit {number}", place="Yard", kind="lift")
    first.http.close()
    engine = open_engine(database_of(application))
    with session_maker(engine)() as session:
        found = list(session.scalars(select(StationRow.id)))
    engine.dispose()
    return found


def database_of(application: Application) -> str:
    """The database behind an application."""
    from goodbalance.launch.database_server import DatabaseServer

    return application.settings.get("DATABASE_URL") or DatabaseServer(application.folder / "database").running_url()
