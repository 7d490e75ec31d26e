"""The first energising: its order by hazard, the swap after a wrong bump, and what is odd about what was read."""

import unittest

from goodbalance.core.balance.plan import Severity
from goodbalance.core.errors import OutOfRange
from goodbalance.core.protection.currents import CurrentModel
from goodbalance.core.protection.duty import Load, MotorDuty
from goodbalance.core.protection.energising import Does, Made, Must, State, Step, before, remarks, states, steps
from goodbalance.core.protection.plate import Phases, Plate

ORDER = [Must.WET, Must.DEAD, Must.CLOSED, Must.STILL, Must.RUNS, Must.DONE]


def duty(pumps: tuple[int, ...] = (1, 2), phases: Phases = Phases.THREE, driven: bool = False) -> MotorDuty:
    plate = Plate(phases=phases, voltage_v=400.0, current_a=5.0, shaft_w=2200.0, power_factor=0.8)
    load = Load("work", 2000.0)
    model = CurrentModel(idle_a=3.0, active_a=4.0, spread=0.1, read=0, worst_share=0.0)
    return MotorDuty(pumps=pumps, plate=plate, model=model, highest=load, lowest=load, least=load, closed=load, dry=load, starts_per_hour=10.0, driven=driven)


def listed(**more) -> tuple[Step, ...]:
    return steps((duty(**more),), "Fill the well.", "overload 5.2 A", True, False)


def noted(*ids: str, wrong: str = "") -> list[Made]:
    return [Made(step=each, good=each != wrong) for each in ids]


class OrderTest(unittest.TestCase):
    def test_hazard_only_rises_but_for_what_is_touched_dead(self) -> None:
        touched = [step for step in listed() if step.does in (Does.SWAP, Does.JUMPERS)]
        self.assertEqual({step.must for step in touched}, {Must.DEAD})
        ranks = [ORDER.index(step.must) for step in listed() if step not in touched]
        self.assertEqual(ranks, sorted(ranks))
        for step in listed():
            self.assertTrue(step.do and step.see and (step.cautions or step.must in (Must.DEAD, Must.CLOSED, Must.DONE)), step.id)
        self.assertEqual(len({step.id for step in listed()}), len(listed()))

    def test_each_pump_is_energised_by_itself(self) -> None:
        """Of two pumps the second may be bumped before the currents of the first are read, but not before the supply was."""
        of = {step.id: step for step in listed()}
        until = [step.id for step in listed() if step.must not in (Must.RUNS, Must.DONE) and step.does is not Does.SWAP]
        now = states(listed(), noted(*until))
        self.assertEqual(before(listed(), now, of["rotation.2"]), ())
        self.assertEqual([step.id for step in before(listed(), now, of["currents.1"])], ["rotation.1", "loaded.1"])
        now = states(listed(), noted(*(each for each in until if each != "supply")))
        self.assertEqual([step.id for step in before(listed(), now, of["rotation.2"])], ["supply"])
        self.assertIn("currents.2", [step.id for step in before(listed(), now, of["auto"])])

    def test_a_wrong_bump_asks_for_a_swap_and_a_swap_for_a_bump(self) -> None:
        bump, swap = "rotation.1", "swap.1"
        self.assertIs(states(listed(), [])[swap], State.NOT_NEEDED)
        now = states(listed(), noted(bump, wrong=bump))
        self.assertEqual((now[bump], now[swap]), (State.WRONG, State.OPEN))
        of = {step.id: step for step in listed()}
        self.assertIn(of[swap], before(listed(), now, of[bump]))
        self.assertNotIn(of[bump], before(listed(), now, of[swap]))
        now = states(listed(), [*noted(bump, wrong=bump), *noted(swap)])
        self.assertEqual((now[bump], now[swap]), (State.OPEN, State.GOOD))
        now = states(listed(), [*noted(bump, wrong=bump), *noted(swap, bump)])
        self.assertEqual((now[bump], now[swap]), (State.GOOD, State.NOT_NEEDED))

    def test_one_phase_has_no_sequence_and_a_drive_is_not_swapped_at_its_input(self) -> None:
        single = listed(phases=Phases.ONE)
        self.assertFalse({Does.ROTATION, Does.SWAP} & {step.does for step in single})
        self.assertEqual(len(next(step for step in single if step.does is Does.SUPPLY).asks), 1)
        driven = {step.id: step for step in listed(driven=True)}
        self.assertIn("never at its input", driven["swap.1"].do)
        self.assertIn("disconnected at both ends", driven["insulation.1"].do)
        self.assertIn("true RMS", driven["currents.1"].do)
        self.assertNotIn("leakage", [step.id for step in single])
        watched = [step.id for step in steps((duty(),), "", "", False, True)]
        self.assertEqual(watched[watched.index("leakage") - 1 : watched.index("leakage") + 2], ["still", "leakage", "rotation.1"])
        self.assertNotIn("panel", [step.id for step in steps((duty(),), "", "", False, False)])


class ReadTest(unittest.TestCase):
    def told(self, does: Does, numbers: dict[str, float], at_rest: dict[str, float] | None = None) -> list[tuple[str, Severity]]:
        step = next(step for step in listed() if step.does is does)
        return [(finding.code, finding.severity) for finding in remarks(step, duty().plate, numbers, at_rest or {})]

    @staticmethod
    def volts(*each: float) -> dict[str, float]:
        return {f"volts_{place}": value for place, value in enumerate(each, 1)}

    def test_voltages(self) -> None:
        """398, 402, 391 V: mean 397 V, the worst 6 V off, 1.51 %. 440 is a tenth over 400; 441 more. 372 of 400 V is a sag of 7 %."""
        self.assertEqual(self.told(Does.SUPPLY, self.volts(400.0, 401.0, 399.0)), [])
        self.assertEqual(self.told(Does.SUPPLY, self.volts(398.0, 402.0, 391.0)), [("uneven_supply", Severity.CAUTION)])
        self.assertEqual(self.told(Does.SUPPLY, self.volts(400.0, 400.0, 340.0))[0], ("uneven_supply", Severity.STOP))
        self.assertEqual(self.told(Does.SUPPLY, self.volts(440.0, 440.0, 440.0)), [])
        self.assertEqual(self.told(Does.SUPPLY, self.volts(441.0, 441.0, 441.0)), [("off_voltage", Severity.STOP)])
        rest = self.volts(400.0, 400.0, 400.0)
        self.assertEqual(self.told(Does.LOADED, self.volts(372.0, 372.0, 372.0), rest), [("sags", Severity.CAUTION)])
        self.assertEqual(self.told(Does.LOADED, self.volts(381.0, 381.0, 381.0), rest), [])
        self.assertEqual(self.told(Does.LOADED, self.volts(0.0, 0.0, 0.0), self.volts(0.0, 0.0, 0.0)), [("off_voltage", Severity.STOP)])

    def test_insulation_and_earth(self) -> None:
        self.assertEqual(self.told(Does.INSULATION, {"insulation": 1.0, "earth": 1.0}), [])
        self.assertEqual(self.told(Does.INSULATION, {"insulation": 0.9, "earth": 1.1}), [("insulation", Severity.STOP), ("earth", Severity.STOP)])

    def test_a_plate_that_cannot_be_is_refused(self) -> None:
        with self.assertRaises(OutOfRange):
            Plate(phases=Phases.THREE, voltage_v=0.0, current_a=5.0, shaft_w=2200.0, power_factor=0.8)
