"""The demo loads once and every page of every station of it answers."""

import unittest

from goodbalance.demo.kestrel_point import PASSWORD, TECHNICIAN, load_demo
from goodbalance.store import records
from tests.support import Visitor, WebServer, empty_session

VIEWS = (
    "survey",
    "reckon",
    "rehearse",
    "enter",
    "wires",
    "prove",
    "handover",
    "card",
    "log",
    "station.json",
    "settings.csv",
)


class DemoTest(unittest.TestCase):
    def test_every_page_answers_and_loading_again_changes_nothing(self) -> None:
        with empty_session() as session:
            load_demo(session)
            session.commit()
            before = [(row.name, row.head_seq) for row in records.stations(session)]
            load_demo(session)
            self.assertEqual([(row.name, row.head_seq) for row in records.stations(session)], before)
            ids = {row.name: row.id for row in records.stations(session)}
        with WebServer() as web:
            visitor = Visitor(web.address).sign_in(TECHNICIAN, PASSWORD)
            front = visitor.get("/").text
            for name, station_id in ids.items():
                self.assertIn(name, front)
                for view in VIEWS:
                    self.assertEqual(visitor.get(f"/stations/{station_id}/{view}").status_code, 200, (name, view))
            self.assertRegex(front, "[0-9] windows? empty")
            self.assertIn("1 failed", front)
            slipway = f"/stations/{ids['Slipway sump']}"
            run = next(e.seq for e in self.entries(ids["Slipway sump"]) if e.kind == "rehearsal")
            self.assertTrue(visitor.json(f"{slipway}/runs/{run}/replay", {}).json()["same"])

    @staticmethod
    def entries(station_id: int):
        from goodbalance.store.database import session_maker
        from tests.support import engine

        with session_maker(engine())() as session:
            return records.entries(session, station_id)
