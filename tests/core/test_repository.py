"""What may lie in the repository: text, and pictures and fonts in their own places."""

import subprocess
import unittest
from pathlib import Path

TOP = Path(__file__).parent.parent.parent
LARGEST_BYTES = 1_000_000
BINARY_PLACES = ("docs/screenshots/", "goodbalance/web/static/vendor/")


class RepositoryTest(unittest.TestCase):
    def test_no_large_file_and_no_binary_outside_its_place(self) -> None:
        listed = subprocess.run(["git", "ls-files", "-z"], cwd=TOP, capture_output=True, text=True, check=False)
        if listed.returncode:
            self.skipTest("not a git checkout")
        files = [name for name in listed.stdout.split("\0") if name and (TOP / name).is_file()]
        self.assertIn("run", files)
        self.assertEqual([name for name in files if (TOP / name).stat().st_size > LARGEST_BYTES], [])
        strange = [name for name in files if not name.startswith(BINARY_PLACES) and b"\0" in (TOP / name).read_bytes()]
        self.assertEqual(strange, [])
