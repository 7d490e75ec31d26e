"""python -m tools.mutate [rules a module] [seed] [part of a module's name]: do the tests notice when a rule is wrong?

Run by ./run mutate in the environment of the checks. Operators of cosmic-ray put one fault at a time into a copy of the
house (a sign turned round, a bound that lets its edge go, a number off by a fifth, a condition inverted); the tests of that
module must fail. Prints how many were noticed, and each that was not. Faults that change nothing anybody could see are
listed in HARMLESS with the reason.
"""

import os
import random
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from pathlib import Path

import cosmic_ray.plugins
import parso
from cosmic_ray.ast import ast_nodes, get_ast, is_number
from cosmic_ray.mutating import use_mutation
from cosmic_ray.operators.operator import Operator

PYTHON = Path(".venv/bin/python").absolute()
STATIONS = "goodbalance/core/stations"
WITHIN_S = 180
OPERATORS = tuple(
    f"core/{name}"
    for name in (
        "ReplaceBinaryOperator_Add_Sub", "ReplaceBinaryOperator_Sub_Add", "ReplaceBinaryOperator_Mul_Div", "ReplaceBinaryOperator_Div_Mul",
        "ReplaceComparisonOperator_Lt_Gt", "ReplaceComparisonOperator_Gt_Lt", "ReplaceComparisonOperator_LtE_GtE",
        "ReplaceComparisonOperator_GtE_LtE", "ReplaceComparisonOperator_Eq_NotEq", "ReplaceComparisonOperator_NotEq_Eq",
        "ReplaceComparisonOperator_Is_IsNot", "ReplaceComparisonOperator_IsNot_Is", "ReplaceUnaryOperator_USub_UAdd",
        "ReplaceUnaryOperator_Delete_Not", "ReplaceTrueWithFalse", "ReplaceFalseWithTrue", "ReplaceAndWithOr", "ReplaceOrWithAnd",
        "AddNot",
    )
)  # fmt: skip
NUMBER = "number"


class OtherNumber(Operator):  # type: ignore[misc]
    """A number of a rule is a fifth more or less, a count one more or less. Not nothing, which stands for "none" in most places, nor tolerances."""

    def mutation_positions(self, node):  # type: ignore[no-untyped-def]
        if is_number(node) and "e-" not in node.value and float(node.value.replace("_", "")) != 0.0 and "maxsize" not in node.parent.get_code():
            yield from ((node.start_pos, node.end_pos), (node.start_pos, node.end_pos))

    def mutate(self, node, index):  # type: ignore[no-untyped-def]
        value = eval(node.value)
        changed = value + (1, -1)[index] if isinstance(value, int) else value * (1.2, 0.8)[index]
        return parso.python.tree.Number(f" {changed!r}", node.start_pos)

    @classmethod
    def examples(cls):  # type: ignore[no-untyped-def]
        return ()


def operator_of(name: str) -> Operator:
    """One way to put a fault into a rule."""
    return OtherNumber() if name == NUMBER else cosmic_ray.plugins.get_operator(name)()


LIFT = ("test_plans", "test_rule_edges", "test_lift_sound", "test_reckon", "test_floats", "test_timers_and_drives")
BOOSTER = ("test_plans", "test_rule_edges", "test_booster", "test_booster_windows", "test_booster_modes", "test_booster_supply")
TARGETS: dict[str, tuple[str, ...]] = {
    f"{STATIONS}/lift/windows/standing_bounds.py": LIFT,
    f"{STATIONS}/lift/windows/bands.py": LIFT,
    f"{STATIONS}/lift/windows/timers.py": LIFT,
    f"{STATIONS}/lift/windows/float_ladder.py": LIFT,
    f"{STATIONS}/lift/windows/consequences.py": LIFT,
    f"{STATIONS}/lift/controller/logic.py": ("test_plans", "test_rule_edges", "test_lift_bench", "test_floats", "test_lift_faults", "test_look_down", "test_wiring", "test_team"),
    f"{STATIONS}/booster/windows/pressures.py": BOOSTER,
    f"{STATIONS}/booster/windows/limits.py": BOOSTER,
    f"{STATIONS}/booster/windows/speeds.py": BOOSTER,
    f"{STATIONS}/booster/windows/times.py": BOOSTER,
    f"{STATIONS}/booster/windows/suction_stops.py": BOOSTER,
    f"{STATIONS}/booster/windows/consequences.py": BOOSTER,
    f"{STATIONS}/booster/controller/logic.py": ("test_plans", "test_rule_edges", "test_booster_logic", "test_booster_modes", "test_carried_everywhere.OtherDriveTest"),
    f"{STATIONS}/booster/bench/calm.py": ("test_booster_calm", "test_plans"),
    f"{STATIONS}/booster/plant/zone.py": ("test_plans", "test_booster", "test_booster_calm", "test_booster_bench.FaultTest"),
    f"{STATIONS}/booster/controller/stops.py": ("test_plans", "test_booster_logic", "test_booster_bench.ReasonTest", "test_booster_bench.FaultTest"),
    "goodbalance/core/control/sequencer.py": ("test_plans", "test_sequencer", "test_lift_bench", "test_lift_faults"),
    "goodbalance/core/protection/overload.py": ("test_protection", "test_plans"),
    "goodbalance/core/protection/underload.py": ("test_protection", "test_retries", "test_plans"),
    "goodbalance/core/protection/by_head.py": ("test_by_head",),
    "goodbalance/core/balance/chances.py": ("test_chances", "test_rule_edges"),
    f"{STATIONS}/lift/windows/chances.py": ("test_chances", "test_rule_edges"),
    f"{STATIONS}/booster/windows/chances.py": ("test_chances", "test_rule_edges"),
}
HARMLESS = {  # the line as changed: why nobody could see it
    "if idle_w <= 1.0:": "no pump idles on less than a watt",
    "lasts_s *= 1.5": "the long step is tried again shorter, or not taken",
    "NEAR_PA = 59.0  # nothing on site tells so little apart": "a tolerance",
    "keeps = gives_m3 >= needed_m3 / (1.0 - 1e-6)": "a millionth",
    "(_assist_volume_m3(round(duty_m3, 7), alone, both, cycle_s), alone, both)": "how near two volumes count as one",
    "TRIES = 3": "the long step is not taken",
    "if abs(found) < EXACT_M3 or high - low < 1.001:": "a pascal",
    "if abs(found) < EXACT_M3 and high - low < 1e-3:": "it goes on to its last try",
    "parts = min(MOST_PARTS, 1 + int(abs(surplus_m3s) * step_s / max(stiff, -0.999999999999)))": "no zone is softer",
    "PART_PA, MOST_PARTS = 1e3, 15  # a long step is cut so that the pressure moves by about this much in each part": "a tolerance",
    "idle_w = seen.idle_powers_w[serving[0]] if alone else -1.0": "any that is not more than nothing",
    "remote_lost: bool = True": "judged anew at the first scan",
    "holds &= _spread(bound.value, pairs, draws) >= setting.value - _unshared(bound, off) - 1e-9": "an error is as often up as down",
    "DRAWS = 20001": "one draw more",
    "DRAWS = 19999": "one draw less",
    "for _ in range( 29):": "halved once less",
    "latched_s: float = -1.0  # when the last call latched": "before any call",
    "flow_m3s: float = -1.0  # followed slowly, for the setback": "set at the first reckoning",
    "reckoned = lambda moved: reckon(moved, fixed, True)  # noqa: E731": "the same, slower",
    "return self.so_far.get(S.RESTART, self.so_far.get(S.CUT_IN, -1.0))": "a set has one of them",
    "factor = max( -0.99, 1.0 + way * share)": "no doubt is so large",
}


