"""python -m tools.load [people] [seconds] [seed]: a crew at work on one server, with pauses as people make them and without.

Each person goes through the views of a station of their own, drags a setting and saves now and then. Prints how long
answers took, how many a second there were and what else was answered. The people run on this machine too and take their
part of its cores.
"""

import random
import shutil
import sys
import tempfile
import threading
import time
import uuid
from collections import Counter
from pathlib import Path

import httpx

from goodbalance.demo.aquarium import AQUARIUM
from goodbalance.demo.lifts import SLIPWAY
from tools.hands import NAME, PASSWORD, Application, made_ready
from tools.stage.server import Visitor

VIEWS = ("survey", "reckon", "rehearse", "enter", "prove", "handover")
PAUSE_S = 3.0


class Person(threading.Thread):
    """One of the crew."""

    def __init__(self, address: str, number: int, seed: int, pause_s: float, until: float) -> None:
        super().__init__(daemon=True)
        self.dice, self.pause_s, self.until = random.Random(seed * 1000 + number), pause_s, until
        self.kind, facts = (("lift", SLIPWAY), ("booster", AQUARIUM))[number % 2]
        self.took_s: list[float] = []
        self.answers: Counter[int] = Counter()
        self.visitor = Visitor(address).sign_in(NAME, PASSWORD)
        made = self.visitor.form("/stations", name=f"Pit {number}", place="Yard", kind=self.kind)
        self.path = str(made.url.path).removesuffix("/survey")
        self.save_facts(facts)

    def run(self) -> None:
        time.sleep(self.dice.uniform(0.0, self.pause_s))  # people do not come through the door at one moment
        while time.monotonic() < self.until:
            begun = time.monotonic()
            try:
                status = self.one_thing().status_code
            except httpx.HTTPError:
                status = 0
            self.took_s.append(time.monotonic() - begun)
            self.answers[status] += 1
            if self.pause_s:
                time.sleep(self.dice.uniform(0.5, 1.5) * self.pause_s)

    def one_thing(self) -> httpx.Response:
        """A view, a drag, a save, the list: as often as at work."""
        what = self.dice.random()
        if what < 0.35:
            return self.visitor.get(f"{self.path}/{self.dice.choice(VIEWS)}")
        if what < 0.65:
            setting, value = ("start_1", 1.2 + self.dice.randrange(20) * 0.01) if self.kind == "lift" else ("set_pressure", 4e5 + self.dice.randrange(20) * 1e3)
            return self.visitor.json(f"{self.path}/reckon/preview", {"chosen": {setting: value}, "open": []})
        if what < 0.9:
            fact, least = ("inflow.mean_m3s", 2.0) if self.kind == "lift" else ("demand.mean_m3s", 1.0)
            return self.save_facts({fact: f"{least + self.dice.randrange(100) * 0.01:.2f}"})
        if what < 0.95:
            return self.visitor.http.get(f"{self.path}/since?seq=1", headers={"Accept": "application/json"})
        return self.visitor.get("/")

    def save_facts(self, facts: dict[str, str]) -> httpx.Response:
        body = {"save_key": uuid.uuid4().hex, "base_seq": 10**6, "units": "metric", "changes": facts}
        return self.visitor.json(f"{self.path}/facts", body)


def crew(address: str, people: int, seconds: float, seed: int, pause_s: float) -> tuple[dict[str, float], Counter[int]]:
    """Let them work; the figures in ms and answers a second, and what was answered."""
    until = [0.0]
    them = [Person(address, number, seed, pause_s, 0.0) for number in range(people)]
    until[0] = time.monotonic() + seconds
    for person in them:
        person.until = until[0]
        person.start()
    for person in them:
        person.join()
        person.visitor.http.close()
    took = sorted(took_s * 1000.0 for person in them for took_s in person.took_s)
    answers: Counter[int] = sum((person.answers for person in them), Counter())
    share = lambda part: took[min(len(took) - 1, int(part * len(took)))]  # noqa: E731
    return {"p50": share(0.5), "p95": share(0.95), "p99": share(0.99), "a second": len(took) / seconds}, answers


def main(people: int, seconds: int, seed: int) -> int:
    place = Path(tempfile.mkdtemp(prefix="goodbalance-load-"))
    application = Application(place, "serve", "--workers", "2")
    bad = 0
    try:
        application.start()
        made_ready(application, 1)
        print("| | p50 | p95 | p99 | answers a second | other than 200 |\n|---|---|---|---|---|---|")
        for pause_s in (PAUSE_S, 0.0):
            figures, answers = crew(application.address, people, seconds, seed, pause_s)
            others = {status: count for status, count in answers.items() if status != 200}
            bad += sum(count for status, count in others.items() if status == 0 or status >= 500)
            print(
                f"| {people} people, {f'{pause_s:g} s pause' if pause_s else 'no pause'} | {figures['p50']:.0f} ms | {figures['p95']:.0f} ms | "
                f"{figures['p99']:.0f} ms | {figures['a second']:.0f} | {others or 'none'} |", flush=True,
            )  # fmt: skip
    finally:
        application.stop()
        shutil.rmtree(place, ignore_errors=True)
    return 1 if bad else 0


if __name__ == "__main__":
    given = [int(text) for text in sys.argv[1:4]]
    sys.exit(main(*(given + [50, 30, 1][len(given) :])))
