"""Why each pump runs or not: whatever is broken, a pump runs if and only if every link of its line holds; and what the links say."""

import unittest

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from goodbalance.core.balance.quantities import UnitSystem
from goodbalance.core.control.reasons import LinkState
from goodbalance.core.rehearsal.engine import Run, TimedAction, rehearse
from goodbalance.core.stations.booster.bench.put_on import booster_bench
from goodbalance.core.stations.lift.bench.put_on import lift_bench
from goodbalance.core.stations.lift.windows.reckon import reckon as reckon_lift
from tests.core.test_booster_bench import station as booster
from tests.stations import choices as lift_choices
from tests.stations import survey as lift_survey

SWITCHED = {"vessel": {"volume_m3": 2.0}, "outlets": {"permitted_pa": 800e3}}
BOOSTERS = {
    "by flow": lambda: booster({"no_flow": "flow"}),
    "short stops": lambda: booster({"no_flow": "bump", "night": True}),
    "fills slowly": lambda: booster({"no_flow": "flow", "slow_fill": True, "fill_end": "stop"}, outlets={"length_m": 30.0, "diameter_m": 0.06}),
    "in a row, blind": lambda: booster({"no_flow": "flow", "sharing": "serial", "sensor_failure": "run_duty"}),
    "far sensor": lambda: booster({"no_flow": "flow"}, remote={"height_m": 18.0, "range_pa": 600e3}),
    "on and off": lambda: booster({}, control={"kind": "on_off"}, **SWITCHED),
    "flow stop": lambda: booster({}, control={"kind": "flow_stop"}, outlets={"permitted_pa": 800e3}),
    "one speed": lambda: booster({}, control={"kind": "fixed"}, **SWITCHED),
    "by hand after drought": lambda: booster({"no_flow": "flow", "suction_reset": "by_hand"}, pumping={"standby": True}),
}  # fmt: skip
BOOSTER_ACTS = [
    *(("outlets", share, "") for share in (0.0, 0.02, 0.5, 1.5)), *((name, on, "") for on in (0.0, 1.0) for name in (
        "burst", "power", "loop_open", "dry", "phase", "flow_stuck", "remote_lost", "generator", "night", "waterlogged", "frozen")),
    *((name, 1.0, pump) for name in ("trip", "air", "check_valve", "shut", "backwards") for pump in "123"),
    *(("switch", place, pump) for place in (0.0, 1.0, 2.0) for pump in "12"), ("reset", 1.0, ""), ("drain", 1.0, ""), ("suction", 100e3, ""),
]  # fmt: skip
LIFT_ACTS = [
    *(("inflow", flow, "") for flow in (0.0, 0.002, 0.01, 0.02)),
    *((name, on, "") for on in (0.0, 1.0) for name in ("power", "loop_open", "loop_short", "frozen", "phase", "low_float")),
    *((name, 1.0, pump) for name in ("starter", "feedback", "overload", "clogged", "check_valve", "seal") for pump in "12"),
    *(("switch", place, pump) for place in (0.0, 1.0, 2.0) for pump in "12"), ("reset", 1.0, ""),
]  # fmt: skip
made: dict[str, tuple] = {}


def picked(acts: list, until_s: float) -> st.SearchStrategy:
    return st.lists(st.tuples(st.integers(1, int(until_s)), st.sampled_from(acts)), max_size=8)


def words(line) -> str:
    return "; ".join(f"{link.name}: {link.worded(UnitSystem.METRIC)}" for link in line.links)


class ReasonTest(unittest.TestCase):
    def agree(self, bench) -> None:
        """The pump runs exactly where every link holds; the deciding one is the first that does not."""
        for line in bench.reasons():
            holds = [link.state is LinkState.HOLDS for link in line.links]
            self.assertEqual(line.runs, all(holds), words(line))
            if not line.runs:
                self.assertEqual(line.deciding, holds.index(False))
            for link in line.links:
                self.assertNotIn("{", link.worded(UnitSystem.US))
                self.assertTrue(link.remaining_s is None or link.remaining_s >= 0.0)

    @settings(max_examples=25, deadline=None, suppress_health_check=list(HealthCheck))
    @given(st.sampled_from(sorted(BOOSTERS)), picked(BOOSTER_ACTS, 280.0))
    def test_a_booster_s_lines_say_what_is(self, kind, chosen) -> None:
        facts, decided, plan = made.setdefault(kind, BOOSTERS[kind]())
        acts = tuple(
            TimedAction(float(at_s), name, target, value)
            for at_s, (name, value, target) in sorted(chosen)
            if facts.motor.generator or name != "generator"
        )
        for until_s in (60.0, 170.0, 300.0):
            seen = tuple(act for act in acts if act.at_s < until_s)
            self.agree(rehearse(booster_bench(facts, decided, plan), seen, until_s).bench)

    @settings(max_examples=25, deadline=None, suppress_health_check=list(HealthCheck))
    @given(picked(LIFT_ACTS, 1700.0), st.booleans())
    def test_a_lift_s_lines_say_what_is(self, chosen, drives) -> None:
        facts = lift_survey(drives={"fitted": drives, "least_hz": 30.0})
        plan = made.setdefault(f"lift {drives}", (reckon_lift(facts, lift_choices()),))[0]
        acts = tuple(TimedAction(float(at_s), name, target, value) for at_s, (name, value, target) in sorted(chosen))
        for until_s in (300.0, 900.0, 1800.0):
            seen = tuple(act for act in acts if act.at_s < until_s)
            self.agree(rehearse(lift_bench(facts, lift_choices(), plan, None), seen, until_s).bench)


