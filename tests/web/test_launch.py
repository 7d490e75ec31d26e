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
