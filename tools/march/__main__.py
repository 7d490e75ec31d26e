"""python -m tools.march [stations]: random stations of each kind marched independently; the table of docs/safety.md."""

import sys

from tools.march import boosters, lifts, motors, rings, transfers


def main() -> int:
    stations = int(sys.argv[1]) if len(sys.argv) > 1 else 1000
    found = {"Lift stations": lifts.march(stations), "Booster sets": boosters.march(stations), "Transfer sets": transfers.march(stations), "Rings": rings.march(stations), "Motors": motors.march(stations)}
    for title, worst in found.items():
        print(worst.table(title) + "\n", flush=True)
    over = [(bound, ratio, seed) for worst in found.values() for bound, (_, ratio, seed) in worst.found.items() if ratio > 1.0 + 1e-6]
    for bound, ratio, seed in over:
        print(f"over its bound: {bound}, {ratio:.4f}, seed {seed}")
    return 1 if over else 0


if __name__ == "__main__":
    sys.exit(main())
