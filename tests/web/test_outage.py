"""The database stops while people work."""

import unittest
import uuid

from goodbalance.store import people, records
from goodbalance.store.people import Role
from tests.support import Visitor, WebServer, empty_session, server


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
            finally:
                server().start()
            self.assertEqual((answer.status_code, page.status_code), (503, 503))
            self.assertIn("The database is not answering", answer.json()["error"])
            self.assertIn("The database is not answering", page.text)
            self.assertNotIn("Traceback", page.text)
            for _ in range(2):
                self.assertEqual(ada.json(f"/stations/{station_id}/facts", save).json()["seq"], 2)
