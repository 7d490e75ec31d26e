"""A few random stations marched by the independent models of tools/march: every ratio to its bound stays at or under one.

The table of a thousand each stands in docs/safety.md; the models share the surveyed facts with the product and no formula.
"""

import unittest

from tools.march import boosters, lifts, rings, transfers

STATIONS = 10


class MarchTest(unittest.TestCase):
    def holds(self, worst, least: int) -> None:
        self.assertGreaterEqual(len(worst.found), least)  # every bound was met by some station
        for bound, (count, ratio, seed) in worst.found.items():
            with self.subTest(bound):
                self.assertGreater(count, 0)
                self.assertLessEqual(ratio, 1.0 + 1e-6, f"seed {seed}")
                self.assertGreater(ratio, 0.0)

    def test_water_in_wells(self) -> None:
        self.holds(lifts.march(STATIONS), 7)

    def test_pressure_in_boosters(self) -> None:
        self.holds(boosters.march(3 * STATIONS), 13)

    def test_lines_and_valves_of_transfer_sets(self) -> None:
        self.holds(transfers.march(3 * STATIONS), 9)

    def test_heat_and_flows_of_rings(self) -> None:
        self.holds(rings.march(8 * STATIONS), 6)
