"""Starting and stopping the whole: whatever ends the web server, the database it started ends too."""

import os
import signal
import socket
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path

import httpx


class LaunchTest(unittest.TestCase):
    def settings(self, folder: str) -> tuple[dict[str, str], str]:
        """Environment for a start on this folder and a free port, and the address it will have."""
        with socket.socket() as probe:
            probe.bind(("127.0.0.1", 0))
            port = probe.getsockname()[1]
        settings = {**os.environ, "GOODBALANCE_VAR": folder, "GOODBALANCE_PORT": str(port)}
        settings.pop("DATABASE_URL", None)
        return settings, f"http://127.0.0.1:{port}"

    def started(self, settings: dict[str, str]) -> subprocess.Popen:
        command = [sys.executable, "-m", "goodbalance.launch", "start"]
        running = subprocess.Popen(command, env=settings, stdout=subprocess.PIPE, text=True)
        assert running.stdout is not None
        self.addCleanup(running.stdout.close)
        self.assertIn("is at", next((line for line in running.stdout if "is at" in line), ""))
        return running

    def answers(self, address: str, status: int) -> bool:
        """Whether the page comes to answer so; asked again and again, as a person would."""
        with httpx.Client(transport=httpx.HTTPTransport(retries=8), timeout=30.0) as visitor:
            return any(visitor.get(f"{address}/sign-in").status_code == status for _ in range(400))

    def test_a_killed_application_starts_again_and_a_killed_database_comes_back_by_itself(self) -> None:
        with tempfile.TemporaryDirectory(prefix="goodbalance-launch-") as folder:
            settings, address = self.settings(folder)
            running = self.started(settings)
            running.kill()
            running.wait()
            again = self.started(settings)  # the database of the killed one still runs: it is stopped first
            try:
                self.assertTrue(self.answers(address, 200))
                os.kill(int((Path(folder) / "database" / "pid").read_text()), signal.SIGKILL)
                self.assertTrue(self.answers(address, 503))
                self.assertTrue(self.answers(address, 200))
            finally:
                again.send_signal(signal.SIGTERM)
                self.assertEqual(again.wait(60), 0)

    def test_a_folder_that_cannot_be_written_is_told_in_a_sentence(self) -> None:
        with tempfile.TemporaryDirectory(prefix="goodbalance-launch-") as folder:
            (Path(folder) / "database").write_text("a file in the way")
            settings, _ = self.settings(folder)
            command = [sys.executable, "-m", "goodbalance.launch", "start"]
            done = subprocess.run(command, env=settings, capture_output=True, text=True, timeout=60)
        self.assertEqual(done.returncode, 1)
        self.assertIn("Good Balance cannot start: the folder", done.stderr)
        self.assertNotIn("Traceback", done.stderr)

    def test_each_way_of_stopping_leaves_nothing_behind(self) -> None:
        with tempfile.TemporaryDirectory(prefix="goodbalance-launch-") as folder, socket.socket() as probe:
            probe.bind(("127.0.0.1", 0))
            port = probe.getsockname()[1]
            probe.close()
            settings = {**os.environ, "GOODBALANCE_VAR": folder, "GOODBALANCE_PORT": str(port)}
            settings.pop("DATABASE_URL", None)
            for ending in (signal.SIGTERM, signal.SIGINT):
                with self.subTest(ending=ending.name):
                    command = [sys.executable, "-m", "goodbalance.launch", "start"]
                    with subprocess.Popen(command, env=settings, stdout=subprocess.PIPE, text=True) as running:
                        assert running.stdout is not None
                        told = next(line for line in running.stdout if "is at" in line)
                        self.assertIn(f":{port}", told)
                        pid = int((Path(folder) / "database" / "pid").read_text())
                        try:
                            waiting = httpx.HTTPTransport(retries=8)  # it listens a moment after it has said so
                            with httpx.Client(transport=waiting, follow_redirects=True) as visitor:
                                page = visitor.get(f"http://127.0.0.1:{port}/sign-in")
                        finally:
                            running.send_signal(ending)
                        running.wait(60)
                    self.assertEqual(page.status_code, 200)
                    self.assertFalse(Path(f"/proc/{pid}").exists(), "the database still runs")
