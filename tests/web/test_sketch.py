"""The drawing beside the survey: what is told stands to scale, what is not is dotted, each number leads to its field."""

import random
import re
import unittest

from goodbalance.core.record.chain import Kind
from goodbalance.demo.kestrel_point import load_demo
from goodbalance.store import people, records
from goodbalance.store.people import Role
from goodbalance.web.sketch import HIGH, WIDE
from tools.stage.server import Visitor, WebServer, empty_session

DRAWN = re.compile(r'<svg class="sketch".*?</svg>', re.DOTALL)
TAG = re.compile(r'<a href="#f-([\w-]+)" class="tag is-(\w+)" data-tag="([\w.]+)" tabindex="-1">.*?<text [^>]*>([^<]*)</text></a>', re.DOTALL)


class SketchTest(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.web = cls.enterClassContext(WebServer())

    def station(self, kind: str, facts: dict[str, str]) -> int:
        with empty_session() as session:
            people.add_person(session, "Ada Wren", Role.LEAD, "quite long enough here")
            row = records.create_station(session, "Anywhere", "", kind, "Ada Wren")
            if facts:
                records.append(session, row.id, Kind.FACTS, {"changes": {path: {"text": text, "units": "metric"} for path, text in facts.items()}}, "Ada Wren")
            session.commit()
            station_id = row.id
        self.ada = Visitor(self.web.address).sign_in("Ada Wren", "quite long enough here")
        return station_id

    def drawing(self, station_id: int) -> str:
        found = DRAWN.search(self.ada.get(f"/stations/{station_id}/survey").text)
        self.assertIsNotNone(found)
        return found[0]

    def test_a_height_stands_where_it_is_as_soon_as_it_is_told(self) -> None:
        station_id = self.station("lift", {})
        tags = {path: (how, text) for _, how, path, text in TAG.findall(self.drawing(station_id))}
        self.assertEqual(tags["well.depth_m"], ("unknown", "depth ?"))
        self.assertNotIn("well.length_m", tags)  # a round well has none
        changes = {"well.depth_m": "5", "inlet.invert_m": "2.5"}
        body = {"save_key": "first-save", "base_seq": 1, "units": "metric", "changes": changes}
        drawn = self.ada.json(f"/stations/{station_id}/facts", body).json()["sketch"]
        tags = {path: (how, text) for _, how, path, text in TAG.findall(drawn)}
        self.assertEqual(tags["inlet.invert_m"], ("told", "inlet 2.5 m"))
        # the cover stands at 90, the floor at 360: half of the depth is at 360 - 2.5 / 5 x 270 = 225
        self.assertIn('class="wall is-told" d="M126 225.0H150', drawn)
        self.assertIn('class="wall is-unknown" d="M290', drawn)  # the overflow, which nobody has told

    def test_any_part_of_a_survey_draws_within_its_sheet(self) -> None:
        with empty_session() as session:
            load_demo(session)
            session.commit()
            known = {}
            for row in records.stations(session):
                known[row.kind] = {path: there.text for path, there in records.history(session, row.id).facts.items()}
        draw = random.Random(17)
        for kind, facts in known.items():
            for share in (0.2, 0.6, 1.0):
                some = {path: text for path, text in facts.items() if draw.random() < share}
                with self.subTest(kind=kind, share=share):
                    station_id = self.station(kind, some)
                    page = self.ada.get(f"/stations/{station_id}/survey").text
                    drawn = DRAWN.search(page)[0]
                    for field, _, path, _ in TAG.findall(drawn):
                        self.assertIn(f'id="f-{field}"', page, path)
                    for x, y in re.findall(r'<text x="([-\d.]+)" y="([-\d.]+)"', drawn):
                        self.assertTrue(0 <= float(x) <= WIDE and 0 <= float(y) <= HIGH, (x, y))
