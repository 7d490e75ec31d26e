"""The demo loads once and every page of every station of it answers."""

import tempfile
import unittest
from pathlib import Path

from goodbalance.core.balance.quantities import UnitSystem
from goodbalance.core.stations.booster.plant.hydraulics import hydraulics
from goodbalance.core.stations.booster.plant.loop_model import WorkingPoint, loop_model
from goodbalance.demo.kestrel_point import PASSWORD, TECHNICIAN, load_demo
from goodbalance.launch.devices import typed_in
from goodbalance.standins.station import stand_in
from goodbalance.store import records
from goodbalance.store.database import session_maker
from goodbalance.web.loading import load_work
from goodbalance.web.progress import progress
from tools.stage.server import Visitor, WebServer, empty_session, engine

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
            with session_maker(engine())() as session:
                works = {name: progress(load_work(session, ids[name], UnitSystem.METRIC)) for name in ids}
            words = {name: {view: state.word for view, state in views.items()} for name, views in works.items()}
            done = {"reckon": "all inside", "enter": "read back", "prove": "all passed", "handover": "signed"}
            self.assertLessEqual(done.items(), words["Aquarium booster"].items())
            self.assertEqual(words["Slipway sump"]["reckon"], "all inside")
            self.assertEqual(words["Seal clinic lift"]["reckon"], "all inside")
            self.assertRegex(words["Seal clinic lift, lower sewer"]["reckon"], "windows empty")
            self.stand_ins_hold_what_was_read_back(ids["Aquarium booster"])
            slipway = f"/stations/{ids['Slipway sump']}"
            run = next(e.seq for e in self.entries(ids["Slipway sump"]) if e.kind == "rehearsal")
            self.assertTrue(visitor.json(f"{slipway}/runs/{run}/replay", {}).json()["same"])

    def stand_ins_hold_what_was_read_back(self, station_id: int) -> None:
        with tempfile.TemporaryDirectory() as folder, session_maker(engine())() as session:
            files = {family: (name, file) for family, name, file in typed_in(engine(), Path(folder))}
            self.assertEqual(set(files), {"ebbstone_tray", "sandhopper_lanes"})
            stands = load_work(session, station_id, UnitSystem.METRIC).comparisons
            device = stand_in("sandhopper_lanes", files["sandhopper_lanes"][1])
            of_it = {s.row.parameter.code: s.typed for s in stands if s.row.device == "sandhopper_lanes"}
            self.assertEqual({code: device.shown[code] for code in of_it}, of_it)

    def test_the_step_test_of_the_demo_is_what_reckoning_says_of_the_same_set(self) -> None:
        """A calm record, its fit, and gain, lag and delay near those of the linear model at that point."""
        with empty_session() as session:
            load_demo(session)
            session.commit()
            station = next(row.id for row in records.stations(session) if row.name == "Aquarium booster")
            work = load_work(session, station, UnitSystem.METRIC)
        body = work.history.step_tests[-1].body
        hyd, value = hydraulics(work.survey), {setting.id: setting.value for setting in work.plan.settings}
        at = WorkingPoint(
            value["set_pressure"], body["flow_m3s"], 1, hyd.suction_pa(body["flow_m3s"]), value["precharge"]
        )
        reckoned = loop_model(hyd, at, 0.3)
        self.assertGreater(body["model"]["fit"], 0.99)
        self.assertAlmostEqual(body["model"]["gain"], reckoned.gain, delta=0.1 * reckoned.gain)
        self.assertAlmostEqual(body["model"]["time_s"], reckoned.time_s, delta=0.2 * reckoned.time_s)
        self.assertAlmostEqual(body["model"]["dead_s"], reckoned.dead_s, delta=0.4)

    @staticmethod
    def entries(station_id: int):
        with session_maker(engine())() as session:
            return records.entries(session, station_id)
