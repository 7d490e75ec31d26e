"""python -m tools.own_proofs [stations] [seed]: random plans, each recommended as it comes, and every proof of them made on the bench.

No recommended plan may fail a proof of its own. What fails is printed with the seed of its station.
"""

import random
import sys
from collections import Counter

from goodbalance.core.balance.proof import Verdict
from tools.hidden_faults import station


def main() -> int:
    stations, seed = (int(text) for text in (*sys.argv[1:3], *("1000", "1")[len(sys.argv) - 1 :]))
    made, shown, failed, number = Counter[str](), 0, 0, seed * 1_000_000
    while sum(made.values()) < stations:
        number += 1
        case = station(random.Random(number))
        if case is None:
            continue
        kind, survey, choices, plan = case
        made[kind.id] += 1
        for each in kind.prove_on_bench(survey, choices, plan):
            shown += 1
            if each.verdict is Verdict.FAILED:
                failed += 1
                print(f"{kind.id}, seed {number}: {each.proof.id}, expected {each.proof.expected:g}, seen {each.seen}", flush=True)
        if sum(made.values()) % 100 == 0:
            print(f"{dict(made)}: {failed} of {shown} proofs failed", flush=True)
    print(f"{dict(made)}: {failed} of {shown} proofs failed")
    return 1 if failed else 0


if __name__ == "__main__":
    sys.exit(main())
