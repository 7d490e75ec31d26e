"""python -m tests [core|store|web|browser ...] [-j N]: run the tests side by side, print each, end with the counts.

One process takes one class of tests at a time; each process has its own database and ports (tools.stage.server).
"""

import argparse
import multiprocessing
import os
import sys
import time
from concurrent.futures import ProcessPoolExecutor, as_completed
from pathlib import Path

from tests.by_class import classes, run_class

ROOMS = ("browser", "web", "store", "core")  # those that take longest begin first
SLOWEST = 12  # classes whose time is told at the end


def main() -> int:
    asked = argparse.ArgumentParser(prog="./run test", description=__doc__.splitlines()[0])
    asked.add_argument("rooms", nargs="*", metavar="|".join(ROOMS), help="nothing: all of them")
    asked.add_argument("-j", "--side-by-side", type=int, default=os.cpu_count() or 1, help="processes (default: cores)")
    told = asked.parse_args()
    unknown = [room for room in told.rooms if room not in ROOMS]
    if unknown:
        asked.error(f"there are no tests called {', '.join(unknown)}; there are {', '.join(ROOMS)}")
    os.environ["GOODBALANCE_FAST_HASH"] = "1"
    os.chdir(Path(__file__).parent.parent)
    begun, outcomes = time.monotonic(), []
    fresh = multiprocessing.get_context("spawn")
    rooms, processes = [room for room in ROOMS if room in (told.rooms or ROOMS)], max(1, told.side_by_side)
    with ProcessPoolExecutor(processes, mp_context=fresh) as pool:
        # each process looks for the classes, and so has imported them all before the first is run
        names = [pool.submit(classes, rooms) for _ in range(processes)][0].result()
        running = {pool.submit(run_class, name): name for name in names}
        for done in as_completed(running):
            outcomes.append(done.result())
            print(f"{done.result().text}\n{len(outcomes)} of {len(names)} classes, {time.monotonic() - begun:.0f} s", flush=True)
    print("Slowest: " + ", ".join(
        f"{each.name.removeprefix('tests.')} {each.took_s:.0f} s"
        for each in sorted(outcomes, key=lambda each: -each.took_s)[:SLOWEST]
    ))  # fmt: skip
    passed, failed, skipped = (sum(getattr(each, what) for each in outcomes) for what in ("passed", "failed", "skipped"))
    for each in outcomes:
        if each.failed:  # again, where whoever sees only the end of it looks
            print(f"{each.wrong}\n{each.name}: {each.failed} failed")
    print(f"Took {time.monotonic() - begun:.0f} s.")
    print(f"{passed} passed, {failed} failed, {skipped} skipped", flush=True)
    return 0 if passed and not failed else 1


if __name__ == "__main__":
    sys.exit(main())
