"""Every row of every family: typed as listed the devices run the plan; one wrong number changes what they do, and is told."""

import math
import re
import unittest
from dataclasses import fields, is_dataclass, replace
from typing import Any

from goodbalance.core.balance.proof import Verdict
from goodbalance.core.rehearsal.engine import TimedAction, rehearse
from goodbalance.core.rehearsal.events import Doing, Thing
from goodbalance.core.sheets.devices import Noted, Source, stands_of, values_of
from goodbalance.core.sheets.entry_sheet import EntrySheet, Row, RowKind, entry_sheet, shown_limits
from goodbalance.core.sheets.profile import Display
from goodbalance.core.stations.booster.bench.put_on import booster_bench
from goodbalance.core.stations.booster.controller.numbers import numbers_of
from goodbalance.core.stations.booster.kind import BOOSTER
from goodbalance.core.stations.booster.survey.choices import NoFlowBy
from goodbalance.core.stations.lift.bench.put_on import lift_bench
from goodbalance.core.stations.lift.kind import LIFT
from goodbalance.core.stations.shared.held import Held
from goodbalance.exchange.profiles import shipped_profiles
from tests import boosters, stations
from tests.core.test_wiring import ONE_OF_EACH

OWN, AGAIN = {"stops": "own"}, {"suction_reset": "long_wait", "lost_prime": "long_wait", "prime_by": "pressure"}
IN_TANK = {"kind": "flooded", "pump_m": 0.0, "water_low_m": 2.0, "water_high_m": 4.0}
JOBS = (
    *ONE_OF_EACH,
    (LIFT, {"control": {"kind": "drives_alone", "run_contact": True, "backwards_contact": True, "local_remote": True}, "drives": {"fitted": True, "outside": True}, "pumping": {"count": 3}, "demands": {"low_float": True}}, ("brittlestar_ring",)),
    (LIFT, {"control": {"kind": "pump_controller", "run_contact": True, "backwards_contact": True, "local_remote": True, "seal_probes": True}, "demands": {"low_float": True}}, ("wrackline_wheel",)),
    (LIFT, {"control": {"level_by": "floats", "floats": 4}}, ("periwinkle_pegs",)),
    (LIFT, {}, ("ebbstone_tray", "dabberlock_panel"), OWN),
    (LIFT, {"control": {"kind": "relays_alone"}}, ("ebbstone_tray",), OWN),
    (LIFT, {"control": {"kind": "pump_controller"}}, ("wrackline_wheel",), OWN),
    (LIFT, {"control": {"kind": "drives_alone"}, "drives": {"fitted": True}}, ("brittlestar_ring",), OWN),
    (LIFT, {"control": {"level_by": "floats", "floats": 4}, "pumping": {"count": 3}}, ("sea_holly_shelf",)),
    (LIFT, {"control": {"kind": "pump_controller", "phase_monitor": True}, "protection": {"monitor": "voltages"}}, ("wrackline_wheel", "coralline_comb")),
    (BOOSTER, {"control": {"suction_by": "float"}, "suction_switch": {"alarm": True}, "supply": IN_TANK}, ("marram_book", "bladderwrack_cords", "gas_valve")),
    (BOOSTER, {"control": {"kind": "on_off", "suction_by": "switch"}, "suction_switch": {"alarm": True}}, ("shingle_face", "dogwinkle_pair")),
    (BOOSTER, {"control": {"device": "panel_regulator"}}, ("whelk_page", "limpet_beads"), AGAIN),
    (BOOSTER, {"control": {"device": "wall_drive"}}, ("sandhopper_lanes",), AGAIN),
    (BOOSTER, {"control": {"phase_monitor": True}, "protection": {"monitor": "voltages", "casing_by": "thermostat"}}, ("sandhopper_lanes", "coralline_comb", "beadlet_bulb")),
)  # fmt: skip
NOTHING_FOLLOWS = {  # rows whose difference is told, and on which nothing of the bench hangs; docs/profiles.md says why
    *("address", "current", "power", "voltage", "rated_hz", "rated_rpm"),  # a name on the link, and the motor's plate
    "count",  # of drives that do not decide: who counts is their controller
}  # fmt: skip
UNSEEN = {"pumps.stops", "drive.stops", "inputs.seal", "drive.seal", "drive.decides", "alarm.relay"}  # where the plan has nothing behind them


