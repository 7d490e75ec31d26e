"""A stand-in that answers in a thread of a test's own."""

import asyncio
import threading

from pymodbus.client import ModbusTcpClient

from goodbalance.launch.database_server import free_port
from goodbalance.standins.server import Broken, serve_device
from goodbalance.standins.station import StandIn


class Answering:
    """A stand-in that answers in a thread of its own."""

    def __init__(self, device: StandIn, broken: Broken | None = None, pace: float = 30.0) -> None:
        self.device, self.port = device, free_port()
        self.loop = asyncio.new_event_loop()
        self.task = self.loop.create_task(serve_device(device, self.port, broken, pace))
        self.thread = threading.Thread(target=self._run, daemon=True)

    def _run(self) -> None:
        try:
            self.loop.run_until_complete(self.task)
        except asyncio.CancelledError:
            pass

    def __enter__(self) -> "Answering":
        self.thread.start()
        for _ in range(500):
            client = ModbusTcpClient("127.0.0.1", port=self.port, timeout=0.2, retries=0)
            there = client.connect()
            client.close()
            if there:
                return self
            self.thread.join(0.02)  # it lives as long as it answers
        raise AssertionError("the stand-in never answered")

    def __exit__(self, *_: object) -> None:
        self.loop.call_soon_threadsafe(self.task.cancel)
        self.thread.join(5.0)
