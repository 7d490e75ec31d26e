"""Simulated devices beside the demo: started with it, allowed to be read, ended with it."""

import contextlib
import os
import subprocess
import sys
from collections.abc import Iterator

from goodbalance.launch.database_server import free_port

DEVICES = "GOODBALANCE_DEVICES"  # devices that may be read over Modbus: Name=host:port, with semicolons between


@contextlib.contextmanager
def devices_of_demo() -> Iterator[None]:
    """Two stand-ins beside the demo, allowed to be read, ended with it. Where one cannot start the demo goes on without."""
    families = {"Stand-in of the slipway": "ebbstone_tray", "Stand-in of the aquarium": "sandhopper_lanes"}
    ports = {name: free_port() for name in families}
    command = [sys.executable, "-m", "goodbalance.standins"]
    started = [
        subprocess.Popen([*command, family, "--port", str(ports[name]), "--with-parent"], stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
        for name, family in families.items()
    ]
    os.environ[DEVICES] = "; ".join(f"{name}=127.0.0.1:{port}" for name, port in ports.items())
    try:
        yield
    finally:
        for process in started:
            process.terminate()
        for process in started:
            process.wait()