class Job:
    """A station of the usual survey with its devices, its sheet, and what all rows show when typed as listed."""

    def __init__(self, kind: Any, changes: dict[str, Any], devices: tuple[str, ...], schools: dict[str, str] | None = None) -> None:
        made = stations if kind is LIFT else boosters
        self.kind, self.survey, self.choices = kind, made.survey(**changes), made.choices(schools=schools or {})
        self.display = Display.METRES if kind is LIFT else Display.BAR
        self.planned = kind.reckon(self.survey, self.choices, False)
        starters = ("cowrie_dials",) if "overload_1" in self.planned else ()
        first, *beside = (shipped_profiles()[device] for device in (*devices, *starters))
        values = kind.keypad.values(self.survey, self.choices, self.planned, self.display)
        self.sheet: EntrySheet = entry_sheet(first, values, kind.keypad.scale(self.survey, first, self.display), tuple(beside))
        self.rows = [row for row in self.sheet.rows if row.kind in (RowKind.CHANGE, RowKind.CHECK)]

    def held(self, wrong: dict[tuple[str, str], str] | None = None) -> Any:
        """What the devices do when every row was read back as listed, but for these."""
        shown = {(row.device, row.parameter.code): row.shows for row in self.rows} | (wrong or {})
        notes = {place: Noted(text, Source.READ_BACK, "Ada", "2026-11-27T08:00:00.000Z", 5) for place, text in shown.items()}
        return self.kind.keypad.held(self.survey, self.choices, values_of(self.sheet, stands_of(self.sheet, {}, notes, {})), self.display)

    def as_planned(self) -> Any:
        return self.kind.keypad.held(self.survey, self.choices, values_of(self.sheet, stands_of(self.sheet, {}, {}, {})), self.display)


def apart(one: Any, other: Any, path: str = "") -> list[str]:
    """Where two programs differ by more than a display's rounding."""
    if is_dataclass(one) and type(one) is type(other):
        return [each for field in fields(one) for each in apart(getattr(one, field.name), getattr(other, field.name), f"{path}.{field.name}")]
    if isinstance(one, tuple) and isinstance(other, tuple) and len(one) == len(other):
        return [each for at, pair in enumerate(zip(one, other)) for each in apart(*pair, f"{path}[{at}]")]
    if isinstance(one, float) and isinstance(other, float):
        close = math.isclose(one, other, rel_tol=0.13, abs_tol=0.03) or (math.isnan(one) and math.isnan(other))
        return [] if close else [f"{path}: {one} and {other}"]
    return [] if one == other else [f"{path}: {one} and {other}"]


def wrong_for(row: Row) -> list[str]:
    """What else this row could show: its other options, or numbers about a third more and less, to its decimals."""
    if row.parameter.options:
        return [text for text in row.parameter.options.values() if text != row.shows]
    low, high = shown_limits(row.parameter, row.scale)
    decimals = len(row.shows.partition(".")[2])
    value, step = float(row.shows), 10.0**-decimals
    others = (round(value * 1.3 + step, decimals), round(value * 0.6 - step, decimals))
    return [f"{other:.{decimals}f}" for other in others if low <= other <= high]


class EveryRowTest(unittest.TestCase):
    def test_typed_as_listed_the_devices_run_the_plan(self) -> None:
        for each in JOBS:
            with self.subTest(devices=each[2]):
                job = Job(*each)
                self.assertEqual(apart(job.as_planned().program, job.held().program), [])
                if "rockpool_rungs" not in each[2]:  # it knows no pumps
                    self.assertEqual([one.about for one in job.held().uncarried if one.harm], [])

    def test_one_wrong_number_in_any_row_changes_what_the_devices_do(self) -> None:
        tried, kept = 0, set()
        for each in JOBS:
            job, devices = Job(*each), each[2]
            right = job.held()
            for row in job.rows:
                name, others = re.sub(r"\.\d\.", ".", row.parameter.meaning), wrong_for(row)
                if not others or name in UNSEEN or name.rpartition(".")[2] in NOTHING_FOLLOWS:
                    continue
                tried += 1
                seen = (job.held({(row.device, row.parameter.code): other}) for other in others)
                if all((one.program, one.plan) == (right.program, right.plan) for one in seen):
                    kept.add((devices, row.parameter.meaning))
        self.assertGreater(tried, 800)
        self.assertEqual(sorted(kept), [])


NO_PROOF = {  # lift stations: what no proof of a day's work shows; docs/profiles.md says why
    "fail_low", "fail_delay", "offset", "suspects", "stops", "role", "decides", "mode", "on_failure", "source", "seal",
}  # fmt: skip


