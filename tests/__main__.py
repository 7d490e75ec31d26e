"""python -m tests [core|store|web|browser ...]: run the tests, print each, end with the counts."""

import os
import sys
import time
import unittest
from pathlib import Path

ROOMS = ("core", "store", "web", "browser")


class Told(unittest.TextTestResult):
    """Counts passes, so that the last line can say them."""

    passed = 0

    def addSuccess(self, test: unittest.TestCase) -> None:
        super().addSuccess(test)
        self.passed += 1


def main(rooms: list[str]) -> int:
    unknown = [room for room in rooms if room not in ROOMS]
    if unknown:
        print(f"There are no tests called {', '.join(unknown)}; there are {', '.join(ROOMS)}.", file=sys.stderr)
        return 2
    os.environ["GOODBALANCE_FAST_HASH"] = "1"
    os.chdir(Path(__file__).parent.parent)
    suite = unittest.TestSuite()
    for room in rooms or ROOMS:
        suite.addTests(unittest.defaultTestLoader.discover(f"tests/{room}", top_level_dir="."))
    begun = time.monotonic()
    result = unittest.TextTestRunner(resultclass=Told, verbosity=2, stream=sys.stdout).run(suite)
    failed = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
    print(f"Took {time.monotonic() - begun:.0f} s.")
    print(f"{result.passed} passed, {failed} failed, {len(result.skipped)} skipped", flush=True)
    return 0 if result.wasSuccessful() and result.testsRun else 1


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
