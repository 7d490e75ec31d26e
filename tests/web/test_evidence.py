"""A short slice of each tool that kills, races, loads and clusters; the tools themselves go on for as long as they are told."""

import contextlib
import io
import tempfile
import unittest
from pathlib import Path

from tools import cluster, kill
from tools.hands import Application, made_ready
from tools.load import crew
from tools.race import Race, first_persons
from tools.stage.server import WebServer


class RaceTest(unittest.TestCase):
    def test_many_hands_at_one_moment(self) -> None:
        with WebServer() as web:
            self.assertEqual(first_persons(web.address, 6), 0)
            race = Race(web.address, 12)
            for name in ("saves", "one_form", "signatures", "one_setting"):
                self.assertEqual(getattr(race, name)(), 0, name)


class KillTest(unittest.TestCase):
    def test_nothing_acknowledged_is_lost_when_application_and_database_are_killed(self) -> None:
        with contextlib.redirect_stdout(io.StringIO()) as said:
            code = kill.main(kills=3, seed=7, hands=4)
        self.assertEqual(code, 0, said.getvalue())


class LoadTest(unittest.TestCase):
    def test_a_small_crew_gets_an_answer_to_everything(self) -> None:
        with tempfile.TemporaryDirectory(prefix="goodbalance-load-") as folder:
            application = Application(Path(folder), "serve", "--workers", "2")
            try:
                made_ready(application.start(), 1)
                figures, answers = crew(application.address, people=6, seconds=4.0, seed=1, pause_s=0.0)
            finally:
                application.stop()
        self.assertEqual(set(answers), {200})
        self.assertGreater(figures["a second"], 1.0)


class ClusterTest(unittest.TestCase):
    def test_a_node_and_an_application_are_killed_and_nothing_acknowledged_is_lost(self) -> None:
        with contextlib.redirect_stdout(io.StringIO()) as said:
            code = cluster.main(seconds=8.0, seed=3, hands=4)
        self.assertEqual(code, 0, said.getvalue())
