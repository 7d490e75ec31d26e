"""Points read off a picture: against a chart that was drawn with known numbers, straight, turned and skewed."""

import math
import unittest

from hypothesis import given
from hypothesis import strategies as st

from goodbalance.core.errors import OutOfRange
from goodbalance.core.physics.charts import Axis, Mark, read_chart

FLOWS = ((0.0, 20.0), (5.0, 18.0), (12.0, 9.0))


class ChartTest(unittest.TestCase):
    def test_a_straight_picture_by_hand(self) -> None:
        """Flow 0 at x 100, 10 at x 300; head 0 at y 400, 20 at y 100: x 200, y 250 is half of each."""
        flow = Axis("flow", Mark(100, 400, 0.0), Mark(300, 400, 10.0))
        head = Axis("head", Mark(100, 400, 0.0), Mark(100, 100, 20.0))
        self.assertEqual(read_chart(flow, head, [(200, 250), (100, 100)]), [(0.0, 20.0), (5.0, 10.0)])

    def test_marks_need_not_stand_where_the_axes_meet(self) -> None:
        """Flow 2 at x 140 and 8 at x 260, marked on the upper edge; head 5 and 15 marked on the right one: the same chart."""
        flow = Axis("flow", Mark(140, 100, 2.0), Mark(260, 100, 8.0))
        head = Axis("head", Mark(300, 325, 5.0), Mark(300, 175, 15.0))
        for (flow_at, head_at), wanted in zip(read_chart(flow, head, [(200, 250), (100, 100)]), [(0.0, 20.0), (5.0, 10.0)]):
            self.assertAlmostEqual(flow_at, wanted[0])
            self.assertAlmostEqual(head_at, wanted[1])

    @given(st.floats(-math.pi, math.pi), st.floats(-0.6, 0.6), st.floats(0.2, 5.0), st.floats(-500, 500))
    def test_a_photo_held_askew_reads_the_same(self, turn: float, skew: float, size: float, shift: float) -> None:
        def seen(flow: float, head: float) -> tuple[float, float]:
            x, y = 20.0 * flow + skew * 15.0 * head, -15.0 * head
            return size * (x * math.cos(turn) - y * math.sin(turn)) + shift, size * (x * math.sin(turn) + y * math.cos(turn)) - shift

        flow = Axis("flow", Mark(*seen(0.0, 0.0), 0.0), Mark(*seen(14.0, 0.0), 14.0))
        head = Axis("head", Mark(*seen(0.0, 4.0), 4.0), Mark(*seen(0.0, 20.0), 20.0))
        for found, wanted in zip(read_chart(flow, head, [seen(*point) for point in FLOWS]), FLOWS, strict=True):
            self.assertAlmostEqual(found[0], wanted[0], delta=1e-6)
            self.assertAlmostEqual(found[1], wanted[1], delta=1e-6)

    def test_what_cannot_be_told_apart_is_refused(self) -> None:
        flow = Axis("flow", Mark(0, 0, 0.0), Mark(200, 0, 10.0))
        head = Axis("head", Mark(0, 0, 0.0), Mark(0, -200, 20.0))
        for across, up, points, words in (
            (Axis("flow", Mark(0, 0, 0.0), Mark(3, 0, 10.0)), head, [], "is 3 pixels; accepted: 8 or more"),
            (Axis("flow", Mark(0, 0, 4.0), Mark(200, 0, 4.0)), head, [], "Each mark of the flow axis is 4; accepted: two values"),
            (flow, Axis("head", Mark(0, 0, 0.0), Mark(200, -40, 20.0)), [], "accepted: axes that cross"),
            (flow, head, [(50, -50), (50, -80)], "A point on the flow axis is 2.5 a second time"),
        ):
            with self.assertRaisesRegex(OutOfRange, words):
                read_chart(across, up, points)