@dataclass(frozen=True)
class Fault:
    """One change: which operator, at which of its places in a module."""

    module: str
    operator: str
    occurrence: int


def faults(module: str) -> Iterator[Fault]:
    """Every fault the operators can put into a module."""
    tree = get_ast(Path(module).read_text())
    for name in (*OPERATORS, NUMBER):
        operator = operator_of(name)
        places = sum(1 for node in ast_nodes(tree) for _ in operator.mutation_positions(node))
        yield from (Fault(module, name, place) for place in range(places))


def tried(fault: Fault) -> tuple[Fault, bool, str]:
    """Whether the tests noticed it, and the line as it was changed."""
    operator = operator_of(fault.operator)
    with use_mutation(Path(fault.module), operator, fault.occurrence) as (before, after):
        if after is None:
            return fault, True, "no such place"
        changed = [new for old, new in zip(before.splitlines(), after.splitlines()) if old != new]
        tests = [f"tests.core.{name}" for name in TARGETS[fault.module]]
        environment = {**os.environ, "GOODBALANCE_FAST_HASH": "1", "PYTHONDONTWRITEBYTECODE": "1"}
        try:
            run = subprocess.run([PYTHON, "-m", "unittest", "-q", "-f", *tests], capture_output=True, timeout=WITHIN_S, env=environment)
            noticed = run.returncode != 0
        except subprocess.TimeoutExpired:
            noticed = True
    return fault, noticed, changed[0].strip() if changed else "?"


def in_a_copy() -> None:
    """Each process works in a copy of its own, so that faults do not meet."""
    place = Path(tempfile.mkdtemp(prefix="goodbalance-mutate-"))
    for part in ("goodbalance", "tests", "tools", "docs"):
        shutil.copytree(part, place / part, ignore=shutil.ignore_patterns("__pycache__", "static", "screenshots"))
    (place / "goodbalance/web/static").mkdir(exist_ok=True)
    os.chdir(place)


def main(each: int, seed: int, only: str) -> int:
    dice, chosen = random.Random(seed), []
    for module in TARGETS:
        if only in module:
            found = list(faults(module))
            chosen += dice.sample(found, min(each, len(found)))
    asked: dict[str, int] = dict.fromkeys(TARGETS, 0)
    missed: dict[str, list[str]] = {module: [] for module in TARGETS}
    with ProcessPoolExecutor(os.cpu_count(), initializer=in_a_copy) as workers:
        for number, (fault, noticed, line) in enumerate(workers.map(tried, chosen), 1):
            if line in HARMLESS:
                continue
            asked[fault.module] += 1
            if not noticed:
                missed[fault.module].append(f"{fault.operator.removeprefix('core/')}: {line}")
                print(f"not noticed in {fault.module}: {fault.operator.removeprefix('core/')}: {line}", flush=True)
            if number % 10 == 0:
                print(f"{number} of {len(chosen)}", flush=True)
    print("\n| module | faults | noticed |\n|---|---|---|")
    for module, count in asked.items():
        if count:
            print(f"| {module.removeprefix('goodbalance/core/')} | {count} | {count - len(missed[module])} |")
    whole = sum(asked.values())
    share = 1.0 - sum(map(len, missed.values())) / max(1, whole)
    print(f"| all | {whole} | {share:.0%} |")
    return 0 if share >= 0.9 else 1


if __name__ == "__main__":
    given = sys.argv[1:]
    sys.exit(main(int(given[0]) if given else 25, int(given[1]) if len(given) > 1 else 1, given[2] if len(given) > 2 else ""))
