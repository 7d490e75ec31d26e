"""python -m tools.fuzz [seed] [requests a route]: hostile requests to every route, in this process; a 5xx is a defect.

Every route with every method, paths, queries, forms, JSON and headers made of texts and numbers that break programs. The
station asked for has a whole survey, so that pages reckon. Prints each answer of 500 or more with what brought it.
"""

import json
import os
import random
import sys
from collections import Counter
from typing import Any

os.environ["GOODBALANCE_FAST_HASH"] = "1"

from fastapi.routing import APIRoute
from starlette.testclient import TestClient

from goodbalance.core.record.chain import Kind
from goodbalance.store import people, records
from goodbalance.web.app import create_app
from tools.stage.server import empty_session, engine
from tools.stage.typed_stations import ROUND_WELL, TANK_SET

TEXTS = [
    "", " ", "0", "-1", "1", "1.5", "1e308", "1e-300", "-1e308", "NaN", "Infinity", "\u00b2", "\u0663", "9" * 400, "x" * 3000, "\x00", "\ud83d",
    "null", "true", "[]", "{}", "../../etc/passwd", "' OR 1=1 --", "<script>alert(1)</script>", "=1+1", "\r=1", "%s%n", "${7*7}", "\u202e", "a" * 65,
    "relay.1", "ebbstone_tray", "gannet_eye", "dead", "live", "ok", "fault", "Dead", "low_alarm", "real_water", "jumper", "wiring", "code\tname\n1\t2",
    "yes", "no", "metric", "us", "start_1", "set_pressure", "schools.alternation", "well.depth_m", "each_stop", "1 2 1", "2026-01-01",
]  # fmt: skip
NUMBERS = [0, -1, 1, 2, 5, 1.5, 1e308, -1e308, 1e-300, 2**31, 2**63, 2**64, 86400, 1e9, -1e5, 0.95, True, None]
HEADERS = [
    {}, {"accept": "application/json"}, {"accept": "text/html"}, {"content-type": "application/json; charset=undefined"},
    {"content-type": "application/x-www-form-urlencoded; charset=unicode_escape"}, {"content-type": "multipart/form-data; boundary="},
    {"content-type": "multipart/form-data; boundary=a; charset=undefined"}, {"content-type": "text/plain"}, {"referer": "http://\x7f"}, {"cookie": "goodbalance=a.b.c"},
]  # fmt: skip
FIELDS = [
    "save_key", "units", "changes", "chosen", "was", "base_seq", "seen", "name", "role", "how", "text", "point", "proof_id", "method", "note", "pump", "setting",
    "value", "start", "actions", "name", "known", "from_s", "to_s", "code", "typed", "what", "kind", "place", "password", "then", "theme", "days", "ids", "upto", "zero", "full",
    "outlet", "by", "q", "page", "at", "one", "seq", "added", "run", "next", "1.before.from", "1.pumping.time", "1.applied", "1.shown", "1.outlets", "1.pumps",
    "device", "place", "phase", "found", "temporary", "reason", "about", "family", "to", "old", "new", "tables", "base", "station", "rows", "listed", "like",
    "revision", "before", "head", "parameters", "terminals",
    "switches", "tries", "cause", "story", "at_s", "since_s", "starts", "step", "good", "confirmed", "why_now", "insulation", "volts_1", "instrument", "witness",
    "well.depth_m", "relays.stop", "flow", "pumps", "archived", "back",
]  # fmt: skip


