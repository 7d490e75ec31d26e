"""No bound, figure, finding or run of the chosen stations moves unless somebody means it to.

`python -m tests.plans` and `python -m tests.runs` write them anew.
"""

import math
import re
import unittest
from pathlib import Path

from tests import plans, runs

NUMBER = re.compile(r"-?\d+\.?\d*(?:e[+-]?\d+)?")
LAST_DIGIT = 2e-4  # of a number written with five digits


def same(written: str, now: str) -> bool:
    """The same words, and numbers that differ in their last digit at most."""
    if NUMBER.split(written) != NUMBER.split(now):
        return False
    pairs = zip(NUMBER.findall(written), NUMBER.findall(now), strict=True)
    return all(math.isclose(float(old), float(new), rel_tol=LAST_DIGIT, abs_tol=1e-9) for old, new in pairs)


class AsWrittenTest(unittest.TestCase):
    def assert_stands(self, file: Path, told: str) -> None:
        written, now = file.read_text(encoding="utf-8").splitlines(), told.splitlines()
        moved = [f"- {old}\n+ {new}" for old, new in zip(written, now, strict=False) if not same(old, new)]
        with self.subTest(file.stem):
            self.assertEqual((len(written), moved[:5]), (len(now), []))

    def test_plans_stand_as_written(self) -> None:
        for name, plan in plans.plans():
            self.assert_stands(plans.file_of(name), plans.told(plan))

    def test_runs_go_as_written(self) -> None:
        for name, run in runs.runs():
            self.assert_stands(runs.file_of(name), runs.told(run))

    def test_a_moved_number_or_word_is_seen(self) -> None:
        line = "start_1 1.2 at least 0.90001 survey"
        self.assertTrue(same(line, line.replace("0.90001", "0.90002")))
        for other in (line.replace("1.2", "1.21"), line.replace("survey", "rule"), line + " 3"):
            self.assertFalse(same(line, other), other)
