"""Many at once, and what one client may cost the others: races, unfinished posts, large bodies, errors nobody foresaw."""

import socket
import threading
import time
import unittest
from concurrent.futures import ThreadPoolExecutor
from unittest import mock

from goodbalance.core.errors import OutOfRange
from goodbalance.store import people, records
from goodbalance.store.database import session_maker
from goodbalance.web import computing, prove, reckon, rehearse, stations, survey
from goodbalance.web.work import Work
from tests.support import Visitor, WebServer, empty_session, engine
from tests.typed_stations import DEEP_WELL, ROUND_WELL
from tests.web.visits import WebTest, key
from tools.fuzz import Fuzzer


def at_once(count: int, act) -> list:
    """What `act` gives for 0, 1, 2 …, all begun together."""
    ready = threading.Barrier(count)

    def one(number: int):
        ready.wait(20.0)
        return act(number)

    with ThreadPoolExecutor(count) as pool:
        return list(pool.map(one, range(count)))


def _refuses() -> None:
    raise OutOfRange("level", 9, "0 to 4")


class RaceTest(WebTest):
    def test_twelve_saves_and_twelve_forms_at_once_all_arrive(self) -> None:
        path = self.station(ROUND_WELL)
        who = [Visitor(self.web.address).sign_in("Ada Wren", "quite long enough here") for _ in range(12)]
        pipes = [f"main.length_m {n}" for n in range(12)]

        def save(number: int) -> tuple[int, int]:
            visitor = who[number]
            fact = self.save_facts(path, {"visit.purpose": pipes[number]}, visitor, base_seq=10**6)
            point = visitor.form(f"{path}/open-points", text=f"point {number}", save_key=key())
            return fact.status_code, point.status_code

        self.assertEqual(at_once(12, save), [(200, 200)] * 12)
        with session_maker(engine())() as session:
            entries = records.entries(session, int(path.rpartition("/")[2]))
        self.assertEqual(len(entries), 2 + 24)
        said = {e.body["changes"]["visit.purpose"]["text"] for e in entries[2:] if e.kind == "facts"}
        self.assertEqual(said, set(pipes))

    def test_one_form_sent_by_six_hands_makes_one_station(self) -> None:
        who = [Visitor(self.web.address).sign_in("Ada Wren", "quite long enough here") for _ in range(6)]
        same = {"name": "North pit", "place": "Yard", "kind": "lift", "save_key": key()}
        made = at_once(6, lambda number: who[number].form("/stations", **same).url.path)
        self.assertEqual(len(set(made)), 1)
        with session_maker(engine())() as session:
            self.assertEqual(len(records.stations(session)), 1)


class FirstPersonTest(unittest.TestCase):
    def test_of_six_first_persons_at_once_one_is_made(self) -> None:
        empty_session().close()
        with WebServer() as web:
            who = [Visitor(web.address) for _ in range(6)]
            for visitor in who:
                visitor.get("/sign-in")
            answers = at_once(6, lambda n: who[n].form("/first-person", name=f"Lead {n}", password="quite long enough here"))
        with session_maker(engine())() as session:
            made = people.people(session)
        self.assertEqual([person.role for person in made], ["lead"])
        self.assertEqual(sorted(a.status_code for a in answers), [200] + [403] * 5)


