"""What still protects a running pump, and what comes back by itself: read off bench runs, told as a manual would tell it."""

import unittest

from goodbalance.core.protection.names import After, Restart
from goodbalance.core.rehearsal.guarding import Guarded, Mode, Returns, guarded
from goodbalance.core.stations.booster.kind import BOOSTER
from goodbalance.core.stations.lift.kind import LIFT
from tests import boosters, stations

WATCHED = {"control": {"phase_monitor": True}, "protection": {"monitor": "voltages"}}


def table(kind, survey, choices, driven: bool = False) -> dict[str, dict[Mode, Guarded]]:
    plan = kind.reckon(survey, choices, False)
    dangers = kind.diagnosis.dangers(kind.bench(survey, choices, plan))
    return guarded(lambda start: kind.bench(survey, choices, plan, start), kind.diagnosis.at_work(survey, choices, plan), dangers, 1, driven)


class GuardedTest(unittest.TestCase):
    def test_a_lift_station_row_by_row(self) -> None:
        """Overload 5.5 A of class 10 and a standing rotor at 30 A; the monitor lets go at once for phases, after 3.5 s for voltages."""
        rows = table(LIFT, stations.survey(**WATCHED), stations.choices())
        for danger, by, auto, hand, past, returns in (
            ("stalled.1", "overload", True, True, True, Returns.PERSON), ("overload.1", "overload", True, True, True, Returns.PERSON), ("shut.1", "", False, False, False, Returns.NOT_ASKED),
            ("phase", "Phase", True, True, False, Returns.BY_ITSELF), ("swapped", "Phase", True, True, False, Returns.BY_ITSELF), ("low_voltage", "Phase", True, True, False, Returns.BY_ITSELF),
            ("inflow", "", True, False, False, Returns.NOT_ASKED), ("power", "", True, True, True, Returns.BY_ITSELF),
        ):  # fmt: skip
            row = rows[danger]
            self.assertEqual([row[mode].stops_s is not None for mode in Mode], [auto, hand, past], danger)
            self.assertTrue(row[Mode.AUTO].by.startswith(by), (danger, row[Mode.AUTO].by))
            self.assertIs(row[Mode.AUTO].returns, returns, danger)
        self.assertLess(rows["phase"][Mode.AUTO].stops_s, 1.5)
        self.assertAlmostEqual(rows["low_voltage"][Mode.AUTO].stops_s, 3.5, delta=1.0)

    def test_what_is_chosen_changes_who_must_come(self) -> None:
        choices = stations.choices()
        for way, returns in ((Restart.BY_ITSELF, Returns.BY_ITSELF), (Restart.BY_HAND, Returns.PERSON)):
            decided = choices.model_copy(update={"protection": choices.protection.model_copy(update={"power_return": way})})
            self.assertIs(table(LIFT, stations.survey(**WATCHED), decided)["phase"][Mode.AUTO].returns, returns)
        survey = stations.survey(protection={"underload_by": "power", "refill_s": 300.0, "patience_s": 1200.0})
        for after, returns in ((After.BY_HAND, Returns.PERSON), (After.TRIES, Returns.BY_ITSELF)):
            decided = choices.model_copy(update={"protection": choices.protection.model_copy(update={"after": after})})
            row = table(LIFT, survey, decided)["shut.1"][Mode.AUTO]
            self.assertEqual((row.by, row.returns), ("under-load", returns))
        self.assertAlmostEqual(row.back_s, LIFT.reckon(survey, decided, False).value("retry_wait_1", 0.0) - 60.0, delta=4.0)  # the cause goes a minute after the stop

    def test_a_set_row_by_row(self) -> None:
        rows = table(BOOSTER, boosters.survey(**WATCHED), boosters.choices(), True)
        self.assertEqual({danger: row[Mode.AUTO].returns for danger, row in rows.items() if danger in ("dry", "burst", "air.1", "loop_open", "phase", "power")}, {
            "dry": Returns.BY_ITSELF, "burst": Returns.PERSON, "air.1": Returns.PERSON, "loop_open": Returns.BY_ITSELF, "phase": Returns.BY_ITSELF, "power": Returns.BY_ITSELF,
        })  # fmt: skip
        self.assertEqual([danger for danger, row in rows.items() if row[Mode.BYPASS].stops_s is not None], ["power"])  # a drive's guards are left behind
        self.assertEqual(rows["power"][Mode.AUTO].by, "")  # a dead controller tells of nothing


class BareTest(unittest.TestCase):
    def test_without_a_monitor_a_motor_on_the_line_is_left_to_its_overload(self) -> None:
        rows = table(BOOSTER, boosters.survey(control={"kind": "on_off"}), boosters.choices())
        self.assertEqual(rows["phase"][Mode.AUTO].by, "overload")
        self.assertIn("Pump 1 runs on two phases until its overload opens", rows["phase"][Mode.AUTO].harms)
        self.assertIsNone(table(LIFT, stations.survey(), stations.choices())["low_voltage"][Mode.HAND].stops_s)
