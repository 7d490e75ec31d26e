"""Old floats to relays: the truth table as the manual would print it, and each way it can be wrong."""

import unittest
from dataclasses import replace

from goodbalance.core.balance.quantities import UnitSystem
from goodbalance.core.control.relays import LevelRelay, OnFailure
from goodbalance.core.stations.lift.controller.relays_of_plan import relays_of
from goodbalance.core.stations.lift.sheet.retrofit import retrofit_map
from goodbalance.core.stations.lift.windows.reckon import reckon
from tests.stations import choices, survey

PLAN = reckon(survey(), choices())
RELEASE, ENERGISE = OnFailure.RELEASE, OnFailure.ENERGISE
RELAYS = (  # as wired here: high alarm first, then the pumps, the floor last, one relay left free
    LevelRelay("low_cut_out", "Low-level cut-out", 0.35, 0.30, RELEASE, number=7),
    LevelRelay("low_alarm", "Low alarm", 0.60, 0.65, RELEASE, number=6),
    LevelRelay("stop", "Common stop", 1.05, 1.00, RELEASE, number=2),
    LevelRelay("start_1", "Duty start", 1.50, 1.45, RELEASE, number=4),
    LevelRelay("start_2", "Assist start", 1.80, 1.75, RELEASE, number=3),
    LevelRelay("high_alarm", "High alarm", 2.10, 2.05, ENERGISE, number=1),
)


def row(bands, text: str) -> tuple[str, int]:
    """The contacts of a band as o (open) and x (closed), and the pumps called."""
    band = next(band for band in bands if band.worded(UnitSystem.METRIC) == text)
    return "".join("ox"[closed] for closed in band.closed), band.called


def with_relay(role: str, **change) -> tuple[LevelRelay, ...]:
    return tuple(replace(relay, **change) if relay.role == role else relay for relay in RELAYS)


class TruthTableTest(unittest.TestCase):
    def test_rising_and_falling(self) -> None:
        found = retrofit_map(survey(), choices(), PLAN, RELAYS)
        self.assertEqual([wire.number for wire in found.wires], [1, 2, 3, 4, 6, 7])
        #                         1 high 2 stop 3 assist 4 duty 6 low 7 cut-out; pumps
        for bands, text, expected in (
            (found.rising, "below 0.30 m", ("ooooxo", 0)),
            (found.rising, "0.35 m to 0.60 m", ("ooooxx", 0)),
            (found.rising, "0.65 m to 1.00 m", ("ooooox", 0)),
            (found.rising, "1.05 m to 1.45 m", ("oxooox", 0)),
            (found.rising, "1.50 m to 1.75 m", ("oxoxox", 1)),
            (found.rising, "1.80 m to 2.05 m", ("oxxxox", 2)),
            (found.rising, "above 2.10 m", ("xxxxox", 2)),
            (found.falling, "1.05 m to 1.45 m", ("oxooox", 2)),  # latched until the stop contact opens
            (found.falling, "0.65 m to 1.00 m", ("ooooox", 0)),
            (found.without_level, "controller without power", ("oooooo", 0)),
            (found.without_level, "level signal lost, pumps at rest", ("xooooo", 0)),
        ):
            with self.subTest(text=text):
                self.assertEqual(row(bands, text), expected)

    def test_a_sound_map_has_one_caution_only(self) -> None:
        codes = [finding.code for finding in retrofit_map(survey(), choices(), PLAN, RELAYS).findings]
        self.assertEqual(codes, ["silent_without_power"])

    def test_each_wrong_turn_is_found(self) -> None:
        for relays, code in (
            (with_relay("high_alarm", on_failure=RELEASE), "silent_without_signal"),
            (with_relay("stop", on_m=1.00, off_m=1.05), "stop_turned"),
            (with_relay("low_cut_out", on_m=0.30, off_m=0.35), "stop_turned"),
            (tuple(replace(relay, on_failure=ENERGISE) for relay in RELAYS), "runs_without_signal"),
        ):
            with self.subTest(code=code):
                self.assertIn(
                    code, [finding.code for finding in retrofit_map(survey(), choices(), PLAN, relays).findings]
                )

    def test_alarms_energised_in_health_speak_up_without_power(self) -> None:
        decided = choices(schools={"alarm_relay": "in_health"})
        found = retrofit_map(survey(), decided, PLAN)
        self.assertEqual(found.findings, ())
        by_role = {wire.relay.role: position for position, wire in enumerate(found.wires)}
        for band in found.without_level:
            self.assertTrue(band.closed[by_role["high_alarm"]], band.text)
        self.assertFalse(found.rising[3].closed[by_role["high_alarm"]])
        self.assertTrue(found.rising[-1].closed[by_role["high_alarm"]])
        self.assertEqual(
            [b.called for b in found.rising], [b.called for b in retrofit_map(survey(), choices(), PLAN).rising]
        )

    def test_every_relay_of_a_plan_takes_one_float(self) -> None:
        station = survey(pumping={"count": 3})
        plan = reckon(station, choices())
        found = retrofit_map(station, choices(), plan)
        self.assertEqual([w.relay.role for w in found.wires], [r.role for r in relays_of(station, choices(), plan)])
        self.assertEqual([w.number for w in found.wires], list(range(1, 8)))
        self.assertEqual(len({wire.old_float for wire in found.wires}), len(found.wires))

    def test_no_map_where_no_panel_stays(self) -> None:
        for control in ({"kind": "relays_alone"}, {"kind": "pump_controller"}, {"level_by": "floats", "floats": 3}):
            station = survey(control=control)
            self.assertIsNone(retrofit_map(station, choices(), reckon(station, choices())), control)