class Fuzzer:
    """One client, signed in as a lead, that sends what it should not."""

    def __init__(self, seed: int) -> None:
        self.dice = random.Random(seed)
        self.app = create_app(engine(), "fuzz", devices="Dead=127.0.0.1:9 write")
        with empty_session() as session:
            people.add_person(session, "Ada Wren", people.Role.LEAD, "quite long enough here").writes_devices = True
            self.stations = []
            for kind, facts in (("lift", ROUND_WELL), ("booster", TANK_SET), ("lift", {})):
                row = records.create_station(session, f"Pit {kind}", "Yard", kind, "Ada Wren")
                changes = {path: {"text": text, "units": "metric"} for path, text in facts.items()}
                if changes:
                    records.append(session, row.id, Kind.FACTS, {"changes": changes}, "Ada Wren")
                self.stations.append(row.id)
            session.commit()
        self.client = TestClient(self.app, "http://127.0.0.1", raise_server_exceptions=False, follow_redirects=False)
        self.token = self._token("/sign-in")
        self.client.post("/sign-in", data={"csrf": self.token, "name": "Ada Wren", "password": "quite long enough here"})
        self.token = self._token("/")
        self.cookies = dict(self.client.cookies)

    def _token(self, path: str) -> str:
        return self.client.get(path).text.split('name="csrf" content="')[1].split('"')[0]

    def value(self, depth: int = 0) -> Any:
        kinds = [lambda: self.dice.choice(TEXTS), lambda: self.dice.choice(NUMBERS)]
        if depth < 3:
            kinds += [
                lambda: [self.value(depth + 1) for _ in range(self.dice.randrange(4))],
                lambda: {self.dice.choice(TEXTS + FIELDS): self.value(depth + 1) for _ in range(self.dice.randrange(4))},
            ]
        return self.dice.choice(kinds)()

    def send(self, route: APIRoute) -> tuple[int, str]:
        """One hostile request; its status, and how to repeat it."""
        self.client.cookies.clear()
        self.client.cookies.update(self.cookies)
        places = {name: self.place(name) for name in route.param_convertors}
        path = route.path
        for name, text in places.items():
            path = path.replace("{" + name + "}", text)
        method = self.dice.choice([*route.methods, "HEAD", "POST"] if self.dice.random() < 0.2 else [*route.methods])
        headers: dict[str, str] = {**self.dice.choice(HEADERS)} if self.dice.random() < 0.4 else {}
        query = {self.dice.choice(FIELDS): str(self.dice.choice(TEXTS)) for _ in range(self.dice.randrange(3))}
        more: dict[str, Any] = {"params": query}
        if method not in ("GET", "HEAD"):
            headers.setdefault("x-csrf-token", self.token)
            more |= self.body(route)
            if "content" in more:
                headers.setdefault("content-type", "application/json")
        try:
            answer = self.client.request(method, path, headers=headers, **more)
        except (UnicodeError, ValueError):
            return 0, ""  # the client itself refuses to say it
        return answer.status_code, f"{method} {path} {query} {headers} {str(more)[:300]}"

    def place(self, name: str) -> str:
        if name == "station_id" and self.dice.random() < 0.9:
            return str(self.dice.choice(self.stations))
        return self.dice.choice(["ebbstone_tray", "own_one", "toml", "xlsx", "csv", "1", "2", "0", "-1", "999999999999", "x", "\u00b2"])

    def file(self) -> tuple[str, bytes, str]:
        """A file that is not what its name says."""
        name = self.dice.choice(["a.csv", "a.xlsx", "a.toml", "a.jpg", "a", "\u202egpj.exe", "a.json"])
        whole = self.dice.choice([b"", b"\xff\xd8\xff\xe0", b"PK\x03\x04", b"id = 1\n", b"time_s,level_m\n0,1\n1,nan\n", b"code,name\n1,2\n", b"\x89PNG\r\n\x1a\n" + b"0" * 99, b"{}"])
        return name, whole, "application/octet-stream"

    def body(self, route: APIRoute) -> dict[str, Any]:
        names = [field.name for field in route.dependant.body_params] or FIELDS
        if len(names) == 1 and not names[0].islower():
            names = FIELDS
        model = getattr(route.dependant.body_params[0].field_info, "annotation", None) if route.dependant.body_params else None
        known = list(getattr(model, "model_fields", {})) or names
        way = self.dice.random()
        if any(name == "file" for name in names) and way < 0.6:
            return {"data": {name: str(self.dice.choice(TEXTS)) for name in names if name != "file"}, "files": {"file": self.file()}}
        if way < 0.45:
            fields = {name: self.value() for name in known if self.dice.random() < 0.85}
            if "save_key" in known:
                fields["save_key"] = "k" * self.dice.choice([8, 32, 64])
            if "units" in known:
                fields["units"] = self.dice.choice(["metric", "us"])
            return {"content": json.dumps(fields).encode()}
        if way < 0.85:
            fields = {name: str(self.dice.choice(TEXTS)).encode("utf-8", "replace").decode() for name in {*names, *self.dice.sample(FIELDS, 6)}}
            return {"data": fields}
        return {"content": self.dice.choice([b"", b"\xff\xfe", b"{", b'{"a":' * 5000, b"--a\r\n", b"a=%zz&%", b"0" * 50_000])}


def main(seed: int, count: int) -> int:
    fuzzer, statuses, broken = Fuzzer(seed), Counter(), []
    routers = [included.original_router for included in fuzzer.app.routes if hasattr(included, "original_router")]
    routes = [r for router in routers for r in router.routes if isinstance(r, APIRoute) and r.path != "/sign-out"]
    for route in routes:
        for _ in range(count):
            status, how = fuzzer.send(route)
            statuses[status] += 1
            if status >= 500:
                broken.append(f"{status} {how}")
    for line in broken[:40]:
        print(line)
    print(f"seed {seed}: {sum(statuses.values())} requests to {len(routes)} routes: {dict(sorted(statuses.items()))}")
    return 1 if broken else 0


if __name__ == "__main__":
    told = [int(text) for text in sys.argv[1:3]]
    sys.exit(main(*(told + [1, 30][len(told) :])))
