"""Thresholds worked out by head: what their own rule makes, how far off the number is, and what it does at the motor."""

import unittest

from goodbalance.core.balance.plan import Severity
from goodbalance.core.protection.by_head import Base, by_head
from goodbalance.core.protection.names import Guarding
from goodbalance.core.protection.readings import At, ReadCurrent
from goodbalance.core.stations.lift.kind import LIFT
from tests import stations

READ = (
    ReadCurrent(pump=1, at=At.CLOSED, amps=(3.0, 3.1, 2.9)), ReadCurrent(pump=1, at=At.DRY, amps=(2.4, 2.5, 2.3)),
    ReadCurrent(pump=1, at=At.NORMAL, amps=(4.0, 4.2, 3.8)),
)  # fmt: skip


class ByHeadTest(unittest.TestCase):
    """Dry 2.4 A, closed 3 A, working 4 A in the mean and 4.2 A in its highest lead."""

    def setUp(self) -> None:
        survey = LIFT.motors.with_readings(stations.survey(), READ)
        self.duty = LIFT.motors.duties(survey)[0]
        self.overload = LIFT.reckon(survey, stations.choices(), False).setting("overload_1")

    def checked(self, guard: Guarding, base: Base, share: float, stated_a: float | None = None) -> list[tuple[Severity, str]]:
        return [(finding.severity, finding.worded("metric")) for finding in by_head(self.duty, guard, base, share, stated_a, self.overload)]

    def test_dry_run_as_a_share_of_running_is_told_for_each_trouble(self) -> None:
        """0.6 of 4.2 A is 2.52 A: dry (2.4) trips, the closed valve (3) does not; 0.5 is 2.1 A, which never trips; 0.98 is 4.116 A, which stops honest work."""
        self.assertEqual(self.checked(Guarding.UNDERLOAD, Base.RUNNING, 0.6), [
            (Severity.NOTE, "60 % of the running current (4.20 A) is 2.52 A."),
            (Severity.NOTE, "As an under-load it trips dry, where the motor takes 2.40 A (as read)."),
            (Severity.NOTE, "As an under-load it does not trip at a closed valve, where the motor takes 3.00 A (as read)."),
            (Severity.NOTE, "As an under-load it does not trip in honest work, where the motor takes 4.00 A (as read)."),
        ])  # fmt: skip
        self.assertEqual([severity for severity, _ in self.checked(Guarding.UNDERLOAD, Base.RUNNING, 0.5)], [Severity.NOTE, Severity.CAUTION, Severity.NOTE, Severity.NOTE])
        self.assertEqual([severity for severity, _ in self.checked(Guarding.UNDERLOAD, Base.RUNNING, 0.98)], [Severity.NOTE, Severity.NOTE, Severity.NOTE, Severity.CAUTION])

    def test_the_number_somebody_wrote_down_is_held_against_its_rule_and_then_judged_itself(self) -> None:
        """0.6 of 4.2 A is 2.52 A; 1.26 A is half of it, 2.55 A is 1.2 % more, which is rounding."""
        half = self.checked(Guarding.UNDERLOAD, Base.RUNNING, 0.6, 1.26)
        self.assertEqual(half[1], (Severity.CAUTION, "1.26 A is not what that rule makes: 50 % less."))
        self.assertEqual(half[2], (Severity.CAUTION, "As an under-load it does not trip dry, where the motor takes 2.40 A (as read)."))
        self.assertEqual(self.checked(Guarding.UNDERLOAD, Base.RUNNING, 0.6, 2.55)[1][0], Severity.NOTE)

    def test_an_overload_by_head_is_held_against_both_sides_of_its_window(self) -> None:
        """Over 4.2 A and its least margin, and over what it becomes at a low voltage, under the code and the most margin; twice the plate breaks both upper bounds."""
        low, high = self.overload.window.low, self.overload.window.high
        plate_a = self.duty.plate.current_a
        for asked_a, severities in (((low + high) / 2.0, [Severity.NOTE]), (0.95 * low, [Severity.CAUTION] * 2), (2.0 * plate_a, [Severity.CAUTION] * 2)):
            self.assertEqual([severity for severity, _ in self.checked(Guarding.OVERLOAD, Base.PLATE, asked_a / plate_a)][1:], severities, asked_a)
        self.assertIn("nobody pumps", self.checked(Guarding.OVERLOAD, Base.PLATE, 0.95 * low / plate_a)[1][1])

    def test_a_share_of_the_overload_is_one_of_what_it_is_set_to_and_a_drive_has_none(self) -> None:
        made = self.checked(Guarding.UNDERLOAD, Base.OVERLOAD, 0.5)[0][1]
        self.assertIn(f"is {self.overload.value / 2.0:.3g} A.", made)
        for guard, base in ((Guarding.UNDERLOAD, Base.OVERLOAD), (Guarding.OVERLOAD, Base.PLATE)):
            self.assertEqual(by_head(self.duty, guard, base, 0.5, None, None), ())
