"""What one client may cost the others: unfinished posts, large bodies, long computing, errors nobody foresaw."""

import os
import socket
import tempfile
import threading
import time
from pathlib import Path
from unittest import mock

from goodbalance.core.errors import OutOfRange
from goodbalance.web import computing, prove, reckon, running, stations, survey
from goodbalance.web.work import Work
from tests.web.visits import WebTest, key
from tools.fuzz import Fuzzer
from tools.race import at_once
from tools.stage.server import Visitor
from tools.stage.typed_stations import DEEP_WELL, ROUND_WELL


def _refuses() -> None:
    raise OutOfRange("level", 9, "0 to 4")


def _until_there(path: Path) -> None:
    while not path.exists():
        time.sleep(0.05)


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
        with mock.patch.object(running, "LOOK_WITHIN_S", 0.0):
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

    def test_work_that_is_looked_on_at_stands_back_and_keeps_nobody_waiting(self) -> None:
        self.assertEqual(computing.answer(os.nice, 0, stands_back=True) - computing.answer(os.nice, 0), computing.STANDS_BACK)
        with tempfile.TemporaryDirectory() as folder:
            end = Path(folder, "end")
            many = [threading.Thread(target=computing.answer, args=(_until_there, end), kwargs={"stands_back": True}) for _ in range(computing.CORES)]
            for thread in many:
                thread.start()
            self.assertEqual(computing.answer(divmod, 7, 2), (3, 1))  # while all of them are under way
            end.touch()
            for thread in many:
                thread.join()

    def test_a_script_reads_why_something_is_too_large_and_a_crowd_is_told_to_wait(self) -> None:
        path = self.station(ROUND_WELL)
        answer = self.ada.json(f"{path}/facts", {"save_key": key(), "changes": {"visit.purpose": "x" * 2_100_000}})
        self.assertEqual((answer.status_code, answer.json()), (413, {"error": "What was sent is too large; accepted: up to 2 MB."}))
        with mock.patch.object(computing._line.places, "acquire", return_value=False):
            self.assertEqual(self.ada.get(f"{path}/chances").json(), {})  # the page can do without
            busy = self.ada.form(f"{path}/bench-proofs", save_key=key())
        self.assertEqual((busy.status_code, busy.headers["retry-after"]), (429, "5"))
        with mock.patch.object(computing, "LONGEST_S", 0.0), mock.patch.object(computing, "_worked_out", side_effect=computing.TooLong):
            long = self.ada.form(f"{path}/bench-proofs", save_key=key())
        self.assertEqual(long.status_code, 422)
        self.assertIn("takes longer than the server works on one question", long.text)

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
        with mock.patch.object(Work, "findings", mock.PropertyMock(side_effect=ZeroDivisionError("made for this test"))):
            with mock.patch("goodbalance.web.trouble.log") as log:
                answer = self.ada.get(f"{path}/survey")
        self.assertEqual(answer.status_code, 500)
        self.assertIn("Content-Security-Policy", answer.headers)
        number = log.error.call_args.kwargs["number"]
        self.assertIn(f"in the log as {number}", answer.text)
        self.assertNotIn("made for this test", answer.text)
        self.assertIn("Good Balance", answer.text)
