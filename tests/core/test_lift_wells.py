"""Benched wells, wells by table, and volume taken up: hand-worked, and kept through reckoning and rehearsal."""

import math
import unittest

from goodbalance.core.balance.plan import Severity
from goodbalance.core.balance.quantities import UnitSystem
from goodbalance.core.rehearsal.engine import TimedAction, rehearse
from goodbalance.core.stations.lift.bench.put_on import lift_bench
from goodbalance.core.stations.lift.plant.hydraulics import well_of
from goodbalance.core.stations.lift.survey.plausibility import plausibility
from goodbalance.core.stations.lift.survey.survey import LiftSurvey
from goodbalance.core.stations.lift.windows.reckon import reckon
from goodbalance.exchange.typed import Typed, facts_from, read_facts
from tests.stations import choices, survey
from tools.stage.typed_stations import DEEP_WELL

BENCHED = {
    "shape": "benched",
    "diameter_m": 2.0,
    "floor_diameter_m": 1.0,
    "benching_m": 0.6,
    "length_m": None,
    "width_m": None,
}
TABLE = {
    "shape": "table", "length_m": None, "width_m": None,
    "table": [{"level_m": 0.0, "volume_m3": 0.0}, {"level_m": 1.0, "volume_m3": 1.0}, {"level_m": 5.0, "volume_m3": 13.0}],
}  # fmt: skip


class ShapeTest(unittest.TestCase):
    def test_a_benched_well(self) -> None:
        well = well_of(survey(well=BENCHED).well)
        # frustum 0.6 pi / 12 (2^2 + 2 x 1 + 1^2) = 1.0996 m3 (as diameters), then pi per metre
        self.assertAlmostEqual(well.volume_m3(0.6), 0.6 * math.pi / 12.0 * 7.0, places=9)
        self.assertAlmostEqual(well.volume_m3(1.6) - well.volume_m3(0.6), math.pi, places=9)

    def test_a_table_is_straight_between_its_lines_and_goes_on_above(self) -> None:
        well = well_of(survey(well=TABLE).well)
        for level_m, volume_m3 in ((0.5, 0.5), (1.0, 1.0), (2.0, 4.0), (5.0, 13.0), (6.0, 16.0)):
            self.assertAlmostEqual(well.volume_m3(level_m), volume_m3)
            self.assertAlmostEqual(well.level_m(volume_m3), level_m)

    def test_what_pumps_and_rails_take_up_is_missing_everywhere(self) -> None:
        for shape in ({}, BENCHED, TABLE):
            whole, less = (well_of(survey(well={**shape, "lost_share": share}).well) for share in (0.0, 0.05))
            self.assertAlmostEqual(less.volume_m3(2.3), 0.95 * whole.volume_m3(2.3))

    def test_the_band_for_the_starts_is_a_volume_not_a_height(self) -> None:
        for shape in (BENCHED, TABLE):
            station = survey(well=shape)
            plan, well = reckon(station, choices()), well_of(station.well)
            self.assertTrue(plan.is_sound)
            low = next(b for b in plan.setting("start_1").window.lower if b.cause == "volume for the permitted starts")
            band_m3 = well.volume_m3(low.value) - well.volume_m3(plan.setting("stop").value)
            self.assertAlmostEqual(band_m3, 0.9, places=3)  # 0.010 * 360 / 4, as in the straight well

    def test_water_is_conserved_in_every_shape(self) -> None:
        for shape in (BENCHED, TABLE):
            station = survey(well=shape)
            bench = lift_bench(station, choices(), reckon(station, choices()), 1.1)
            before_m3 = bench.plant.volume_m3
            rehearse(bench, (TimedAction(0.0, "inflow", "", 0.007),), 7200.0)
            plant = bench.plant
            change_m3 = plant.inflow_total_m3 - plant.pumped_total_m3 - plant.spilled_total_m3
            self.assertAlmostEqual(plant.volume_m3 - before_m3, change_m3, places=8)


class TypedWellTest(unittest.TestCase):
    def codes(self, **changes: str) -> list[str]:
        typed = {path: Typed(text) for path, text in DEEP_WELL.items()}
        typed |= {path.replace("__", "."): Typed(text) for path, text in changes.items()}
        told = plausibility(read_facts(LiftSurvey, typed, UnitSystem.METRIC).values)
        return [finding.code for finding in told if finding.severity is not Severity.NOTE]

    def table(self, *lines: tuple[str, str]) -> dict[str, str]:
        typed = {"well__shape": "table"}
        for row, (level, volume) in enumerate(lines):
            typed |= {f"well__table__{row}__level_m": level, f"well__table__{row}__volume_m3": volume}
        return typed

    def test_the_well_as_typed_is_plausible(self) -> None:
        self.assertEqual(self.codes(), [])
        self.assertEqual(self.codes(**self.table(("0", "0"), ("2", "6,1"), ("5.2", "21"))), [])

    def test_hours_that_do_not_add_up_are_named(self) -> None:
        def hours(each: str, busiest: str) -> dict[str, str]:
            flows = {f"inflow__hours__{hour}__flow_m3s": each for hour in range(24)}
            return {"inflow__hourly": "yes", **flows, "inflow__hours__8__flow_m3s": busiest}

        self.assertEqual(self.codes(**hours("4.5", "4.5")), [])  # its mean is 4.6 l/s, its peak 18.5
        self.assertEqual(self.codes(**hours("6", "6")), ["hours_mean"])
        self.assertEqual(self.codes(**hours("4.8", "20")), ["hours_mean", "hours_peak"])

    def test_each_fault_of_a_shape_is_named(self) -> None:
        for changes, code in (
            ({"well__floor_diameter_m": "2.65"}, "order"),
            ({"well__benching_m": "5.9"}, "order"),
            (self.table(("0", "0")), "table_short"),
            (self.table(("0", "0"), ("1", "")), "table_half"),
            (self.table(("0", "0"), ("1", "3"), ("1", "4")), "table_order"),
            (self.table(("0", "0"), ("1", "3"), ("2", "2")), "table_order"),
            (self.table(("0.5", "0"), ("2", "2")), "table_order"),
            (self.table(("0", "0"), ("3", "9")), "table_ends"),
        ):
            with self.subTest(changes=changes):
                self.assertEqual(self.codes(**changes), [code])

    def test_a_table_is_asked_only_when_the_shape_is_a_table(self) -> None:
        typed = {path: Typed(text) for path, text in DEEP_WELL.items()}
        typed |= {"well.table.0.level_m": Typed("not asked")}
        reading = read_facts(LiftSurvey, typed, UnitSystem.METRIC)
        self.assertTrue(reading.complete)
        self.assertEqual(facts_from(LiftSurvey, reading).well.benching_m, 0.62)
