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

from tools.stage.server import Visitor


class LaunchTest(unittest.TestCase):
    def settings(self, folder: str) -> tuple[dict[str, str], str]:
        """Environment for a start on this folder and a free port, and the address it will have."""
        with socket.socket() as probe:
            probe.bind(("127.0.0.1", 0))
            port = probe.getsockname()[1]
        settings = {**os.environ, "GOODBALANCE_VAR": folder, "GOODBALANCE_PORT": str(port)}
        settings.pop("DATABASE_URL", None)
        return settings, f"http://127.0.0.1:{port}"

    def started(self, settings: dict[str, str], *words: str) -> subprocess.Popen:
        command = [sys.executable, "-m", "goodbalance.launch", *(words or ("start",))]
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

    def test_several_workers_outlive_one_another_share_their_counts_and_finish_what_is_under_way(self) -> None:
        with tempfile.TemporaryDirectory(prefix="goodbalance-launch-") as folder:
            settings, address = self.settings(folder)
            running = self.started({**settings, "GOODBALANCE_FAST_HASH": "1"}, "serve", "--workers", "2")
            try:
                self.assertTrue(self.answers(address, 200))
                visitor = Visitor(address)
                visitor.get("/sign-in")
                visitor.form("/first-person", name="Ada Wren", password="quite long enough here")
                guesser = Visitor(address)
                guesser.get("/sign-in")
                tried = [guesser.form("/sign-in", name="Ada Wren", password="no").status_code for _ in range(6)]
                self.assertEqual(tried, [422] * 5 + [429])  # whichever of them was asked
                worker, other = self.workers(running.pid)
                os.kill(worker, signal.SIGKILL)
                self.assertTrue(self.answers(address, 200))
                self.assertIn('route="/sign-in",status="429"} 1.0', visitor.get("/metrics").text)
                host, port = address.removeprefix("http://").split(":")
                with socket.create_connection((host, int(port))) as late:
                    late.sendall(f"GET /sign-in HTTP/1.1\r\nHost: {host}\r\nConnection: close\r\n\r\n".encode())
                    running.send_signal(signal.SIGTERM)
                    self.assertIn(b"</html>", b"".join(iter(lambda: late.recv(65536), b"")))
            finally:
                running.send_signal(signal.SIGTERM)
                self.assertEqual(running.wait(60), 0)
            self.assertFalse(Path(f"/proc/{other}").exists())

    def workers(self, parent: int) -> list[int]:
        """The processes that answer for this parent."""
        found = [int(pid) for pid in Path(f"/proc/{parent}/task/{parent}/children").read_text().split()]
        return [pid for pid in found if b"spawn_main" in Path(f"/proc/{pid}/cmdline").read_bytes()]

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
