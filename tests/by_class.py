"""One class of tests at a time: which there are, and how one went. A process of its own can import it."""

import io
import time
import unittest
from dataclasses import dataclass

# the longest begin first
FIRST = ("ClusterTest", "KillTest", "AccessTest", "BoosterJobTest", "ByKeyboardTest", "ByMouseTest", "UnsavedTest", "TriplexTest", "ProofTest", "AnyBoosterTest")


class Told(unittest.TextTestResult):
    """Counts passes, so that the last line can say them."""

    passed = 0

    def addSuccess(self, test: unittest.TestCase) -> None:
        super().addSuccess(test)
        self.passed += 1


@dataclass(frozen=True, slots=True)
class Outcome:
    """How one class of tests went."""

    name: str
    text: str
    wrong: str  # what failed and why, once more
    passed: int
    failed: int
    skipped: int
    took_s: float


def run_class(name: str) -> Outcome:
    """Load one class by its dotted name and run it."""
    said, begun = io.StringIO(), time.monotonic()
    suite = unittest.defaultTestLoader.loadTestsFromName(name)
    result = unittest.TextTestRunner(resultclass=Told, verbosity=2, stream=said).run(suite)
    failed = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
    lines = [line for line in said.getvalue().splitlines() if failed or " ... " in line or line.endswith("ok")]
    wrong = "\n".join(f"FAILED {test.id()}\n{why}" for test, why in result.failures + result.errors)
    return Outcome(name, "\n".join(lines), wrong, result.passed, failed, len(result.skipped), time.monotonic() - begun)


def classes(rooms: list[str]) -> list[str]:
    """Every class of tests in these rooms; one that cannot be loaded stands as its own failure."""
    every: list[str] = []
    for room in rooms:
        found: list[unittest.TestSuite | unittest.TestCase] = [
            unittest.defaultTestLoader.discover(f"tests/{room}", top_level_dir=".")
        ]
        names: dict[str, None] = {}
        while found:
            each = found.pop(0)
            if isinstance(each, unittest.TestSuite):
                found += list(each)
            elif type(each).__module__ == "unittest.loader":  # an import that failed
                names[each.id().split("._FailedTest.")[-1]] = None
            else:
                names[f"{type(each).__module__}.{type(each).__qualname__}"] = None
        every += sorted(names, key=lambda name: name.rpartition(".")[2] not in FIRST)
    return every