class OptionTest(unittest.TestCase):
    def failing(self, job: Job, wrong: dict[tuple[str, str], str] | None = None) -> set[str]:
        found = job.kind.prove_on_bench(job.survey, job.choices, job.planned, job.held(wrong))
        return {each.proof.id for each in found if each.verdict is Verdict.FAILED}

    def test_each_wrong_option_or_scaling_of_a_lift_station_fails_a_proof_on_the_bench(self) -> None:
        tried, passed = 0, set()
        for place in (0, 2, 5):
            job = Job(*JOBS[place])
            self.assertEqual(self.failing(job), set())
            for row in job.rows:
                name = row.parameter.meaning.rpartition(".")[2]
                options = row.parameter.options
                deaf = row.shows in (options.get("none"), options.get("no")) and name in ("phase", "low_float", "run", "backwards", "remote")
                if name in NO_PROOF or name in NOTHING_FOLLOWS or deaf or row.parameter.meaning[:8] in ("drive.2.", "drive.3."):
                    continue
                if row.parameter.options or name in ("zero_level", "full_level", "zero", "full", "range"):
                    tried += 1
                    if not any(self.failing(job, {(row.device, row.parameter.code): other}) for other in wrong_for(row)):
                        passed.add((job.sheet.profile.id, row.parameter.meaning))
        self.assertGreater(tried, 30)
        self.assertEqual(sorted(passed), [])

    def test_a_relay_that_stays_on_without_a_signal_fails_the_proof_although_another_stops_the_pumps(self) -> None:
        job = Job(*JOBS[0])
        for number in range(1, 7):
            row = next(row for row in job.rows if row.parameter.meaning == f"relay.{number}.on_failure")
            other = row.parameter.options["energise" if row.shows != row.parameter.options["energise"] else "release"]
            self.assertIn("sensor_failure", self.failing(job, {(row.device, row.parameter.code): other}), number)

    def test_what_a_booster_does_after_a_fill_that_takes_too_long_and_with_a_flow_switch_that_is_not_there(self) -> None:
        job = Job(BOOSTER, {"control": {"device": "wall_drive"}}, ("sandhopper_lanes",))
        right = numbers_of(job.survey, job.choices, job.planned)
        for wrong, proof in (({"fill_stops": True}, "fill_ends"), ({"no_flow": NoFlowBy.FLOW}, "holds")):
            for numbers, verdict in ((right, Verdict.PASSED), (replace(right, **wrong), Verdict.FAILED)):
                found = BOOSTER.prove_on_bench(job.survey, job.choices, job.planned, Held(job.planned, numbers), frozenset({proof}))
                self.assertEqual([each.verdict for each in found], [verdict], wrong)


class OtherDriveTest(unittest.TestCase):
    """Two drives that hold all numbers themselves, the second told otherwise than the first."""

    def wrong(self, job: Job, meaning: str, shows: str) -> Any:
        row = next(row for row in job.rows if row.parameter.meaning == meaning)
        return job.held({(row.device, row.parameter.code): shows}).program

    def test_the_drive_whose_turn_it_is_holds_its_own_pressure(self) -> None:
        job = Job(BOOSTER, {"control": {"device": "wall_drive"}}, ("sandhopper_lanes",))
        numbers = self.wrong(job, "drive.2.set_pressure", "3.40")
        self.assertEqual([numbers.set_pressure, *(heir.set_pressure for heir in numbers.heirs)], [392_000.0, 340_000.0, 392_000.0])
        held = {}
        for lead in range(3):
            bench = booster_bench(job.survey, job.choices, job.planned, numbers=numbers)
            bench.logic.rotation.order = [lead, *(pump for pump in range(3) if pump != lead)]
            rehearse(bench, (TimedAction(5.0, "outlets", "", 0.25),), 240.0)
            held[lead] = bench.plant.pressure_pa
            links = [[link.text for link in line.links] for line in bench.reasons()]
            self.assertEqual([any("by what its own drive holds" in text for text in texts) for texts in links], [pump == lead for pump in range(3)])
            self.assertEqual(bench.running[0] if len(bench.running) == 1 else lead, lead)
        for lead, wanted_pa in enumerate((392_000.0, 340_000.0, 392_000.0)):
            self.assertAlmostEqual(held[lead], wanted_pa, delta=8_000.0)

    def test_who_takes_the_lead_over_starts_at_its_own_level(self) -> None:
        job = Job(LIFT, {"control": {"kind": "drives_alone"}, "drives": {"fitted": True}}, ("brittlestar_ring",))
        right = job.held().program
        row = next(row for row in job.rows if row.parameter.meaning == "drive.2.start_1")
        higher = self.wrong(job, "drive.2.start_1", f"{float(row.shows) + 0.2:.2f}")
        self.assertAlmostEqual(higher.heirs[0].relay("start_1").on_m - right.relay("start_1").on_m, 0.2 * 1.0, delta=0.006)
        for program, dead, starts_m in ((right, True, right.relay("start_1").on_m), (higher, False, right.relay("start_1").on_m), (higher, True, higher.heirs[0].relay("start_1").on_m)):
            bench = lift_bench(job.survey, job.choices, job.planned, program=program)
            broken = (TimedAction(1.0, "node", "1", 1.0),) if dead else ()
            run = rehearse(bench, (*broken, TimedAction(20.0, "inflow", "", job.survey.inflow.mean_m3s)), 3600.0)
            first = next(event for event in run.events if event.doing is Doing.STARTS and event.thing is Thing.PUMP)
            text = " ".join(link.text for link in run.bench.reasons()[1].links)
            self.assertEqual("by what it holds itself" in text, program is higher)
            level_m = next(row[1] for row in run.trace if row[0] >= first.at_s)
            self.assertAlmostEqual(level_m, starts_m, delta=0.05)


if __name__ == "__main__":
    unittest.main()