class CostTest(WebTest):
    def test_unfinished_posts_hold_nothing_that_others_need(self) -> None:
        path = self.station(ROUND_WELL)
        host, port = self.web.address.removeprefix("http://").split(":")
        cookies = "; ".join(f"{name}={value}" for name, value in self.ada.http.cookies.items())
        head = (
            f"POST {path}/survey HTTP/1.1\r\nHost: {host}:{port}\r\nCookie: {cookies}\r\nX-CSRF-Token: {self.ada.token}\r\n"
            "Content-Type: application/x-www-form-urlencoded\r\nContent-Length: 4000\r\n\r\nwell.depth_m=4"
        )
        held = [socket.create_connection((host, int(port))) for _ in range(24)]
        for half in held:
            half.sendall(head.encode())
        answers = at_once(4, lambda _: self.ada.http.get(f"{path}/survey").status_code)
        for half in held:
            half.close()
        self.assertEqual(answers, [200] * 4)

    def test_strangers_send_little_and_forms_are_not_files(self) -> None:
        path = self.station(ROUND_WELL)
        body = b'{"a": "' + b"x" * 70_000 + b'"}'
        json_type = {"Content-Type": "application/json"}
        stranger = Visitor(self.web.address)
        for visitor, size in ((stranger, 70_000), (self.ada, 2_100_000)):
            data = body if size < 100_000 else body * 30
            answer = visitor.http.post(f"{path}/facts", content=data, headers=json_type)
            self.assertEqual(answer.status_code, 413)
            self.assertIn("accepted: up to", answer.text)

    def test_a_long_run_comes_in_parts_and_a_piece_that_takes_too_long_is_ended(self) -> None:
        path = self.station(ROUND_WELL)
        acts = [{"at_s": 0.0, "kind": "pattern", "target": "", "value": 1.0}]
        ask = {"start": 1.0, "actions": acts, "from_s": 0.0, "to_s": 43200.0}
        whole = self.ada.json(f"{path}/bench", ask).json()
        parts, ask["start"] = [], 1.001  # another run, so that nothing of it is known yet
        with mock.patch.object(rehearse, "LOOK_WITHIN_S", 0.0):
            while not parts or parts[-1]["to_s"] < ask["to_s"] and len(parts) < 20_000:
                parts.append(self.ada.json(f"{path}/bench", {**ask, "from_s": parts[-1]["to_s"] if parts else 0.0}).json())
        self.assertEqual(whole["to_s"], 43200.0)
        self.assertGreater(len(parts), 5)
        one = self.ada.json(f"{path}/bench", ask).json()
        self.assertEqual(parts[-1]["rows"][-1], one["rows"][-1])
        self.assertEqual([e for part in parts for e in part["events"]], one["events"])
        with self.assertRaises(computing.TooLong):
            computing.answer(time.sleep, 30.0, within_s=0.5)
        with self.assertRaises(OutOfRange):
            computing.answer(_refuses)
        self.assertEqual(computing.answer(divmod, 7, 2), (3, 1))  # and the next piece is worked out

    def test_head_asks_like_get_and_gets_no_body(self) -> None:
        path = self.station(ROUND_WELL)
        for page, status in (("/", 200), (f"{path}/reckon", 200), ("/nowhere", 404)):
            answer = self.ada.http.head(page)
            self.assertEqual((answer.status_code, answer.content), (status, b""))
            self.assertIn("Content-Security-Policy", answer.headers)

    def test_a_slice_of_hostile_requests_brings_no_server_error(self) -> None:
        """As `python -m tools.fuzz` does with thousands."""
        fuzzer = Fuzzer(seed=20)
        routes = [*stations.router.routes, *survey.router.routes, *reckon.router.routes, *prove.router.routes]
        found = [how for route in routes for _ in range(4) for status, how in [fuzzer.send(route)] if status >= 500]
        self.assertEqual(found, [])

    def test_a_speed_of_almost_nothing_is_no_division_by_nothing(self) -> None:
        path = self.station(DEEP_WELL)
        for value in (1e-300, 1e-9):
            body = {"save_key": key(), "units": "metric", "chosen": {"least_speed": value}}
            self.assertEqual(self.ada.json(f"{path}/choices", body).status_code, 200)
            for view in ("reckon", "rehearse", "enter"):
                self.assertEqual(self.ada.get(f"{path}/{view}").status_code, 200, (view, value))

    def test_an_error_nobody_foresaw_keeps_headers_and_look_and_names_its_place_in_the_log(self) -> None:
        path = self.station(ROUND_WELL)
        with mock.patch.object(Work, "progress", side_effect=ZeroDivisionError("made for this test")):
            with mock.patch("goodbalance.web.trouble.log") as log:
                answer = self.ada.get(f"{path}/survey")
        self.assertEqual(answer.status_code, 500)
        self.assertIn("Content-Security-Policy", answer.headers)
        number = log.error.call_args.kwargs["number"]
        self.assertIn(f"in the log as {number}", answer.text)
        self.assertNotIn("made for this test", answer.text)
        self.assertIn("Good Balance", answer.text)
