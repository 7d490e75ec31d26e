"""python -m tests.hunt lift|booster [seeds]: the tests over random surveys with fresh seeds, 150 surveys each; what fails is printed.

The tests themselves play the same few surveys every time, so that they are quick and never fail by chance.
"""

import sys
import unittest

from hypothesis import HealthCheck, Phase, settings

from tests.core.test_any_booster import AnyBoosterTest
from tests.core.test_any_survey import AnySurveyTest

CASES = {"lift": AnySurveyTest, "booster": AnyBoosterTest}
NAME = "test_it_is_refused_in_words_or_goes_all_the_way"


def main() -> int:
    if len(sys.argv) < 2 or sys.argv[1] not in CASES:
        print(__doc__)
        return 2
    case, wrong = CASES[sys.argv[1]], 0
    test = getattr(case, NAME)
    test._hypothesis_internal_use_settings = settings(
        max_examples=150, deadline=None, derandomize=False, database=None,
        suppress_health_check=list(HealthCheck), phases=[Phase.generate],
    )  # fmt: skip
    for seed in range(int(sys.argv[2]) if len(sys.argv) > 2 else 10):
        test._hypothesis_internal_use_seed = seed
        result = unittest.TestResult()
        case(NAME).run(result)
        wrong += not result.wasSuccessful()
        print(f"seed {seed}: {'held' if result.wasSuccessful() else 'failed'}", flush=True)
        for _, text in (*result.failures, *result.errors):
            print(text, flush=True)
    return 1 if wrong else 0


if __name__ == "__main__":
    sys.exit(main())