class BoosterWordsTest(unittest.TestCase):
    """What decides, in words, at a chosen moment of each kind of set."""

    def ever(self, kind: str, actions, until_s: float, told: str, pump: int = 1) -> str:
        """Run on scan by scan until the line says so; what it said last where it never does."""
        bench = booster_bench(*made.setdefault(kind, BOOSTERS[kind]()), None)
        run = Run(bench, tuple(TimedAction(*act) for act in actions))
        last = ""
        for at_s in range(1, int(until_s)):
            run.go_to(float(at_s))
            last = words(run.bench.reasons()[pump - 1])
            if told in last:
                break
        return last

    def test_each_state_of_each_kind(self) -> None:
        draws, closed = (1.0, "outlets", "", 0.4), (80.0, "outlets", "", 0.0)
        for kind, actions, until_s, told in (
            ("by flow", [draws, closed], 300.0, "nobody draws: about to stop"),
            ("by flow", [draws, closed], 300.0, "boosts to"),
            ("by flow", [draws, closed], 400.0, "asleep"),
            ("by flow", [draws, (60.0, "dry", "", 1.0)], 61.5, "too low, not yet for long enough"),
            ("by flow", [draws, (60.0, "dry", "", 1.0), (70.0, "dry", "", 0.0)], 72.0, "Suction: "),
            ("by flow", [draws, (60.0, "burst", "", 1.0), (60.0, "outlets", "", 2.0)], 125.0, "flat out and still too low"),
            ("by flow", [draws, (60.0, "burst", "", 1.0), (60.0, "outlets", "", 2.0)], 250.0, "waits for a reset"),
            ("by hand after drought", [draws, (60.0, "dry", "", 1.0), (70.0, "dry", "", 0.0)], 120.0, "waits for a reset"),
            ("fills slowly", [(1.0, "drain", "", 1.0)], 4.0, "fills slowly up to"),
            ("short stops", [(1.0, "outlets", "", 0.1)], 200.0, "short stop: stays"),
            ("far sensor", [draws], 100.0, "at the far end"),
            ("far sensor", [draws, (60.0, "remote_lost", "", 1.0)], 100.0, "the remote sensor is lost"),
            ("in a row, blind", [draws, (60.0, "loop_open", "", 1.0)], 90.0, "runs blind at the fill speed"),
            ("on and off", [(1.0, "outlets", "", 0.2)], 2.0, "starts at"),
            ("on and off", [(1.0, "outlets", "", 1.0)], 120.0, "stops at"),
            ("flow stop", [draws], 60.0, "runs until the flow ends"),
            ("flow stop", [draws, closed], 140.0, "the flow has ended: about to stop"),
            ("one speed", [(1.0, "outlets", "", 1.0)], 60.0, "fixed"),
        ):  # fmt: skip
            with self.subTest(kind=kind, told=told):
                self.assertIn(told, self.ever(kind, actions, until_s, told))

    def test_the_turn_of_those_that_wait(self) -> None:
        draws = (1.0, "outlets", "", 0.4)
        for kind, actions, until_s, pump, told in (
            ("by flow", [], 10.0, 1, "next to start"),
            ("by flow", [], 10.0, 3, "number 3 in turn"),
            ("by hand after drought", [draws], 100.0, 3, "standby: runs in the place of another"),
            ("by flow", [draws, (60.0, "trip", "1", 1.0)], 80.0, 1, "passed over"),
            ("in a row, blind", [(1.0, "outlets", "", 1.0)], 100.0, 1, "full while another regulates"),
            ("on and off", [(1.0, "outlets", "", 2.0), (20.0, "burst", "", 1.0)], 120.0, 2, "about to join"),
        ):
            with self.subTest(kind=kind, told=told):
                self.assertIn(told, self.ever(kind, actions, until_s, told, pump))
