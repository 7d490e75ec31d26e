"""The examples in docstrings are worked out."""

import doctest
import importlib
import unittest
from pathlib import Path

TOP = Path(__file__).parent.parent.parent


class ExampleTest(unittest.TestCase):
    def test_every_example_gives_what_it_says(self) -> None:
        tried = 0
        for path in sorted((TOP / "goodbalance/core").rglob("*.py")):
            if ">>>" in path.read_text(encoding="utf-8"):
                name = ".".join(path.relative_to(TOP).with_suffix("").parts)
                found = doctest.testmod(importlib.import_module(name))
                self.assertEqual(found.failed, 0, name)
                tried += found.attempted
        self.assertGreater(tried, 4)
