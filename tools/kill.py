"""python -m tools.kill [kills] [seed]: an application and its database, killed in turn while people save.

At the end: was any acknowledged save lost or doubled, and does every record hold.
"""

import random
import shutil
import sys
import tempfile
import time
from pathlib import Path

from tools.hands import Application, Hand, Ledger, database_of, made_ready

READY_WITHIN_S = 90.0


def main(kills: int, seed: int, hands: int = 8) -> int:
    """Returns 1 where something acknowledged was lost or doubled, or a record does not hold."""
    place, dice = Path(tempfile.mkdtemp(prefix="goodbalance-kill-")), random.Random(seed)
    application = Application(place, "serve", "--workers", "2")
    try:
        application.start()
        stations, ledger = made_ready(application, 3), Ledger()
        people = [Hand([application], stations, ledger, seed + number) for number in range(hands)]
        for hand in people:
            hand.start()
        for number in range(kills):
            time.sleep(dice.uniform(0.2, 1.5))
            if number % 3 == 0:
                application.kill()
                application.start()
            else:
                application.kill_database()
                if number % 3 == 2:
                    wait_until_ready(application)  # else the next one falls while it recovers
            if number % 10 == 9:
                print(f"{number + 1} kills, {len(ledger.texts)} saves acknowledged", flush=True)
        wait_until_ready(application)
        time.sleep(1.0)
        for hand in people:
            hand.ending.set()
        for hand in people:
            hand.join(60.0)
        found = ledger.check(database_of(application))
        print(f"seed {seed}, {kills} kills: " + ", ".join(f"{count} {name}" for name, count in found.items()))
        print(f"answers: {dict(ledger.answers)}", flush=True)
    finally:
        application.stop()
        shutil.rmtree(place, ignore_errors=True)
    return 1 if found["lost"] or found["doubled"] or found["records that do not hold"] or not found["acknowledged"] else 0


def wait_until_ready(application: Application) -> None:
    """Until it can work again by itself."""
    until = time.monotonic() + READY_WITHIN_S
    while not application.is_ready():
        if time.monotonic() > until:
            raise RuntimeError("the application does not come back")
        time.sleep(0.1)


if __name__ == "__main__":
    given = [int(text) for text in sys.argv[1:3]]
    sys.exit(main(*(given + [60, 1][len(given) :])))
