"""The database stops while people work."""

import unittest
import uuid

from goodbalance.store import people, records
from goodbalance.store.people import Role
from tools.stage.server import Visitor, WebServer, empty_session, server


class OutageTest(unittest.TestCase):
    def test_pages_say_so_and_saves_count_once_when_it_is_back(self) -> None:
        with empty_session() as session:
            people.add_person(session, "Ada Wren", Role.LEAD, "quite long enough here")
            station_id = records.create_station(session, "Test pit", "", "lift", "Ada Wren").id
            session.commit()
        with WebServer() as web:
            ada = Visitor(web.address).sign_in("Ada Wren", "quite long enough here")
            save = {"save_key": uuid.uuid4().hex, "base_seq": 1, "units": "metric", "changes": {"well.depth_m": "4"}}
            server().stop()
            try:
                answer = ada.json(f"/stations/{station_id}/facts", save)
                page = ada.get(f"/stations/{station_id}/survey")
                alive, ready = ada.get("/healthz"), ada.get("/readyz")
            finally:
                server().start()
            self.assertEqual((answer.status_code, page.status_code), (503, 503))
            self.assertEqual((alive.status_code, ready.status_code), (200, 503))
            self.assertIn("The database is not answering", answer.json()["error"])
            self.assertIn("The database is not answering", page.text)
            self.assertNotIn("Traceback", page.text)
            for _ in range(2):
                self.assertEqual(ada.json(f"/stations/{station_id}/facts", save).json()["seq"], 2)
            self.assertEqual(ada.get("/readyz").text, "ready\n")
            self.check_figures(ada)

    def check_figures(self, ada: Visitor) -> None:
        """What the visits above came to, by route: three saves of which one met no database, and paths nobody knows as one."""
        for path in ("/no/such/page", "/another?password=sunk"):
            self.assertEqual(ada.get(path).status_code, 404)
        answer = ada.get("/metrics")
        figures = dict(line.rsplit(" ", 1) for line in answer.text.splitlines() if not line.startswith("#"))
        route = "/stations/{station_id}/facts"
        self.assertEqual(figures[f'goodbalance_answers_total{{method="POST",route="{route}",status="503"}}'], "1.0")
        self.assertEqual(figures[f'goodbalance_answers_total{{method="POST",route="{route}",status="200"}}'], "2.0")
        self.assertEqual(figures[f'goodbalance_answer_seconds_count{{route="{route}"}}'], "3.0")
        self.assertEqual(figures['goodbalance_answers_total{method="GET",route="elsewhere",status="404"}'], "2.0")
        self.assertNotIn("sunk", answer.text)
        self.assertLessEqual(float(figures["goodbalance_database_connections"]), 16.0)
        self.assertEqual(ada.get("/metrics", headers={"X-Forwarded-For": "10.0.0.9"}).status_code, 403)
