"""python -m tools.race [rounds] [hands]: many hands at one moment, again and again; counts what came out wrong.

Saves and forms at once, one form sent by many, first persons, a signature of what has just moved, one setting by many.
"""

import os
import sys
import threading
import uuid
from collections import Counter
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from typing import Any

os.environ["GOODBALANCE_FAST_HASH"] = "1"

from goodbalance.core.record.chain import Kind
from goodbalance.store import people, records
from goodbalance.store.database import session_maker
from tools.stage.server import Visitor, WebServer, empty_session, engine
from tools.stage.typed_stations import ROUND_WELL

NAME, PASSWORD = "Ada Wren", "quite long enough here"


def at_once(count: int, act: Callable[[int], Any]) -> list[Any]:
    """What `act` gives for 0, 1, 2 …, all begun together."""
    ready = threading.Barrier(count)

    def one(number: int) -> Any:
        ready.wait(20.0)
        return act(number)

    with ThreadPoolExecutor(count) as pool:
        return list(pool.map(one, range(count)))


class Race:
    """Hands signed in as one lead, on a server of this process."""

    def __init__(self, address: str, hands: int) -> None:
        self.address = address
        with empty_session() as session:
            people.add_person(session, NAME, people.Role.LEAD, PASSWORD)
            session.commit()
        self.who = [Visitor(address).sign_in(NAME, PASSWORD) for _ in range(hands)]

    def station(self) -> str:
        """A new station with a survey; its address."""
        made = self.who[0].form("/stations", name="Test pit", place="Yard", kind="lift", save_key=_key())
        path = str(made.url.path).removesuffix("/survey")
        self.who[0].json(f"{path}/facts", {"save_key": _key(), "base_seq": 0, "units": "metric", "changes": ROUND_WELL})
        return path

    def saves(self) -> int:
        """Facts and open points at once: how many were refused, lost or written twice."""
        path = self.station()

        def save(number: int) -> int:
            changes = {"visit.purpose": f"hand {number}"}
            body = {"save_key": _key(), "base_seq": 10**6, "units": "metric", "changes": changes}
            fact = self.who[number].json(f"{path}/facts", body)
            point = self.who[number].form(f"{path}/open-points", text=f"point {number}", save_key=_key())
            return (fact.status_code != 200) + (point.status_code != 200)

        refused = sum(at_once(len(self.who), save))
        entries = self.entries(path)
        said = Counter(e.body["changes"]["visit.purpose"]["text"] for e in entries[2:] if e.kind is Kind.FACTS)
        points = Counter(e.body["text"] for e in entries if e.kind is Kind.OPEN_POINT)
        return refused + sum(said[f"hand {n}"] != 1 for n in range(len(self.who))) + sum(points[f"point {n}"] != 1 for n in range(len(self.who)))

    def one_form(self) -> int:
        """One form sent by every hand: how many stations too many."""
        same = {"name": "North pit", "place": "Yard", "kind": "lift", "save_key": _key()}
        return len(set(at_once(len(self.who), lambda number: self.who[number].form("/stations", **same).url.path))) - 1

    def signatures(self) -> int:
        """All sign what they have all seen: how many signatures but one, and how many that do not cover what was seen."""
        path = self.station()
        seen = self.who[0].get(f"{path}/handover").text.split('name="seen" value="')[1].split('"')[0]
        fields = {"name": NAME, "role": "lead", "seen": seen, "password": PASSWORD}
        at_once(len(self.who), lambda number: self.who[number].form(f"{path}/sign", **fields, save_key=_key()))
        signed = [entry for entry in self.entries(path) if entry.kind is Kind.SIGNATURE]
        return abs(len(signed) - 1) + sum(entry.previous != seen for entry in signed)

    def one_setting(self) -> int:
        """All set one setting from the same page: how many were overwritten without having been told."""
        path = self.station()

        def choose(number: int) -> bool:
            body = {"save_key": _key(), "units": "metric", "chosen": {"start_1": 1.2 + number * 0.01}, "was": {"start_1": None}}
            answer = self.who[number].json(f"{path}/choices", body)
            return answer.status_code == 200 and not answer.json()["conflicts"]

        return sum(at_once(len(self.who), choose)) - 1

    def entries(self, path: str) -> list[Any]:
        with session_maker(engine())() as session:
            return records.entries(session, int(path.rpartition("/")[2]))


def first_persons(address: str, hands: int) -> int:
    """Many first persons at once: how many but one were made."""
    empty_session().close()
    who = [Visitor(address) for _ in range(hands)]
    for visitor in who:
        visitor.get("/sign-in")
    answers = at_once(hands, lambda n: who[n].form("/first-person", name=f"Lead {n}", password=PASSWORD).status_code)
    with session_maker(engine())() as session:
        made = [person.role for person in people.people(session)]
    return abs(len(made) - 1) + (made != ["lead"]) + (sorted(answers) != [200] + [403] * (hands - 1))


def _key() -> str:
    return uuid.uuid4().hex


def main(rounds: int, hands: int) -> int:
    wrong: Counter[str] = Counter()
    with WebServer() as web:
        for _ in range(rounds):
            wrong["first persons"] += first_persons(web.address, 6)
            race = Race(web.address, hands)
            for name in ("saves", "one_form", "signatures", "one_setting"):
                wrong[name] += getattr(race, name)()
            for visitor in race.who:
                visitor.http.close()
    print(f"{rounds} rounds of {hands} hands, wrong: " + ", ".join(f"{count} of {name.replace('_', ' ')}" for name, count in wrong.items()))
    return 1 if any(wrong.values()) else 0


if __name__ == "__main__":
    given = [int(text) for text in sys.argv[1:3]]
    sys.exit(main(*(given + [20, 12][len(given) :])))
