"""A copy made while people work comes back whole in another place: people, records, seals; nothing is written over."""

import gzip
import os
import shutil
import signal
import socket
import subprocess
import sys
import tempfile
import unittest
import zipfile
from pathlib import Path

import httpx

from tools.stage.server import Visitor
from tools.stage.typed_stations import ROUND_WELL

PASSWORD = "quite long enough here"


class CopiesTest(unittest.TestCase):
    def setUp(self) -> None:
        self.root = Path(self.enterContext(tempfile.TemporaryDirectory(prefix="goodbalance-copies-")))
        self.copy = self.root / "copy.sql.gz"

    def launch(self, folder: str, *words: str) -> subprocess.CompletedProcess:
        command = [sys.executable, "-m", "goodbalance.launch", *words]
        return subprocess.run(command, env=self.settings(folder), capture_output=True, text=True, timeout=120)

    def settings(self, folder: str, port: int = 8137) -> dict[str, str]:
        ours = {"GOODBALANCE_VAR": str(self.root / folder), "GOODBALANCE_PORT": str(port)}
        return {**{name: value for name, value in os.environ.items() if name != "DATABASE_URL"}, **ours}

    def served(self, folder: str) -> tuple[subprocess.Popen, str]:
        with socket.socket() as probe:
            probe.bind(("127.0.0.1", 0))
            port = probe.getsockname()[1]
        command = [sys.executable, "-m", "goodbalance.launch", "start"]
        running = subprocess.Popen(command, env=self.settings(folder, port), stdout=subprocess.PIPE, text=True)
        assert running.stdout is not None
        self.addCleanup(running.stdout.close)
        self.assertIn("is at", next((line for line in running.stdout if "is at" in line), ""))
        with httpx.Client(transport=httpx.HTTPTransport(retries=8)) as visitor:
            self.assertEqual(visitor.get(f"http://127.0.0.1:{port}/readyz").text, "ready\n")
        return running, f"http://127.0.0.1:{port}"

    def end(self, running: subprocess.Popen) -> None:
        running.send_signal(signal.SIGTERM)
        self.assertEqual(running.wait(60), 0)

    def test_round_trip_while_in_use(self) -> None:
        running, address = self.served("there")
        try:
            ada = Visitor(address)
            ada.get("/sign-in")
            ada.form("/first-person", name="Ada Wren", password=PASSWORD)
            ada.get("/")
            path = ada.form("/stations", name="Test pit", place="", kind="lift").url.path.removesuffix("/survey")
            link = self.launch("there", "let-in", "Ada Wren").stdout.split("/link/")[1].strip()  # whoever keeps the server helps
            self.assertIn("Ada Wren, set your password", Visitor(address).get(f"/link/{link}").text)
            unknown = self.launch("there", "let-in", "Nobody")
            self.assertEqual((unknown.returncode, "nobody here is called 'Nobody'" in unknown.stderr), (1, True))
            saved = ada.json(f"{path}/facts", {"save_key": "k" * 32, "base_seq": 1, "units": "metric", "changes": ROUND_WELL})
            self.assertEqual(saved.status_code, 200, saved.text)
            record = ada.get(f"{path}/station.json").content
            made = self.launch("there", "backup", str(self.copy))
            self.assertEqual((made.returncode, made.stderr), (0, ""))
            out = self.launch("there", "export", str(self.root / "all.zip"))
            self.assertIn("1 station written", out.stdout + out.stderr)
            with zipfile.ZipFile(self.root / "all.zip") as packed:
                self.assertEqual([packed.read(name) for name in packed.namelist()], [record])
                self.assertRegex(packed.namelist()[0], r"^\d{5}-test-pit\.json$")
            again = self.launch("there", "backup", str(self.copy))
            self.assertIn("is there already", again.stderr)
        finally:
            self.end(running)
        self.assertEqual(self.copy.stat().st_mode & 0o777, 0o600)
        whole = self.copy.read_bytes()
        plain = gzip.decompress(whole)
        self.assertNotIn(b"INSERT INTO `session`", plain)  # nobody is signed in by a copy

        keyless = self.launch("here", "restore", str(self.copy))
        self.assertEqual(keyless.returncode, 1)
        self.assertIn("seal-keys", keyless.stderr)
        shutil.copy(self.root / "there" / "seal-keys", self.root / "here" / "seal-keys")
        for name, data, words in (
            ("cut", whole[:-100], "is not a whole copy"),
            ("spoilt", whole[:400] + bytes(200) + whole[600:], "is not a whole copy"),
            ("short", gzip.compress(plain[: len(plain) // 2]), "its last line is missing"),
            ("broken", gzip.compress(b"CREATE TABLE person (id INT);\nno such words;\n-- Dump completed"), "is empty again"),
            ("reading", gzip.compress(b"\\! touch " + str(self.root / "got").encode() + b"\n-- Dump completed"), "sandbox"),
        ):
            with self.subTest(name=name):
                (self.root / name).write_bytes(data)
                refused = self.launch("here", "restore", str(self.root / name))
                self.assertEqual(refused.returncode, 1)
                self.assertIn(words, refused.stderr)
                self.assertNotIn("Traceback", refused.stderr)
        self.assertFalse((self.root / "got").exists())

        back = self.launch("here", "restore", str(self.copy))
        self.assertEqual((back.returncode, back.stderr), (0, ""))
        self.assertIn("Every record holds.", back.stdout)
        twice = self.launch("here", "restore", str(self.copy))
        self.assertIn("not empty", twice.stderr)
        running, address = self.served("here")
        try:
            ada = Visitor(address).sign_in("Ada Wren", PASSWORD)
            self.assertEqual(ada.get(f"{path}/station.json").content, record)
        finally:
            self.end(running)
